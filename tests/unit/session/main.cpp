#include "support/run_all.h"
#include "unit/session/test_session.h"

#include <QCoreApplication>

int main(int argc, char** argv) {
    QCoreApplication qt(argc, argv);
    return ustor::testing::RunAll()
        .add<TestCaseSession>()
        .add<TestHeatWorker>()
        .add<TestClocks>()
        .add<TestReplay>()
        .add<TestSurveyWork>()
        .add<TestHeatStudy>()
        .add<TestStills>()
        .add<TestSleep>()
        .add<TestLog>()
        .run(argc, argv);
}
