#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "board/board.h"

#include <QTransform>
#include <optional>

namespace ustor {

/// Copper and places, seen from the top, of which one is chosen: with the mouse, or with a cross that the
/// arrows move from place to place and Enter. The wheel zooms.
class AlignCanvas : public QWidget {
    Q_OBJECT
  public:
    explicit AlignCanvas(const QString& name, QWidget* parent = nullptr);
    void show(std::vector<BoardPoint> outline, std::vector<CopperPiece> copper,
              std::vector<BoardPoint> places);
    /// What is laid over it, as crosses; empty clears it.
    void setOverlay(std::vector<BoardPoint> places, std::vector<CopperPiece> copper);
    void setChosen(std::optional<BoardPoint> place);
    QPointF toView(BoardPoint p) const;

  signals:
    void placeChosen(ustor::BoardPoint place);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QTransform transform() const;
    void drawCopper(QPainter& painter, const std::vector<CopperPiece>& copper, const QColor& ink,
                    Qt::BrushStyle fill) const;
    void choose(QPointF at);
    void step(int dx, int dy);

    std::vector<BoardPoint> m_outline, m_places, m_overlay;
    std::vector<CopperPiece> m_copper, m_overlayCopper;
    std::optional<BoardPoint> m_chosen;
    BoardPoint m_cross;
    QRectF m_room; ///< mm
    double m_zoom = 1;
    QPointF m_middle; ///< mm, when zoomed in
};

} // namespace ustor
