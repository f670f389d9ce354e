#include "support/run_all.h"
#include "unit/standin/test_standin.h"

#include <QCoreApplication>

int main(int argc, char** argv) {
    QCoreApplication qt(argc, argv);
    return ustor::testing::RunAll().add<TestWorld>().add<TestScpiServer>().run(argc, argv);
}
