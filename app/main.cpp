#include "app/look.h"
#include "app/main_window.h"
#include "session/large_memory.h"
#include "session/log.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QStandardPaths>
#include <algorithm>
#include <cstdio>
#include <string_view>

namespace {

/// Only words are asked for: these need no display.
bool asksForWords(int argc, char** argv) {
    return std::any_of(argv + 1, argv + argc, [](std::string_view given) {
        return given == "--help" || given == "-h" || given == "--version" || given == "-v";
    });
}

} // namespace

int main(int argc, char** argv) {
    using namespace ustor;
    giveLargeMemoryBack();
    QCoreApplication::setApplicationName("ustor");
    QCoreApplication::setOrganizationName("ustor");
    QCoreApplication::setApplicationVersion(USTOR_VERSION);
    QCommandLineParser options;
    options.setApplicationDescription("Finds the part that shorts a power rail.");
    options.addHelpOption();
    options.addVersionOption();
    options.addPositionalArgument("case", "Case folder to open", "[case]");
    options.addOptions({{"casebook", "Folder of the casebook", "folder"},
                        {"demo", "Open the demo case on a simulated bench"}});
    if (asksForWords(argc, argv)) {
        const QCoreApplication words(argc, argv);
        options.process(words);
    }
    QApplication qt(argc, argv);
    options.process(qt);
    const QString usual =
        QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + "/ustor/cases";
    const QString casebook = options.isSet("casebook") ? options.value("casebook") : usual;
    auto book = Casebook::open(casebook.toStdString());
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
    if (options.isSet("demo"))
        window.openDemo();
    else if (!options.positionalArguments().isEmpty())
        window.openFolder(options.positionalArguments().first());
    return QApplication::exec();
}
