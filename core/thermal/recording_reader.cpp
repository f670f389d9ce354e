#include "thermal/recording_reader.h"
#include "base/input_bounds.h"

#include "base/csv.h"
#include "base/json_number.h"
#include "base/number_text.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <functional>
#include <iterator>
#include <map>
#include <nlohmann/json.hpp>
#include <tiffio.h>

namespace ustor {
namespace {

constexpr const char* nothingRead = toSay("nothing was read");

Result<std::string> contentOf(const std::filesystem::path& file) {
    std::ifstream stream(file, std::ios::binary);
    if (!stream) return Error{say("missing or not readable"), file.string(), say(nothingRead)};
    return std::string((std::istreambuf_iterator<char>(stream)), {});
}

Result<CameraInfo> infoFrom(const std::filesystem::path& file) {
    const auto text = contentOf(file);
    if (!text) return text.error();
    try {
        const auto j = nlohmann::json::parse(text.value());
        const auto format = j.at("format").get<std::string>();
        if (format != "ustor-recording/1")
            return Error{
                say("not a recording this version reads: format is '{format}'", {{"format", format}}),
                file.string(), say(nothingRead)};
        if (j.value("unit", std::string("centikelvin")) != "centikelvin")
            return Error{say("unit must be centikelvin"), file.string(), say(nothingRead)};
        CameraInfo info;
        // A size that is no whole number is none of a camera.
        constexpr long most = bounds::widest_px;
        info.width = static_cast<int>(std::min(most + 1, wholeNumber(j.at("width")).value_or(0)));
        info.height = static_cast<int>(std::min(most + 1, wholeNumber(j.at("height")).value_or(0)));
        info.frameRate_hz = j.value("frame_rate_hz", 25.0);
        info.ambient_c = j.value("ambient_c", 25.0);
        info.side = j.value("side", std::string("top")) == "bottom" ? Side::Bottom : Side::Top;
        if (j.contains("camera")) info.netd_mk = j["camera"].value("netd_mk", 0.0);
        if (const auto why = whyNoCamera(info)) return Error{*why, file.string(), say(nothingRead)};
        return info;
    } catch (const nlohmann::json::exception& fault) {
        return Error{say("cannot be read: {fault}", {{"fault", fault.what()}}), file.string(),
                     say(nothingRead)};
    }
}

/// The columns of a table by their names; rows with a cell that is not a number end the reading with a
/// warning.
struct Table {
    std::vector<std::map<std::string, double>> rows;
};

Result<Table> readTable(const std::filesystem::path& file, std::initializer_list<const char*> needed,
                        std::vector<Message>& warnings) {
    const auto text = contentOf(file);
    if (!text) return text.error();
    const auto rows = csvRows(text.value(), ',');
    if (rows.empty()) return Error{say("empty"), file.string(), say(nothingRead)};
    const auto& header = rows.front().cells;
    for (const char* name : needed)
        if (std::find(header.begin(), header.end(), name) == header.end())
            return Error{say("column '{name}' is missing", {{"name", name}}), file.string() + ":1",
                         say(nothingRead)};
    Table table;
    for (std::size_t i = 1; i < rows.size(); ++i) {
        std::map<std::string, double> row;
        for (std::size_t c = 0; c < header.size() && c < rows[i].cells.size(); ++c)
            if (const auto number = numberFromText(rows[i].cells[c])) row[header[c]] = *number;
        if (!std::all_of(needed.begin(), needed.end(),
                         [&row](const char* name) { return row.contains(name); })) {
            warnings.push_back(say("{file}:{line}: not all cells are numbers: row left out",
                                   {{"file", file.filename().string()}, {"line", rows[i].line}}));
            continue;
        }
        table.rows.push_back(std::move(row));
    }
    return table;
}

/// Keeps libtiff from writing to standard error: what it says becomes our own error or warning.
void silence(const char*, const char*, va_list) {}

/// Gives page after page to `take`, until that says no or something is wrong. Returns how many were taken.
std::size_t readPages(const std::filesystem::path& file, const CameraInfo& info,
                      const std::function<bool(std::size_t, cv::Mat)>& take, Message& stopped) {
    TIFFSetErrorHandler(silence);
    TIFFSetWarningHandler(silence);
    std::size_t pages = 0;
    TIFF* tiff =
        TIFFOpen(file.c_str(), "rm"); // not mapped: a large file would stand in memory beside its frames
    if (!tiff) {
        stopped = say("missing or not a TIFF file");
        return pages;
    }
    do {
        std::uint32_t width = 0, height = 0;
        std::uint16_t bits = 0, samples = 1;
        TIFFGetField(tiff, TIFFTAG_IMAGEWIDTH, &width);
        TIFFGetField(tiff, TIFFTAG_IMAGELENGTH, &height);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_BITSPERSAMPLE, &bits);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLESPERPIXEL, &samples);
        if (width != static_cast<std::uint32_t>(info.width) ||
            height != static_cast<std::uint32_t>(info.height) || bits != 16 || samples != 1) {
            stopped = say("page {pages} is not a 16-bit grey picture of the stated size", {{"pages", pages}});
            break;
        }
        cv::Mat page(info.height, info.width, CV_16UC1);
        bool whole = TIFFScanlineSize(tiff) == static_cast<tmsize_t>(info.width * 2);
        for (int row = 0; whole && row < info.height; ++row)
            whole = TIFFReadScanline(tiff, page.ptr(row), static_cast<std::uint32_t>(row)) == 1;
        if (!whole) {
            stopped = say("page {pages} is cut off", {{"pages", pages}});
            break;
        }
        if (!take(pages, page)) {
            stopped = say("what comes after page {pages} would take too much memory", {{"pages", pages}});
            break;
        }
        ++pages;
    } while (TIFFReadDirectory(tiff));
    TIFFClose(tiff);
    return pages;
}

/// When a page of the pictures was taken.
struct TimedPage {
    double time_s = 0;
    std::size_t page = 0;
};

/// Rows whose time comes after the one before, and not too long after it. One that is wrong leaves the
/// others.
std::vector<TimedPage> timedPages(const Table& table, std::vector<Message>& warnings) {
    std::vector<TimedPage> rows, kept;
    for (const auto& row : table.rows) {
        const double number = row.at("frame");
        if (number >= 0 && number < 1e9 && std::floor(number) == number)
            rows.push_back({row.at("time_s"), static_cast<std::size_t>(number)});
    }
    const auto follows = [&rows](std::size_t earlier, std::size_t later) {
        const double apart_s = rows[later].time_s - rows[earlier].time_s;
        return apart_s > 0 && apart_s <= bounds::frameGap_s;
    };
    // The first is not believed where the two behind it agree with each other and not with it.
    std::size_t first = 0;
    if (rows.size() > 2 && !follows(0, 1) && follows(1, 2)) first = 1;
    int left = static_cast<int>(first);
    std::size_t last = first;
    for (std::size_t i = first; i < rows.size(); ++i) {
        if (i > first && !follows(last, i)) {
            ++left;
            continue;
        }
        // A jump that the next row does not share is a wrong time, however plausible it looks alone.
        if (i > first && i + 1 < rows.size() && !follows(i, i + 1) && follows(last, i + 1)) {
            ++left;
            continue;
        }
        kept.push_back(rows[i]);
        last = i;
    }
    if (left > 0)
        warnings.push_back(
            say("frames.csv: {left} frames do not come after the one before, or too long after it: left out",
                {{"left", left}}));
    return kept;
}

/// Several frames as one: their mean, at the mean of their times.
class Gathering {
  public:
    explicit Gathering(std::size_t together) : m_together(together) {}

    /// Before what comes after a gap; a mean over it would be of two times.
    bool mustEndBefore(double time_s) const {
        constexpr double gap = 1.6; // of the usual step
        return m_count > 1 && time_s - m_last_s > gap * (m_last_s - m_first_s) / (m_count - 1);
    }
    void add(double time_s, const cv::Mat& centikelvin) {
        if (m_count == 0) {
            m_sum = cv::Mat::zeros(centikelvin.size(), CV_32S);
            m_first_s = time_s;
            m_times_s = 0;
        }
        cv::add(m_sum, centikelvin, m_sum, cv::noArray(), CV_32S);
        m_times_s += time_s;
        m_last_s = time_s;
        ++m_count;
    }
    bool isFull() const { return m_count >= static_cast<int>(m_together); }
    std::optional<ThermalFrame> take() {
        if (m_count == 0) return std::nullopt;
        ThermalFrame frame{m_times_s / m_count, {}};
        m_sum.convertTo(frame.centikelvin, CV_16U, 1.0 / m_count); // rounds
        m_count = 0;
        return frame;
    }

  private:
    std::size_t m_together;
    cv::Mat m_sum;
    double m_first_s = 0, m_last_s = 0, m_times_s = 0;
    int m_count = 0;
};

/// How many frames are taken together, so that all find room; no more than the slowest rate allows.
std::size_t togetherFor(const std::vector<TimedPage>& timed, double pixels, const ReadingRoom& room) {
    const double needed = static_cast<double>(timed.size()) * pixels / room.mostPixels;
    const double span_s = timed.back().time_s - timed.front().time_s;
    const bool rises = std::is_sorted(timed.begin(), timed.end(),
                                      [](const TimedPage& a, const TimedPage& b) { return a.page < b.page; });
    if (needed <= 1 || !room.slowest_hz || span_s <= 0 || !rises) return 1;
    const double rate_hz = static_cast<double>(timed.size() - 1) / span_s;
    return static_cast<std::size_t>(
        std::max(1.0, std::min(std::ceil(needed), std::floor(rate_hz / *room.slowest_hz))));
}

/// The pictures of those times, as far as there are any and there is room; returns how many pages were read.
std::size_t readFrames(const std::filesystem::path& file, const std::vector<TimedPage>& timed,
                       const ReadingRoom& room, Recording& recording, Message& stopped) {
    const double pixels = static_cast<double>(recording.info.width) * recording.info.height;
    const std::size_t together = timed.empty() ? 1 : togetherFor(timed, pixels, room);
    auto& frames = recording.frames;
    std::map<std::size_t, std::vector<double>> times; // by page
    for (const TimedPage& row : timed)
        times[row.page].push_back(row.time_s);
    Gathering gathering(together);
    const auto hold = [&] {
        if (auto frame = gathering.take()) frames.push_back(std::move(*frame));
    };
    const auto hasRoom = [&] { return static_cast<double>(frames.size() + 1) * pixels <= room.mostPixels; };
    const auto take = [&](std::size_t page, const cv::Mat& picture) {
        const auto found = times.find(page);
        if (found == times.end()) return true;
        for (const double time_s : found->second) {
            if (!hasRoom()) return false;
            if (together == 1) {
                frames.push_back({time_s, picture});
                continue;
            }
            if (gathering.mustEndBefore(time_s)) hold();
            if (!hasRoom()) return false;
            gathering.add(time_s, picture);
            if (gathering.isFull()) hold();
        }
        return true;
    };
    const std::size_t pages = readPages(file, recording.info, take, stopped);
    if (hasRoom()) hold();
    // A page may stand in several rows, and rows in any order.
    std::stable_sort(frames.begin(), frames.end(),
                     [](const ThermalFrame& a, const ThermalFrame& b) { return a.time_s < b.time_s; });
    if (together > 1)
        recording.warnings.push_back(
            say("the recording is large: each {together} frames are taken together as one",
                {{"together", together}}));
    return pages;
}

/// What lies far from the frames is of another time.
template <typename T>
void keepNear(std::vector<T>& entries, const Recording& recording, const char* file,
              std::vector<Message>& warnings) {
    const double from_s = recording.frames.front().time_s - bounds::supplyAside_s,
                 to_s = recording.frames.back().time_s + bounds::supplyAside_s;
    const auto left = std::erase_if(
        entries, [&](const T& entry) { return !(entry.time_s >= from_s && entry.time_s <= to_s); });
    if (left > 0)
        warnings.push_back(say("{file}: {left} rows lie more than a minute from the frames: left out",
                               {{"file", file}, {"left", left}}));
    std::stable_sort(entries.begin(), entries.end(),
                     [](const T& a, const T& b) { return a.time_s < b.time_s; });
}

/// What was done meanwhile, into a recording that has its frames.
Outcome readSwitching(const std::filesystem::path& folder, Recording& recording) {
    if (std::filesystem::exists(folder / "beats.csv")) {
        auto beats = readTable(folder / "beats.csv", {"time_s", "on"}, recording.warnings);
        if (!beats) return beats.error();
        for (const auto& row : beats.value().rows)
            recording.beats.push_back({row.at("time_s"), row.at("on") != 0});
        keepNear(recording.beats, recording, "beats.csv", recording.warnings);
    }
    const auto supplyFile = folder / "supply.csv";
    if (!std::filesystem::exists(supplyFile)) {
        recording.warnings.push_back(
            say("supply.csv is missing: only the frames can tell when power was on"));
        return Done{};
    }
    auto supply = readTable(supplyFile, {"time_s", "output", "volts", "amps"}, recording.warnings);
    if (!supply) return supply.error();
    for (auto& row : supply.value().rows)
        recording.supply.push_back({row["time_s"], row["output"] != 0, row["set_volts"], row["set_amps"],
                                    row["volts"], row["amps"]});
    keepNear(recording.supply, recording, "supply.csv", recording.warnings);
    return Done{};
}

/// What is read before any picture.
struct Begun {
    Recording recording;
    std::vector<TimedPage> timed;
};

Result<Begun> begin(const std::filesystem::path& folder) {
    Begun begun;
    auto info = readRecordingInfo(folder);
    if (!info) return info.error();
    begun.recording.info = info.value();
    auto times = readTable(folder / "frames.csv", {"frame", "time_s"}, begun.recording.warnings);
    if (!times) return times.error();
    begun.timed = timedPages(times.value(), begun.recording.warnings);
    return begun;
}

Error noTimes(const std::filesystem::path& folder) {
    return {say("no frame has a time"), (folder / "frames.csv").string(), say(nothingRead)};
}

} // namespace

Result<CameraInfo> readRecordingInfo(const std::filesystem::path& folder) {
    return infoFrom(folder / "recording.json");
}

Result<Recording> readRecording(const std::filesystem::path& folder, const ReadingRoom& room) {
    auto begun = begin(folder);
    if (!begun) return begun.error();
    auto& [recording, timed] = begun.value();
    Message stopped;
    const std::size_t pages = readFrames(folder / "frames.tiff", timed, room, recording, stopped);
    if (pages == 0)
        return Error{stopped.empty() ? say("no picture") : stopped, (folder / "frames.tiff").string(),
                     say(nothingRead)};
    if (!stopped.empty())
        recording.warnings.push_back(say("frames.tiff: {stopped}: {pages} pages before it are kept",
                                         {{"stopped", stopped}, {"pages", pages}}));
    if (recording.frames.empty()) return noTimes(folder);
    const auto withTime = static_cast<std::size_t>(std::count_if(
        timed.begin(), timed.end(), [pages](const TimedPage& row) { return row.page < pages; }));
    if (withTime < pages)
        recording.warnings.push_back(
            say("frames.csv: {count} pictures have no time and are left out", {{"count", pages - withTime}}));
    if (const auto read = readSwitching(folder, recording); !read) return read.error();
    return std::move(recording);
}

Result<Recording> readRecordingTimes(const std::filesystem::path& folder) {
    auto begun = begin(folder);
    if (!begun) return begun.error();
    auto& [recording, timed] = begun.value();
    for (const TimedPage& row : timed)
        recording.frames.push_back({row.time_s, {}});
    if (recording.frames.empty()) return noTimes(folder);
    if (const auto read = readSwitching(folder, recording); !read) return read.error();
    return std::move(recording);
}

} // namespace ustor
