#include "diagnosis/path_heat.h"
#include "reference/test_reference.h"
#include "support/path_board.h"

#include <QTest>

using namespace ustor;
using testing::boardWithBeads;
using testing::straightOver;

// Parts in the path as warm as the fault or up to three times warmer: heat alone puts one of them first in
// about half of all cases; the board knows what they are, and the fault is what is left over (common
// practice).
void TestPathHeat::theFaultIsWhatIsLeftOver() {
    int first = 0, byHeatAlone = 0;
    constexpr int scenes = 6;
    for (int i = 0; i < scenes; ++i) {
        const auto scene = testing::makeScene(testing::SceneKind::Path, 7900 + static_cast<std::uint64_t>(i));
        const Board board = boardWithBeads(scene);
        const Registration registration = straightOver(scene);
        auto located = locateInRecording(scene.recording, &registration);
        QVERIFY(located.ok());
        LocateResult& result = located.value();
        QCOMPARE(result.verdict, HeatVerdict::Point);
        const auto atFault = [&] {
            return distance_px(result.sources.front().spot.at, *scene.fault) * scene.mmPerPixel < 1;
        };
        byHeatAlone += atFault();
        orderByPath(result, board, 0, Side::Top);
        first += atFault();
        QVERIFY(!result.sources.front().inPath);
        QVERIFY(result.sources.back().inPath); // told, not thrown away
    }
    QVERIFY2(first >= 5,
             qPrintable(QString("%1 of %2, by heat alone %3").arg(first).arg(scenes).arg(byHeatAlone)));
    QVERIFY(byHeatAlone < first);
}

// On the other side of the board a link lies under the spot, but the camera does not see it.
void TestPathHeat::linksOfTheOtherSideDoNotCount() {
    testing::Scene scene;
    scene.inPath = {{50, 40}};
    scene.mmPerPixel = 0.5;
    Board board = boardWithBeads(scene);
    LocateResult result;
    LocatedSource source;
    source.spot.at = {50, 40};
    source.spot.snr = 50;
    source.board = BoardPoint{25, -20};
    source.sigma_mm = 0.2;
    result.sources = {source};
    orderByPath(result, board, 0, Side::Top);
    QVERIFY(result.sources.front().inPath);
    orderByPath(result, board, 0, Side::Bottom);
    QVERIFY(!result.sources.front().inPath);
    orderByPath(result, board, -1, Side::Top); // no rail named: any link
    QVERIFY(result.sources.front().inPath);
}
