#include "support/run_all.h"
#include "unit/diagnosis/test_diagnosis.h"

int main(int argc, char** argv) {
    return ustor::testing::RunAll()
        .add<TestFacts>()
        .add<TestEntry>()
        .add<TestStory>()
        .add<TestFold>()
        .add<TestRailRules>()
        .add<TestReadingJudge>()
        .add<TestSuspects>()
        .add<TestBelief>()
        .add<TestMetamorphic>()
        .add<TestSplit>()
        .add<TestGuidance>()
        .add<TestCare>()
        .add<TestWay>()
        .add<TestPocket>()
        .run(argc, argv);
}
