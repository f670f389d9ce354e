#include "reference/test_reference.h"
#include "support/run_all.h"

#include <QCoreApplication>

int main(int argc, char** argv) {
    QCoreApplication qt(argc, argv);
    return ustor::testing::RunAll()
        .add<TestCopper>()
        .add<TestLattice>()
        .add<TestPlate>()
        .add<TestNoise>()
        .add<TestPathHeat>()
        .add<TestSpice>()
        .add<TestPredictedReadings>()
        .add<TestRealBoard>()
        .add<TestMillivolts>()
        .run(argc, argv);
}
