#include "app/plate/copper_overlay.h"

#include "app/heat/heat_picture.h"
#include "app/look.h"
#include "app/words.h"
#include "base/quantity_text.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace ustor {

void CopperOverlay::set(std::vector<CopperPicture> pictures, const QString& words) {
    m_pictures = std::move(pictures);
    m_words = words;
    m_images.clear();
    m_top_v = 0;
    for (const CopperPicture& picture : m_pictures)
        for (const float v : picture.volts)
            if (std::isfinite(v)) m_top_v = std::max(m_top_v, static_cast<double>(v));
    for (CopperPicture& picture : m_pictures) {
        const cv::Mat volts(picture.rows, picture.columns, CV_32F, picture.volts.data());
        m_images.push_back(heatPicture(volts, 0, std::max(m_top_v, 1e-12)));
    }
}

void CopperOverlay::paint(QPainter& painter, const QTransform& toView, Side side, const QRect& room) const {
    if (m_pictures.empty()) return;
    const std::size_t layer = side == Side::Top ? 0 : m_pictures.size() - 1;
    const CopperPicture& picture = m_pictures[layer];
    painter.save();
    painter.setTransform(toView, true);
    painter.setOpacity(0.75);
    // Rows run from below as millimetres do.
    painter.drawImage(QRectF(picture.low.x_mm, picture.low.y_mm, picture.columns * picture.step_mm,
                             picture.rows * picture.step_mm),
                      m_images[layer]);
    painter.restore();
    paintFlow(painter, toView, picture);
    paintScale(painter, room);
}

void CopperOverlay::paintFlow(QPainter& painter, const QTransform& toView,
                              const CopperPicture& picture) const {
    double most = 0;
    for (const auto& arrow : picture.flow)
        most = std::max(most, std::hypot(arrow.density.x_mm, arrow.density.y_mm));
    painter.setBrush(Look::current().ink);
    painter.setPen(Qt::NoPen);
    for (const auto& arrow : picture.flow) {
        const double strength = std::hypot(arrow.density.x_mm, arrow.density.y_mm) / std::max(most, 1e-12);
        constexpr double faint = 0.02;
        if (strength < faint) continue;
        const QPointF from = toView.map(QPointF(arrow.at.x_mm, arrow.at.y_mm));
        const QPointF ahead =
            toView.map(QPointF(arrow.at.x_mm + arrow.density.x_mm, arrow.at.y_mm + arrow.density.y_mm)) -
            from;
        const double length = std::hypot(ahead.x(), ahead.y());
        if (length <= 0) continue;
        const QPointF way = ahead / length, across(-way.y(), way.x());
        const double reach = 4 + 9 * std::sqrt(strength);
        painter.drawPolygon(QPolygonF()
                            << from + way * reach << from - way * 2 + across * (1 + 1.5 * strength)
                            << from - way * 2 - across * (1 + 1.5 * strength));
    }
}

void CopperOverlay::paintScale(QPainter& painter, const QRect& room) const {
    const QRectF bar(room.width() - 250, room.height() - 40, 120, 10);
    painter.drawImage(bar, heatRamp(Qt::Horizontal));
    painter.setPen(Look::current().ink);
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(bar);
    painter.setFont(Look::small());
    painter.drawText(QPointF(bar.left() - 14, bar.bottom()), "0");
    painter.drawText(QPointF(bar.right() + 6, bar.bottom()), text(quantityText(m_top_v, "V")));
    painter.drawText(QRectF(0, room.height() - 24, room.width() - 10, 18), Qt::AlignRight, m_words);
}

} // namespace ustor
