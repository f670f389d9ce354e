#include "app/heat/heat_canvas.h"

#include "app/look.h"
#include "thermal/emissivity.h"

#include <QKeyEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <functional>
#include <utility>

namespace ustor {
namespace {

/// Dark under light: a mark that shows on every colour of the map.
void stroke(QPainter& painter, double width, const std::function<void()>& draw) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(Qt::black, width + 2));
    draw();
    painter.setPen(QPen(Qt::white, width));
    draw();
}

} // namespace

HeatCanvas::HeatCanvas(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Heat map"));
    setAccessibleDescription(tr("Arrows move the spot, Enter begins and ends a line."));
}

void HeatCanvas::showMap(const cv::Mat& values, const QString& unit, double low, double high) {
    const bool other = unit != m_unit || m_values.empty();
    m_values = values;
    m_unit = unit;
    m_wantedLow = low;
    m_wantedHigh = high;
    m_words.clear();
    if (m_spot.x_px < 0 || m_spot.x_px >= values.cols || m_spot.y_px >= values.rows)
        m_spot = {values.cols / 2.0, values.rows / 2.0};
    if (other || !m_held) return fitSpan();
    m_image = heatPicture(m_values, m_low, m_high);
    update();
}

void HeatCanvas::fitSpan() {
    m_low = m_wantedLow;
    m_high = m_wantedHigh;
    m_image = heatPicture(m_values, m_low, m_high);
    update();
}

void HeatCanvas::setSources(const std::vector<LocatedSource>& sources, const QStringList& names) {
    m_sources = sources;
    m_names = names;
    update();
}

void HeatCanvas::setBoard(const Board* board, const std::optional<Registration>& registration) {
    m_outlines.clear();
    for (std::size_t i = 0; board && registration && i < board->parts.size(); ++i) {
        const Part& part = board->parts[i];
        if (part.side != registration->side() || part.width_mm <= 0) continue;
        Outline outline;
        outline.blind = isBlind(surfaceOf(part));
        for (const BoardPoint corner : cornersOf(part)) {
            const PixelPoint p = registration->toImage(corner);
            outline.corners_px << QPointF(p.x_px, p.y_px);
        }
        m_outlines.push_back(outline);
    }
    update();
}

void HeatCanvas::say(const QString& words) {
    m_words = words;
    update();
}

PicturePlace HeatCanvas::place() const {
    return {QRectF(rect()).adjusted(8, 6, -84, -6),
            m_image.isNull() ? PicturePlace::usual() : QSizeF(m_image.size())};
}

QPointF HeatCanvas::toView(PixelPoint p) const {
    return place().toView(p);
}

void HeatCanvas::paintScale(QPainter& painter, const QRectF& picture) const {
    const QRectF bar(picture.right() + 8, picture.top(), 12, picture.height());
    painter.drawImage(bar, heatRamp(Qt::Vertical));
    painter.setPen(QPen(Look::current().ink, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(bar);
    painter.setFont(Look::small());
    const auto label = [&](double y, const QString& words) {
        painter.drawText(QRectF(bar.right() + 4, y - 8, 60, 16), Qt::AlignLeft | Qt::AlignVCenter, words);
    };
    label(bar.top() + 6, QString::number(m_high, 'g', 3));
    label(bar.center().y(), m_unit);
    label(bar.bottom() - 6, QString::number(m_low, 'g', 3));
}

void HeatCanvas::paintParts(QPainter& painter) const {
    for (const Outline& outline : m_outlines) {
        QPolygonF shape;
        for (const QPointF& p : outline.corners_px)
            shape << toView({p.x(), p.y()});
        painter.setPen(QPen(QColor(255, 255, 255, 130), 1));
        painter.setBrush(outline.blind ? QBrush(QColor(255, 255, 255, 150), Qt::DiagCrossPattern) : QBrush());
        painter.drawPolygon(shape);
    }
}

void HeatCanvas::paintSources(QPainter& painter) const {
    painter.setFont(Look::bold(Look::small()));
    for (std::size_t i = 0; i < m_sources.size(); ++i) {
        const HeatSource& spot = m_sources[i].spot;
        // Two deviations, never smaller than can be seen.
        const double reach = std::max(7.0, 2 * spot.sigma_px * place().scale);
        const QPointF at = toView(spot.at);
        stroke(painter, i == 0 ? 2 : 1, [&] { painter.drawEllipse(at, reach, reach); });
        if (static_cast<qsizetype>(i) >= m_names.size()) continue;
        QRectF box = QRectF(painter.fontMetrics().boundingRect(m_names[static_cast<qsizetype>(i)]))
                         .adjusted(-4, -1, 4, 1)
                         .translated(at + QPointF(reach + 6, 4));
        if (box.right() > place().rect.right()) box.moveRight(at.x() - reach - 2); // no room at the right
        painter.setPen(Qt::NoPen);
        painter.setBrush(QColor(0, 0, 0, 170));
        painter.drawRect(box);
        painter.setPen(Qt::white);
        painter.drawText(box, Qt::AlignCenter, m_names[static_cast<qsizetype>(i)]);
    }
}

void HeatCanvas::paintEvent(QPaintEvent*) {
    const Look& look = Look::current();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF picture = place().rect;
    if (m_image.isNull() || !m_words.isEmpty()) {
        painter.setPen(QPen(look.hair, 1));
        painter.drawRect(picture);
        painter.setPen(look.faint);
        painter.setFont(Look::text());
        painter.drawText(picture.adjusted(20, 20, -20, -20), Qt::AlignCenter | Qt::TextWordWrap, m_words);
        return;
    }
    // Where nothing is known the plate shows.
    painter.fillRect(picture, look.plate);
    painter.drawImage(picture, m_image);
    painter.save();
    painter.setClipRect(picture);
    paintParts(painter);
    paintSources(painter);
    if (m_line)
        stroke(painter, 1.5, [&] { painter.drawLine(toView(m_line->first), toView(m_line->second)); });
    const QPointF c = toView(m_spot);
    constexpr double arm = 8;
    stroke(painter, hasFocus() ? 2 : 1, [&] {
        painter.drawLine(c - QPointF(arm, 0), c + QPointF(arm, 0));
        painter.drawLine(c - QPointF(0, arm), c + QPointF(0, arm));
    });
    painter.restore();
    painter.setPen(QPen(look.ink, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(picture);
    paintScale(painter, picture);
}

void HeatCanvas::moveSpot(PixelPoint to) {
    if (m_values.empty()) return;
    m_spot = {std::clamp(to.x_px, 0.0, m_values.cols - 1.0), std::clamp(to.y_px, 0.0, m_values.rows - 1.0)};
    emit spotMoved();
    update();
}

void HeatCanvas::mousePressEvent(QMouseEvent* event) {
    m_pressed = event->position();
    if (place().rect.contains(m_pressed)) moveSpot(place().toPixel(m_pressed));
}

void HeatCanvas::mouseMoveEvent(QMouseEvent* event) {
    constexpr double drag = 6;
    if (QLineF(m_pressed, event->position()).length() < drag || !place().rect.contains(m_pressed)) return;
    m_line = {place().toPixel(m_pressed), place().toPixel(event->position())};
    m_dragged = true;
    emit lineMoved();
    update();
}

void HeatCanvas::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(m_dragged, false)) emit lineDone();
}

void HeatCanvas::keyPressEvent(QKeyEvent* event) {
    const double step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
    switch (event->key()) {
    case Qt::Key_Left:
        return moveSpot({m_spot.x_px - step, m_spot.y_px});
    case Qt::Key_Right:
        return moveSpot({m_spot.x_px + step, m_spot.y_px});
    case Qt::Key_Up:
        return moveSpot({m_spot.x_px, m_spot.y_px - step});
    case Qt::Key_Down:
        return moveSpot({m_spot.x_px, m_spot.y_px + step});
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (!m_lineFrom) {
            m_lineFrom = m_spot;
        } else {
            m_line = {*m_lineFrom, m_spot};
            m_lineFrom.reset();
            emit lineMoved();
            emit lineDone();
            update();
        }
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

} // namespace ustor
