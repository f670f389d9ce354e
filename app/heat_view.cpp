#include "app/heat_view.h"

#include "base/units.h"

#include "app/look.h"
#include "app/words.h"

#include <QKeyEvent>
#include <QPainter>
#include <QPushButton>
#include <algorithm>
#include <cmath>
#include <utility>

namespace ustor {

HeatView::HeatView(QWidget* parent)
    : QWidget(parent), m_again(new QPushButton(tr("Align again and inject"), this)) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(190);
    setAccessibleName(tr("Camera picture"));
    m_again->setProperty("plain", true);
    m_again->setFont(Look::small());
    m_again->setObjectName("alignAgain");
    m_again->hide();
    connect(m_again, &QPushButton::clicked, this, &HeatView::alignWanted);
}

void HeatView::addFrame(const ThermalFrame& frame) {
    constexpr std::size_t averaged = 12;
    m_lost.clear();
    if (!m_recent.empty() && m_recent.front().size() != frame.centikelvin.size()) {
        m_recent.clear();
        m_span.reset();
    }
    if (m_recent.empty()) m_sum = cv::Mat::zeros(frame.centikelvin.size(), CV_32S);
    cv::add(m_sum, frame.centikelvin, m_sum, cv::noArray(), CV_32S);
    m_recent.push_back(frame.centikelvin);
    if (m_recent.size() > averaged) {
        cv::subtract(m_sum, m_recent.front(), m_sum, cv::noArray(), CV_32S);
        m_recent.pop_front();
    }
    // Some eight pictures a second are plenty for the eye, whatever the camera sends.
    constexpr int every_ms = 125;
    if (!isVisible() || m_still || (m_sinceDrawn.isValid() && m_sinceDrawn.elapsed() < every_ms)) return;
    m_sinceDrawn.start();
    m_sum.convertTo(m_shown, CV_32F, 0.01 / static_cast<double>(m_recent.size()), -celsiusZero_k);
    draw();
}

void HeatView::draw() {
    double low = 0, high = 0;
    cv::minMaxLoc(m_shown, &low, &high, nullptr, nullptr, m_shown == m_shown);
    m_span.show(low, high);
    m_image = heatPicture(m_shown, m_span.low(), m_span.high());
    update();
}

void HeatView::showStill(const cv::Mat& celsius) {
    m_still = true;
    m_shown = celsius;
    m_span.reset();
    m_spots.clear();
    draw();
}

void HeatView::endStill() {
    if (!m_still) return;
    m_still = false;
    m_image = {};
    m_span.reset();
    update();
}

void HeatView::lose(const QString& why) {
    m_lost = why;
    update();
}

QString HeatView::asked() const {
    return asking() ? text(m_parts[m_taken.size()].designator) : QString();
}

void HeatView::askLandmarks(const std::vector<AskedPart>& parts, Then then) {
    m_parts = parts;
    m_then = std::move(then);
    m_taken.clear();
    setFocus();
    offerAlignment(m_offered);
    emit asksFor(asked());
    update();
}

void HeatView::cancelLandmarks() {
    m_parts.clear();
    m_taken.clear();
    m_then = {};
    offerAlignment(m_offered);
    emit asksFor({});
    update();
}

void HeatView::setSpots(const std::vector<PixelPoint>& spots) {
    m_spots = spots;
    update();
}

PicturePlace HeatView::place() const {
    return {QRectF(rect()).adjusted(0, 22, -64, -4),
            m_image.isNull() ? PicturePlace::usual() : QSizeF(m_image.size())};
}

QPointF HeatView::toView(PixelPoint p) const {
    return place().toView(p);
}

void HeatView::paintEvent(QPaintEvent*) {
    const Look& look = Look::current();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(look.ink);
    painter.setFont(Look::bold(Look::text()));
    const QString title =
        asking()
            ? tr("Click the middle of %1 (%2 of %3)").arg(asked()).arg(m_taken.size() + 1).arg(m_parts.size())
        : m_still ? tr("Still picture")
                  : tr("Camera");
    painter.drawText(QRectF(0, 0, width(), 20), Qt::AlignLeft | Qt::AlignVCenter, title);
    const QRectF room = place().rect;
    if (m_image.isNull() || (!m_lost.isEmpty() && !m_still)) {
        painter.setPen(QPen(look.hair, 1));
        painter.drawRect(room);
        painter.setPen(look.faint);
        painter.setFont(Look::text());
        painter.drawText(room.adjusted(10, 10, -10, -10), Qt::AlignCenter | Qt::TextWordWrap,
                         m_lost.isEmpty() ? tr("No camera yet. Connect a bench to see the board's heat here.")
                                          : m_lost);
        return;
    }
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(room, m_image);
    painter.setPen(QPen(look.ink, 1));
    painter.drawRect(room);
    // The scale stands beside the picture, always.
    const QRectF bar(room.right() + 6, room.top(), 10, room.height());
    painter.drawImage(bar, heatRamp(Qt::Vertical));
    painter.drawRect(bar);
    painter.setFont(Look::small());
    painter.drawText(QPointF(bar.right() + 3, bar.top() + 9), QString::number(m_span.high(), 'f', 1));
    painter.drawText(QPointF(bar.right() + 3, bar.bottom()), QString::number(m_span.low(), 'f', 1));
    painter.drawText(QPointF(bar.right() + 3, bar.center().y() + 4), QStringLiteral("\u00b0C"));
    const auto ring = [&](PixelPoint p, double radius, int width) {
        painter.setPen(QPen(Qt::black, width + 2));
        painter.drawEllipse(toView(p), radius, radius);
        painter.setPen(QPen(Qt::white, width));
        painter.drawEllipse(toView(p), radius, radius);
    };
    painter.setBrush(Qt::NoBrush);
    for (const PixelPoint p : m_spots)
        ring(p, 7, 2);
    if (asking()) {
        for (const Landmark& l : m_taken)
            ring(l.image, 4, 2);
        if (hasFocus()) {
            const QPointF c = toView(m_cross);
            for (const auto& [colour, w] : {std::pair{QColor(Qt::black), 3}, {QColor(Qt::white), 1}}) {
                painter.setPen(QPen(colour, w));
                painter.drawLine(c - QPointF(9, 0), c + QPointF(9, 0));
                painter.drawLine(c - QPointF(0, 9), c + QPointF(0, 9));
            }
        }
    }
}

void HeatView::take(PixelPoint p) {
    if (!asking()) return;
    m_taken.push_back({m_parts[m_taken.size()].centre, p});
    update();
    emit asksFor(asked());
    if (asking() || !m_then) return;
    const auto taken = m_taken; // what comes then may ask for others
    std::exchange(m_then, {})(taken);
}

void HeatView::takeBack() {
    if (!asking() || m_taken.empty()) return;
    m_taken.pop_back();
    emit asksFor(asked());
    update();
}

void HeatView::offerAlignment(bool offered) {
    m_offered = offered;
    m_again->setVisible(m_offered && !asking());
}

void HeatView::resizeEvent(QResizeEvent*) {
    m_again->adjustSize();
    m_again->move(width() - m_again->width(), 0);
}

void HeatView::mousePressEvent(QMouseEvent* event) {
    if (place().rect.contains(event->position())) take(place().toPixel(event->position()));
}

void HeatView::keyPressEvent(QKeyEvent* event) {
    const double step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
    switch (event->key()) {
    case Qt::Key_Left:
        m_cross.x_px -= step;
        break;
    case Qt::Key_Right:
        m_cross.x_px += step;
        break;
    case Qt::Key_Up:
        m_cross.y_px -= step;
        break;
    case Qt::Key_Down:
        m_cross.y_px += step;
        break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_Space:
        return take(m_cross);
    case Qt::Key_Backspace:
        return takeBack();
    default:
        return QWidget::keyPressEvent(event);
    }
    update();
}

} // namespace ustor
