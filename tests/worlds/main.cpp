#include "support/run_all.h"
#include "worlds/test_worlds.h"

int main(int argc, char** argv) {
    return ustor::testing::RunAll().add<TestOtherBench>().add<TestPlay>().add<TestCalibration>().run(argc,
                                                                                                     argv);
}
