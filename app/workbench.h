#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "app/output_off.h"
#include "session/bench_link.h"
#include "session/case_session.h"
#include "session/practice/hands.h"
#include "session/report_file.h"

class QLabel;
class QPushButton;
class QTimer;

namespace ustor {

class AlongPanel;
class PathView;
class PlateView;
class EntryBar;
class HandSwitching;
class HeatPage;
class HeatView;
class InjectionDesk;
class NextPanel;
class Pages;
class PartLine;
class SleepInhibitor;
class StillDesk;
class Strip;
class SuspectList;
class SurveyPanel;
class TourPanel;
class TrailPanel;

/// One open case: trail, board, next move, strip. Turns wishes into facts and instrument work.
class Workbench : public QWidget {
    Q_OBJECT
  public:
    explicit Workbench(QWidget* parent = nullptr);
    ~Workbench() override;

    void open(std::unique_ptr<CaseSession> session);
    /// Connects instruments. `hands` is there on a simulated bench only.
    void connectBench(const BenchAddress& address);
    void closeCase();
    CaseSession* session() const { return m_session.get(); }
    BenchLink* bench() const { return m_bench.get(); }
    Hands* hands() const { return m_hands.get(); }
    PlateView& board() const { return *m_board; }
    HeatView& heat() const { return *m_heat; }
    const NextPanel& next() const { return *m_next; }
    Strip* strip() const { return m_strip; } ///< placed by the window, on every page

    /// What stands around the board: the bench, a survey, a tour, the power path instead of the board, the
    /// copper's millivolts, or the maps of a recording instead of the board.
    enum View { BenchView, SurveyView, TourView, PathWay, AlongView, HeatMaps };
    void showView(View view);
    View view() const { return m_view; }
    SurveyPanel& survey() const { return *m_survey; }
    TourPanel& tour() const { return *m_tour; }
    PathView& path() const { return *m_path; }
    AlongPanel& along() const { return *m_along; }
    HeatPage& heatMaps() const { return *m_heatMaps; }

    void switchOff();
    void undo();
    void redo();
    void doNext();
    void typeReading();
    /// Has the report written beside the facts; the entry line says when it is, or why not.
    void writeReport();
    bool injecting() const;
    /// A wired meter read over range: the same place has to be asked for again.
    bool asksAgain() const { return !m_openAt.empty(); }
    /// The injection whose supply a person switches; none otherwise.
    const HandSwitching* byHand() const;

  signals:
    void outputChanged(const ustor::OutputShown& shown);

  private:
    void layOut();
    void connectParts();
    void refresh();
    void add(const FactBody& body);
    void carryOut(const NextMove& move);
    void toggleStruck(long id);
    /// Where the probes are, and what the meter is set to.
    struct Probing {
        std::string place, against; ///< against ground where the second is empty
        MeterMode mode = MeterMode::Ohms;
    };
    void takeReading(const Probing& at);
    void readAlong(const std::string& place);
    void connectViews();
    void pollMeter();
    void takeMeter(const Reading& reading);
    void movedTo(const std::string& place);
    void drawCopper();
    void listRecordings();
    QWidget* viewWords();
    void tellOutput();
    void tellRails(const Assessment& a);

    std::unique_ptr<CaseSession> m_session;
    std::unique_ptr<BenchLink> m_bench;
    std::unique_ptr<Hands> m_hands;
    std::unique_ptr<SleepInhibitor> m_awake;
    ReportFile m_report;
    Probing m_reading;    ///< under way; no place: none
    std::string m_openAt; ///< where a wired meter read over range just now: once is not enough
    TrailPanel* m_trail;
    PlateView* m_board;
    HeatView* m_heat;
    NextPanel* m_next;
    SuspectList* m_suspects;
    Strip* m_strip;
    EntryBar* m_entry;
    QLabel* m_rails;
    PartLine* m_marked;
    QWidget* m_markedRoom; ///< gone in views that have no room for it
    View m_view = BenchView;
    Pages *m_middle, *m_below;
    QList<QPushButton*> m_viewWords;
    SurveyPanel* m_survey;
    TourPanel* m_tour;
    PathView* m_path;
    AlongPanel* m_along;
    HeatPage* m_heatMaps;
    InjectionDesk* m_desk;
    StillDesk* m_stills;
    QTimer* m_poll;
    bool m_probesOn = false; ///< the probes stand where the survey asked for
};

} // namespace ustor
