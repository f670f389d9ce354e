#include "demo/board_photo_render.h"

#include "base/check.h"
#include "base/random.h"

#include <QPainter>
#include <QPolygonF>
#include <QTransform>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

constexpr int width = 1100, height = 760;

/// A pinhole camera over the middle of the board, tilted a little both ways: where a place lands in the
/// picture, from its offset to the board's middle, x to the right and y up as the camera sees the side.
QPointF projected(double x_mm, double y_mm) {
    constexpr double focal_px = 1500, away_mm = 100, tilt = 0.16, turn = -0.11;
    // About the upright axis first, then about the level one.
    const double x = x_mm * std::cos(turn), z = -x_mm * std::sin(turn);
    const double y = y_mm * std::cos(tilt) - z * std::sin(tilt),
                 depth = y_mm * std::sin(tilt) + z * std::cos(tilt);
    return {width / 2.0 + focal_px * x / (away_mm + depth), height / 2.0 - focal_px * y / (away_mm + depth)};
}

QColor bodyColour(PartClass partClass) {
    switch (partClass) {
    case PartClass::CeramicCapacitor:
        return {178, 148, 112};
    case PartClass::Connector:
        return {226, 222, 208};
    case PartClass::Inductor:
        return {92, 92, 96};
    case PartClass::Fuse:
        return {196, 206, 196};
    default:
        return {38, 38, 42};
    }
}

} // namespace

RenderedPhoto photographed(const Board& board, Side side) {
    const BoardBox box = board.box();
    const QRectF room(box.low.x_mm, box.low.y_mm, box.width_mm(), box.height_mm());
    const bool top = side == Side::Top;
    // Upper left, upper right, lower right, lower left as the camera sees them; below, x runs the other way.
    const QPolygonF corners(QList<QPointF>{{top ? room.left() : room.right(), room.bottom()},
                                           {top ? room.right() : room.left(), room.bottom()},
                                           {top ? room.right() : room.left(), room.top()},
                                           {top ? room.left() : room.right(), room.top()}});
    const double w = room.width() / 2, h = room.height() / 2;
    const QPolygonF seen(
        QList<QPointF>{projected(-w, h), projected(w, h), projected(w, -h), projected(-w, -h)});
    QTransform perspective;
    USTOR_CHECK(QTransform::quadToQuad(corners, seen, perspective), "four corners make a perspective");
    RenderedPhoto photo{QImage(width, height, QImage::Format_RGB32), {}};
    photo.image.fill(QColor(120, 104, 88)); // the bench
    QPainter painter(&photo.image);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setTransform(perspective);
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(44, 70, 92));
    painter.drawRect(room);
    for (const Part& part : board.parts) {
        for (const Pad& pad : part.pads) {
            if (part.side != side && !pad.through) continue;
            painter.setBrush(QColor(202, 200, 190));
            painter.drawRect(QRectF(pad.at.x_mm - pad.width_mm / 2, pad.at.y_mm - pad.height_mm / 2,
                                    pad.width_mm, pad.height_mm));
        }
        if (part.side != side) continue;
        painter.save();
        painter.translate(part.centre.x_mm, part.centre.y_mm);
        painter.rotate(part.rotation_deg);
        painter.setBrush(bodyColour(part.partClass));
        painter.drawRect(QRectF(-part.width_mm / 2, -part.height_mm / 2, part.width_mm, part.height_mm));
        painter.restore();
    }
    painter.end();
    Random random(11);
    for (int y = 0; y < height; ++y) {
        auto* line = reinterpret_cast<QRgb*>(photo.image.scanLine(y));
        for (int x = 0; x < width; ++x) {
            const int noise = static_cast<int>(3 * random.normal());
            line[x] =
                qRgb(std::clamp(qRed(line[x]) + noise, 0, 255), std::clamp(qGreen(line[x]) + noise, 0, 255),
                     std::clamp(qBlue(line[x]) + noise, 0, 255));
        }
    }
    for (int i = 0; i < 4; ++i)
        photo.corners[static_cast<std::size_t>(i)] = {seen[i].x(), seen[i].y()};
    return photo;
}

} // namespace ustor
