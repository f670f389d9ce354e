#include "support/run_all.h"
#include "trade/test_trade.h"

int main(int argc, char** argv) {
    return ustor::testing::RunAll().add<TestTrade>().run(argc, argv);
}
