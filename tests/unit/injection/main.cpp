#include "support/run_all.h"
#include "unit/injection/test_injection.h"

int main(int argc, char** argv) {
    return ustor::testing::RunAll()
        .add<TestLimits>()
        .add<TestSupervisor>()
        .add<TestNewestPulse>()
        .add<TestRandomBoards>()
        .run(argc, argv);
}
