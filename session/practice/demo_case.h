#pragma once

#include "store/case_folder.h"

#include <QStringList>

namespace ustor {

/// The demo: an invented chart plotter that died at the harbour, with one hidden short.
struct DemoScenario {
    std::string title, complaint;
    std::vector<std::filesystem::path> boardFiles;
    std::string hiddenPart;
    double hiddenOhms = 0;
    std::uint64_t seed = 0;
    QStringList standInArguments(double speed) const;
};

/// Folder with the demo data: beside the program, or in the source tree it was built from.
Result<std::filesystem::path> demoFolder();
Result<DemoScenario> demoScenario();
/// A fresh case at "complaint noted".
Result<CaseFolder> makeDemoCase(const DemoScenario& scenario, const std::filesystem::path& casebook);

} // namespace ustor
