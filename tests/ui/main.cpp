#include "app/look.h"
#include "support/run_all.h"
#include "ui/test_ui.h"

#include <QApplication>

int main(int argc, char** argv) {
    QApplication qt(argc, argv);
    QApplication::setApplicationName("ustor-test");
    ustor::Look::install(qt);
    return ustor::testing::RunAll()
        .add<TestWindow>()
        .add<TestPanels>()
        .add<TestViews>()
        .add<TestHeatPage>()
        .add<TestAlignPage>()
        .add<TestSketchPage>()
        .add<TestDemo>()
        .add<TestKilled>()
        .run(argc, argv);
}
