#include "store/case_summary.h"

#include "store/case_folder.h"

#include <fstream>
#include <nlohmann/json.hpp>
#include <set>

namespace ustor {
namespace {

/// Reads a board's name off the beginning of its file and leaves the rest alone.
class NameReader : public nlohmann::json_sax<nlohmann::json> {
  public:
    std::string name;

    bool null() override { return true; }
    bool boolean(bool) override { return true; }
    bool number_integer(number_integer_t) override { return true; }
    bool number_unsigned(number_unsigned_t) override { return true; }
    bool number_float(number_float_t, const string_t&) override { return true; }
    bool binary(binary_t&) override { return true; }
    bool string(string_t& value) override {
        if (m_depth != 1 || m_key != "name") return true;
        name = value;
        return false; // that was all
    }
    bool key(string_t& value) override {
        if (m_depth == 1) m_key = value;
        return true;
    }
    bool start_object(std::size_t) override { return ++m_depth > 0; }
    bool end_object() override { return --m_depth >= 0; }
    bool start_array(std::size_t) override { return ++m_depth > 0; }
    bool end_array() override { return --m_depth >= 0; }
    bool parse_error(std::size_t, const std::string&, const nlohmann::detail::exception&) override {
        return false;
    }

  private:
    int m_depth = 0;
    std::string m_key;
};

std::string boardNameIn(const std::filesystem::path& folder) {
    std::ifstream file(CaseFolder::boardFileIn(folder));
    NameReader reader;
    nlohmann::json::sax_parse(file, &reader);
    return reader.name;
}

} // namespace

CaseSummary summaryOf(const std::filesystem::path& folder, const std::string& title, const std::string& board,
                      const std::vector<Fact>& facts, long size) {
    CaseSummary summary;
    summary.size = size;
    CaseEntry& entry = summary.entry;
    entry.folder = folder;
    entry.title = title;
    entry.board = board;
    entry.status = "open";
    for (const Fact* fact : activeFacts(facts)) {
        summary.words += sentenceOf(fact->body).text() + "\n";
        if (const auto* complaint = std::get_if<Complaint>(&fact->body)) entry.complaint = complaint->text;
        if (const auto* closed = std::get_if<Closed>(&fact->body)) {
            entry.status = closed->fixed ? "fixed" : "closed";
            entry.culprit = closed->culprit;
        }
    }
    if (!facts.empty()) entry.changed_s = facts.back().time_s;
    return summary;
}

Result<CaseSummary> readCaseSummary(const std::filesystem::path& folder) {
    const auto title = CaseFolder::titleIn(folder);
    if (!title) return title.error();
    std::error_code fault;
    const auto file = CaseFolder::factsFileIn(folder);
    const auto size = std::filesystem::file_size(file, fault);
    const auto log = FactLog::openToRead(file);
    if (!log) return log.error();
    return summaryOf(folder, title.value(), boardNameIn(folder), log.value()->facts(),
                     fault ? 0 : static_cast<long>(size));
}

std::vector<std::filesystem::path> scanCases(const std::filesystem::path& parent,
                                             const std::map<std::filesystem::path, long>& known,
                                             const std::function<void(CaseSummary)>& found,
                                             const std::function<bool()>& goesOn) {
    std::error_code fault;
    std::set<std::filesystem::path> there;
    for (const auto& item : std::filesystem::directory_iterator(parent, fault)) {
        if (!goesOn()) return {};
        const auto& folder = item.path();
        if (folder.filename().string().starts_with('.') ||
            !std::filesystem::exists(folder / "case.json", fault))
            continue;
        there.insert(folder);
        const auto size = std::filesystem::file_size(CaseFolder::factsFileIn(folder), fault);
        const auto before = known.find(folder);
        if (before != known.end() && before->second == (fault ? 0 : static_cast<long>(size))) continue;
        if (auto summary = readCaseSummary(folder)) found(std::move(summary.value()));
    }
    std::vector<std::filesystem::path> gone;
    for (const auto& [folder, size] : known)
        if (!there.contains(folder) && !std::filesystem::exists(folder / "case.json", fault))
            gone.push_back(folder);
    return gone;
}

} // namespace ustor
