// The real window in a process of its own, playing a case on a simulated bench that is not its child: what a
// test may kill. Prints the number of each fact once it was accepted.
#include "app/look.h"
#include "app/workbench.h"
#include "demo/window_walk.h"

#include <QApplication>
#include <cstdio>

int main(int argc, char** argv) {
    using namespace ustor;
    QApplication qt(argc, argv);
    const QStringList words = QApplication::arguments();
    if (words.size() < 5) return 2; // casebook, ready line of the bench, board files
    auto book = Casebook::open(words[1].toStdString());
    const auto address = benchFromReadyLine(words[2].toUtf8());
    if (!book || !address) return 2;
    Look::install(qt);
    MainWindow window(std::move(book.value()));
    window.show();
    window.openNew(words.mid(3), "to be killed");
    if (!window.workbench().session()) return 2;
    QObject::connect(window.workbench().session(), &CaseSession::factAdded, &qt, [](const Fact& fact) {
        std::printf("%ld\n", fact.id);
        std::fflush(stdout);
    });
    if (!window.workbench().session()->add(Complaint{"no valve opens"})) return 2;
    window.workbench().connectBench(address.value());
    WindowWalk walk(window);
    if (walk.playToTheEnd()) return 0;
    std::fprintf(stderr, "%s\n", walk.trouble().c_str());
    return 1;
}
