#include "base/number_text.h"
#include "board/board_files.h"
#include "cli/commands.h"
#include "rail/stretch.h"

#include <algorithm>
#include <map>
#include <memory>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

std::vector<std::filesystem::path> paths(const std::vector<std::string>& files) {
    return {files.begin(), files.end()};
}

/// "name=3.2,-1": a layer or drill file and by how many millimetres it is moved.
Result<FileShifts> shiftsFrom(const std::vector<std::string>& typed) {
    FileShifts shifts;
    for (const std::string& each : typed) {
        const auto equals = each.rfind('='), comma = each.find(',', equals);
        const auto wrong = Error{say("a shift is FILE=X,Y in millimetres"), each, {}};
        if (equals == std::string::npos || comma == std::string::npos) return wrong;
        const auto x = numberFromText(each.substr(equals + 1, comma - equals - 1)),
                   y = numberFromText(each.substr(comma + 1));
        if (!x || !y) return wrong;
        shifts[std::filesystem::path(each.substr(0, equals)).filename().string()] = {*x, *y};
    }
    return shifts;
}

Result<Board> readPlaced(const std::vector<std::string>& files, const std::vector<std::string>& typed) {
    const auto shifts = shiftsFrom(typed);
    if (!shifts) return shifts.error();
    return readBoardFiles(paths(files), shifts.value());
}

void show(const std::vector<std::string>& files, const std::vector<std::string>& shifts, Answer& answer) {
    const auto read = readPlaced(files, shifts);
    if (!read) return answer.wrong(read.error());
    const Board& board = read.value();
    std::size_t pads = 0, top = 0;
    std::map<std::string, int> classes;
    for (const Part& part : board.parts) {
        pads += part.pads.size();
        top += part.side == Side::Top;
        ++classes[std::string(wordOf(part.partClass))];
    }
    const BoardBox box = board.box();
    Json& j = answer.data;
    j = {{"name", board.name},
         {"parts", board.parts.size()},
         {"pads", pads},
         {"nets", board.nets.size()},
         {"vias", board.vias.size()}};
    j["sides"] = {{"top", top}, {"bottom", board.parts.size() - top}};
    j["outline_mm"] = {
        {"from_file", !board.outline.empty()}, {"width", box.width_mm()}, {"height", box.height_mm()}};
    j["classes"] = classes;
    j["power_nets"] = Json::array();
    std::map<NetIndex, std::size_t> suspects; // a stretch is asked for once, not for each of its nets
    for (const NetIndex net : powerNets(board)) {
        if (!suspects.contains(net)) {
            const Stretch stretch = stretchOf(board, net);
            for (const NetIndex joined : stretch.nets)
                suspects[joined] = stretch.suspects.size();
        }
        Json n{{"net", board.nets[net].name}, {"could_short", suspects[net]}};
        if (board.nets[net].nominal) n["nominal_volts"] = board.nets[net].nominal->value;
        j["power_nets"].push_back(n);
    }
    j["warnings"] = Json::array();
    for (const auto& w : board.warnings)
        j["warnings"].push_back(w.where + ": " + w.what.text());

    answer.line(board.name + ": " + std::to_string(board.parts.size()) + " parts (" + std::to_string(top) +
                " on top), " + std::to_string(pads) + " pads, " + std::to_string(board.nets.size()) +
                " nets, " + std::to_string(board.vias.size()) + " vias");
    answer.line("outline " + fixed(box.width_mm(), 1) + " x " + fixed(box.height_mm(), 1) + " mm" +
                (board.outline.empty() ? " (around the pads; no file gives it)" : ""));
    for (const auto& n : j["power_nets"])
        answer.line(
            "rail " + n["net"].get<std::string>() +
            (n.contains("nominal_volts") ? ", " + fixed(n["nominal_volts"].get<double>(), 2) + " V" : "") +
            ", " + std::to_string(n["could_short"].get<int>()) + " parts could short it");
    for (const auto& w : j["warnings"])
        answer.line("warning: " + w.get<std::string>());
}

void convert(const std::vector<std::string>& files, const std::vector<std::string>& shifts,
             const std::string& target, Answer& answer) {
    const auto read = readPlaced(files, shifts);
    if (!read) return answer.wrong(read.error());
    std::vector<Message> lost;
    if (const auto written = exportBoard(read.value(), target, lost); !written)
        return answer.wrong(written.error());
    answer.data = {{"written", target}, {"warnings", read.value().warnings.size()}, {"lost", lost}};
    answer.line(target + " written");
    for (const auto& what : lost)
        answer.line("lost: " + what.text());
    for (const auto& w : read.value().warnings)
        answer.line("warning: " + w.where + ": " + w.what.text());
}

} // namespace

void addBoardCommands(CLI::App& app, Answer& answer) {
    struct Options {
        std::vector<std::string> files, shifts;
        std::string target;
    };
    auto options = std::make_shared<Options>();
    CLI::App* board = app.add_subcommand("board", "Boards from files")->require_subcommand(1);
    CLI::App* shown = board->add_subcommand("show", "Counts, outline, sides, nets, warnings");
    CLI::App* converted = board->add_subcommand("convert", "Writes one board file");
    shown->add_option("files", options->files, "Board files; several make one board")->required();
    for (CLI::App* command : {shown, converted})
        command
            ->add_option("--shift", options->shifts,
                         "FILE=X,Y: moves a layer or drill file by X and Y mm, where nothing else places it")
            ->allow_extra_args(false);
    shown->callback([options, &answer] { show(options->files, options->shifts, answer); });
    converted->add_option("files", options->files, "Board files; several make one board")->required();
    converted->add_option("-o,--output", options->target, "X.board.json, X.356 or X.csv (a pin list)")
        ->required();
    converted->callback(
        [options, &answer] { convert(options->files, options->shifts, options->target, answer); });
}

} // namespace ustor::cli
