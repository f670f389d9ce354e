#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "app/heat/heat_picture.h"
#include "app/heat/picture_place.h"
#include "board/board.h"
#include "thermal/locate.h"

#include <optional>

namespace ustor {

/// One map of a recording, large: its scale beside it, the parts' outlines over it, a source's doubt as an
/// ellipse, tops that the camera is blind to hatched. A click chooses a spot, a drag a line; arrows move the
/// spot, Shift by ten pixels, Enter begins and ends a line there.
class HeatCanvas : public QWidget {
    Q_OBJECT
  public:
    explicit HeatCanvas(QWidget* parent = nullptr);
    /// `unit` stands at the scale. The span is held until `fitSpan` or another unit.
    void showMap(const cv::Mat& values, const QString& unit, double low, double high);
    void fitSpan();
    void holdSpan(bool held) { m_held = held; }
    void setSources(const std::vector<LocatedSource>& sources, const QStringList& names);
    /// Outlines are drawn where the camera's place is known. Neither is owned nor kept beyond the next call.
    void setBoard(const Board* board, const std::optional<Registration>& registration);
    /// What stands instead of a map; empty for the map.
    void say(const QString& words);

    PixelPoint spot() const { return m_spot; }
    const std::optional<std::pair<PixelPoint, PixelPoint>>& line() const { return m_line; }
    QPointF toView(PixelPoint p) const;
    const QString& words() const { return m_words; }
    double low() const { return m_low; }
    double high() const { return m_high; }

  signals:
    void spotMoved();
    void lineMoved();
    void lineDone(); ///< the mouse let go of it, or its second end was set

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    PicturePlace place() const;
    void paintScale(QPainter& painter, const QRectF& picture) const;
    void paintParts(QPainter& painter) const;
    void paintSources(QPainter& painter) const;
    void moveSpot(PixelPoint to);

    cv::Mat m_values;
    QImage m_image;
    QString m_unit, m_words;
    double m_low = 0, m_high = 1, m_wantedLow = 0, m_wantedHigh = 1;
    bool m_held = false;
    std::vector<LocatedSource> m_sources;
    QStringList m_names;
    struct Outline {
        QPolygonF corners_px;
        bool blind = false;
    };
    std::vector<Outline> m_outlines;
    PixelPoint m_spot{-1, -1};
    std::optional<std::pair<PixelPoint, PixelPoint>> m_line;
    std::optional<PixelPoint> m_lineFrom; ///< begun by the keyboard
    QPointF m_pressed;
    bool m_dragged = false; ///< since the button was pressed
};

} // namespace ustor
