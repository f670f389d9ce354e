#include "fuzz/folder_readers.h"

#include "fuzz/named_errors.h"

#include "bench/instrument_address.h"
#include "bench/instrument_profile.h"
#include "diagnosis/assess.h"
#include "diagnosis/known_good.h"
#include "diagnosis/work_pace.h"
#include "session/still_file.h"
#include "store/case_archive.h"
#include "store/case_folder.h"
#include "store/case_summary.h"
#include "thermal/locate.h"
#include "thermal/recording_reader.h"
#include "thermal/recording_writer.h"
#include "thermal/registration.h"

#include <QTemporaryDir>
#include <algorithm>
#include <cmath>
#include <fstream>

namespace ustor::testing {
namespace {

namespace fs = std::filesystem;

/// One folder for all inputs of a process, emptied before each.
fs::path emptyFolder() {
    static const QTemporaryDir all;
    fs::path folder = fs::path(all.path().toStdString()) / "input";
    std::error_code fault;
    fs::remove_all(folder, fault);
    fs::create_directories(folder);
    return folder;
}

void put(const fs::path& file, std::string_view bytes) {
    fs::create_directories(file.parent_path());
    std::ofstream(file, std::ios::binary).write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
}

/// An input for a folder: before each file's bytes a line "=== NAME", of the names that the folder knows.
void spread(std::string_view input, const fs::path& folder, std::initializer_list<std::string_view> names) {
    constexpr std::string_view mark = "=== ";
    for (std::size_t at = input.find(mark); at != std::string_view::npos;) {
        const std::size_t line = input.find('\n', at);
        if (line == std::string_view::npos) return;
        const auto name = input.substr(at + mark.size(), line - at - mark.size());
        const std::size_t next = input.find(mark, line);
        const auto bytes = input.substr(line + 1, next == std::string_view::npos ? next : next - line - 1);
        if (std::find(names.begin(), names.end(), name) != names.end()) put(folder / name, bytes);
        at = next;
    }
}

/// Two seconds of a small picture, as our own writer makes it: what an input does not name is from here.
const fs::path& wholeRecording() {
    static const QTemporaryDir made;
    static const fs::path folder = [] {
        fs::path at = fs::path(made.path().toStdString()) / "r";
        CameraInfo info;
        info.width = info.height = 8;
        auto writer = RecordingWriter::create(at, info);
        for (int i = 0; i < 50; ++i) {
            const double time_s = 0.04 * i;
            const bool on = i / 12 % 2 == 1;
            (void)writer.value()->add(
                ThermalFrame{time_s, cv::Mat(8, 8, CV_16UC1, cv::Scalar(29800 + i % 3))});
            (void)writer.value()->add(SupplySample{time_s, on, 1, 0.1, on ? 0.03 : 0, on ? 0.1 : 0});
        }
        return at;
    }();
    return folder;
}

void look(const fs::path& folder) {
    (void)readRecordingTimes(folder);
    (void)readRecording(folder, {2e3, 8});
    auto read = readRecording(folder, roomToLocate);
    if (!wasRead(read, folder.string())) return;
    const auto& frames = read.value().frames;
    USTOR_CHECK(!frames.empty(), "a recording that was read has frames");
    for (std::size_t i = 1; i < frames.size(); ++i)
        USTOR_CHECK(frames[i - 1].time_s <= frames[i].time_s, "frames come in their order");
    constexpr std::size_t few = 200; // what follows is tested elsewhere, and takes its time
    constexpr int small = 64;
    if (frames.size() < few && read.value().info.width <= small && read.value().info.height <= small)
        (void)locateInRecording(std::move(read.value()), nullptr);
}

void feedRecording(std::string_view input) {
    const fs::path folder = emptyFolder();
    fs::copy(wholeRecording(), folder, fs::copy_options::recursive);
    spread(input, folder, {"recording.json", "frames.csv", "supply.csv", "beats.csv"});
    look(folder);
}

void feedFrames(std::string_view tiff) {
    const fs::path folder = emptyFolder();
    fs::copy(wholeRecording(), folder, fs::copy_options::recursive);
    put(folder / "frames.tiff", tiff);
    look(folder);
}

void feedStill(std::string_view input) {
    if (input.empty()) return;
    constexpr std::string_view endings[] = {".csv", ".tiff", ".png", ".jpg"};
    const fs::path file =
        emptyFolder() / ("still" + std::string(endings[static_cast<unsigned char>(input[0]) % 4]));
    put(file, input.substr(1));
    (void)needsScale(file);
    const auto still = readStill(file, {StillUnit::Guess, 20, 60, {}});
    if (wasRead(still, file.string()))
        USTOR_CHECK(!still.value().celsius.empty(), "a still that was read has a picture");
}

/// What is kept beside a still.
void feedStillNotes(std::string_view input) {
    const fs::path file = emptyFolder() / "still.png";
    put(file, "");
    put(file.string() + ".json", input);
    (void)scaleOf(file);
    (void)placeOf(file);
}

void feedRegistration(std::string_view input) {
    const auto read = registrationFromJson(input, "file");
    if (!wasRead(read, "file")) return;
    const BoardPoint there = read.value().toBoard({10, 10});
    USTOR_CHECK(std::isfinite(there.x_mm) && std::isfinite(there.y_mm), "a place on a board is finite");
    USTOR_CHECK(registrationFromJson(registrationToJson(read.value()), "file").ok(),
                "a registration that was read must come back from its own file");
}

void feedProfile(std::string_view input) {
    (void)wasRead(profileFromJson({input.data(), static_cast<qsizetype>(input.size())}, "file"), "file");
}

void feedAddress(std::string_view input) {
    const auto read =
        instrumentFromText(QString::fromUtf8(input.data(), static_cast<qsizetype>(input.size())));
    if (!read) return;
    const auto again = instrumentFromText(read.value().text());
    USTOR_CHECK(again.ok() && again.value().text() == read.value().text(),
                "an address comes back as it went");
}

void feedKnownGood(std::string_view input) {
    std::vector<Message> warnings;
    const auto read = readKnownGood(input, "file", warnings);
    if (!wasRead(read, "file")) return;
    std::vector<Message> none;
    const auto again = readKnownGood(knownGoodToCsv(read.value()), "file", none);
    USTOR_CHECK(again.ok() && none.empty() && again.value().readings.size() == read.value().readings.size(),
                "readings that were read must come back from their own file");
}

void feedPace(std::string_view input) {
    std::vector<Message> warnings;
    const auto read = readPace(input, "file", warnings);
    if (!wasRead(read, "file")) return;
    WorkPace all, back;
    for (const CasePace& each : read.value())
        all.add(each.pace);
    std::vector<Message> none;
    const auto again = readPace(paceToCsv(read.value()), "file", none);
    USTOR_CHECK(again.ok() && none.empty(), "paces that were read must come back from their own file");
    for (const CasePace& each : again.value())
        back.add(each.pace);
    for (const WorkKind kind : workKinds)
        USTOR_CHECK(all.factor(kind) > 0 && all.timed(kind).times == back.timed(kind).times,
                    "every piece of work comes back");
}

void lookAtCase(const fs::path& folder) {
    (void)wasRead(readCaseSummary(folder), folder.string());
    const auto opened = CaseFolder::openToRead(folder);
    if (!wasRead(opened, folder.string())) return;
    const Assessment a = assess(opened.value().board, opened.value().log->facts(), {});
    for (const Suspect& suspect : a.suspects)
        USTOR_CHECK(suspect.odds >= 0 && suspect.odds <= 1, "odds are odds");
}

void feedCase(std::string_view input) {
    const fs::path folder = emptyFolder();
    put(folder / "case.json", R"({"format": "ustor-case/1", "title": "fuzzed"})");
    spread(input, folder, {"case.json", "board.board.json", "facts.jsonl"});
    lookAtCase(folder);
}

void feedArchive(std::string_view input) {
    const fs::path folder = emptyFolder();
    put(folder / "packed.ustor-case", input);
    const auto landed = importCase(folder / "packed.ustor-case", folder / "book");
    std::error_code fault;
    if (!wasRead(landed, (folder / "packed.ustor-case").string())) {
        USTOR_CHECK(!fs::exists(folder / "book") || fs::is_empty(folder / "book"),
                    "what is refused leaves nothing");
        return;
    }
    USTOR_CHECK(landed.value().parent_path() == folder / "book", "a case lands beside the others");
    std::size_t beside = 0;
    for (const auto& item : fs::directory_iterator(folder, fault))
        beside += item.path().filename() != "book";
    USTOR_CHECK(beside == 1, "nothing lands outside");
    lookAtCase(landed.value());
}

} // namespace

const std::vector<FuzzedReader>& folderReaders() {
    static const std::vector<FuzzedReader> readers = {
        {"recording", feedRecording},
        {"frames", feedFrames},
        {"still", feedStill},
        {"still_notes", feedStillNotes},
        {"registration", feedRegistration},
        {"profile", feedProfile},
        {"address", feedAddress},
        {"known_good", feedKnownGood},
        {"pace", feedPace},
        {"case", feedCase},
        {"archive", feedArchive},
    };
    return readers;
}

} // namespace ustor::testing
