#include "board/board_files.h"
#include "cli/commands.h"
#include "diagnosis/fact/readings_csv.h"
#include "rail/millivolts.h"
#include "rail/near_far.h"
#include "rail/power_path.h"
#include "rail/siblings.h"
#include "rail/survey_way.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <iterator>
#include <memory>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

struct RailOptions {
    std::vector<std::string> files;
    std::string rail, inject, minus, readings;
    double amps = 0, resolution_v = 0, volts = 0, rated_v = 5, leads_ohms = 0;
};

/// The last digit that any of the readings shows: what the meter resolves at least.
double digitOf(const std::vector<MillivoltReading>& readings) {
    constexpr double coarsest = 1e-2, finest = 1e-7;
    for (double digit = coarsest; digit > finest; digit /= 10) {
        const bool holds = std::all_of(readings.begin(), readings.end(), [&](const MillivoltReading& r) {
            const double steps = r.volts / digit;
            return std::fabs(steps - std::round(steps)) < 1e-3;
        });
        if (holds) return digit;
    }
    return finest;
}

Result<std::vector<MillivoltReading>> readingsFrom(const std::string& file, const Board& board,
                                                   Answer& answer) {
    std::vector<MillivoltReading> readings;
    if (file.empty()) return readings;
    std::ifstream stream(file, std::ios::binary);
    if (!stream) return Error{say("no such file"), file, {}};
    const std::string text((std::istreambuf_iterator<char>(stream)), {});
    const auto list = readReadings(text, file);
    if (!list) return list.error();
    for (const auto& warning : list.value().warnings)
        answer.line("warning: " + warning.text());
    for (const ReadingTaken& taken : list.value().readings) {
        if (taken.reading.mode != MeterMode::Volts || taken.reading.state != ReadingState::Value) continue;
        const auto pad = board.findPad(taken.place);
        if (!pad) return Error{say("no such place on the board"), taken.place, {}};
        MillivoltReading reading{*pad, taken.reading.value, {}};
        if (!taken.against.empty()) {
            reading.black = board.findPad(taken.against);
            if (!reading.black) return Error{say("no such place on the board"), taken.against, {}};
        }
        readings.push_back(reading);
    }
    if (readings.empty()) return Error{say("no reading in volts"), file, {}};
    return readings;
}

void locate(const RailOptions& options, Answer& answer) {
    const auto read = readBoardFiles({options.files.begin(), options.files.end()});
    if (!read) return answer.wrong(read.error());
    const Board& board = read.value();
    const NetIndex net = board.findNet(options.rail);
    if (net < 0) return answer.wrong({say("no such net"), options.rail, {}});
    if (board.nets[net].ground)
        return answer.wrong({say("is ground: no rail to look along"), options.rail, {}});
    const auto inject = board.findPad(options.inject);
    if (!inject) return answer.wrong({say("no such place on the board"), options.inject, {}});
    const auto readings = readingsFrom(options.readings, board, answer);
    if (!readings) return answer.wrong(readings.error());

    const Stretch stretch = stretchOf(board, net);
    const auto model = millivoltModel(board, stretch);
    if (!model) return answer.wrong(model.error());
    MillivoltSetup setup;
    setup.inject = *inject;
    if (!options.minus.empty()) {
        setup.minus = board.findPad(options.minus);
        if (!setup.minus) return answer.wrong({say("no such place on the board"), options.minus, {}});
    }
    setup.current = Amps(options.amps);
    if (options.resolution_v > 0)
        setup.resolution = Volts(options.resolution_v);
    else if (!readings.value().empty())
        setup.resolution = Volts(digitOf(readings.value()));
    const auto locator = MillivoltLocator::create(board, stretch, model.value(), setup);
    if (!locator) return answer.wrong(locator.error());
    const auto found = locator.value().locate(readings.value());
    if (!found) return answer.wrong(found.error());

    Json& j = answer.data;
    j = {{"tells", found.value().tells}};
    j["candidates"] = Json::array();
    for (const PlaceOdds& candidate : found.value().candidates) {
        const std::string& place = board.parts[candidate.part].designator;
        j["candidates"].push_back({{"place", place}, {"odds", candidate.odds}});
        constexpr double shown = 0.005;
        if (candidate.odds >= shown) answer.line(place + " " + fixed(100 * candidate.odds, 1) + " %");
    }
    j["read_next"] = found.value().readNext ? Json(board.placeOf(*found.value().readNext)) : Json();
    j["gain_bits"] = found.value().gain_bits;
    j["from_copper"] = model.value().fromCopper();
    j["notes"] = found.value().notes;
    if (found.value().readNext) answer.line("read next: " + board.placeOf(*found.value().readNext));
    for (const auto& note : found.value().notes)
        answer.line(note);
    if (!found.value().tells) answer.code = No;
}

Json namesOf(const Board& board, const std::vector<PartIndex>& parts) {
    Json names = Json::array();
    for (const PartIndex p : parts)
        names.push_back(board.parts[p].designator);
    return names;
}

std::string joined(const Json& names) {
    std::string text;
    for (const auto& name : names)
        text += (text.empty() ? "" : ", ") + name.get<std::string>();
    return text;
}

/// The way of the power, one step a line.
void path(const RailOptions& options, Answer& answer) {
    const auto read = readBoardFiles({options.files.begin(), options.files.end()});
    if (!read) return answer.wrong(read.error());
    const Board& board = read.value();
    const PowerPath found = powerPath(board);
    Json& j = answer.data;
    j = {{"places", Json::array()}, {"steps", Json::array()}};
    for (const PathPlace& place : found.places) {
        const Net& net = board.nets[place.net];
        Json siblings = Json::array();
        for (const NetIndex other : siblingNets(board, place.net))
            siblings.push_back(board.nets[other].name);
        j["places"].push_back({{"net", net.name},
                               {"nominal_volts", net.nominal ? Json(net.nominal->value) : Json()},
                               {"source", place.source},
                               {"column", place.column},
                               {"row", place.row},
                               {"suspects", place.suspects.size()},
                               {"siblings", siblings}});
        if (place.source) answer.line("power comes in at " + net.name);
    }
    for (const PathStep& step : found.steps) {
        const std::string &from = board.nets[found.places[step.from].net].name,
                          &to = board.nets[found.places[step.to].net].name;
        const Json parts = namesOf(board, step.parts);
        j["steps"].push_back({{"from", from}, {"to", to}, {"kind", wordOf(step.kind)}, {"parts", parts}});
        answer.line(from + " -> " + to + ": " + std::string(wordOf(step.kind)) + " " + joined(parts));
    }
    j["converters"] = Json::array();
    const auto converters = convertersOf(board);
    for (int i = 0; i < static_cast<int>(converters.size()); ++i) {
        const Converter& c = converters[i];
        std::vector<PartIndex> phases;
        for (const int other : phasesOf(converters, i))
            phases.push_back(converters[other].inductor);
        j["converters"].push_back(
            {{"kind", c.kind == Converter::Kind::Up ? "up" : "down"},
             {"input", board.nets[c.input].name},
             {"output", board.nets[c.output].name},
             {"high_side", namesOf(board, c.highSide)},
             {"low_side", namesOf(board, c.lowSide)},
             {"inductor", board.parts[c.inductor].designator},
             {"controller", c.controller < 0 ? Json() : Json(board.parts[c.controller].designator)},
             {"other_phases", namesOf(board, phases)}});
    }
    if (found.places.empty()) answer.code = No;
}

/// Where to touch, in the order of a short walk; with a rail also every part on it.
void survey(const RailOptions& options, Answer& answer) {
    const auto read = readBoardFiles({options.files.begin(), options.files.end()});
    if (!read) return answer.wrong(read.error());
    const Board& board = read.value();
    answer.data = {{"stops", Json::array()}};
    if (!options.rail.empty()) {
        const NetIndex net = board.findNet(options.rail);
        if (net < 0) return answer.wrong({say("no such net"), options.rail, {}});
        if (board.nets[net].ground)
            return answer.wrong({say("is ground: no rail to walk"), options.rail, {}});
        answer.data["tour"] = namesOf(board, tourWay(board, stretchOf(board, net)));
        answer.line("look at, in this order: " + joined(answer.data["tour"]));
        return;
    }
    for (const SurveyStop& stop : surveyWay(board)) {
        answer.data["stops"].push_back(
            {{"place", stop.place}, {"net", board.nets[stop.net].name}, {"side", wordOf(stop.side)}});
        answer.line(stop.place + "  " + board.nets[stop.net].name + ", " + std::string(wordOf(stop.side)));
    }
}

/// Near or far, from what the source shows; without figures the table of usual leads.
void near(const RailOptions& options, Answer& answer) {
    if (options.amps <= 0) {
        answer.data = {{"leads", Json::array()}};
        for (const UsualLeads& leads : usualLeads()) {
            answer.data["leads"].push_back({{"name", leads.name}, {"ohms", leads.resistance.value}});
            answer.line(fixed(leads.resistance.value * 1000, 0) + " m\u03a9  " + leads.name.text());
        }
        return;
    }
    const NearFar found =
        nearOrFar(Volts(options.volts), Amps(options.amps), Volts(options.rated_v), Ohms(options.leads_ohms));
    constexpr std::array<const char*, 4> words{"not limited", "at the connector", "behind", "leads alone"};
    answer.data = {{"verdict", words[static_cast<std::size_t>(found.verdict)]},
                   {"loop_ohms", found.loop.value},
                   {"board_ohms", found.board.value},
                   {"doubt_ohms", found.doubt.value}};
    answer.line(found.sentence);
    if (found.verdict == NearFar::Verdict::NotLimited) answer.code = No;
}

} // namespace

void addRailCommands(CLI::App& app, Answer& answer) {
    auto options = std::make_shared<RailOptions>();
    CLI::App* rail = app.add_subcommand("rail", "Rails")->require_subcommand(1);
    CLI::App* located = rail->add_subcommand(
        "locate", "Where the short sits, from volts along the copper against one fixed point of ground");
    located->add_option("board", options->files, "Board files; several make one board")->required();
    located->add_option("--rail", options->rail, "The net that is short")->required();
    located->add_option("--minus", options->minus,
                        "Ground place where it leaves, and where the black lead stays");
    located->add_option("--inject", options->inject, "Place where the current enters, such as L1.2")
        ->required();
    located->add_option("--amps", options->amps, "The current that flows")
        ->required()
        ->check(CLI::PositiveNumber);
    located->add_option("--readings", options->readings, "CSV place,mode,value,unit; mode volts");
    located
        ->add_option("--resolution", options->resolution_v,
                     "One digit of the meter in volts; else the readings' last")
        ->check(CLI::PositiveNumber);
    located->callback([options, &answer] { locate(*options, answer); });
    CLI::App* pathed = rail->add_subcommand("path", "The way of the power from the connectors to each rail");
    pathed->add_option("board", options->files, "Board files; several make one board")->required();
    pathed->callback([options, &answer] { path(*options, answer); });
    CLI::App* surveyed =
        rail->add_subcommand("survey", "Where to touch, one reading a rail, in a short walk");
    surveyed->add_option("board", options->files, "Board files; several make one board")->required();
    surveyed->add_option("--rail", options->rail, "Every part on this rail instead, for the eye");
    surveyed->callback([options, &answer] { survey(*options, answer); });
    CLI::App* nearby = rail->add_subcommand(
        "near", "Near or far, from the first plug-in; without --amps the table of usual leads");
    auto* volts =
        nearby->add_option("--volts", options->volts, "What the source shows")->check(CLI::NonNegativeNumber);
    auto* amps = nearby->add_option("--amps", options->amps, "What flows")->check(CLI::PositiveNumber);
    nearby->add_option("--rated", options->rated_v, "What the source was set to, V")
        ->check(CLI::PositiveNumber);
    auto* leads = nearby->add_option("--leads", options->leads_ohms, "Leads, both ways, ohms")
                      ->check(CLI::PositiveNumber);
    amps->needs(volts)->needs(leads); // without the leads the figure would say nothing about the board
    nearby->callback([options, &answer] { near(*options, answer); });
}

} // namespace ustor::cli
