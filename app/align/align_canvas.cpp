#include "app/align/align_canvas.h"

#include "app/look.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <limits>

namespace ustor {
namespace {

QPolygonF polygonOf(const std::vector<BoardPoint>& points) {
    QPolygonF polygon;
    for (const BoardPoint p : points)
        polygon << QPointF(p.x_mm, p.y_mm);
    return polygon;
}

} // namespace

AlignCanvas::AlignCanvas(const QString& name, QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(300, 300);
    setAccessibleName(name);
    setAccessibleDescription(tr("Arrows go from place to place, Enter chooses."));
}

void AlignCanvas::show(std::vector<BoardPoint> outline, std::vector<CopperPiece> copper,
                       std::vector<BoardPoint> places) {
    m_outline = std::move(outline);
    m_copper = std::move(copper);
    m_places = std::move(places);
    m_overlay.clear();
    m_overlayCopper.clear();
    m_chosen.reset();
    m_zoom = 1;
    QPolygonF all = polygonOf(m_outline) + polygonOf(m_places);
    for (const CopperPiece& piece : m_copper)
        all += polygonOf(piece.outline);
    m_room = all.boundingRect();
    constexpr double least_mm = 4, margin = 0.04;
    m_room.adjust(-margin * m_room.width() - least_mm / 2, -margin * m_room.height() - least_mm / 2,
                  margin * m_room.width() + least_mm / 2, margin * m_room.height() + least_mm / 2);
    m_middle = m_room.center();
    m_cross = m_places.empty() ? BoardPoint{m_middle.x(), m_middle.y()} : m_places.front();
    update();
}

void AlignCanvas::setOverlay(std::vector<BoardPoint> places, std::vector<CopperPiece> copper) {
    m_overlay = std::move(places);
    m_overlayCopper = std::move(copper);
    update();
}

void AlignCanvas::setChosen(std::optional<BoardPoint> place) {
    m_chosen = place;
    update();
}

QTransform AlignCanvas::transform() const {
    QTransform t;
    if (m_room.isEmpty()) return t;
    const double scale = m_zoom * std::min(width() / m_room.width(), height() / m_room.height());
    t.translate(width() / 2.0, height() / 2.0);
    t.scale(scale, -scale);
    t.translate(-m_middle.x(), -m_middle.y());
    return t;
}

QPointF AlignCanvas::toView(BoardPoint p) const {
    return transform().map(QPointF(p.x_mm, p.y_mm));
}

void AlignCanvas::drawCopper(QPainter& painter, const std::vector<CopperPiece>& copper, const QColor& ink,
                             Qt::BrushStyle fill) const {
    const QTransform t = transform();
    painter.setPen(QPen(ink, 1));
    painter.setBrush(QBrush(ink, fill));
    for (const CopperPiece& piece : copper) {
        QPainterPath path;
        path.addPolygon(t.map(polygonOf(piece.outline)));
        path.closeSubpath();
        for (const auto& hole : piece.holes) {
            path.addPolygon(t.map(polygonOf(hole)));
            path.closeSubpath();
        }
        painter.drawPath(path);
    }
}

void AlignCanvas::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Look& look = Look::current();
    painter.fillRect(rect(), look.plate);
    painter.setPen(QPen(hasFocus() ? look.ink : look.hair, hasFocus() ? 2 : 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(rect().adjusted(1, 1, -2, -2));
    painter.setClipRect(rect().adjusted(2, 2, -3, -3));
    const QTransform t = transform();
    painter.setPen(QPen(look.faint, 1.2));
    painter.drawPolygon(t.map(polygonOf(m_outline)));
    drawCopper(painter, m_copper, look.hair, Qt::SolidPattern);
    drawCopper(painter, m_overlayCopper, look.faint, Qt::BDiagPattern);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(look.faint, 1.2));
    constexpr double mark_px = 3;
    for (const BoardPoint p : m_places)
        painter.drawEllipse(toView(p), mark_px, mark_px);
    painter.setPen(QPen(look.ink, 1.4));
    for (const BoardPoint p : m_overlay) {
        const QPointF at = toView(p);
        painter.drawLine(at - QPointF(mark_px, mark_px), at + QPointF(mark_px, mark_px));
        painter.drawLine(at - QPointF(mark_px, -mark_px), at + QPointF(mark_px, -mark_px));
    }
    if (m_chosen) {
        painter.setPen(QPen(look.ink, 2.5));
        painter.drawEllipse(toView(*m_chosen), 3 * mark_px, 3 * mark_px);
    }
    if (hasFocus()) {
        constexpr double arm_px = 14;
        painter.setPen(QPen(look.ink, 1.2));
        const QPointF c = toView(m_cross);
        painter.drawLine(c - QPointF(arm_px, 0), c + QPointF(arm_px, 0));
        painter.drawLine(c - QPointF(0, arm_px), c + QPointF(0, arm_px));
    }
}

void AlignCanvas::choose(QPointF at) {
    constexpr double reach_px = 14;
    const QPointF board = transform().inverted().map(at);
    BoardPoint place{board.x(), board.y()};
    double nearest_px = reach_px;
    for (const BoardPoint p : m_places)
        if (const QPointF d = toView(p) - at; std::hypot(d.x(), d.y()) < nearest_px) {
            nearest_px = std::hypot(d.x(), d.y());
            place = p;
        }
    m_cross = place;
    emit placeChosen(place);
}

void AlignCanvas::mousePressEvent(QMouseEvent* event) {
    choose(event->position());
}

void AlignCanvas::wheelEvent(QWheelEvent* event) {
    const QPointF before = transform().inverted().map(event->position());
    m_zoom = std::clamp(m_zoom * std::pow(1.0015, event->angleDelta().y()), 1.0, 40.0);
    const QPointF after = transform().inverted().map(event->position());
    m_middle = m_zoom > 1 ? m_middle + before - after : m_room.center();
    update();
}

/// To the nearest place that lies more along the arrow than beside it.
void AlignCanvas::step(int dx, int dy) {
    const BoardPoint* best = nullptr;
    double shortest = std::numeric_limits<double>::max();
    for (const BoardPoint& p : m_places) {
        const double x = p.x_mm - m_cross.x_mm, y = p.y_mm - m_cross.y_mm;
        const double along = x * dx + y * dy, beside = std::fabs(x * dy) + std::fabs(y * dx);
        if (along <= 1e-6 || beside > along) continue;
        if (const double far = along + 2 * beside; far < shortest) {
            shortest = far;
            best = &p;
        }
    }
    if (best) m_cross = *best;
    update();
}

void AlignCanvas::keyPressEvent(QKeyEvent* event) {
    const int dx = (event->key() == Qt::Key_Right) - (event->key() == Qt::Key_Left),
              dy = (event->key() == Qt::Key_Up) - (event->key() == Qt::Key_Down);
    if (dx != 0 || dy != 0) return step(dx, dy);
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) return choose(toView(m_cross));
    QWidget::keyPressEvent(event);
}

} // namespace ustor
