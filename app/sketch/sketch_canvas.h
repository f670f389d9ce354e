#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "board/sketch/sketch.h"

#include <QImage>
#include <QTransform>

namespace ustor {

/// The photo to draw on: first as it is, to click corners; then laid flat in board millimetres, with the
/// stamps on it. A cross can be moved with the arrows.
class SketchCanvas : public QWidget {
    Q_OBJECT
  public:
    explicit SketchCanvas(QWidget* parent = nullptr);
    /// The photo in its own pixels, and the corners clicked so far.
    void showPhoto(const QImage& image, const std::vector<PixelPoint>& corners);
    /// The sketch on one side, photo below where there is one.
    void showSketch(const Sketch* sketch, Side side, const QImage& photo);
    void setPicked(const std::vector<std::string>& places); ///< pads that were chosen
    void setMarks(const std::vector<BoardPoint>& marks);    ///< ends of the known length
    QPointF toView(BoardPoint p) const;
    BoardPoint cross() const { return m_cross; }
    void moveCross(BoardPoint to);

  signals:
    void pixelClicked(ustor::PixelPoint p);
    void boardClicked(ustor::BoardPoint p);
    void padClicked(const QString& place);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QTransform transform() const; ///< board millimetres, or photo pixels, to the widget
    void paintStamps(QPainter& painter) const;
    void click(QPointF at);

    const Sketch* m_sketch = nullptr;
    Side m_side = Side::Top;
    QImage m_photo;
    std::vector<PixelPoint> m_corners;
    std::vector<std::string> m_picked;
    std::vector<BoardPoint> m_marks;
    BoardPoint m_cross;
    double m_zoom = 1;
    QPointF m_middle; ///< in millimetres, when zoomed in
};

} // namespace ustor
