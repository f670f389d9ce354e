#pragma once

#include "base/points.h"

#include <QRectF>
#include <QSizeF>
#include <algorithm>

namespace ustor {

/// A picture as large as its room allows, at the room's upper left; pixels to the widget's points and back. A
/// pixel's middle is its whole number.
struct PicturePlace {
    QRectF rect;
    double scale = 1; ///< points a pixel

    PicturePlace(const QRectF& room, QSizeF picture)
        : scale(std::min(room.width() / picture.width(), room.height() / picture.height())) {
        rect = QRectF(room.topLeft(), picture * scale);
    }
    QPointF toView(PixelPoint p) const {
        return rect.topLeft() + QPointF((p.x_px + 0.5) * scale, (p.y_px + 0.5) * scale);
    }
    PixelPoint toPixel(QPointF p) const {
        return {(p.x() - rect.left()) / scale - 0.5, (p.y() - rect.top()) / scale - 0.5};
    }
    static QSizeF usual() { return {160, 120}; } ///< before the first picture
};

} // namespace ustor
