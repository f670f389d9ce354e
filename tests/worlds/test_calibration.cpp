#include "worlds/calibration.h"
#include "worlds/test_worlds.h"
#include "worlds/told_case.h"

#include <QTest>
#include <cmath>

using namespace ustor;
using testing::Calibration;
using testing::ToldCase;

// Ten forecasts of 0.8 of which six come true, ten of 0.2 of which two do: worked by hand. Their Brier score
// is (6*0.04 + 4*0.64 + 2*0.64 + 8*0.04) / 20, and Murphy's parts add up to it exactly, for within a bin all
// say the same.
void TestCalibration::scoresByHand() {
    Calibration c;
    for (int i = 0; i < 10; ++i) {
        c.add(0.8, i < 6);
        c.add(0.2, i < 2);
    }
    QVERIFY(std::fabs(c.error() - 0.1) < 1e-12);
    const Calibration::Brier brier = c.brier();
    QVERIFY(std::fabs(brier.score - 0.22) < 1e-12);
    QVERIFY(std::fabs(brier.uncertainty - 0.24) < 1e-12);
    QVERIFY(std::fabs(brier.reliability - 0.02) < 1e-12);
    QVERIFY(std::fabs(brier.resolution - 0.04) < 1e-12);
    QVERIFY(std::fabs(brier.reliability - brier.resolution + brier.uncertainty - brier.score) < 1e-12);
}

// A few boards of the other world: where the judge says that it is sure, it has to be right. The table over
// thousands of them is a benchmark.
void TestCalibration::theJudgeIsNoMoreSureThanRight() {
    int sure = 0, right = 0, culprits = 0, amongTwo = 0;
    constexpr int boards = 24;
    for (int i = 0; i < boards; ++i) {
        Random random(9000 + static_cast<std::uint64_t>(i));
        testing::OtherBench bench(random, testing::shiftedStatistics(random, 3));
        const ToldCase told = testing::tellCase(bench, random, false);
        culprits += told.hasCulprit;
        amongTwo += told.hasCulprit && told.amongTwo;
        for (const ToldCase::Said& said : told.said) {
            constexpr double certain = 0.9;
            if (said.odds < certain) continue;
            ++sure;
            right += said.so;
        }
    }
    QVERIFY2(sure >= boards / 2, qPrintable(QString::number(sure)));
    QVERIFY2(right >= 0.85 * sure, qPrintable(QString("%1 of %2").arg(right).arg(sure)));
    QVERIFY2(2 * amongTwo > culprits, qPrintable(QString("%1 of %2").arg(amongTwo).arg(culprits)));
}
