#include "app/plate/board_drawing.h"

#include "app/look.h"
#include "app/words.h"

#include <QPainterPath>
#include <cmath>

namespace ustor {
namespace {

/// Distance of hatch lines in pixels by class; 0 is plain. Dense is heavy matter, sparse is a chip.
double hatchSpacing(PartClass partClass) {
    switch (partClass) {
    case PartClass::Ferrite:
        return 2.5;
    case PartClass::Inductor:
        return 4;
    case PartClass::PolarCapacitor:
        return 6;
    case PartClass::Mosfet:
        return 5;
    case PartClass::Regulator:
        return 8;
    case PartClass::Ic:
        return 11;
    case PartClass::Processor:
        return 14;
    default:
        return 0;
    }
}

QPointF middle(const QPointF& a, const QPointF& b, double share = 0.5) {
    return a + (b - a) * share;
}

} // namespace

void BoardDrawing::outline(const Board& board) {
    const Look& look = Look::current();
    QPolygonF rim;
    if (board.outline.size() >= 3)
        for (const BoardPoint p : board.outline)
            rim << m_toView.map(QPointF(p.x_mm, p.y_mm));
    else {
        const BoardBox box = board.box();
        rim = m_toView.map(QPolygonF(QRectF(box.low.x_mm, box.low.y_mm, box.width_mm(), box.height_mm())));
    }
    m_painter.setBrush(look.plate);
    m_painter.setPen(QPen(look.ink, 2));
    m_painter.drawPolygon(rim);
    // The second line of a plate's bevel.
    m_painter.setBrush(Qt::NoBrush);
    m_painter.setPen(QPen(look.hair, 1));
    const QPointF centre = rim.boundingRect().center();
    QPolygonF inner;
    for (const QPointF& p : rim) {
        const QPointF d = p - centre;
        const double length = std::hypot(d.x(), d.y());
        inner << centre + d * (1 - 7 / std::max(8.0, length));
    }
    m_painter.drawPolygon(inner);
}

bool BoardDrawing::sees(BoardPoint at, double reach_mm) const {
    const double reach = reach_mm * m_scale;
    return m_room.adjusted(-reach, -reach, reach, reach).contains(m_toView.map(QPointF(at.x_mm, at.y_mm)));
}

void BoardDrawing::addSpeck(const Part& part, bool near, bool heavy) {
    const QPointF at = m_toView.map(QPointF(part.centre.x_mm, part.centre.y_mm));
    const bool turned = std::fabs(std::fmod(std::fabs(part.rotation_deg), 180.0) - 90) < 45;
    const double w = std::max(1.0, (turned ? part.height_mm : part.width_mm) * m_scale),
                 h = std::max(1.0, (turned ? part.width_mm : part.height_mm) * m_scale);
    (heavy ? m_heavy : near ? m_near : m_far) << QRectF(at.x() - w / 2, at.y() - h / 2, w, h);
}

void BoardDrawing::drawSpecks() {
    const Look& look = Look::current();
    m_painter.save();
    m_painter.setRenderHint(QPainter::Antialiasing, false);
    m_painter.setBrush(Qt::NoBrush);
    QColor pale = look.ink;
    pale.setAlphaF(0.28F);
    m_painter.setPen(QPen(pale, 0));
    m_painter.drawRects(m_far);
    m_painter.setPen(QPen(look.ink, 0));
    m_painter.drawRects(m_near);
    m_painter.setBrush(look.ink);
    m_painter.drawRects(m_heavy);
    m_painter.restore();
}

QPolygonF BoardDrawing::bodyOf(const Part& part) const {
    const double w = std::max(0.4, part.width_mm) / 2, h = std::max(0.3, part.height_mm) / 2;
    QTransform place;
    place.translate(part.centre.x_mm, part.centre.y_mm);
    place.rotate(part.rotation_deg);
    QPolygonF corners;
    corners << QPointF(-w, -h) << QPointF(w, -h) << QPointF(w, h) << QPointF(-w, h);
    return m_toView.map(place.map(corners));
}

void BoardDrawing::hatch(const QPolygonF& body, const Part& part, const QColor& ink) {
    const double spacing = hatchSpacing(part.partClass);
    if (spacing <= 0) return;
    const QRectF box = body.boundingRect();
    if (box.width() < 5) return;
    m_painter.save();
    // Most bodies lie straight: a rectangle clips many times faster than a path.
    constexpr double straight = 0.01;
    if (std::fabs(body[0].x() - body[1].x()) < straight || std::fabs(body[0].y() - body[1].y()) < straight) {
        m_painter.setClipRect(box, Qt::IntersectClip);
    } else {
        QPainterPath clip;
        clip.addPolygon(body);
        m_painter.setClipPath(clip, Qt::IntersectClip);
    }
    QColor fine = ink;
    fine.setAlphaF(ink.alphaF() * 0.55F);
    m_painter.setPen(QPen(fine, 0.8));
    const double reach = box.width() + box.height();
    // One slant a side, so that a glance tells which side a part is on.
    for (double t = -reach; t < reach; t += spacing) {
        if (part.side == Side::Top)
            m_painter.drawLine(QPointF(box.left() + t, box.bottom()),
                               QPointF(box.left() + t + box.height(), box.top()));
        else
            m_painter.drawLine(QPointF(box.left() + t, box.top()),
                               QPointF(box.left() + t + box.height(), box.bottom()));
    }
    m_painter.restore();
}

void BoardDrawing::form(const Part& part, const QPolygonF& b, const QColor& ink) {
    m_painter.setPen(QPen(ink, 1));
    m_painter.setBrush(Qt::NoBrush);
    switch (part.partClass) {
    case PartClass::CeramicCapacitor: // two plates
        m_painter.drawLine(middle(b[0], b[1], 0.38), middle(b[3], b[2], 0.38));
        m_painter.drawLine(middle(b[0], b[1], 0.62), middle(b[3], b[2], 0.62));
        break;
    case PartClass::PolarCapacitor: // one plate, thick
        m_painter.setPen(QPen(ink, 2.5));
        m_painter.drawLine(middle(b[0], b[1], 0.18), middle(b[3], b[2], 0.18));
        break;
    case PartClass::Resistor:
    case PartClass::SenseResistor:
        m_painter.drawLine(middle(b[0], b[3]), middle(b[1], b[2]));
        break;
    case PartClass::Fuse: {
        QPainterPath wave(middle(b[0], b[3]));
        wave.cubicTo(middle(b[0], b[1], 0.4), middle(b[3], b[2], 0.6), middle(b[1], b[2]));
        m_painter.drawPath(wave);
        break;
    }
    case PartClass::Inductor: {
        const QPointF centre = middle(b[0], b[2]);
        const double radius = 0.36 * std::min(std::hypot(b[1].x() - b[0].x(), b[1].y() - b[0].y()),
                                              std::hypot(b[3].x() - b[0].x(), b[3].y() - b[0].y()));
        m_painter.setBrush(Look::current().plate);
        m_painter.drawEllipse(centre, radius, radius);
        m_painter.drawEllipse(centre, radius * 0.6, radius * 0.6);
        break;
    }
    case PartClass::Diode:
    case PartClass::ClampDiode:
        m_painter.drawLine(b[0], middle(b[1], b[2]));
        m_painter.drawLine(b[3], middle(b[1], b[2]));
        break;
    case PartClass::Processor: {
        QPolygonF inner;
        const QPointF centre = middle(b[0], b[2]);
        for (const QPointF& p : b)
            inner << middle(centre, p, 0.82);
        m_painter.drawPolygon(inner);
        break;
    }
    case PartClass::Regulator:
    case PartClass::Ic: // a notch at the first pin
        m_painter.drawLine(middle(b[3], b[2], 0.15), middle(b[3], b[0], 0.15));
        break;
    default:
        break;
    }
}

void BoardDrawing::part(const Part& part, const PartStyle& style) {
    const Look& look = Look::current();
    QColor ink = look.ink;
    if (style.faded) ink.setAlphaF(0.28F);
    const QPolygonF body = bodyOf(part);
    QPen pen(ink, style.heavy ? 2.4 : 1.1);
    if (style.faded) pen.setStyle(Qt::DotLine);
    m_painter.setPen(pen);
    m_painter.setBrush(style.faded ? Qt::NoBrush : QBrush(look.paper));
    m_painter.drawPolygon(body);
    if (!style.faded) {
        hatch(body, part, ink);
        form(part, body, ink);
    }
    const QRectF box = body.boundingRect();
    if (style.cleared) {
        m_painter.setPen(QPen(look.ink, 2));
        const QPointF c = box.center();
        m_painter.drawPolyline(QPolygonF() << c + QPointF(-6, 0) << c + QPointF(-2, 5) << c + QPointF(7, -6));
    }
    constexpr double readable = 17;
    if (style.label && !style.faded && std::max(box.width(), box.height()) > readable && m_scale > 6.5) {
        m_painter.setFont(Look::small());
        m_painter.setPen(look.ink);
        const QString name = text(part.designator);
        QRectF room = m_painter.fontMetrics().boundingRect(name).adjusted(-2, 0, 2, 0);
        room.moveCenter(box.center());
        QColor ground = look.plate;
        ground.setAlphaF(0.85F);
        m_painter.fillRect(room, ground);
        m_painter.drawText(room, Qt::AlignCenter, name);
    }
}

void BoardDrawing::pad(const Pad& pad, bool heavy, bool faded) {
    const Look& look = Look::current();
    QColor ink = look.ink;
    if (faded) ink.setAlphaF(0.25F);
    const QPointF at = m_toView.map(QPointF(pad.at.x_mm, pad.at.y_mm));
    const double w = std::max(2.0, pad.width_mm * m_scale), h = std::max(2.0, pad.height_mm * m_scale);
    const QRectF room(at.x() - w / 2, at.y() - h / 2, w, h);
    m_painter.setPen(QPen(ink, heavy ? 1.6 : 0.7));
    m_painter.setBrush(heavy && !faded ? QBrush(ink) : QBrush(Qt::NoBrush));
    if (pad.through)
        m_painter.drawEllipse(room);
    else
        m_painter.drawRect(room);
}

} // namespace ustor
