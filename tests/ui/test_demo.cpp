#include "app/hand_switching.h"
#include "app/heat/heat_canvas.h"
#include "app/heat/heat_page.h"
#include "app/workbench.h"
#include "base/random.h"
#include "bench/guard_protocol.h"
#include "bench/scpi_supply.h"
#include "demo/window_walk.h"
#include "session/begun_injection.h"
#include "support/energised.h"
#include "support/wait.h"
#include "ui/test_ui.h"

#include <QAbstractButton>
#include <QApplication>
#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <algorithm>
#include <csignal>
#include <utility>

using namespace ustor;
using testing::waitUntil;

namespace {

/// The demo in a window and a casebook of its own.
struct Demo {
    explicit Demo(double speed) {
        window.show();
        window.openDemo(speed);
    }
    QTemporaryDir folder;
    MainWindow window{std::move(Casebook::open(folder.path().toStdString()).value())};
    Workbench& bench = window.workbench();
};

/// Whether an injection is noted beside its recording.
bool isNoted(const std::filesystem::path& folder) {
    return std::filesystem::exists(folder / "recordings" / "01.begun.json");
}

/// The recording of the injection, by keys: maps, the named source, a repair left out.
void lookAtTheHeat(MainWindow& window, const std::string& part) {
    QTest::keyClick(&window, Qt::Key_F6);
    HeatPage& page = window.workbench().heatMaps();
    QVERIFY(page.isVisible());
    QVERIFY(waitUntil([&] { return page.ready(); }, 20000));
    QCOMPARE(page.study()->located.verdict, HeatVerdict::Point);
    const Board& board = window.workbench().session()->board();
    const auto& first = page.study()->located.sources.front();
    QVERIFY(first.board.has_value());
    const Part& hidden = board.parts[board.findPart(part)];
    QVERIFY(std::hypot(first.board->x_mm - hidden.centre.x_mm, first.board->y_mm - hidden.centre.y_mm) < 2);
    QCOMPARE(page.shown(), HeatPage::FirstInstant);
    for (const auto& [key, shown] : {std::pair{Qt::Key_1, HeatPage::Still},
                                     {Qt::Key_3, HeatPage::Amplitude},
                                     {Qt::Key_4, HeatPage::Delay},
                                     {Qt::Key_5, HeatPage::Odds}}) {
        QTest::keyClick(&page.canvas(), key);
        QCOMPARE(page.shown(), shown);
    }
    // The spot by arrows, a line by Enter at both ends.
    QTest::keyClick(&page.canvas(), Qt::Key_2);
    const PixelPoint before = page.canvas().spot();
    QTest::keyClick(&page.canvas(), Qt::Key_Return);
    QTest::keyClick(&page.canvas(), Qt::Key_Right, Qt::ShiftModifier);
    QTest::keyClick(&page.canvas(), Qt::Key_Return);
    QCOMPARE(page.canvas().spot().x_px, before.x_px + 10);
    QVERIFY(page.canvas().line().has_value());
    // A held span stays when the map changes to one of the same unit.
    page.findChild<QCheckBox*>("holdSpan")->click();
    const double high = page.canvas().high();
    QTest::keyClick(&page.canvas(), Qt::Key_3);
    QCOMPARE(page.canvas().high(), high);
    page.findChild<QCheckBox*>("common")->click();
    QVERIFY(!page.ready());
    QVERIFY(waitUntil([&] { return page.ready(); }, 20000));
    QVERIFY(page.findChild<QLabel*>("repairsTold")->text().contains("Verdict"));
    QTest::keyClick(&window, Qt::Key_F1);
    QVERIFY(!page.isVisible());
}

} // namespace

// The whole demo through the real window, the simulated bench running behind its sockets.
void TestDemo::playedToItsEndThroughTheWindow() {
    Demo demo(2);
    QTemporaryDir& folder = demo.folder;
    MainWindow& window = demo.window;
    QVERIFY(window.workbench().session());
    QCOMPARE(window.workbench().session()->facts().size(), std::size_t(1)); // at "complaint noted"
    WindowWalk walk(window);
    QStringList moments;
    bool emberSeen = false, liveSeen = false;
    walk.at = [&](WindowWalk::Moment moment) {
        moments << QString::number(static_cast<int>(moment));
        if (moment != WindowWalk::Moment::Injecting) return;
        emberSeen = window.workbench().injecting();
        // The heat view follows while it goes on.
        QTest::keyClick(&window, Qt::Key_F6);
        const auto* told = window.workbench().heatMaps().findChild<QLabel*>("repairsTold");
        liveSeen = waitUntil([&] { return told->text().startsWith("Live"); }, 4000) &&
                   window.workbench().heatMaps().canvas().words().isEmpty();
        QTest::keyClick(&window, Qt::Key_F1);
    };
    QVERIFY2(walk.playToTheEnd(), walk.trouble().c_str());
    QVERIFY(emberSeen);
    QVERIFY(liveSeen);
    QCOMPARE(moments, (QStringList{"0", "1", "2", "3", "4", "5", "6"}));
    const CaseSession& session = *window.workbench().session();
    const std::string hidden = window.workbench().hands()->reveal().value()["part"].toString().toStdString();
    QCOMPARE(session.assessment().culprit, hidden);
    QCOMPARE(walk.judged().state.board.parts[walk.judged().suspects.front().part].designator, hidden);
    QVERIFY(walk.judged().state.lifted.empty());
    window.workbench().writeReport();
    const auto* entrySaid = window.findChild<QLabel*>("entrySaid");
    QVERIFY(waitUntil([&] { return entrySaid->text().contains("report.pdf"); }, 20000));
    // A closed case takes no injection; one that is opened again does.
    const auto* again = window.findChild<QPushButton*>("alignAgain");
    QVERIFY(!again->isVisible());
    QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(again->isVisible());
    QTest::keySequence(&window, QKeySequence(QKeySequence::Redo));
    QVERIFY(!again->isVisible());
    lookAtTheHeat(window, hidden);
    // Tomorrow: it is in the book, with what was found.
    window.showCases();
    auto book = Casebook::open(folder.path().toStdString());
    const auto found = book.value()->find(hidden + " plotter");
    QCOMPARE(found.value().size(), std::size_t(1));
    QCOMPARE(found.value()[0].status, std::string("fixed"));
}

void TestDemo::escapeSwitchesOffFromAnywhere() {
    Demo demo(1);
    MainWindow& window = demo.window;
    Workbench& bench = demo.bench;
    const auto& stand = [&] { return bench.hands()->ask({{"do", "state"}}).value(); };
    QVERIFY(waitUntil([&] { return bench.bench() && bench.bench()->supply().isConnected(); }));
    for (const bool inDialog : {false, true}) {
        bench.bench()->supply().cap(Volts(1.3), Amps(1));
        bench.bench()->supply().setLimits(Volts(1), Amps(0.1), Volts(1.1));
        bench.bench()->supply().switchOn();
        QVERIFY(waitUntil([&] { return stand()["output"].toBool(); }));
        QDialog dialog(&window);
        if (inDialog) dialog.open();
        QTest::keyClick(inDialog ? static_cast<QWidget*>(&dialog) : static_cast<QWidget*>(&window),
                        Qt::Key_Escape);
        QVERIFY(waitUntil([&] { return !stand()["output"].toBool(); }, 1000));
    }
    // The large control does the same, and closing the window too.
    bench.bench()->supply().switchOn();
    QVERIFY(waitUntil([&] { return stand()["output"].toBool(); }));
    QTest::mouseClick(window.findChild<QAbstractButton*>("outputOff"), Qt::LeftButton);
    QVERIFY(waitUntil([&] { return !stand()["output"].toBool(); }, 1000));
    bench.bench()->supply().switchOn();
    QVERIFY(waitUntil([&] { return stand()["output"].toBool(); }));
    Hands other;
    QVERIFY(other.open(window.standIn()->address().control).ok());
    window.close();
    QVERIFY(waitUntil([&] { return !other.ask({{"do", "state"}}).value()["output"].toBool(); }, 1500));
}

// A supply that the program cannot reach: a person sets it and follows the beats, a quarter of a second late
// and unevenly (common practice), and finds the same part. The person's supply is told through a connection
// of the test's own.
void TestDemo::aSupplyWithoutRemoteIsSwitchedByHand() {
    Demo demo(2);
    MainWindow& window = demo.window;
    Workbench& bench = demo.bench;
    QVERIFY(waitUntil([&] { return bench.bench() && bench.bench()->supply().isConnected(); }, 8000));
    BenchAddress address = bench.bench()->address();
    const InstrumentAddress supplyAddress = std::exchange(address.supply, {});
    bench.connectBench(address);
    ScpiSupply supply;
    supply.open(supplyAddress);
    QVERIFY(waitUntil([&] { return supply.isConnected(); }, 5000));

    Random random(3);
    bool on = false;
    int switched = 0;
    QTimer hand;
    QObject::connect(&hand, &QTimer::timeout, &hand, [&] {
        const HandSwitching* beats = bench.byHand();
        const bool wanted = beats && beats->running() && beats->run().wantsOn();
        if (wanted == on) return;
        on = wanted;
        if (on) supply.setLimits(beats->run().step().volts, beats->run().step().amps, Volts(1.1));
        const double late_s = 0.25 + 0.08 * std::clamp(random.normal(), -2.0, 2.0);
        QTimer::singleShot(static_cast<int>(1e3 * late_s / address.speed), &supply, [&supply, &switched, on] {
            ++switched;
            if (on)
                supply.switchOn();
            else
                supply.switchOff();
        });
    });
    hand.start(10);
    WindowWalk walk(window);
    bool said = false, toldOff = false, noted = false;
    QObject::connect(&hand, &QTimer::timeout, &window, [&] {
        const HandSwitching* beats = bench.byHand();
        toldOff = toldOff || (beats && !beats->waits() && !beats->running() &&
                              window.findChild<QLabel*>("nextSentence")->text().contains("OFF now"));
    });
    walk.at = [&](WindowWalk::Moment moment) {
        if (moment != WindowWalk::Moment::Injecting) return;
        said = window.findChild<QLabel*>("nextSentence")->text().contains("Output O");
        noted = isNoted(bench.session()->folder().path);
    };
    QVERIFY2(walk.playToTheEnd(), walk.trouble().c_str());
    QVERIFY(said);
    QVERIFY(noted);
    QVERIFY(!isNoted(bench.session()->folder().path));
    QVERIFY(toldOff);
    QVERIFY(switched >= 6);
    QCOMPARE(bench.session()->assessment().culprit, std::string("C76"));
    bool byHand = false;
    for (const Fact& fact : bench.session()->facts())
        if (const auto* done = std::get_if<InjectionDone>(&fact.body)) {
            byHand = done->byHand;
            QCOMPARE(done->deliveredWatts, 0.0); // it was not measured
        }
    QVERIFY(byHand);
}

// The supply's cable is pulled while it delivers: that is all there is to see until it was read as off.
void TestDemo::aPulledCableIsAnAlarm() {
    Demo demo(1);
    MainWindow& window = demo.window;
    Workbench& bench = demo.bench;
    QVERIFY(waitUntil([&] { return bench.bench() && bench.bench()->supply().isConnected(); }, 8000));
    GuardedSupply& supply = bench.bench()->supply();
    supply.cap(Volts(1.3), Amps(1));
    supply.setLimits(Volts(1), Amps(0.1), Volts(1.1));
    supply.switchOn();
    const auto* off = window.findChild<OutputOff*>("outputOff");
    QVERIFY(waitUntil([&] { return off->shown().state == OutputState::On && bench.bench()->outputOn(); }));
    QVERIFY(bench.hands()->ask({{"do", "unplug"}, {"what", "supply"}}).ok());
    const auto* words = window.findChild<QLabel*>("alarmWords");
    QVERIFY(waitUntil([&] { return words->isVisible(); }, 8000));
    QVERIFY(words->text().contains("May still be ON"));
    QVERIFY(off->shown().ember());
    // Nothing else is offered: neither the board nor a move, and the keys do nothing.
    QVERIFY(!bench.isVisible());
    const std::size_t facts = bench.session()->facts().size();
    for (const int key : {Qt::Key_Space, Qt::Key_F2, Qt::Key_R, Qt::Key_Escape})
        QTest::keyClick(&window, static_cast<Qt::Key>(key));
    QCOMPARE(bench.session()->facts().size(), facts);
    QVERIFY(words->isVisible());
    // Back, it is switched off and read.
    QVERIFY(bench.hands()->ask({{"do", "plug"}, {"what", "supply"}}).ok());
    QVERIFY(waitUntil([&] { return !words->isVisible() && bench.isVisible(); }, 8000));
    QCOMPARE(off->shown().state, OutputState::Off);
    QVERIFY(!bench.hands()->ask({{"do", "state"}}).value()["output"].toBool());
}

// What an earlier program left on is dealt with on the page of cases, before any case is opened.
void TestDemo::whatIsLeftOnIsAnAlarmOnThePageOfCases() {
    testing::Energised energised;
    QCOMPARE(energised.start(), QString());
    energised.happen("cable pulled");
    energised.killAll();
    const QByteArray before = qgetenv("XDG_RUNTIME_DIR");
    qputenv("XDG_RUNTIME_DIR", energised.runtime().toLocal8Bit());
    QTest::qWait(GuardTiming::signature_ms + 100);
    const QTemporaryDir folder;
    auto book = Casebook::open(folder.path().toStdString());
    QVERIFY(book.ok());
    MainWindow main(std::move(book.value()));
    main.show();
    const auto* words = main.findChild<QLabel*>("alarmWords");
    QVERIFY(waitUntil([&] { return words->isVisible(); }, 1000));
    energised.mend();
    QVERIFY(energised.offAfter_ms().value_or(1000) < 1000);
    QVERIFY(waitUntil([&] { return !words->isVisible(); }, 2000));
    qputenv("XDG_RUNTIME_DIR", before);
}

// The case is closed while the output pulses: it goes off, what was done is kept, and the next case is free.
void TestDemo::closingInTheMiddleLosesNothing() {
    Demo demo(2);
    MainWindow& window = demo.window;
    Workbench& bench = demo.bench;
    const std::filesystem::path path = bench.session()->folder().path;
    bool pulsed = false, noted = false;
    WindowWalk walk(window);
    walk.at = [&](WindowWalk::Moment moment) {
        if (moment != WindowWalk::Moment::Injecting) return;
        pulsed = bench.injecting();
        noted = isNoted(path);
        bench.closeCase();
        walk.endHere();
    };
    QVERIFY(!walk.playToTheEnd());
    QVERIFY(pulsed);
    QVERIFY(noted);
    QVERIFY(!isNoted(path)); // its facts are in the case
    const QString next = window.findChild<QLabel*>("nextSentence")->text();
    QVERIFY2(!next.contains("switched off") && !next.contains("Injecting"), qPrintable(next));
    const auto again = CaseFolder::open(path);
    QVERIFY(again.ok());
    int done = 0;
    for (const Fact& fact : again.value().log->facts())
        if (const auto* injection = std::get_if<InjectionDone>(&fact.body)) {
            ++done;
            QCOMPARE(injection->cause, StopCause::Person);
            QVERIFY(injection->deliveredWatts > 0);
        }
    QCOMPARE(done, 1);
}

// A case whose injection the program's death cut off is opened in the window again.
void TestDemo::aCutOffInjectionIsToldWhenTheCaseIsOpened() {
    Demo demo(2);
    MainWindow& window = demo.window;
    Workbench& bench = demo.bench;
    const CaseSession& before = *bench.session();
    const std::filesystem::path path = before.folder().path;
    InjectionPlan plan;
    plan.steps.resize(1);
    const auto recording = before.folder().nextRecording();
    QVERIFY(noteBegun(plan, {"L1.2", "C76.2", Side::Top}, recording, false, before).ok());
    const std::size_t facts = before.facts().size();
    window.showCases();
    bench.closeCase();
    window.openFolder(QString::fromStdString(path.string()));
    QVERIFY(bench.session());
    QCOMPARE(bench.session()->facts().size(), facts + 1);
    QVERIFY(std::holds_alternative<InjectionDone>(bench.session()->facts().back().body));
    QVERIFY(!isNoted(path));
    QStringList shown;
    for (const auto* label : window.findChildren<QLabel*>())
        if (label->isVisible()) shown << label->text();
    QVERIFY2(shown.join(' ').contains("in the middle of an injection"), qPrintable(shown.join('|')));
}
