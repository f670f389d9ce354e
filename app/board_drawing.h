#pragma once

#include "board/board.h"

#include <QPainter>
#include <QTransform>

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
        : m_painter(painter), m_toView(toView), m_scale(pixelsPerMm) {}

    void outline(const Board& board);
    void part(const Part& part, const PartStyle& style);
    void pad(const Pad& pad, bool heavy, bool faded);

  private:
    QPolygonF bodyOf(const Part& part) const;
    void hatch(const QPolygonF& body, const Part& part, const QColor& ink);
    void form(const Part& part, const QPolygonF& body, const QColor& ink);

    QPainter& m_painter;
    QTransform m_toView;
    double m_scale;
};

} // namespace ustor
