#include "scenarios/test_scenarios.h"
#include "support/run_all.h"

#include <QCoreApplication>

int main(int argc, char** argv) {
    QCoreApplication qt(argc, argv);
    return ustor::testing::RunAll().add<TestGuard>().add<TestSafety>().add<TestWalk>().add<TestCli>().run(
        argc, argv);
}
