#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "app/heat/heat_picture.h"
#include "app/heat/picture_place.h"
#include "session/landmarks.h"
#include "thermal/recording.h"
#include "thermal/registration.h"

#include <QElapsedTimer>
#include <deque>
#include <functional>

class QPushButton;

namespace ustor {

/// What the camera sees, live and averaged over half a second, with a held span and its scale beside it.
/// Landmarks are clicked here, one after the other; arrows move a cross, Enter clicks it,
/// Backspace takes the last one back.
class HeatView : public QWidget {
    Q_OBJECT
  public:
    explicit HeatView(QWidget* parent = nullptr);

    void addFrame(const ThermalFrame& frame);
    void lose(const QString& why);
    /// Asks for these parts in turn; after the last, `then` gets where they are.
    using Then = std::function<void(const std::vector<Landmark>&)>;
    void askLandmarks(const std::vector<AskedPart>& parts, Then then);
    void cancelLandmarks();
    /// A still (CV_32FC1, degrees Celsius) stands instead of the camera's picture until it is taken away.
    void showStill(const cv::Mat& celsius);
    void endStill();
    void offerAlignment(bool offered); ///< shows the word that starts it again
    bool asking() const { return m_taken.size() < m_parts.size(); }
    QString asked() const;
    QPointF toView(PixelPoint p) const;
    /// Marks sources in the picture.
    void setSpots(const std::vector<PixelPoint>& spots);

  signals:
    void asksFor(const QString& part); ///< the next landmark; empty when none is asked for
    void alignWanted();                ///< the camera or the board was moved

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    PicturePlace place() const;
    void take(PixelPoint p);
    void takeBack();
    void draw();

    std::deque<cv::Mat> m_recent;
    cv::Mat m_sum, m_shown;
    QImage m_image;
    HeldSpan m_span;
    QString m_lost;
    bool m_still = false;   ///< a still is shown
    bool m_offered = false; ///< to align again, while nothing is asked
    std::vector<AskedPart> m_parts;
    std::vector<Landmark> m_taken;
    Then m_then;
    PixelPoint m_cross{80, 60};
    std::vector<PixelPoint> m_spots;
    QElapsedTimer m_sinceDrawn;
    QPushButton* m_again;
};

} // namespace ustor
