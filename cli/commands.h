#pragma once

#include "cli/answer.h"

#include <CLI/CLI.hpp>

namespace ustor::cli {

/// Each adds its group of commands to the program; what they do ends up in the answer.
void addBoardCommands(CLI::App& app, Answer& answer);
void addThermalCommands(CLI::App& app, Answer& answer);
void addRailCommands(CLI::App& app, Answer& answer);
void addPlanCommands(CLI::App& app, Answer& answer);
void addAssessCommand(CLI::App& app, Answer& answer);
void addCaseCommands(CLI::App& app, Answer& answer);
void addBenchCommands(CLI::App& app, Answer& answer);
void addPracticeCommands(CLI::App& app, Answer& answer);

} // namespace ustor::cli
