#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/bench_link.h"
#include "session/flare_run.h"
#include "session/injection_work.h"
#include "session/practice/hands.h"

#include <array>

namespace ustor {

class FlareWatch;
class HandSwitching;
class HeatView;
class NextPanel;
class PlateView;

/// The injection of the open case: leads, where the camera looks, the run, and the facts it leaves. Whatever
/// ends it, it leaves the output off and a fact.
class InjectionDesk : public QObject {
    Q_OBJECT
  public:
    InjectionDesk(NextPanel& next, HeatView& heat, PlateView& board, QObject* parent = nullptr);
    ~InjectionDesk() override;

    /// Takes a case; says what the program's last death had kept out of it, or nothing.
    QString open(CaseSession& session);
    /// The bench to work on. `hands` is there on a simulated one only.
    void setBench(BenchLink* bench, Hands* hands);
    /// Ends what goes on, keeps what was done, lets go of case and bench.
    void close();

    /// Leads on, camera aligned where it is not, then the run.
    void prepare(Side side, School school);
    /// Camera aligned where it is not, then a watch of the board on its own power.
    void watch(Side side);
    void stop();
    bool running() const;
    /// Running, or leads are being put on for it.
    bool busy() const { return m_preparing || running(); }
    /// The injection whose supply a person switches; none otherwise.
    const HandSwitching* byHand() const { return m_byHand.get(); }
    /// The watch that goes on; none otherwise.
    const FlareWatch* watched() const { return m_watch.get(); }
    const std::optional<Registration>& registration(Side side) const {
        return m_registration[side == Side::Bottom];
    }

  signals:
    void said(const QString& words);
    void outputMayDiffer();
    void live(const ustor::LiveHeat& heat, ustor::Side side);

  private:
    void offerAlignment();
    void inject();
    /// Where the camera looks is asked for where it is not known, with these words about all else.
    void align(const QString& words, const std::function<void()>& then);
    void alignOrInject();
    void beginWatch();
    void finishWatch(const FlareRun::End& end);
    void injectByHand();
    void showLive(const LiveHeat& heat);
    Outcome keep(const InjectionOutcome& outcome);
    void keepWhatWasDone();
    void finishInjection(const InjectionOutcome& outcome);
    void keepRegistration(const Registration& made);

    NextPanel& m_next;
    HeatView& m_heat;
    PlateView& m_board;
    CaseSession* m_session = nullptr;
    BenchLink* m_bench = nullptr;
    Hands* m_hands = nullptr;
    std::unique_ptr<InjectionRun> m_run;
    std::unique_ptr<HandSwitching> m_byHand; ///< instead of the run, where the supply has no remote control
    std::unique_ptr<FlareWatch> m_watch;
    std::array<std::optional<Registration>, 2> m_registration;
    std::filesystem::path m_recordingFolder;
    InjectionSpot m_spot;
    School m_school = School::Ladder; ///< of the injection that goes on or comes
    bool m_mayAlignAgain = false;     ///< an injection ended, none goes on
    bool m_preparing = false;         ///< leads are being put on: a second press must not start a second time
};

} // namespace ustor
