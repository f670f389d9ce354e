#include "store/work_pace_file.h"

#include "store/whole_file.h"

#include <algorithm>
#include <fstream>
#include <iterator>

namespace ustor {
namespace {

std::vector<CasePace> readAll(const std::filesystem::path& book, std::vector<Message>& warnings) {
    const std::filesystem::path file = paceFile(book);
    std::ifstream stream(file, std::ios::binary);
    if (!stream) return {};
    const std::string text((std::istreambuf_iterator<char>(stream)), {});
    auto read = readPace(text, file.string(), warnings);
    if (read) return std::move(read.value());
    warnings.push_back(read.error().message());
    return {};
}

} // namespace

std::filesystem::path paceFile(const std::filesystem::path& book) {
    return book / "pace.csv";
}

WorkPace loadPace(const std::filesystem::path& book, const std::string& exceptCase,
                  std::vector<Message>& warnings) {
    WorkPace all;
    for (const CasePace& each : readAll(book, warnings))
        if (each.caseName != exceptCase) all.add(each.pace);
    return all;
}

Outcome keepPace(const std::filesystem::path& book, const CasePace& fresh) {
    std::vector<Message> warnings;
    std::vector<CasePace> cases = readAll(book, warnings);
    const auto known = std::find_if(cases.begin(), cases.end(),
                                    [&](const CasePace& each) { return each.caseName == fresh.caseName; });
    if (known == cases.end() && fresh.pace.empty()) return Done{};
    const std::filesystem::path file = paceFile(book);
    // Rows that a person wrote and we cannot read must not be lost by writing the file anew.
    if (!warnings.empty())
        return Error{say("holds rows that cannot be read: {warning}", {{"warning", warnings.front()}}),
                     file.string(), say("it is unchanged; mend or remove them first")};
    if (known != cases.end()) cases.erase(known);
    if (!fresh.pace.empty()) cases.push_back(fresh);
    if (cases.size() > casesKept)
        cases.erase(cases.begin(), cases.end() - static_cast<std::ptrdiff_t>(casesKept));
    return writeWhole(file, paceToCsv(cases));
}

} // namespace ustor
