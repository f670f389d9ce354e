#include "support/run_all.h"
#include "unit/bench/test_bench.h"

#include <QCoreApplication>

int main(int argc, char** argv) {
    QCoreApplication qt(argc, argv);
    return ustor::testing::RunAll()
        .add<TestScpi>()
        .add<TestLinks>()
        .add<TestOutput>()
        .add<TestCamera>()
        .add<TestV4l2>()
        .run(argc, argv);
}
