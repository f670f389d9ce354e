#include "app/sketch/sketch_canvas.h"

#include "app/look.h"
#include "app/plate/board_drawing.h"
#include "app/words.h"
#include "board/sketch/photo_frame.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// The rectangle that a sketch covers, from its photos.
QRectF roomOf(const Sketch& sketch) {
    QRectF room;
    for (const BoardPhoto& photo : sketch.photos)
        room |= QRectF(photo.low.x_mm, photo.low.y_mm, photo.width_mm, photo.height_mm);
    return room.isEmpty() ? QRectF(0, 0, 60, 40) : room;
}

} // namespace

SketchCanvas::SketchCanvas(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(320, 240);
    setAccessibleName(tr("Photo to sketch on"));
    setAccessibleDescription(tr("Arrows move the cross, Enter clicks it."));
}

void SketchCanvas::showPhoto(const QImage& image, const std::vector<PixelPoint>& corners) {
    m_sketch = nullptr;
    m_photo = image;
    m_corners = corners;
    update();
}

void SketchCanvas::showSketch(const Sketch* sketch, Side side, const QImage& photo) {
    if (!m_sketch || side != m_side) {
        const QPointF middle = roomOf(*sketch).center();
        m_cross = {middle.x(), middle.y()};
        m_middle = middle;
    }
    m_sketch = sketch;
    m_side = side;
    m_photo = photo;
    update();
}

void SketchCanvas::setPicked(const std::vector<std::string>& places) {
    m_picked = places;
    update();
}

void SketchCanvas::setMarks(const std::vector<BoardPoint>& marks) {
    m_marks = marks;
    update();
}

void SketchCanvas::moveCross(BoardPoint to) {
    m_cross = to;
    update();
}

QTransform SketchCanvas::transform() const {
    QTransform t;
    if (!m_sketch) {
        const double scale = std::min(width() / std::max(1.0, double(m_photo.width())),
                                      height() / std::max(1.0, double(m_photo.height())));
        t.translate((width() - scale * m_photo.width()) / 2, (height() - scale * m_photo.height()) / 2);
        t.scale(scale, scale);
        return t;
    }
    const QRectF room = roomOf(*m_sketch);
    const double scale = m_zoom * 0.95 * std::min(width() / room.width(), height() / room.height());
    const QPointF middle = m_zoom > 1 ? m_middle : room.center();
    t.translate(width() / 2.0, height() / 2.0);
    t.scale(m_side == Side::Top ? scale : -scale, -scale);
    t.translate(-middle.x(), -middle.y());
    return t;
}

QPointF SketchCanvas::toView(BoardPoint p) const {
    return transform().map(QPointF(p.x_mm, p.y_mm));
}

void SketchCanvas::paintStamps(QPainter& painter) const {
    const Look& look = Look::current();
    const QTransform t = transform();
    const double scale = std::fabs(t.m11());
    BoardDrawing drawing(painter, t, scale);
    const Board board = boardOf(*m_sketch);
    for (const Part& part : board.parts) {
        const bool near = part.side == m_side;
        for (const Pad& pad : part.pads)
            drawing.pad(pad, false, !near);
        PartStyle style;
        style.faded = !near;
        drawing.part(part, style);
        for (const Pad& pad : part.pads)
            if (near && std::find(m_picked.begin(), m_picked.end(), part.designator + "." + pad.pin) !=
                            m_picked.end()) {
                painter.setBrush(Qt::NoBrush);
                painter.setPen(QPen(look.ink, 2.5));
                const QPointF at = t.map(QPointF(pad.at.x_mm, pad.at.y_mm));
                painter.drawEllipse(at, 9, 9);
                painter.setFont(Look::bold(Look::small()));
                painter.drawText(at + QPointF(11, -8), text(part.designator + "." + pad.pin));
            }
    }
}

void SketchCanvas::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    const Look& look = Look::current();
    painter.fillRect(rect(), look.paper);
    if (!m_sketch) {
        painter.save();
        painter.setTransform(transform());
        painter.drawImage(0, 0, m_photo);
        painter.restore();
        painter.setPen(QPen(look.ink, 2));
        QPolygonF corners;
        for (const PixelPoint p : m_corners)
            corners << transform().map(QPointF(p.x_px, p.y_px));
        painter.drawPolyline(corners);
        painter.setBrush(look.plate);
        for (qsizetype i = 0; i < corners.size(); ++i) {
            painter.drawEllipse(corners[i], 7, 7);
            painter.drawText(QRectF(corners[i] - QPointF(7, 7), QSizeF(14, 14)), Qt::AlignCenter,
                             QString::number(i + 1));
        }
        return;
    }
    for (const BoardPhoto& photo : m_sketch->photos) {
        const auto frame = PhotoFrame::create(photo);
        if (photo.side != m_side || !frame || m_photo.isNull()) continue;
        const auto& m = frame.value().matrix();
        painter.save();
        painter.setTransform(
            QTransform(m(0, 0), m(1, 0), m(2, 0), m(0, 1), m(1, 1), m(2, 1), m(0, 2), m(1, 2), m(2, 2)) *
            transform());
        painter.setOpacity(0.8);
        painter.drawImage(0, 0, m_photo);
        painter.restore();
    }
    painter.setPen(QPen(look.ink, 1.5));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolygon(transform().map(QPolygonF(roomOf(*m_sketch))));
    paintStamps(painter);
    painter.setPen(QPen(look.ink, 2));
    for (const BoardPoint p : m_marks)
        painter.drawEllipse(toView(p), 5, 5);
    if (m_marks.size() == 2) painter.drawLine(toView(m_marks[0]), toView(m_marks[1]));
    if (hasFocus()) {
        const QPointF c = toView(m_cross);
        painter.setPen(QPen(look.ink, 1.2));
        painter.drawLine(c - QPointF(12, 0), c + QPointF(12, 0));
        painter.drawLine(c - QPointF(0, 12), c + QPointF(0, 12));
    }
}

void SketchCanvas::click(QPointF at) {
    const QPointF p = transform().inverted().map(at);
    if (!m_sketch) return emit pixelClicked({p.x(), p.y()});
    m_cross = {p.x(), p.y()};
    update();
    for (const Stamp& stamp : m_sketch->stamps)
        if (stamp.side == m_side)
            for (const Pad& pad : padsOf(stamp))
                if (std::fabs(pad.at.x_mm - p.x()) <= pad.width_mm / 2 + 0.1 &&
                    std::fabs(pad.at.y_mm - p.y()) <= pad.height_mm / 2 + 0.1)
                    return emit padClicked(text(stamp.designator + "." + pad.pin));
    emit boardClicked({p.x(), p.y()});
}

void SketchCanvas::mousePressEvent(QMouseEvent* event) {
    click(event->position());
}

void SketchCanvas::wheelEvent(QWheelEvent* event) {
    m_zoom = std::clamp(m_zoom * std::pow(1.0015, event->angleDelta().y()), 1.0, 12.0);
    m_middle = {m_cross.x_mm, m_cross.y_mm};
    update();
}

void SketchCanvas::keyPressEvent(QKeyEvent* event) {
    const int dx = (event->key() == Qt::Key_Right) - (event->key() == Qt::Key_Left),
              dy = (event->key() == Qt::Key_Up) - (event->key() == Qt::Key_Down);
    if (m_sketch && (dx != 0 || dy != 0)) {
        const double step = event->modifiers() & Qt::ShiftModifier ? 5 : 0.25,
                     mirror = m_side == Side::Top ? 1 : -1;
        return moveCross({m_cross.x_mm + mirror * dx * step, m_cross.y_mm + dy * step});
    }
    if (m_sketch && event->key() == Qt::Key_Return) return click(toView(m_cross));
    QWidget::keyPressEvent(event);
}

} // namespace ustor
