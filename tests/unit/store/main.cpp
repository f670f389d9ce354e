#include "support/run_all.h"
#include "unit/store/test_store.h"

#include <QCoreApplication>

int main(int argc, char** argv) {
    QCoreApplication qt(argc, argv);
    return ustor::testing::RunAll().add<TestFactLog>().add<TestCasebook>().add<TestArchive>().run(argc, argv);
}
