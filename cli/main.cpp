#include "cli/commands.h"
#include "session/bench_link.h"
#include "session/large_memory.h"
#include "session/settling.h"

#include <QCoreApplication>
#include <cstdio>

int main(int argc, char** argv) {
    ustor::giveLargeMemoryBack();
    using namespace ustor::cli;
    const QCoreApplication qt(argc, argv); // without windows, fonts and pictures
    // Before all else: what an earlier program may have left on is switched off.
    if (const auto left = ustor::settleAbandoned(ustor::programBeside("ustor-guard")); !left.empty())
        std::fprintf(stderr,
                     ustor::settledSoon() ? "Left on by a program that ended, now read as off: %s\n"
                                          : "MAY STILL BE ON, switch it off by hand and pull the leads: %s\n",
                     ustor::joined(left, ", ").text().c_str());
    CLI::App app{"Finds the part that shorts a power rail: every computation of Ustor without a window."};
    Answer answer;
    app.add_flag("--json", answer.json, "Answer in JSON");
    app.require_subcommand(1);
    app.fallthrough();
    addBoardCommands(app, answer);
    addThermalCommands(app, answer);
    addRailCommands(app, answer);
    addPlanCommands(app, answer);
    addAssessCommand(app, answer);
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
