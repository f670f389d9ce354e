#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "board/board.h"
#include "session/heat_study.h"
#include "session/heat_worker.h"
#include "thermal/still/still.h"
#include "thermal/surface_strokes.h"

#include <array>
#include <functional>
#include <memory>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QThread;

namespace ustor {

class CourseChart;
class HeatCanvas;

/// A recording of the case, looked at: the maps, a spot's course, a profile, what was mended and what was
/// not; one recording against another. Keys 1 to 5 choose the map.
class HeatPage : public QWidget {
    Q_OBJECT
  public:
    struct Choice {
        QString name; ///< for the list
        std::filesystem::path folder;
        Side side = Side::Top;
        bool still = false; ///< a picture instead of a recording
    };
    explicit HeatPage(QWidget* parent = nullptr);
    ~HeatPage() override;

    /// The case's recordings, the newest first; `registrations` of top and bottom. The board is not
    /// owned; none means that the case is closed.
    void setCase(const Board* board, const std::filesystem::path& folder,
                 const std::vector<Choice>& recordings,
                 const std::array<std::optional<Registration>, 2>& registrations);
    /// Reads the chosen recording if it is not there yet; called when the page is shown.
    void begin();

    /// The map of an injection that goes on, instead of a recording, until the list changes or one is chosen.
    void showLive(const LiveHeat& heat, Side side);

    enum Shown { Still, FirstInstant, Amplitude, Delay, Odds };
    void showMap(Shown shown);
    Shown shown() const { return m_shown; }
    bool ready() const { return m_study != nullptr; }
    const HeatStudy* study() const { return m_study.get(); }
    HeatCanvas& canvas() const { return *m_canvas; }
    /// Copies of still pictures into the case.
    void addStills(const QStringList& files);
    const std::vector<SurfaceStroke>& surfaces() const { return m_surfaces[surfaceSlot()]; }

  signals:
    void stillsAdded();

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    using Loaded = std::shared_ptr<const HeatStudy>;
    QWidget* topRow();
    QWidget* choices();
    QWidget* repairs();
    QString nameOf(const LocatedSource& source, Side side) const;
    void load();
    void take(int round, const Result<HeatStudy>& study, bool against);
    void refresh();
    void compareStills();
    void askScale();
    void takeScale();
    void stroke();
    void keepSurfaces();
    Side side() const;
    std::size_t surfaceSlot() const;
    void refreshSpot();
    void refreshLine();
    void tellRepairs();
    QStringList told(const LocateResult& located) const;
    void exportAll();
    cv::Mat valuesShown(QString& unit, double& low, double& high) const;
    cv::Mat surfaceMap() const;
    cv::Mat asTrueRise(const cv::Mat& values) const;
    cv::Mat asTrueCelsius(const cv::Mat& values) const;
    cv::Mat bySurface(const cv::Mat& values, const std::function<double(double, double)>& seen) const;
    LeftOut leftOut() const;
    const std::optional<Registration>& registration() const;

    HeatCanvas* m_canvas;
    CourseChart *m_course, *m_profile;
    QComboBox *m_recordings, *m_against;
    QComboBox* m_brush;
    QLineEdit *m_low, *m_high; ///< what the ends of a colour picture's bar say
    QCheckBox *m_hold, *m_true;
    QLabel* m_told;
    QPushButton* m_export;
    QList<QPushButton*> m_words;
    QList<QCheckBox*> m_repairs;

    const Board* m_board = nullptr;
    std::vector<Choice> m_choices;
    std::array<std::optional<Registration>, 2> m_registrations;
    std::filesystem::path m_folder; ///< of the case
    std::array<std::vector<SurfaceStroke>, 3>
        m_surfaces; ///< of top, bottom and stills: each camera has its own pixels
    Loaded m_study, m_other;
    std::optional<StillDifference> m_difference; ///< of two stills
    QString m_trouble;                           ///< why there is none
    QList<QThread*> m_threads;
    int m_round = 0; ///< of loading: what comes from an older one is thrown away
    Shown m_shown = FirstInstant;
};

} // namespace ustor
