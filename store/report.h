#pragma once

#include "base/result.h"
#include "diagnosis/assess.h"

#include <QByteArray>
#include <QString>
#include <filesystem>

namespace ustor {

struct ReportInput {
    std::string title;
    const std::vector<Fact>* facts = nullptr;
    const Assessment* assessment = nullptr;
    QByteArray picture;         ///< the board with what was found, as PNG; may be empty
    Translator translator = {}; ///< the language of the page; that of the source where none is given
};

/// The case as a page for the customer and for the next one who meets such a board.
QString reportHtml(const ReportInput& input);
/// Error when the file cannot be written.
Outcome writeReportHtml(const ReportInput& input, const std::filesystem::path& file);

} // namespace ustor
