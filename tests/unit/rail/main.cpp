#include "support/run_all.h"
#include "unit/rail/test_rail.h"

int main(int argc, char** argv) {
    return ustor::testing::RunAll()
        .add<TestStretch>()
        .add<TestPath>()
        .add<TestNetwork>()
        .add<TestCopperNetwork>()
        .run(argc, argv);
}
