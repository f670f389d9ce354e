#include "app/look.h"
#include "app/main_window.h"
#include "app/words.h"
#include "session/large_memory.h"
#include "session/log.h"

#include <CLI/CLI.hpp>
#include <QApplication>
#include <QDir>
#include <QStandardPaths>
#include <cstdio>

int main(int argc, char** argv) {
    using namespace ustor;
    giveLargeMemoryBack();
    QApplication qt(argc, argv);
    QApplication::setApplicationName("ustor");
    QApplication::setOrganizationName("ustor");
    QApplication::setApplicationVersion(USTOR_VERSION);
    CLI::App app{"Finds the part that shorts a power rail."};
    std::string casebook, folder;
    bool demo = false;
    app.add_option("case", folder, "Case folder to open");
    app.add_option("--casebook", casebook, "Folder of the casebook");
    app.add_flag("--demo", demo, "Open the demo case on a simulated bench");
    CLI11_PARSE(app, argc, argv);
    if (casebook.empty())
        casebook = (QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + "/ustor/cases")
                       .toStdString();
    auto book = Casebook::open(casebook);
    if (!book) {
        std::fprintf(stderr, "%s\n", book.error().text().c_str());
        return 2;
    }
    // Where the state of programs belongs (XDG Base Directory Specification).
    const Log log(std::filesystem::path(
        (qEnvironmentVariable("XDG_STATE_HOME", QDir::homePath() + "/.local/state") + "/ustor")
            .toStdString()));
    Log::note(Log::Level::Info,
              QString("begins: %1, Qt %2").arg(QApplication::applicationVersion(), qVersion()));
    Look::install(qt);
    MainWindow window(std::move(book.value()));
    window.show();
    if (demo)
        window.openDemo();
    else if (!folder.empty())
        window.openFolder(text(folder));
    return QApplication::exec();
}
