#include "cli/commands.h"
#include "session/bench_link.h"
#include "session/large_memory.h"
#include "session/settling.h"

#include <QGuiApplication>
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <memory>
#include <string_view>

namespace {

/// No command of this program opens a window; only pages need fonts, and the time and memory that they take.
std::unique_ptr<QCoreApplication> toolkitFor(int& argc, char** argv) {
    const bool pages = std::any_of(argv, argv + argc,
                                   [](const char* word) { return std::string_view(word).ends_with(".pdf"); });
    if (!pages) return std::make_unique<QCoreApplication>(argc, argv);
    if (!std::getenv("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    return std::make_unique<QGuiApplication>(argc, argv);
}

} // namespace

int main(int argc, char** argv) {
    ustor::giveLargeMemoryBack();
    using namespace ustor::cli;
    const auto qt = toolkitFor(argc, argv);
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
