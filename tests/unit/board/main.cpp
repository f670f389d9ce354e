#include "support/run_all.h"
#include "unit/board/test_board.h"
#include "unit/board/test_gerber.h"

int main(int argc, char** argv) {
    return ustor::testing::RunAll()
        .add<TestIpcD356>()
        .add<TestCentroids>()
        .add<TestLists>()
        .add<TestGerber>()
        .add<TestDrills>()
        .add<TestFabrication>()
        .add<TestIpc2581>()
        .add<TestBoardJson>()
        .add<TestGuesses>()
        .add<TestSketch>()
        .run(argc, argv);
}
