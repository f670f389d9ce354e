#include "app/look.h"
#include "app/main_window.h"

#include <CLI/CLI.hpp>
#include <QApplication>
#include <QStandardPaths>
#include <cstdio>

int main(int argc, char** argv) {
    using namespace ustor;
    QApplication qt(argc, argv);
    QApplication::setApplicationName("ustor");
    QApplication::setOrganizationName("ustor");
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
    Look::install(qt);
    MainWindow window(std::move(book.value()));
    window.show();
    if (demo)
        window.openDemo();
    else if (!folder.empty())
        window.openFolder(QString::fromStdString(folder));
    return QApplication::exec();
}
