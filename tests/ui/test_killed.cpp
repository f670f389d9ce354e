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
#include <optional>

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

// The window, in its own process, on a bench that is not its child, is killed at some moment of the work.
void TestKilled::supplyGoesOffAndNoFactIsLost() {
    QFETCH(int, signal);
    QFETCH(int, after_ms);
    const QString stem = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/greenhouse-controller";
    const QStringList board{stem + ".356", stem + ".centroid.csv"};
    StandInProcess bench;
    QVERIFY(
        bench.start(programBeside("ustor-standin"), board + QStringList{"--fault", "C10", "--ohms", "0.3"})
            .ok());
    Hands hands;
    QVERIFY(hands.open(bench.address().control).ok());
    const auto output = [&]() -> std::optional<bool> {
        const auto state = hands.ask({{"do", "state"}});
        return state.ok() ? std::optional(state.value()["output"].toBool()) : std::nullopt;
    };
    const auto outputOn = [&] { return output() == true; };
    const auto outputOff = [&] { return output() == false; };

    const QTemporaryDir casebook;
    QProcess window;
    window.start(programBeside("ustor-window-player"),
                 QStringList{casebook.path(), QString::fromUtf8(bench.readyLine())} + board);
    QVERIFY(window.waitForStarted());
    QByteArray accepted;
    const auto factsAccepted = [&] {
        accepted += window.readAllStandardOutput();
        return accepted.count('\n');
    };
    constexpr int patience_ms = 60000;
    if (after_ms < 0) {
        QVERIFY(waitUntil([&] { return factsAccepted() >= -after_ms; }, patience_ms));
    } else {
        QVERIFY(waitUntil(outputOn, patience_ms));
        QTest::qWait(after_ms);
        // Pulses come and go: the moment that matters is one with the output on.
        QVERIFY(waitUntil(outputOn, 5000));
    }
    const auto pid = static_cast<pid_t>(window.processId());
    QVERIFY(pid > 0); // else it died of itself
    ::kill(pid, signal);
    QElapsedTimer clock;
    clock.start();
    QVERIFY(waitUntil(outputOff, 4000));
    QVERIFY2(clock.elapsed() < 1500, qPrintable(QString("%1 ms").arg(clock.elapsed())));
    QTest::qWait(1200); // and stays off: no pulse follows
    QVERIFY(outputOff());
    window.kill();
    window.waitForFinished();

    const auto told = factsAccepted();
    const std::filesystem::path folder = casebook.filePath("to-be-killed").toStdString();
    const auto reopened = CaseFolder::open(folder);
    QVERIFY2(reopened.ok(), reopened.ok() ? "" : reopened.error().text().c_str());
    const auto& facts = reopened.value().log->facts();
    QVERIFY(told > 0);
    QVERIFY2(static_cast<qsizetype>(facts.size()) >= told,
             qPrintable(QString("%1 of %2").arg(facts.size()).arg(told)));
    for (std::size_t i = 0; i < facts.size(); ++i)
        QCOMPARE(facts[i].id, static_cast<long>(i) + 1);
}
