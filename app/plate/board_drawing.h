#pragma once

#include "board/board.h"

#include <QPainter>
#include <QTransform>
#include <QVector>

namespace ustor {

/// How one part is to be engraved.
struct PartStyle {
    bool faded = false;   ///< on the other side, or cleared
    bool heavy = false;   ///< on the stretch that is down
    bool cleared = false; ///< gets a tick
    bool label = true;
};

/// Engraves parts: classes are told by hatch and form, sides by the slant of the hatch. `toView` maps board
/// millimetres to the widget.
class BoardDrawing {
  public:
    BoardDrawing(QPainter& painter, const QTransform& toView, double pixelsPerMm)
        : m_painter(painter), m_toView(toView), m_scale(pixelsPerMm),
          m_room(painter.device() ? QRectF(0, 0, painter.device()->width(), painter.device()->height())
                                  : QRectF()) {}

    void outline(const Board& board);
    /// False for what lies outside of the widget.
    bool sees(BoardPoint at, double reach_mm) const;
    /// Parts and pads too small to be told apart, laid down in one go: bodies as plain rectangles.
    void addSpeck(const Part& part, bool near, bool heavy);
    void drawSpecks();
    /// Pixels below which a part is a speck.
    static constexpr double speck_px = 9;
    void part(const Part& part, const PartStyle& style);
    void pad(const Pad& pad, bool heavy, bool faded);

  private:
    QPolygonF bodyOf(const Part& part) const;
    void hatch(const QPolygonF& body, const Part& part, const QColor& ink);
    void form(const Part& part, const QPolygonF& body, const QColor& ink);

    QPainter& m_painter;
    QTransform m_toView;
    double m_scale;
    QRectF m_room;
    QVector<QRectF> m_near, m_far, m_heavy; ///< specks
};

} // namespace ustor
