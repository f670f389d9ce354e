#include "app/strip.h"

#include "app/look.h"
#include "app/words.h"
#include "base/quantity_text.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {
constexpr double shownSeconds = 40;

/// Readback noise around nothing is no reading: digits below what the trace can mean are dropped.
double shown(double value, int trace) {
    const double digit = trace == 2 ? 1e-4 : 1e-3;
    return std::max(0.0, std::round(value / digit) * digit);
}
/// The least span of each trace: readback noise around nothing stays a flat line.
constexpr double leastSpan[4] = {0.1, 0.02, 0.005, 0.2};
} // namespace

Strip::Strip(QWidget* parent) : QWidget(parent) {
    setMinimumHeight(78);
    setMaximumHeight(92);
    setAccessibleName(tr("Supply and warmest spot"));
}

void Strip::add(const SupplySample& s) {
    m_here = true;
    m_output = s.output;
    m_points.push_back({s.time_s, {s.volts, s.amps, s.watts(), m_warmest_k}});
    while (!m_points.empty() && m_points.front().time_s < s.time_s - shownSeconds)
        m_points.pop_front();
    if (++m_skip % 3 == 0) update();
}

void Strip::lose() {
    m_here = false;
    m_output = false;
    update();
}

/// One point a pixel column, the mean of what falls into it: more cannot be seen, and costs the window's
/// time.
QPolygonF Strip::trace(const QRectF& plot, int which, double most) const {
    const double now = m_points.back().time_s;
    QPolygonF line;
    double sum = 0, column = 0;
    int count = 0;
    const auto flush = [&] {
        if (count)
            line << QPointF(column, plot.bottom() - std::clamp(sum / count / most, 0.0, 1.0) * plot.height());
        sum = 0;
        count = 0;
    };
    for (const Point& p : m_points) {
        const double x = std::floor(plot.right() - (now - p.time_s) / shownSeconds * plot.width());
        if (x != column) flush();
        column = x;
        sum += p.value[which];
        ++count;
    }
    flush();
    return line;
}

void Strip::paintEvent(QPaintEvent*) {
    const Look& look = Look::current();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(look.hair, 1));
    painter.drawLine(0, 0, width(), 0);
    const char* names[4] = {QT_TR_NOOP("volts"), QT_TR_NOOP("amps"), QT_TR_NOOP("power delivered"),
                            QT_TR_NOOP("warmest rise")};
    const char* units[4] = {"V", "A", "W", "K"};
    const double column = width() / 4.0;
    for (int i = 0; i < 4; ++i) {
        const QRectF room(i * column + 8, 4, column - 16, height() - 8);
        painter.setFont(Look::small());
        painter.setPen(look.faint);
        painter.drawText(room, Qt::AlignLeft | Qt::AlignTop, tr(names[i]));
        painter.setFont(Look::large());
        painter.setPen(m_here ? look.ink : look.faint);
        const bool known = m_here && !m_points.empty();
        const QString number = known ? text(quantityText(shown(m_points.back().value[i], i), units[i]))
                                     : QStringLiteral("\u2013");
        painter.drawText(room.adjusted(0, 12, 0, 0), Qt::AlignLeft | Qt::AlignTop, number);
        if (!known) continue;
        double most = leastSpan[i];
        for (const Point& p : m_points)
            most = std::max(most, p.value[i]);
        const QRectF plot = room.adjusted(0, 42, 0, -2);
        const QPolygonF line = trace(plot, i, most);
        painter.setPen(QPen(m_output && i < 3 ? look.ember : look.ink, 1.3));
        painter.drawPolyline(line);
        painter.setPen(QPen(look.hair, 1));
        painter.drawLine(plot.bottomLeft(), plot.bottomRight());
    }
}

} // namespace ustor
