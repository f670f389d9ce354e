#include "rail/handy_place.h"
#include "scenarios/test_scenarios.h"
#include "session/injection_run.h"
#include "session/practice/auto_walk.h"
#include "session/practice/demo_case.h"
#include "session/practice/standin_process.h"
#include "support/boards.h"
#include "support/wait.h"

#include <QTemporaryDir>
#include <QTest>

using namespace ustor;
using testing::waitUntil;

namespace {

struct Practice {
    QTemporaryDir folder;
    StandInProcess standIn;
    Hands hands;
    std::unique_ptr<BenchLink> bench;
    std::unique_ptr<CaseSession> session;

    bool start(const QString& board, const QStringList& more) {
        const QString stem = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/" + board;
        if (!standIn
                 .start(programBeside("ustor-standin"),
                        QStringList{stem + ".356", stem + ".centroid.csv"} + more)
                 .ok())
            return false;
        if (!hands.open(standIn.address().control).ok()) return false;
        auto made = CaseFolder::create(folder.filePath("case").toStdString(), "practice",
                                       testing::demoBoard(board.toStdString()));
        if (!made.ok()) return false;
        session = std::make_unique<CaseSession>(std::move(made.value()), Knowledge{});
        bench = std::make_unique<BenchLink>(programBeside("ustor-guard"));
        bench->open(standIn.address());
        return true;
    }
};

} // namespace

void TestWalk::findsTheHiddenPart_data() {
    QTest::addColumn<QString>("board");
    QTest::addColumn<QString>("part");
    QTest::addColumn<double>("ohms");
    QTest::newRow("a small capacitor nobody thinks of") << "chart-plotter"
                                                        << "C76" << 0.18;
    QTest::newRow("a chip") << "greenhouse-controller"
                            << "U6" << 0.5;
}

// The whole job on sockets: survey, injection, heat, ranking, lifting, proof. Real time times three.
void TestWalk::findsTheHiddenPart() {
    QFETCH(QString, board);
    QFETCH(QString, part);
    QFETCH(double, ohms);
    Practice practice;
    QVERIFY(practice.start(board, {"--fault", part, "--ohms", QString::number(ohms), "--speed", "3"}));
    WalkSettings settings;
    settings.toTheEnd = true;
    const WalkResult walk = autoWalk(*practice.session, *practice.bench, practice.hands, settings);
    QVERIFY2(walk.finished, walk.trouble.c_str());
    QCOMPARE(walk.rank, 1);
    QCOMPARE(QString::fromStdString(walk.culprit), part);
    QCOMPARE(walk.lifted, 1);
    QVERIFY(practice.session->assessment().state.closed.has_value());
    // The recording can be read again and says the same from the file.
    const auto recording =
        std::filesystem::exists(practice.session->folder().path / "recordings" / "01" / "recording.json");
    QVERIFY(recording);
}

void TestWalk::pulledCableEndsAnInjectionSafely() {
    Practice practice;
    QVERIFY(practice.start("greenhouse-controller", {"--fault", "C10", "--ohms", "0.3"}));
    QVERIFY(waitUntil(
        [&] { return practice.bench->supply().isConnected() && practice.bench->camera().isConnected(); }));
    QVERIFY(practice.hands.leads("L2.2", "J1.2").ok());
    const Board& board = practice.session->board();
    InjectionRun::Settings settings;
    settings.plan = planInjection(board, stretchOf(board, board.findNet("+12V")), {});
    InjectionRun run(*practice.bench, settings);
    std::optional<InjectionOutcome> outcome;
    connect(&run, &InjectionRun::finished, this, [&](const InjectionOutcome& o) { outcome = o; });
    QVERIFY(run.start().ok());
    QVERIFY(waitUntil([&] { return practice.bench->outputOn(); }));
    QVERIFY(practice.hands.ask({{"do", "unplug"}, {"what", "camera"}}).ok());
    QVERIFY(waitUntil([&] { return outcome.has_value(); }));
    QCOMPARE(outcome->cause, StopCause::CameraLost);
    QVERIFY(waitUntil(
        [&] {
            return !practice.hands.ask({{"do", "state"}}).value()["output"].toBool();
        },
        1500));
}
