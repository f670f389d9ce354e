#include "cli/commands.h"
#include "diagnosis/assess.h"
#include "diagnosis/hypothesis/words.h"
#include "rail/near_far.h"
#include "store/case_folder.h"

#include <fstream>
#include <iterator>
#include <memory>
#include <optional>
#include <string>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

/// What may be wrong, in words, with what each fact did to it; what is left below the last is told as a sum.
void addHypotheses(const Assessment& a, Answer& answer) {
    Json& list = answer.data["hypotheses"] = Json::array();
    constexpr double worthTelling = 0.005;
    double rest = 0;
    for (const Hypothesis& h : a.belief.hypotheses) {
        if (h.odds < worthTelling) {
            rest += h.odds;
            continue;
        }
        const Message sentence = sentenceOf(a.state.board, h.causes);
        Json one{{"what", sentence}, {"odds", h.odds}, {"prior", h.prior}, {"causes", Json::array()}};
        for (const Fault& fault : h.causes) {
            Json cause{{"kind", wordOf(fault.kind)}};
            if (fault.part >= 0) cause["part"] = a.state.board.parts[fault.part].designator;
            for (const auto& [key, net] : {std::pair{"net", fault.a}, std::pair{"to", fault.b}})
                if (net >= 0) cause[key] = a.state.board.nets[net].name;
            one["causes"].push_back(std::move(cause));
        }
        one["evidence"] = Json::array();
        for (const Weight& w : h.weights)
            one["evidence"].push_back({{"what", *w.what}, {"weight", w.weight}, {"fact", w.fact}});
        list.push_back(std::move(one));
        answer.line(fixed(100 * h.odds, 1) + " % " + sentence.text());
    }
    answer.data["hypotheses_left"] = rest;
    answer.data["surprise"] = a.belief.surprise;
    answer.data["still_shorted"] = a.stillShorted;
    answer.data["minutes_left"] = a.minutesLeft;
    answer.data["worked_minutes"] = a.worked_min;
    if (a.hourBits) answer.data["last_hour_bits"] = *a.hourBits;
    if (a.learnt.fact == 0) return;
    Json& learnt =
        answer.data["learnt"] = {{"fact", a.learnt.fact}, {"bits", a.learnt.bits}, {"shifts", Json::array()}};
    std::string line = "since fact " + std::to_string(a.learnt.fact) + ":";
    for (const Learnt::Shift& s : a.learnt.shifts) {
        const std::string& name = a.state.board.parts[static_cast<std::size_t>(s.part)].designator;
        learnt["shifts"].push_back({{"part", name}, {"before", s.before}, {"after", s.after}});
        line += " " + name + " " + fixed(100 * s.before, 0) + " -> " + fixed(100 * s.after, 0) + " %;";
    }
    if (!a.learnt.shifts.empty()) answer.line(line);
}

/// Moves with what they may show; parts to blame and victims; the stretch of the hunt and ways to part it.
void addMoves(const Assessment& a, Answer& answer) {
    Json& j = answer.data;
    j["moves"] = Json::array();
    for (const NextMove& m : a.next) {
        Json one{{"do", m.sentence},
                 {"place", m.place},
                 {"minutes", m.minutes},
                 {"gain_bits", m.gainBits},
                 {"cost_after", m.minutesAfter},
                 {"outcomes", Json::array()}};
        if (m.end != CaseEnd::Open) one["end"] = wordOf(m.end);
        for (const MoveOutcome& o : m.outcomes)
            one["outcomes"].push_back({{"what", o.what}, {"odds", o.odds}, {"cost_after", o.minutesAfter}});
        j["moves"].push_back(std::move(one));
    }
    j["end"] = wordOf(a.next.empty() ? CaseEnd::Open : a.next.front().end);
    const auto name = [&](PartIndex p) {
        return a.state.board.parts[static_cast<std::size_t>(p)].designator;
    };
    j["parts"] = Json::array();
    constexpr double worthTelling = 0.005;
    for (PartIndex p = 0; p < static_cast<PartIndex>(a.belief.cause.size()); ++p) {
        const auto i = static_cast<std::size_t>(p);
        if (a.belief.cause[i] < worthTelling) continue;
        j["parts"].push_back({{"part", name(p)},
                              {"cause", a.belief.cause[i] - a.belief.victim[i]},
                              {"victim", a.belief.victim[i]}});
    }
    j["stretch"] = Json::array();
    for (const NetIndex net : a.down.nets)
        j["stretch"].push_back(a.state.board.nets[net].name);
    j["splits"] = Json::array();
    for (const SplitChoice& split : a.splits) {
        Json links = Json::array();
        for (const PartIndex link : split.links)
            links.push_back(name(link));
        j["splits"].push_back({{"links", links},
                               {"near", split.placeNear},
                               {"far", split.placeFar},
                               {"odds_near", split.oddsNear},
                               {"odds_far", split.oddsFar},
                               {"minutes", split.minutes}});
    }
    j["together"] = Json::array();
    for (const Together& t : a.together)
        j["together"].push_back({{"part", name(t.part)}, {"replace", t.replace}, {"why", t.why}});
    if (const SourceShows* source = a.state.source(); source && source->amps > 0) {
        // Leads that a bench has, as nothing else is said of them.
        const NearFar found = nearOrFar(Volts(source->volts), Amps(source->amps),
                                        ratedFor(Volts(source->volts)), usualLeads().front().resistance);
        j["near_far"] = {
            {"board_ohms", found.board.value}, {"doubt_ohms", found.doubt.value}, {"what", found.sentence}};
    }
}

/// A file that a table is read from; nothing where it cannot be opened, which is told.
std::optional<std::string> contentOf(const std::string& file, Answer& answer) {
    std::ifstream in(file);
    if (in) return std::string{std::istreambuf_iterator<char>(in), {}};
    answer.wrong({say("cannot be opened"), file, {}});
    return std::nullopt;
}

void assessCase(const std::string& folder, const std::string& knownGood, const std::string& pace,
                Answer& answer) {
    const auto opened = CaseFolder::openToRead(folder);
    if (!opened) return answer.wrong(opened.error());
    Knowledge knowledge;
    std::vector<Message> warnings;
    if (!knownGood.empty()) {
        const auto text = contentOf(knownGood, answer);
        if (!text) return;
        auto set = readKnownGood(*text, knownGood, warnings);
        if (!set) return answer.wrong(set.error());
        knowledge.knownGood = std::move(set.value());
    }
    if (!pace.empty()) {
        const auto text = contentOf(pace, answer);
        if (!text) return;
        const auto cases = readPace(*text, pace, warnings);
        if (!cases) return answer.wrong(cases.error());
        for (const CasePace& each : cases.value())
            knowledge.pace.add(each.pace);
    }
    const Assessment a = assess(opened.value().board, opened.value().log->facts(), knowledge);
    Json& j = answer.data;
    j = {{"title", opened.value().title}, {"complaint", a.state.complaint}};
    j["rails"] = Json::array();
    for (const RailJudgement& r : a.rails) {
        const std::string& net = a.state.board.nets[r.net].name;
        j["rails"].push_back({{"net", net},
                              {"reading", r.reading},
                              {"state", wordOf(r.ruling.state)},
                              {"by", wordOf(r.ruling.by)},
                              {"rule", r.ruling.rule},
                              {"shorted", r.shorted},
                              {"explained_by", r.explainedBy}});
        answer.line(net + " " + r.reading + ": " + std::string(wordOf(r.ruling.state)) + " (" +
                    r.ruling.rule.text() + ")");
    }
    addHypotheses(a, answer);
    j["suspects"] = Json::array();
    for (const Suspect& s : a.suspects) {
        const std::string name = s.part < 0 ? "something else" : a.state.board.parts[s.part].designator;
        Json one{{"part", name}, {"odds", s.odds}, {"cleared", s.cleared}, {"off", s.off}};
        one["evidence"] = Json::array();
        for (const Weight& e : s.evidence)
            one["evidence"].push_back({{"what", *e.what}, {"weight", e.weight}, {"fact", e.fact}});
        j["suspects"].push_back(one);
        constexpr double worthALine = 0.005;
        if (s.odds > worthALine)
            answer.line(name + ": " + fixed(100 * s.odds, 1) + " %" +
                        (s.cleared ? ", cleared"
                         : s.off   ? ", off"
                                   : ""));
    }
    j["next"] = Json::array();
    for (const NextMove& m : a.next) {
        j["next"].push_back({{"do", m.sentence},
                             {"why", m.reason},
                             {"risk", m.risk},
                             {"minutes", m.minutes},
                             {"gain_bits", m.gainBits},
                             {"worth_per_minute", m.worth()}});
        answer.line("next: " + m.sentence.text() + " (" + m.reason.text() + ")");
    }
    addMoves(a, answer);
    j["culprit"] = a.culprit;
    for (const SetAside& each : a.setAside)
        warnings.push_back(each.why);
    warnings.insert(warnings.end(), opened.value().warnings.begin(), opened.value().warnings.end());
    j["warnings"] = warnings;
    for (const auto& w : warnings)
        answer.line("warning: " + w.text());
}

} // namespace

void addAssessCommand(CLI::App& app, Answer& answer) {
    struct Options {
        std::string folder, knownGood, pace;
    };
    auto options = std::make_shared<Options>();
    CLI::App* assessed =
        app.add_subcommand("assess", "What follows from a case: rails judged, suspects, next moves, worth");
    assessed->add_option("case", options->folder, "Case folder")->required();
    assessed->add_option("--known-good", options->knownGood, "CSV of what good boards of the model read");
    assessed->add_option("--pace", options->pace, "CSV of how long the shop's work took (pace.csv)");
    assessed->callback(
        [options, &answer] { assessCase(options->folder, options->knownGood, options->pace, answer); });
}

} // namespace ustor::cli
