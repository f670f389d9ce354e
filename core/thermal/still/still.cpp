#include "thermal/still/still.h"
#include "base/camera_frame.h"
#include "base/input_bounds.h"

#include "base/units.h"

#include "base/csv.h"
#include "base/median.h"
#include "base/number_text.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <memory>
#include <tiffio.h>

namespace ustor {
namespace {

struct Meaning {
    StillUnit unit;
    const char* word;
    double perNumber, offset_c;
};
constexpr std::array<Meaning, 3> meanings{{{StillUnit::Celsius, "celsius", 1, 0},
                                           {StillUnit::Kelvin, "kelvin", 1, -celsiusZero_k},
                                           {StillUnit::Centikelvin, "centikelvin", 0.01, -celsiusZero_k}}};

/// Not a number where there is none.
double middleOf(const cv::Mat& numbers) {
    std::vector<float> values;
    for (const float v : cv::Mat_<float>(numbers))
        if (std::isfinite(v)) values.push_back(v);
    return values.empty() ? std::numeric_limits<double>::quiet_NaN() : medianOf(values);
}

/// A cell as a number; with a decimal comma where commas do not separate.
std::optional<double> numberIn(std::string cell, char separator) {
    if (separator != ',') std::replace(cell.begin(), cell.end(), ',', '.');
    return numberFromText(cell);
}

} // namespace

std::optional<StillUnit> stillUnitFromWord(std::string_view word) {
    if (word == "guess") return StillUnit::Guess;
    for (const Meaning& m : meanings)
        if (word == m.word) return m.unit;
    return std::nullopt;
}

Result<Still> stillFromNumbers(const cv::Mat& numbers, StillUnit unit, const std::string& where) {
    if (!bounds::isPictureSize(numbers.cols, numbers.rows))
        return Error{wrongPictureSize(), where, say("nothing was read")};
    cv::Mat values;
    numbers.convertTo(values, CV_32F);
    const double middle = middleOf(values);
    const auto fits = [&](const Meaning& m) {
        constexpr double coldest_c = -40, hottest_c = 250;
        const double celsius = middle * m.perNumber + m.offset_c;
        return unit == StillUnit::Guess ? celsius >= coldest_c && celsius <= hottest_c : m.unit == unit;
    };
    const auto meaning = std::find_if(meanings.begin(), meanings.end(), fits);
    if (meaning == meanings.end())
        return Error{
            say("the numbers are no temperatures of a board (the middle one is {middle}): name their unit",
                {{"middle", textOfNumber(middle)}}),
            where, say("nothing was read")};
    Still still;
    values.convertTo(still.celsius, CV_32F, meaning->perNumber, meaning->offset_c);
    // Cells that no camera can have meant do not set the span of all the others.
    const cv::Mat wrong = (still.celsius < bounds::coldestPixel_c) | (still.celsius > bounds::hottestPixel_c);
    if (const int cells = cv::countNonZero(wrong); cells > 0) {
        still.celsius.setTo(std::numeric_limits<float>::quiet_NaN(), wrong);
        still.notes.push_back(say("{cells} cells are no temperatures and were left out", {{"cells", cells}}));
    }
    still.step_k = numbers.depth() == CV_16U ? meaning->perNumber : 0;
    if (unit == StillUnit::Guess)
        still.notes.push_back(say("the numbers were taken as {word}", {{"word", meaning->word}}));
    return still;
}

Result<Still> stillFromCsv(const std::string& text, StillUnit unit, const std::string& where) {
    const char separator = csvSeparator(text);
    struct Row {
        int line;
        std::vector<double> values;
    };
    std::vector<Row> rows;
    int words = 0;
    for (const CsvRow& row : csvRows(text, separator)) {
        Row numbers{row.line, {}};
        std::size_t wrong = 0;
        for (const std::string& cell : row.cells) {
            const auto number = numberIn(cell, separator);
            wrong += !number;
            numbers.values.push_back(number.value_or(std::numeric_limits<double>::quiet_NaN()));
        }
        while (!row.cells.empty() && !numbers.values.empty() &&
               row.cells[numbers.values.size() - 1].empty()) {
            numbers.values.pop_back(); // a separator at the end of each line
            --wrong;
        }
        // Lines of words stand above the numbers or below them.
        if (numbers.values.size() < 2 || 2 * wrong >= numbers.values.size()) {
            ++words;
            continue;
        }
        rows.push_back(std::move(numbers));
    }
    if (rows.empty()) return Error{say("no rows of numbers"), where, say("nothing was read")};
    std::map<std::size_t, int> lengths;
    for (const Row& row : rows)
        ++lengths[row.values.size()];
    const std::size_t width =
        std::max_element(lengths.begin(), lengths.end(), [](const auto& a, const auto& b) {
            return a.second < b.second;
        })->first;
    // Short rows of numbers at the top are what a camera writes about itself.
    while (!rows.empty() && rows.front().values.size() != width) {
        ++words;
        rows.erase(rows.begin());
    }
    cv::Mat numbers(static_cast<int>(rows.size()), static_cast<int>(width), CV_32FC1);
    for (int y = 0; y < numbers.rows; ++y) {
        const Row& row = rows[static_cast<std::size_t>(y)];
        if (row.values.size() != width)
            return Error{say("has {count} numbers where the others have {width}",
                             {{"count", row.values.size()}, {"width", width}}),
                         where + ":" + std::to_string(row.line), say("nothing was read")};
        for (int x = 0; x < numbers.cols; ++x)
            numbers.at<float>(y, x) = static_cast<float>(row.values[static_cast<std::size_t>(x)]);
    }
    auto still = stillFromNumbers(numbers, unit, where);
    if (!still) return still;
    const auto unknown = static_cast<int>(numbers.total()) - cv::countNonZero(numbers == numbers);
    if (words > 0)
        still.value().notes.push_back(say("{words} lines of words were left out", {{"words", words}}));
    if (unknown > 0)
        still.value().notes.push_back(say("{unknown} cells are no numbers", {{"unknown", unknown}}));
    return still;
}

Result<cv::Mat> readTiffPage(const std::string& file) {
    const auto silent = [](const char*, const char*, va_list) {};
    TIFFSetErrorHandler(silent);
    TIFFSetWarningHandler(silent);
    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff(TIFFOpen(file.c_str(), "r"), TIFFClose);
    const Error wrong{say("no page of 16-bit or 32-bit float grey"), file, say("nothing was read")};
    if (!tiff) return Error{say("missing or not a TIFF file"), file, say("nothing was read")};
    std::uint32_t width = 0, height = 0;
    std::uint16_t bits = 0, samples = 1, format = SAMPLEFORMAT_UINT;
    TIFFGetField(tiff.get(), TIFFTAG_IMAGEWIDTH, &width);
    TIFFGetField(tiff.get(), TIFFTAG_IMAGELENGTH, &height);
    TIFFGetFieldDefaulted(tiff.get(), TIFFTAG_BITSPERSAMPLE, &bits);
    TIFFGetFieldDefaulted(tiff.get(), TIFFTAG_SAMPLESPERPIXEL, &samples);
    TIFFGetFieldDefaulted(tiff.get(), TIFFTAG_SAMPLEFORMAT, &format);
    const bool whole = bits == 16 && format == SAMPLEFORMAT_UINT;
    const bool floats = bits == 32 && format == SAMPLEFORMAT_IEEEFP;
    if (samples != 1 || (!whole && !floats) || !bounds::isPictureSize(width, height) ||
        TIFFIsTiled(tiff.get()))
        return wrong;
    cv::Mat page(static_cast<int>(height), static_cast<int>(width), whole ? CV_16UC1 : CV_32FC1);
    if (TIFFScanlineSize(tiff.get()) != static_cast<tmsize_t>(width * page.elemSize())) return wrong;
    for (std::uint32_t row = 0; row < height; ++row)
        if (TIFFReadScanline(tiff.get(), page.ptr(static_cast<int>(row)), row) != 1)
            return Error{say("the page is cut off at line {row}", {{"row", row}}), file,
                         say("nothing was read")};
    return page;
}

} // namespace ustor
