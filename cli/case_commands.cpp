#include "cli/commands.h"
#include "store/case_folder.h"
#include "store/report.h"

#include <memory>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

void assessCase(const std::string& folder, Answer& answer) {
    const auto opened = CaseFolder::open(folder);
    if (!opened) return answer.wrong(opened.error());
    const Assessment a = assess(opened.value().board, opened.value().log->facts(), {});
    Json& j = answer.data;
    j = {{"title", opened.value().title}, {"complaint", a.state.complaint}};
    j["rails"] = Json::array();
    for (const RailJudgement& r : a.rails) {
        const std::string& net = a.state.board.nets[r.net].name;
        j["rails"].push_back({{"net", net},
                              {"reading", r.reading},
                              {"state", wordOf(r.ruling.state)},
                              {"rule", r.ruling.rule}});
        answer.line(net + " " + r.reading + ": " + std::string(wordOf(r.ruling.state)) + " (" +
                    r.ruling.rule + ")");
    }
    j["suspects"] = Json::array();
    for (const Suspect& s : a.suspects) {
        const std::string name = s.part < 0 ? "something else" : a.state.board.parts[s.part].designator;
        Json one{{"part", name}, {"odds", s.odds}, {"cleared", s.cleared}};
        one["evidence"] = Json::array();
        for (const Evidence& e : s.evidence)
            one["evidence"].push_back({{"what", e.what}, {"weight", e.weight}, {"fact", e.fact}});
        j["suspects"].push_back(one);
        constexpr double worthALine = 0.005;
        if (s.odds > worthALine)
            answer.line(name + ": " + fixed(100 * s.odds, 1) + " %" + (s.cleared ? ", cleared" : ""));
    }
    j["next"] = Json::array();
    for (const NextMove& m : a.next) {
        j["next"].push_back({{"do", m.sentence},
                             {"why", m.reason},
                             {"risk", m.risk},
                             {"minutes", m.minutes},
                             {"gain_bits", m.gainBits},
                             {"worth_per_minute", m.worth()}});
        answer.line("next: " + m.sentence + " (" + m.reason + ")");
    }
    j["culprit"] = a.culprit;
    j["warnings"] = opened.value().warnings;
    for (const auto& w : opened.value().warnings)
        answer.line("warning: " + w);
}

void report(const std::string& folder, const std::string& target, Answer& answer) {
    const auto opened = CaseFolder::open(folder);
    if (!opened) return answer.wrong(opened.error());
    const Assessment a = assess(opened.value().board, opened.value().log->facts(), {});
    const ReportInput input{opened.value().title, &opened.value().log->facts(), &a, {}};
    if (const auto written = writeReportPdf(input, target); !written) return answer.wrong(written.error());
    answer.data = {{"written", target}};
    answer.line(target + " written");
}

} // namespace

void addCaseCommands(CLI::App& app, Answer& answer) {
    struct Options {
        std::string folder, target;
    };
    auto options = std::make_shared<Options>();
    CLI::App* assessed =
        app.add_subcommand("assess", "What follows from a case: rails judged, suspects, next moves, worth");
    assessed->add_option("case", options->folder, "Case folder")->required();
    assessed->callback([options, &answer] { assessCase(options->folder, answer); });
    CLI::App* cases = app.add_subcommand("case", "Cases")->require_subcommand(1);
    CLI::App* reported = cases->add_subcommand("report", "Writes the report as PDF");
    reported->add_option("case", options->folder, "Case folder")->required();
    reported->add_option("-o,--output", options->target, "X.pdf")->required();
    reported->callback([options, &answer] { report(options->folder, options->target, answer); });
}

} // namespace ustor::cli
