#include "support/run_all.h"
#include "unit/thermal/test_thermal.h"

int main(int argc, char** argv) {
    return ustor::testing::RunAll()
        .add<TestRecording>()
        .add<TestRepair>()
        .add<TestRegistration>()
        .add<TestLongStream>()
        .add<TestFrameSums>()
        .add<TestSpotBand>()
        .add<TestPowerEvidence>()
        .add<TestLocate>()
        .add<TestMotion>()
        .add<TestPassing>()
        .add<TestSwitching>()
        .add<TestHeatMaps>()
        .add<TestEmissivity>()
        .add<TestHeatScenes>()
        .add<TestSwayingScenes>()
        .run(argc, argv);
}
