#include "session/survey_work.h"
#include "support/boards.h"
#include "unit/session/test_session.h"

#include <QTemporaryDir>
#include <QTest>

using namespace ustor;

namespace {

struct OpenSurvey {
    QTemporaryDir folder;
    CaseSession session{
        std::move(
            CaseFolder::create(folder.filePath("case").toStdString(), "t", testing::smallBoard()).value()),
        Knowledge{}};
};

Reading ohms(double value) {
    return {MeterMode::Ohms, ReadingState::Value, value, 0.01};
}

} // namespace

void TestSurveyWork::walksTakesSkipsAndGoesBack() {
    OpenSurvey open;
    SurveyWork work(open.session, {});
    QVERIFY(work.stops().size() >= 3);
    QVERIFY(work.take(ohms(0.3)).ok());
    QCOMPARE(work.at(0).ruling.state, RailState::Short);
    QVERIFY(!work.at(0).ruling.rule.empty());
    work.skip();
    QVERIFY(work.at(1).skipped);
    work.back();
    QVERIFY(work.take(ohms(640)).ok());
    QCOMPARE(work.at(1).ruling.state, RailState::Healthy);
    // Taken back in the trail, it is open again here.
    QVERIFY(open.session.undo().ok());
    QCOMPARE(work.at(1).fact, 0L);
    while (!work.finished())
        work.skip();
    QVERIFY(!work.take(ohms(1)).ok());
}

void TestSurveyWork::steadyReadingsAreTakenOnce() {
    OpenSurvey open;
    SurveyWork work(open.session, {});
    for (int i = 0; i < 5; ++i)
        QVERIFY(!work.watch(ohms(0.31))); // nobody has asked for it yet
    work.read(true);
    QVERIFY(!work.watch(ohms(0.31)) && !work.watch(ohms(0.31)));
    QVERIFY(work.watch(ohms(0.31)).has_value());
    // The probes are still on the same place: that reading belongs to no other stop.
    for (int i = 0; i < 10; ++i)
        QVERIFY(!work.watch(ohms(0.31)));
    QCOMPARE(work.current(), std::size_t(1));
    QVERIFY(!work.watch({MeterMode::Ohms, ReadingState::OverRange, 0, 0.01}));
    QVERIFY(!work.watch(ohms(0.31)) && !work.watch(ohms(0.31)));
    QVERIFY(work.watch(ohms(0.31)).has_value());
}

// Near nothing a pressed probe wanders by tenths: that is no place that was left.
void TestSurveyWork::jitterOfAShortIsNoLiftedProbe() {
    OpenSurvey open;
    SurveyWork work(open.session, {});
    work.read(true);
    for (const double value : {0.02, 0.02, 0.02})
        (void)work.watch(ohms(value));
    QCOMPARE(work.current(), std::size_t(1));
    for (const double value : {0.0, 0.03, 0.03, 0.03, 0.05, 0.05, 0.05, 0.0, 0.0, 0.0})
        QVERIFY(!work.watch(ohms(value)));
    QCOMPARE(work.current(), std::size_t(1));
    QVERIFY(!work.watch(ohms(310)) && !work.watch(ohms(310))); // now they were moved
    QVERIFY(work.watch(ohms(310)).has_value());
}

void TestSurveyWork::aClosedCaseIsNotRead() {
    OpenSurvey open;
    QVERIFY(open.session.add(Closed{true, "C13", ""}).ok());
    SurveyWork work(open.session, {});
    const std::size_t facts = open.session.facts().size();
    work.read(true);
    QVERIFY(!work.reads());
    for (int i = 0; i < 5; ++i)
        QVERIFY(!work.watch(ohms(0.31)));
    QVERIFY(!work.take(ohms(1)).ok());
    QCOMPARE(open.session.facts().size(), facts);
}

// Readings drift on a warm board: it is asked again (common practice).
void TestSurveyWork::aWarmBoardIsAskedAgain() {
    OpenSurvey open;
    QVERIFY(open.session.add(Lifted{"C15"}).ok()); // hot air, just now
    SurveyWork work(open.session, {});
    const std::size_t stops = work.stops().size();
    QVERIFY(work.take({MeterMode::Ohms, ReadingState::Value, 110, 0.1}).ok()); // would be healthy when cold
    QCOMPARE(work.stops().size(), stops + 1);
    QCOMPARE(work.stops().back().place, work.stops().front().place);
}
