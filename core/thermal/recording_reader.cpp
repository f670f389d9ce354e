#include "thermal/recording_reader.h"

#include "base/csv.h"
#include "base/json_number.h"
#include "base/number_text.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <iterator>
#include <map>
#include <nlohmann/json.hpp>
#include <tiffio.h>

namespace ustor {
namespace {

constexpr const char* nothingRead = "nothing was read";

Result<std::string> contentOf(const std::filesystem::path& file) {
    std::ifstream stream(file, std::ios::binary);
    if (!stream) return Error{"missing or not readable", file.string(), nothingRead};
    return std::string((std::istreambuf_iterator<char>(stream)), {});
}

Result<CameraInfo> infoFrom(const std::filesystem::path& file) {
    const auto text = contentOf(file);
    if (!text) return text.error();
    try {
        const auto j = nlohmann::json::parse(text.value());
        const auto format = j.at("format").get<std::string>();
        if (format != "ustor-recording/1")
            return Error{"not a recording this version reads: format is '" + format + "'", file.string(),
                         nothingRead};
        if (j.value("unit", std::string("centikelvin")) != "centikelvin")
            return Error{"unit must be centikelvin", file.string(), nothingRead};
        CameraInfo info;
        // A size that is no whole number fails the bounds below.
        constexpr long most = 4096;
        info.width = static_cast<int>(std::min(most + 1, wholeNumber(j.at("width")).value_or(0)));
        info.height = static_cast<int>(std::min(most + 1, wholeNumber(j.at("height")).value_or(0)));
        info.frameRate_hz = j.value("frame_rate_hz", 25.0);
        info.ambient_c = j.value("ambient_c", 25.0);
        info.side = j.value("side", std::string("top")) == "bottom" ? Side::Bottom : Side::Top;
        if (j.contains("camera")) info.netd_mk = j["camera"].value("netd_mk", 0.0);
        const auto within = [](double value, double low, double high) {
            return value >= low && value <= high;
        };
        if (!within(info.ambient_c, RecordingBounds::coldest_c, RecordingBounds::hottest_c) ||
            !within(info.frameRate_hz, 0, RecordingBounds::fastest_hz) || !within(info.netd_mk, 0, 1e6))
            return Error{"ambient_c, frame_rate_hz or netd_mk is no value of a thermal camera", file.string(),
                         nothingRead};
        if (info.width < 8 || info.height < 8 || info.width > most || info.height > most)
            return Error{"width and height must lie between 8 and 4096", file.string(), nothingRead};
        return info;
    } catch (const nlohmann::json::exception& fault) {
        return Error{std::string("cannot be read: ") + fault.what(), file.string(), nothingRead};
    }
}

/// The columns of a table by their names; rows with a cell that is not a number end the reading with a
/// warning.
struct Table {
    std::vector<std::map<std::string, double>> rows;
};

Result<Table> readTable(const std::filesystem::path& file, std::initializer_list<const char*> needed,
                        std::vector<std::string>& warnings) {
    const auto text = contentOf(file);
    if (!text) return text.error();
    const auto rows = csvRows(text.value(), ',');
    if (rows.empty()) return Error{"empty", file.string(), nothingRead};
    const auto& header = rows.front().cells;
    for (const char* name : needed)
        if (std::find(header.begin(), header.end(), name) == header.end())
            return Error{std::string("column '") + name + "' is missing", file.string() + ":1", nothingRead};
    Table table;
    for (std::size_t i = 1; i < rows.size(); ++i) {
        std::map<std::string, double> row;
        for (std::size_t c = 0; c < header.size() && c < rows[i].cells.size(); ++c)
            if (const auto number = numberFromText(rows[i].cells[c])) row[header[c]] = *number;
        if (!std::all_of(needed.begin(), needed.end(),
                         [&row](const char* name) { return row.contains(name); })) {
            warnings.push_back(file.filename().string() + ":" + std::to_string(rows[i].line) +
                               ": not all cells are numbers: row left out");
            continue;
        }
        table.rows.push_back(std::move(row));
    }
    return table;
}

/// Keeps libtiff from writing to standard error: what it says becomes our own error or warning.
void silence(const char*, const char*, va_list) {}

std::vector<cv::Mat> readPages(const std::filesystem::path& file, const CameraInfo& info,
                               double mostPixels, std::string& stopped) {
    TIFFSetErrorHandler(silence);
    TIFFSetWarningHandler(silence);
    std::vector<cv::Mat> pages;
    TIFF* tiff = TIFFOpen(file.c_str(), "r");
    if (!tiff) {
        stopped = "missing or not a TIFF file";
        return pages;
    }
    const double pixels = static_cast<double>(info.width) * info.height;
    do {
        if (static_cast<double>(pages.size() + 1) * pixels > mostPixels) {
            stopped = "what comes after page " + std::to_string(pages.size()) + " would take too much memory";
            break;
        }
        std::uint32_t width = 0, height = 0;
        std::uint16_t bits = 0, samples = 1;
        TIFFGetField(tiff, TIFFTAG_IMAGEWIDTH, &width);
        TIFFGetField(tiff, TIFFTAG_IMAGELENGTH, &height);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_BITSPERSAMPLE, &bits);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLESPERPIXEL, &samples);
        if (width != static_cast<std::uint32_t>(info.width) ||
            height != static_cast<std::uint32_t>(info.height) || bits != 16 || samples != 1) {
            stopped =
                "page " + std::to_string(pages.size()) + " is not a 16-bit grey picture of the stated size";
            break;
        }
        cv::Mat page(info.height, info.width, CV_16UC1);
        bool whole = TIFFScanlineSize(tiff) == static_cast<tmsize_t>(info.width * 2);
        for (int row = 0; whole && row < info.height; ++row)
            whole = TIFFReadScanline(tiff, page.ptr(row), static_cast<std::uint32_t>(row)) == 1;
        if (!whole) {
            stopped = "page " + std::to_string(pages.size()) + " is cut off";
            break;
        }
        pages.push_back(page);
    } while (TIFFReadDirectory(tiff));
    TIFFClose(tiff);
    return pages;
}

/// Rows whose time comes after the one before, and not too long after it. One that is wrong leaves the
/// others.
void keepTimed(const Table& table, const std::vector<cv::Mat>& pages, Recording& recording) {
    std::vector<std::pair<double, std::size_t>> rows; // time, page
    for (const auto& row : table.rows) {
        const double number = row.at("frame");
        if (number >= 0 && number < static_cast<double>(pages.size()) && std::floor(number) == number)
            rows.emplace_back(row.at("time_s"), static_cast<std::size_t>(number));
    }
    const auto follows = [&rows](std::size_t earlier, std::size_t later) {
        const double apart_s = rows[later].first - rows[earlier].first;
        return apart_s > 0 && apart_s <= RecordingBounds::gap_s;
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
        recording.frames.push_back({rows[i].first, pages[rows[i].second]});
        last = i;
    }
    if (left > 0)
        recording.warnings.push_back(
            "frames.csv: " + std::to_string(left) +
            " frames do not come after the one before, or too long after it: left out");
}

/// What lies far from the frames is of another time.
template <typename T>
void keepNear(std::vector<T>& entries, const Recording& recording, const char* file,
              std::vector<std::string>& warnings) {
    const double from_s = recording.frames.front().time_s - RecordingBounds::aside_s,
                 to_s = recording.frames.back().time_s + RecordingBounds::aside_s;
    const auto left = std::erase_if(
        entries, [&](const T& entry) { return !(entry.time_s >= from_s && entry.time_s <= to_s); });
    if (left > 0)
        warnings.push_back(std::string(file) + ": " + std::to_string(left) +
                           " rows lie more than a minute from the frames: left out");
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
        recording.warnings.push_back("supply.csv is missing: only the frames can tell when power was on");
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

} // namespace

Result<CameraInfo> readRecordingInfo(const std::filesystem::path& folder) {
    return infoFrom(folder / "recording.json");
}

Result<Recording> readRecording(const std::filesystem::path& folder, double mostPixels) {
    Recording recording;
    auto info = readRecordingInfo(folder);
    if (!info) return info.error();
    recording.info = info.value();

    auto times = readTable(folder / "frames.csv", {"frame", "time_s"}, recording.warnings);
    if (!times) return times.error();
    std::string stopped;
    auto pages = readPages(folder / "frames.tiff", recording.info, mostPixels, stopped);
    if (pages.empty())
        return Error{stopped.empty() ? "no picture" : stopped, (folder / "frames.tiff").string(),
                     nothingRead};
    if (!stopped.empty())
        recording.warnings.push_back("frames.tiff: " + stopped + ": " + std::to_string(pages.size()) +
                                     " pages before it are kept");

    keepTimed(times.value(), pages, recording);
    if (recording.frames.empty())
        return Error{"no frame has a time", (folder / "frames.csv").string(), nothingRead};
    if (recording.frames.size() < pages.size())
        recording.warnings.push_back("frames.csv: " + std::to_string(pages.size() - recording.frames.size()) +
                                     " pictures have no time and are left out");

    if (const auto read = readSwitching(folder, recording); !read) return read.error();
    return recording;
}

Result<Recording> readRecordingTimes(const std::filesystem::path& folder) {
    Recording recording;
    auto info = readRecordingInfo(folder);
    if (!info) return info.error();
    recording.info = info.value();
    auto times = readTable(folder / "frames.csv", {"frame", "time_s"}, recording.warnings);
    if (!times) return times.error();
    keepTimed(times.value(), std::vector<cv::Mat>(times.value().rows.size()), recording);
    if (recording.frames.empty())
        return Error{"no frame has a time", (folder / "frames.csv").string(), nothingRead};
    if (const auto read = readSwitching(folder, recording); !read) return read.error();
    return recording;
}

} // namespace ustor
