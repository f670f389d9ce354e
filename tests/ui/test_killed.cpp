#include "session/begun_injection.h"
#include "session/bench_link.h"
#include "session/practice/hands.h"
#include "session/practice/standin_process.h"
#include "store/case_folder.h"
#include "support/wait.h"
#include "ui/test_ui.h"

#include <QElapsedTimer>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <functional>

using namespace ustor;
using testing::waitUntil;

void TestKilled::supplyGoesOffAndNoFactIsLost_data() {
    QTest::addColumn<int>("signal");
    QTest::addColumn<int>("after_ms"); // the output came on for the first time; below zero: facts before that
    QTest::newRow("killed while rails are read") << SIGKILL << -4;
    QTest::newRow("killed as the output comes on") << SIGKILL << 0;
    QTest::newRow("killed in the middle of the pulses") << SIGKILL << 3300;
    QTest::newRow("hung in the middle of the pulses") << SIGSTOP << 2300;
}

namespace {

/// The window in its own process, playing a case on a bench that is not its child.
class Play {
  public:
    bool start() {
        const QString stem = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/greenhouse-controller";
        const QStringList board{stem + ".356", stem + ".centroid.csv"};
        const QStringList fault{"--fault", "C10", "--ohms", "0.3"};
        if (!m_bench.start(programBeside("ustor-standin"), board + fault).ok()) return false;
        if (!m_hands.open(m_bench.address().control).ok()) return false;
        m_window.start(programBeside("ustor-window-player"),
                       QStringList{m_casebook.path(), QString::fromUtf8(m_bench.readyLine())} + board);
        return m_window.waitForStarted();
    }

    /// Waits for the moment: so many facts, or so long by the bench's own clock after the output came on for
    /// the first time, and with the output on. False when the play ended, or stuck, before it came.
    bool reach(int after_ms) {
        constexpr int patience_ms = 40000;
        const auto ended = [&] { return m_window.state() == QProcess::NotRunning; };
        const auto comes = [&](const std::function<bool()>& moment) {
            return waitUntil([&] { return ended() || moment(); }, patience_ms) && !ended();
        };
        if (after_ms < 0) return comes([&] { return factsAccepted() >= -after_ms; });
        double on_s = -1;
        // Pulses come and go: the moment that matters is one with the output on.
        return comes([&] {
            const QJsonObject state = benchState();
            if (!state["output"].toBool()) return false;
            const double now_s = state["time_s"].toDouble();
            if (on_s < 0) on_s = now_s;
            return now_s - on_s >= 1e-3 * after_ms;
        });
    }

    bool outputIs(bool on) {
        const QJsonObject state = benchState();
        return state.contains("output") && state["output"].toBool() == on;
    }
    qsizetype factsAccepted() {
        m_accepted += m_window.readAllStandardOutput();
        return m_accepted.count('\n');
    }
    pid_t pid() const { return static_cast<pid_t>(m_window.processId()); }
    void end() {
        m_window.kill();
        m_window.waitForFinished();
    }
    std::filesystem::path folder() const { return m_casebook.filePath("to-be-killed").toStdString(); }
    QString trouble() {
        return QString("%1 facts accepted; the window said: %2; the bench: %3")
            .arg(factsAccepted())
            .arg(QString::fromUtf8(m_window.readAllStandardError()), QString::fromStdString(m_trouble));
    }

  private:
    /// Empty where the bench does not answer.
    QJsonObject benchState() {
        const auto state = m_hands.ask({{"do", "state"}});
        if (state) return state.value();
        m_trouble = state.error().text();
        return {};
    }

    const QTemporaryDir m_casebook;
    StandInProcess m_bench;
    Hands m_hands;
    QProcess m_window;
    QByteArray m_accepted;
    std::string m_trouble = "answered";
};

} // namespace

// The window is killed at some moment of the work.
void TestKilled::supplyGoesOffAndNoFactIsLost() {
    QFETCH(int, signal);
    QFETCH(int, after_ms);
    Play play;
    QVERIFY(play.start());
    QVERIFY2(play.reach(after_ms), qPrintable(play.trouble()));
    const pid_t pid = play.pid();
    QVERIFY(pid > 0); // else it died of itself
    ::kill(pid, signal);
    QElapsedTimer clock;
    clock.start();
    QVERIFY(waitUntil([&] { return play.outputIs(false); }, 4000));
    QVERIFY2(clock.elapsed() < 1000, qPrintable(QString("%1 ms").arg(clock.elapsed())));
    QTest::qWait(1200); // and stays off: no pulse follows
    QVERIFY(play.outputIs(false));
    play.end();

    const auto told = play.factsAccepted();
    auto reopened = CaseFolder::open(play.folder());
    QVERIFY2(reopened.ok(), reopened.ok() ? "" : reopened.error().text().c_str());
    CaseSession session(std::move(reopened.value()), Knowledge{});
    const auto recovered = recoverBegun(session);
    QVERIFY(recovered.troubles.empty());
    const auto& facts = session.facts();
    QVERIFY(told > 0);
    QVERIFY2(static_cast<qsizetype>(facts.size()) >= told,
             qPrintable(QString("%1 of %2").arg(facts.size()).arg(told)));
    for (std::size_t i = 0; i < facts.size(); ++i)
        QCOMPARE(facts[i].id, static_cast<long>(i) + 1);
    if (after_ms < 0) return;
    // The injection that was cut off is one of them, with where the leads were; after it only what the supply
    // showed meanwhile.
    QCOMPARE(recovered.injections, 1);
    const bool shown = std::holds_alternative<SupplyShows>(facts.back().body);
    QVERIFY(facts.size() >= 2);
    const auto* cut = std::get_if<InjectionDone>(&facts[facts.size() - 1 - shown].body);
    QVERIFY(cut);
    QCOMPARE(cut->cause, StopCause::ProgramEnded);
    QVERIFY(!cut->plus.empty() && !cut->minus.empty() && cut->amps > 0);
    if (after_ms > 0)
        QVERIFY2(cut->seconds > 1 && cut->deliveredWatts > 0,
                 qPrintable(QString("%1 s, %2 W").arg(cut->seconds).arg(cut->deliveredWatts)));
}
