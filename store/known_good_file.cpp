#include "store/known_good_file.h"

#include "store/case_folder.h"
#include "store/whole_file.h"

#include <algorithm>
#include <fstream>
#include <iterator>
#include <map>

namespace ustor {
std::filesystem::path knownGoodFile(const std::filesystem::path& book, const std::string& model) {
    return book / "known-good" / (fileNameFrom(model) + ".csv");
}

KnownGoodSet loadKnownGood(const std::filesystem::path& book, const std::string& model,
                           const std::string& exceptDonor, std::vector<Message>& warnings) {
    KnownGoodSet set{model, {}};
    const std::filesystem::path file = knownGoodFile(book, model);
    std::ifstream stream(file, std::ios::binary);
    if (model.empty() || !stream) return set;
    const std::string text((std::istreambuf_iterator<char>(stream)), {});
    auto read = readKnownGood(text, file.string(), warnings);
    if (!read) {
        warnings.push_back(read.error().message());
        return set;
    }
    set.readings = std::move(read.value().readings);
    if (!exceptDonor.empty())
        std::erase_if(set.readings, [&](const KnownReading& known) { return known.donor == exceptDonor; });
    return set;
}

Outcome keepKnownGood(const std::filesystem::path& book, const KnownGoodSet& fresh,
                      const std::string& donor) {
    std::vector<Message> warnings;
    KnownGoodSet set = loadKnownGood(book, fresh.model, "", warnings);
    std::vector<KnownReading> before;
    std::copy_if(set.readings.begin(), set.readings.end(), std::back_inserter(before),
                 [&](const KnownReading& known) { return known.donor == donor; });
    if (before == fresh.readings) return Done{};
    if (fresh.model.empty()) return Error{say("the board has no model name"), "", say("nothing was kept")};
    std::erase_if(set.readings, [&](const KnownReading& known) { return known.donor == donor; });
    const std::filesystem::path file = knownGoodFile(book, fresh.model);
    // Rows that a person wrote and we cannot read must not be lost by writing the file anew.
    if (!warnings.empty())
        return Error{say("holds rows that cannot be read: {warning}", {{"warning", warnings.front()}}),
                     file.string(), say("it is unchanged; mend or remove them first")};
    set.readings.insert(set.readings.end(), fresh.readings.begin(), fresh.readings.end());
    std::error_code fault;
    std::filesystem::create_directories(file.parent_path(), fault);
    return writeWhole(file, knownGoodToCsv(set));
}

Result<std::size_t> importKnownGood(const std::filesystem::path& book, const std::string& model,
                                    const std::filesystem::path& file, std::vector<Message>& warnings) {
    std::ifstream stream(file, std::ios::binary);
    if (!stream) return Error{say("cannot be opened"), file.string(), say("nothing was taken in")};
    const std::string text((std::istreambuf_iterator<char>(stream)), {});
    auto read = readKnownGood(text, file.filename().string(), warnings);
    if (!read) return read.error();
    std::map<std::string, KnownGoodSet> byDonor;
    for (KnownReading& known : read.value().readings) {
        if (known.donor.empty()) known.donor = file.stem().string();
        KnownGoodSet& set = byDonor[known.donor];
        set.model = model;
        set.readings.push_back(known);
    }
    if (byDonor.empty()) return Error{say("holds no reading"), file.string(), say("nothing was taken in")};
    for (const auto& [donor, set] : byDonor)
        if (const auto kept = keepKnownGood(book, set, donor); !kept) return kept.error();
    return read.value().readings.size();
}

Result<std::size_t> exportKnownGood(const std::filesystem::path& book, const std::string& model,
                                    const std::filesystem::path& file) {
    std::vector<Message> warnings;
    const KnownGoodSet set = loadKnownGood(book, model, "", warnings);
    if (set.empty())
        return Error{warnings.empty() ? say("no good board of this model was read yet") : warnings.front(),
                     "", say("nothing was written")};
    if (const auto written = writeWhole(file, knownGoodToCsv(set)); !written) return written.error();
    return set.readings.size();
}

} // namespace ustor
