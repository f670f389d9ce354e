#include "board/board_files.h"
#include "cli/commands.h"
#include "diagnosis/path_heat.h"
#include "session/heat_study.h"
#include "session/still_file.h"
#include "thermal/locate.h"
#include "thermal/recording_reader.h"

#include <fstream>
#include <iterator>
#include <memory>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

struct ThermalOptions {
    std::string recording, board, registration, rail, folder;
    std::vector<std::string> without;
    std::string before, unit = "guess";
    std::vector<double> bar;
    double low = 0, high = 0;
};

/// What was mended, what was not, what else to know; all of it together as `notes`.
void tellRepairs(const LocateResult& result, Answer& answer) {
    Json& j = answer.data;
    j["repairs"] = Json::array();
    j["not_repaired"] = result.undone;
    j["notes"] = Json::array();
    const auto note = [&](const std::string& kind, const Message& said) {
        j["notes"].push_back(said);
        answer.line(kind + ": " + said.text());
    };
    for (const RepairNote& done : result.repairs) {
        j["repairs"].push_back({{"repair", wordOf(done.repair)}, {"said", done.said}});
        note("repaired (" + std::string(wordOf(done.repair)) + ")", done.said);
    }
    for (const auto& said : result.undone)
        note("not repaired", said);
    for (const auto& said : result.notes)
        note("note", said);
}

void locate(const ThermalOptions& options, Answer& answer) {
    auto recording = readRecording(options.recording, roomToLocate);
    if (!recording) return answer.wrong(recording.error());
    std::optional<Board> board;
    if (!options.board.empty()) {
        auto read = readBoardFiles({options.board});
        if (!read) return answer.wrong(read.error());
        board = std::move(read.value());
    }
    std::optional<Registration> registration;
    if (!options.registration.empty()) {
        std::ifstream file(options.registration, std::ios::binary);
        const std::string text((std::istreambuf_iterator<char>(file)), {});
        const auto read = registrationFromJson(text, options.registration);
        if (!read) return answer.wrong(read.error());
        registration = read.value();
    }
    LeftOut leftOut;
    for (const std::string& word : options.without)
        if (const auto repair = repairFromWord(word)) leftOut.insert(*repair);
    const Side side = recording.value().info.side;
    auto located = locateInRecording(std::move(recording.value()), registration ? &*registration : nullptr,
                                     board ? board->thickness_mm : 1.6, leftOut);
    if (!located) return answer.wrong(located.error());
    LocateResult& result = located.value();
    if (board) orderByPath(result, *board, options.rail.empty() ? -1 : board->findNet(options.rail), side);

    Json& j = answer.data;
    j = {{"verdict", wordOf(result.verdict)}};
    j["sources"] = Json::array();
    answer.line("verdict: " + std::string(wordOf(result.verdict)));
    for (const LocatedSource& s : result.sources) {
        Json one{{"image_px", {s.spot.at.x_px, s.spot.at.y_px}}, {"sigma_px", s.spot.sigma_px}};
        if (s.board) one["board_mm"] = {s.board->x_mm, s.board->y_mm};
        one["power_mw"] = s.power_mw;
        one["snr"] = s.spot.snr;
        one["delay_s"] = s.delay_s;
        one["in_path"] = s.inPath;
        j["sources"].push_back(one);
        answer.line(
            "source at pixel " + fixed(s.spot.at.x_px, 2) + ", " + fixed(s.spot.at.y_px, 2) + " +- " +
            fixed(s.spot.sigma_px, 2) +
            (s.board ? ", board " + fixed(s.board->x_mm, 2) + ", " + fixed(s.board->y_mm, 2) + " mm" : "") +
            ", signal to noise " + fixed(s.spot.snr, 0) + (s.inPath ? ", a part in the path" : ""));
    }
    j["clock_offset_s"] = result.clockOffset_s;
    j["noise_mk"] = 1e3 * result.noise_k;
    j["power_from"] = result.switchedFromFrames ? "frames" : "supply";
    tellRepairs(result, answer);
    answer.code = result.verdict == HeatVerdict::None ? No : Done_;
}

void maps(const ThermalOptions& options, Answer& answer) {
    LeftOut leftOut;
    for (const std::string& word : options.without)
        if (const auto repair = repairFromWord(word)) leftOut.insert(*repair);
    const auto study = studyRecording(options.recording, std::nullopt, 1.6, leftOut);
    if (!study) return answer.wrong(study.error());
    const auto written = exportMaps(study.value(), options.folder);
    if (!written) return answer.wrong(written.error());
    answer.data = {{"folder", options.folder}, {"files", written.value()}, {"maps", Json::array()}};
    for (const HeatMap& map : study.value().maps)
        answer.data["maps"].push_back({{"map", wordOf(map.kind)}, {"unit", map.unit}, {"sigma", map.sigma}});
    for (const std::string& file : written.value())
        answer.line(options.folder + "/" + file);
}

/// The warmest place, smoothed by less than a spot is wide.
PixelPoint warmestOf(const cv::Mat& celsius, double& most) {
    cv::Point at;
    cv::minMaxLoc(celsius, nullptr, &most, nullptr, &at, celsius == celsius);
    return {static_cast<double>(at.x), static_cast<double>(at.y)};
}

void still(const ThermalOptions& options, const CLI::App& app, Answer& answer) {
    StillOptions how;
    how.unit = stillUnitFromWord(options.unit).value_or(StillUnit::Guess);
    if (app.count("--low") > 0) how.low_c = options.low;
    if (app.count("--high") > 0) how.high_c = options.high;
    if (!options.bar.empty()) {
        const cv::Rect at(static_cast<int>(options.bar[0]), static_cast<int>(options.bar[1]),
                          static_cast<int>(options.bar[2]), static_cast<int>(options.bar[3]));
        how.bar = ScaleBar{at, at.height >= at.width};
    }
    const auto read = readStill(options.recording, how);
    if (!read) return answer.wrong(read.error());
    const Still& one = read.value();
    double most = 0;
    const PixelPoint at = warmestOf(one.celsius, most);
    Json& j = answer.data;
    j = {{"width", one.celsius.cols},
         {"height", one.celsius.rows},
         {"step_k", one.step_k},
         {"warmest_c", most},
         {"warmest_px", {at.x_px, at.y_px}}};
    answer.line("warmest " + fixed(most, 2) + " degrees at pixel " + fixed(at.x_px, 0) + ", " +
                fixed(at.y_px, 0));
    std::vector<Message> notes = one.notes;
    cv::Mat shown = one.celsius;
    if (!options.before.empty()) {
        const auto earlier = readStill(options.before, how);
        if (!earlier) return answer.wrong(earlier.error());
        const auto difference = stillDifference(one, earlier.value());
        if (!difference) return answer.wrong(difference.error());
        shown = difference.value().rise_k;
        j["noise_mk"] = 1e3 * difference.value().noise_k;
        j["spots"] = Json::array();
        for (const HeatSource& spot : difference.value().spots) {
            j["spots"].push_back({{"image_px", {spot.at.x_px, spot.at.y_px}},
                                  {"sigma_px", spot.sigma_px},
                                  {"rise_k", spot.rise_k_per_w},
                                  {"snr", spot.snr}});
            answer.line("warmer by " + fixed(spot.rise_k_per_w, 2) + " K at pixel " + fixed(spot.at.x_px, 2) +
                        ", " + fixed(spot.at.y_px, 2) + " +- " + fixed(spot.sigma_px, 2) +
                        ", signal to noise " + fixed(spot.snr, 0));
        }
        notes.insert(notes.end(), difference.value().notes.begin(), difference.value().notes.end());
        if (difference.value().spots.empty()) {
            answer.line("nothing is clearly warmer than before");
            answer.code = No;
        }
    }
    j["notes"] = notes;
    for (const Message& said : notes)
        answer.line("note: " + said.text());
    if (options.folder.empty()) return;
    const HeatMap map{
        HeatMapKind::Amplitude, shown, options.before.empty() ? "degree Celsius" : "K", 0, 1, 0};
    for (const auto& [written, file] :
         {std::pair{writeMapTiff(map, options.folder + ".tiff"), options.folder + ".tiff"},
          std::pair{writeMapCsv(map, options.folder + ".csv"), options.folder + ".csv"}}) {
        if (!written) return answer.wrong(written.error());
        answer.line(file);
    }
}

} // namespace

void addThermalCommands(CLI::App& app, Answer& answer) {
    auto options = std::make_shared<ThermalOptions>();
    CLI::App* thermal = app.add_subcommand("thermal", "Thermal recordings")->require_subcommand(1);
    CLI::App* located =
        thermal->add_subcommand("locate", "Where the heat that follows the supply comes from");
    located->add_option("recording", options->recording, "Recording folder")->required();
    located->add_option("--board", options->board, "Board file: names what lies in the current's path");
    located->add_option("--registration", options->registration, "Landmarks: where the camera looks");
    located->add_option("--rail", options->rail, "Net the current went into");
    std::vector<std::string> words;
    for (const Repair repair : allRepairs())
        words.emplace_back(wordOf(repair));
    located->add_option("--without", options->without, "Repairs that are left out, to see what they do")
        ->delimiter(',')
        ->check(CLI::IsMember(words));
    CLI::App* mapped = thermal->add_subcommand(
        "maps", "First instant, amplitude, delay and odds of a recording as TIFF, CSV and PNG");
    mapped->add_option("recording", options->recording, "Recording folder")->required();
    mapped->add_option("-o,--output", options->folder, "Folder for the files; it is made")->required();
    mapped->add_option("--without", options->without, "Repairs that are left out")
        ->delimiter(',')
        ->check(CLI::IsMember(words));
    CLI::App* pictured = thermal->add_subcommand(
        "still", "Temperatures of a still picture, and what is warmer than in one taken before");
    pictured->add_option("still", options->recording, "TIFF, PNG, JPEG or a table of numbers")->required();
    pictured->add_option("--before", options->before, "One without power, same camera, same place");
    pictured->add_option("--unit", options->unit, "What the numbers are: guess, celsius, kelvin, centikelvin")
        ->check(CLI::IsMember({"guess", "celsius", "kelvin", "centikelvin"}));
    pictured->add_option("--low", options->low, "Degrees at the cold end of a colour picture's bar");
    pictured->add_option("--high", options->high, "Degrees at its hot end");
    pictured->add_option("--bar", options->bar, "Where the bar is: x,y,width,height in pixels")
        ->delimiter(',')
        ->expected(4);
    pictured->add_option("-o,--output", options->folder,
                         "Name for temperatures, or the difference, as TIFF and CSV");
    pictured->callback([options, &answer, pictured] { still(*options, *pictured, answer); });
    mapped->callback([options, &answer] { maps(*options, answer); });
    located->callback([options, &answer] { locate(*options, answer); });
}

} // namespace ustor::cli
