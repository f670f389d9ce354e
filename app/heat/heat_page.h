#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "board/board.h"
#include "diagnosis/fact/fact.h"
#include "session/heat_study.h"
#include "session/heat_worker.h"
#include "session/painted_surfaces.h"
#include "session/still_file.h"
#include "thermal/still/still.h"

#include <array>
#include <memory>

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QThread;

namespace ustor {

class CourseChart;
class HeatCanvas;
class RepairList;
class StillRow;

/// A recording of the case, looked at: the maps, a spot's course, a profile, what was mended and what was
/// not; one recording against another. Keys 1 to 5 choose the map.
class HeatPage : public QWidget {
    Q_OBJECT
  public:
    struct Choice {
        QString name; ///< for the list
        std::filesystem::path folder;
        Side side = Side::Top;
        bool still = false;                  ///< a picture instead of a recording
        std::optional<Registration> place{}; ///< that belongs to it
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
    void tell(const QString& words); ///< below the map, until something else is told
    bool ready() const { return m_study != nullptr; }
    const HeatStudy* study() const { return m_study.get(); }
    HeatCanvas& canvas() const { return *m_canvas; }
    /// Copies of still pictures into the case.
    void addStills(const QStringList& files);
    /// What was painted over the case's pictures.
    void showPainted(const CaseState& state);
    const std::vector<SurfaceStroke>& surfaces() const { return m_strokes[static_cast<std::size_t>(over())]; }

  signals:
    void stillsAdded();
    void placeWanted(const std::filesystem::path& still, const cv::Mat& celsius, ustor::Side side);
    void noted(const ustor::FactBody& fact);
    void takeBackWanted(long fact);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    using Loaded = std::shared_ptr<const HeatStudy>;
    QWidget* topRow();
    QWidget* choices();
    QString nameOf(const LocatedSource& source, Side side) const;
    void load();
    void take(int round, const Result<HeatStudy>& study, bool against);
    void showStudy();
    void refresh();
    void compareStills();
    void askAboutStill();
    void keepStillScale(StillScale scale);
    void noteFinding();
    const Choice* chosen() const;
    void stroke();
    Side side() const;
    Painted::Over over() const;
    void refreshSpot();
    void refreshLine();
    void tellRepairs();
    QStringList told(const LocateResult& located) const;
    void exportAll();
    cv::Mat valuesShown(QString& unit, double& low, double& high) const;
    cv::Mat surfaceMap() const;
    const std::optional<Registration>& registration() const;

    HeatCanvas* m_canvas;
    CourseChart *m_course, *m_profile;
    QComboBox *m_recordings, *m_against;
    QComboBox* m_brush;
    StillRow* m_stillRow; ///< shown with a still
    RepairList* m_repairs;
    QCheckBox *m_hold, *m_true;
    QLabel* m_told;
    QPushButton* m_export;
    QList<QPushButton*> m_words;

    const Board* m_board = nullptr;
    std::vector<Choice> m_choices;
    std::array<std::optional<Registration>, 2> m_registrations;
    std::filesystem::path m_folder;                      ///< of the case
    std::array<std::vector<SurfaceStroke>, 3> m_strokes; ///< by what they are painted over
    std::array<long, 3> m_newestStrokes{};               ///< their facts
    Loaded m_study, m_other;
    std::optional<StillDifference> m_difference; ///< of two stills
    QString m_trouble;                           ///< why there is none
    QList<QThread*> m_threads;
    int m_round = 0; ///< of loading: what comes from an older one is thrown away
    Shown m_shown = FirstInstant;
};

} // namespace ustor
