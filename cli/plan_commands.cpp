#include "base/quantity_text.h"
#include "board/board_files.h"
#include "cli/commands.h"
#include "injection/plan.h"

#include <memory>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

struct PlanOptions {
    std::vector<std::string> files;
    std::string rail, school = "ladder";
    double faultOhms = 0, leadMetres = 1.0, supplyVolts = 30, supplyAmps = 5, netd_mk = 60, rate_hz = 25;
    int gauge = 18;
};

Json boundsOf(const std::vector<Bound>& bounds) {
    Json list = Json::array();
    for (const Bound& b : bounds)
        list.push_back({{"value", b.value}, {"reason", b.reason}});
    return list;
}

void plan(const PlanOptions& options, Answer& answer) {
    const auto board = readBoardFiles({options.files.begin(), options.files.end()});
    if (!board) return answer.wrong(board.error());
    const NetIndex net = board.value().findNet(options.rail);
    if (net < 0) return answer.wrong({say("no such net"), options.rail, {}});
    if (board.value().nets[net].ground)
        return answer.wrong({say("is ground: nothing is injected there"), options.rail, {}});
    PlanRequest request;
    request.leads = {options.gauge, options.leadMetres, Ohms(0.01)};
    request.supply = {Volts(options.supplyVolts), Amps(options.supplyAmps)};
    request.camera = {options.netd_mk, options.rate_hz};
    if (options.faultOhms > 0) request.faultResistance = Ohms(options.faultOhms);
    request.school = options.school == "full"    ? School::FullAtOnce
                     : options.school == "climb" ? School::Climb
                                                 : School::Ladder;
    const InjectionPlan made = planInjection(board.value(), stretchOf(board.value(), net), request);

    Json& j = answer.data;
    j = {{"limit_volts", made.limits.volts.value}, {"limit_amps", made.limits.amps.value}};
    j["volt_bounds"] = boundsOf(made.limits.voltBounds);
    j["amp_bounds"] = boundsOf(made.limits.ampBounds);
    j["steps"] = Json::array();
    answer.line("never above " + quantityText(made.limits.volts.value, "V") + ": " +
                made.limits.voltBounds.front().reason.text());
    answer.line("never above " + quantityText(made.limits.amps.value, "A") + ": " +
                made.limits.ampBounds.front().reason.text());
    for (const InjectionStep& s : made.steps) {
        j["steps"].push_back({{"volts", s.volts.value},
                              {"over_voltage", s.overVoltage.value},
                              {"amps", s.amps.value},
                              {"on_s", s.on.value},
                              {"off_s", s.off.value},
                              {"pulses", s.pulses},
                              {"reason", s.reason}});
        if (s.outlook) {
            const StepOutlook& o = *s.outlook;
            Json& step = j["steps"].back();
            step["flows_amps"] = o.flows.value;
            step["fault_watts"] = o.inFault.value;
            step["fault_rise_k"] = o.faultRise_k;
            step["lead_watts"] = o.inLeads.value;
            step["lead_rise_k"] = o.leadRise_k;
            step["seconds_until_seen"] = o.untilSeen.value;
            step["links"] = Json::array();
            for (const auto& [link, kelvin] : o.links)
                step["links"].push_back({{"part", link}, {"rise_k", kelvin}});
        }
        answer.line(quantityText(s.volts.value, "V") + ", " + quantityText(s.amps.value, "A") + ", " +
                    std::to_string(s.pulses) + " pulses: " + s.reason.text());
    }
    j["notes"] = made.notes;
    for (const auto& note : made.notes)
        answer.line(note);
}

} // namespace

void addPlanCommands(CLI::App& app, Answer& answer) {
    auto options = std::make_shared<PlanOptions>();
    CLI::App* planned = app.add_subcommand("plan", "Plans")->require_subcommand(1);
    CLI::App* inject = planned->add_subcommand("inject", "Limits and steps of an injection, with reasons");
    inject->add_option("board", options->files, "Board files")->required();
    inject->add_option("--rail", options->rail, "Net to inject into")->required();
    inject->add_option("--fault-ohms", options->faultOhms, "What the meter reads, its own leads taken off")
        ->check(CLI::PositiveNumber);
    inject->add_option("--gauge", options->gauge, "AWG of the leads")->check(CLI::Range(4, 40));
    inject->add_option("--lead-metres", options->leadMetres, "Length of one lead")
        ->check(CLI::Range(0.05, 20.0));
    inject->add_option("--supply-volts", options->supplyVolts, "Most the supply gives")
        ->check(CLI::PositiveNumber);
    inject->add_option("--supply-amps", options->supplyAmps, "Most the supply gives")
        ->check(CLI::PositiveNumber);
    inject->add_option("--netd-mk", options->netd_mk, "Noise of the camera")->check(CLI::PositiveNumber);
    inject->add_option("--frame-rate", options->rate_hz, "Frames a second")->check(CLI::PositiveNumber);
    inject->add_option("--school", options->school, "ladder, full or climb")
        ->check(CLI::IsMember({"ladder", "full", "climb"}));
    inject->callback([options, &answer] { plan(*options, answer); });
}

} // namespace ustor::cli
