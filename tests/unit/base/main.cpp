#include "support/run_all.h"
#include "unit/base/test_base.h"
#include "unit/base/test_messages.h"

int main(int argc, char** argv) {
    return ustor::testing::RunAll().add<TestBase>().add<TestMessages>().run(argc, argv);
}
