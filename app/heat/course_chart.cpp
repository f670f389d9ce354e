#include "app/heat/course_chart.h"

#include "app/look.h"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <utility>

namespace ustor {

CourseChart::CourseChart(const QString& title, QWidget* parent) : QWidget(parent), m_title(title) {
    setAccessibleName(title);
    setMinimumSize(160, 96);
}

void CourseChart::show(std::vector<double> x, std::vector<double> y, const QString& xUnit,
                       const QString& yUnit, std::vector<bool> shaded) {
    m_x = std::move(x);
    m_y = std::move(y);
    m_xUnit = xUnit;
    m_yUnit = yUnit;
    m_shaded = std::move(shaded);
    m_why.clear();
    update();
}

void CourseChart::clear(const QString& why) {
    m_x.clear();
    m_y.clear();
    m_why = why;
    update();
}

void CourseChart::paintEvent(QPaintEvent*) {
    const Look& look = Look::current();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(Look::small());
    painter.setPen(look.faint);
    painter.drawText(QRectF(6, 0, width() - 12, 16), Qt::AlignLeft | Qt::AlignVCenter, m_title);
    const QRectF plot(6, 18, width() - 70, height() - 36);
    painter.setPen(QPen(look.hair, 1));
    painter.drawLine(plot.bottomLeft(), plot.bottomRight());
    if (m_y.size() < 2) {
        painter.setPen(look.faint);
        painter.drawText(plot, Qt::AlignCenter | Qt::TextWordWrap, m_why);
        return;
    }
    double low = 1e300, high = -1e300;
    for (const double v : m_y)
        if (std::isfinite(v)) {
            low = std::min(low, v);
            high = std::max(high, v);
        }
    if (low > high) return;
    if (high - low < 1e-12) high = low + 1e-12;
    const double from = m_x.front(), to = std::max(m_x.back(), from + 1e-9);
    const auto at = [&](std::size_t i) {
        return QPointF(plot.left() + (m_x[i] - from) / (to - from) * plot.width(),
                       plot.bottom() - (m_y[i] - low) / (high - low) * plot.height());
    };
    QColor band = look.hair;
    band.setAlpha(90);
    for (std::size_t i = 1; i < m_shaded.size(); ++i)
        if (m_shaded[i])
            painter.fillRect(
                QRectF(at(i - 1).x(), plot.top(), at(i).x() - at(i - 1).x() + 0.5, plot.height()), band);
    painter.setPen(QPen(look.ink, 1.2));
    QPolygonF line;
    for (std::size_t i = 0; i < m_y.size(); ++i) {
        if (std::isfinite(m_y[i])) {
            line << at(i);
            continue;
        }
        painter.drawPolyline(line);
        line.clear();
    }
    painter.drawPolyline(line);
    painter.drawText(QRectF(plot.right() + 4, plot.top() - 6, 62, 14), Qt::AlignLeft,
                     QString::number(high, 'g', 3) + " " + m_yUnit);
    painter.drawText(QRectF(plot.right() + 4, plot.bottom() - 10, 62, 14), Qt::AlignLeft,
                     QString::number(low, 'g', 3));
    painter.drawText(QRectF(plot.left(), plot.bottom() + 2, plot.width(), 14), Qt::AlignRight,
                     QString::number(to - from, 'g', 3) + " " + m_xUnit);
}

} // namespace ustor
