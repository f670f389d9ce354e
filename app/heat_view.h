#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "app/heat/picture_place.h"
#include "session/heat_picture.h"
#include "thermal/recording.h"
#include "thermal/registration.h"

#include <QStringList>
#include <deque>

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
    /// Asks for these places in turn; `aligned` comes after the last.
    void askLandmarks(const QStringList& names, const std::vector<BoardPoint>& places);
    void cancelLandmarks();
    void offerAlignment(bool offered); ///< shows the word that starts it again
    bool asking() const { return m_next < m_names.size(); }
    QString asked() const { return asking() ? m_names[m_next] : QString(); }
    QPointF toView(PixelPoint p) const;
    /// Marks sources in the picture.
    void setSpots(const std::vector<PixelPoint>& spots);

  signals:
    void aligned(const std::vector<ustor::Landmark>& landmarks);
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

    std::deque<cv::Mat> m_recent;
    cv::Mat m_sum, m_shown;
    QImage m_image;
    HeldSpan m_span;
    QString m_lost;
    QStringList m_names;
    std::vector<BoardPoint> m_places;
    std::vector<Landmark> m_taken;
    qsizetype m_next = 0;
    PixelPoint m_cross{80, 60};
    std::vector<PixelPoint> m_spots;
    int m_skip = 0;
    QPushButton* m_again;
};

} // namespace ustor
