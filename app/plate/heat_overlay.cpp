#include "app/plate/heat_overlay.h"

#include "app/heat/heat_picture.h"
#include "app/look.h"
#include "app/words.h"
#include "base/quantity_text.h"

#include <QCoreApplication>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor {

void HeatOverlay::set(const LiveHeat& heat, const std::optional<Registration>& registration) {
    m_heat = heat;
    m_registration = registration;
    m_picture = {};
    m_layer = {};
    if (heat.rise_k_per_w.empty() || !registration) return;
    // Smoothed for the eye; what does not stand four deviations of its noise above nothing is not drawn.
    cv::Mat smooth;
    constexpr double blur_px = 1.2;
    cv::GaussianBlur(heat.rise_k_per_w, smooth, {}, blur_px);
    const double floor = 4 * heat.sigma_k_per_w / (2 * std::sqrt(std::numbers::pi) * blur_px);
    double top = 0;
    cv::minMaxLoc(smooth, nullptr, &top);
    m_top = std::max(top, 2 * floor);
    m_picture = heatPicture(smooth, 0, m_top, floor);
}

void HeatOverlay::clear() {
    *this = {};
}

/// Puts the camera's picture onto the board through the registration. OpenCV's warp does it in a tenth of the
/// painter's time.
void HeatOverlay::lay(const QTransform& toView, const QRect& room) {
    if (!m_layer.isNull() && m_laidFor == toView && m_laidIn == room) return;
    m_laidFor = toView;
    m_laidIn = room;
    m_layer = {};
    const QRect warm = warmPart();
    if (warm.isEmpty()) return;
    std::vector<cv::Point2f> from, to;
    QPolygonF outline;
    for (const QPointF c : {QPointF(warm.topLeft()), QPointF(warm.topRight()), QPointF(warm.bottomRight()),
                            QPointF(warm.bottomLeft())}) {
        const BoardPoint onBoard = m_registration->toBoard({c.x(), c.y()});
        const QPointF p = toView.map(QPointF(onBoard.x_mm, onBoard.y_mm));
        outline << p;
        from.emplace_back(static_cast<float>(c.x()), static_cast<float>(c.y()));
        to.emplace_back(static_cast<float>(p.x()), static_cast<float>(p.y()));
    }
    const QRect part = outline.boundingRect().toAlignedRect().intersected(room);
    if (part.isEmpty()) return;
    for (cv::Point2f& p : to)
        p -= cv::Point2f(static_cast<float>(part.left()) + 0.5F, static_cast<float>(part.top()) + 0.5F);
    QImage source = m_picture.convertToFormat(QImage::Format_ARGB32_Premultiplied);
    const cv::Mat picture(source.height(), source.width(), CV_8UC4, source.bits(),
                          static_cast<std::size_t>(source.bytesPerLine()));
    m_layer = QImage(part.size(), QImage::Format_ARGB32_Premultiplied);
    m_layer.fill(Qt::transparent);
    m_layerAt = part.topLeft();
    cv::Mat layer(m_layer.height(), m_layer.width(), CV_8UC4, m_layer.bits(),
                  static_cast<std::size_t>(m_layer.bytesPerLine()));
    cv::warpPerspective(picture, layer, cv::getPerspectiveTransform(from, to), layer.size());
}

/// The part of the picture that is not see-through, with a margin.
QRect HeatOverlay::warmPart() const {
    QRect warm;
    for (int y = 0; y < m_picture.height(); ++y) {
        const auto* line = reinterpret_cast<const QRgb*>(m_picture.constScanLine(y));
        for (int x = 0; x < m_picture.width(); ++x)
            if (qAlpha(line[x]) > 0) warm |= QRect(x, y, 1, 1);
    }
    constexpr int margin = 2;
    return warm.isEmpty() ? warm
                          : warm.adjusted(-margin, -margin, margin, margin).intersected(m_picture.rect());
}

void HeatOverlay::paint(QPainter& painter, const QTransform& toView, const QRect& room) {
    lay(toView, room);
    if (!m_layer.isNull()) painter.drawImage(m_layerAt, m_layer);
    const double pointsPerMm = std::hypot(toView.m11(), toView.m12());
    painter.setPen(QPen(Look::current().ink, 1.6, Qt::DashLine));
    painter.setBrush(Qt::NoBrush);
    for (const LocatedSource& s : m_heat.located.sources) {
        if (!s.board) continue;
        // Two standard deviations: the true place lies inside nine times in ten.
        const double radius = std::max(3.0, 2 * s.sigma_mm * pointsPerMm);
        painter.drawEllipse(toView.map(QPointF(s.board->x_mm, s.board->y_mm)), radius, radius);
    }
}

void HeatOverlay::paintScale(QPainter& painter, const QRect& room) const {
    const QRectF bar(room.width() - 250, room.height() - 22, 120, 10);
    painter.drawImage(bar, heatRamp(Qt::Horizontal));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(bar);
    painter.drawText(QPointF(bar.left() - 14, bar.bottom()), "0");
    const char* unit = m_heat.located.switchedFromFrames ? "K" : "K/W";
    const double shownAt_s = m_heat.located.shownAt_s > 0 ? m_heat.located.shownAt_s : 0.6;
    painter.drawText(QPointF(bar.right() + 6, bar.bottom()),
                     text(quantityText(m_top, unit)) +
                         QCoreApplication::translate("HeatOverlay", " at %1 s").arg(shownAt_s));
}

} // namespace ustor
