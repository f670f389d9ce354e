#include "cli/commands.h"

#include <QGuiApplication>
#include <cstdlib>

int main(int argc, char** argv) {
    using namespace ustor::cli;
    // No command of this program opens a window; reports need fonts.
    if (!std::getenv("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    QGuiApplication qt(argc, argv);
    CLI::App app{"Finds the part that shorts a power rail: every computation of Ustor without a window."};
    Answer answer;
    app.add_flag("--json", answer.json, "Answer in JSON");
    app.require_subcommand(1);
    app.fallthrough();
    addBoardCommands(app, answer);
    addThermalCommands(app, answer);
    addRailCommands(app, answer);
    addPlanCommands(app, answer);
    addCaseCommands(app, answer);
    addBenchCommands(app, answer);
    addPracticeCommands(app, answer);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& fault) {
        return app.exit(fault) == 0 ? Done_ : Wrong;
    }
    answer.print();
    return answer.code;
}
