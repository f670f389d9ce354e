#include "bench/probe.h"
#include "cli/commands.h"
#include "session/camera_at.h"

#include <algorithm>
#include <memory>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

struct BenchOptions {
    std::string kind, address, profile;
    int channel = 1;
};

void print(const std::vector<ProbeStep>& steps, Answer& answer) {
    answer.data["steps"] = Json::array();
    for (const ProbeStep& step : steps) {
        const std::string what = step.what.text(), command = step.command.toStdString(),
                          said = step.answer.text();
        answer.data["steps"].push_back({{"what", what},
                                        {"fine", step.fine},
                                        {"command", command},
                                        {"answer", said},
                                        {"took_ms", step.took_ms}});
        answer.line((step.fine ? "fine   " : "WRONG  ") + what + (command.empty() ? "" : "   " + command) +
                    (said.empty() ? "" : "   -> " + said + "   " + std::to_string(step.took_ms) + " ms"));
    }
    const bool fine =
        std::all_of(steps.begin(), steps.end(), [](const ProbeStep& step) { return step.fine; });
    answer.data["fine"] = fine;
    answer.line(fine ? "All of this profile holds." : "Not all of this profile holds.");
    answer.code = fine ? Done_ : No;
}

void probe(const BenchOptions& options, Answer& answer) {
    auto address = instrumentFromText(QString::fromStdString(options.address));
    if (!address) return answer.wrong(address.error());
    if (!options.profile.empty()) address.value().profile = QString::fromStdString(options.profile);
    if (options.channel != 1) address.value().channel = options.channel;
    const auto kind = options.kind == "supply"  ? InstrumentProfile::Kind::Supply
                      : options.kind == "meter" ? InstrumentProfile::Kind::Meter
                                                : InstrumentProfile::Kind::Camera;
    const auto profile = profileFor(address.value().profile, kind);
    if (!profile) return answer.wrong(profile.error());
    if (kind == InstrumentProfile::Kind::Supply && address.value().channel > profile.value().channels)
        return answer.wrong(
            {say("the profile knows of {count} channels", {{"count", profile.value().channels}}),
             options.address, say("nothing was sent")});
    answer.data = {{"kind", options.kind}, {"address", address.value().text().toStdString()}};
    if (kind == InstrumentProfile::Kind::Supply)
        print(probeSupply(address.value(), profile.value()), answer);
    else if (kind == InstrumentProfile::Kind::Meter)
        print(probeMeter(address.value(), profile.value()), answer);
    else if (const auto camera = cameraAt(address.value()); camera)
        print(probeCamera(*camera.value()), answer);
    else
        answer.wrong(camera.error());
}

} // namespace

void addBenchCommands(CLI::App& app, Answer& answer) {
    auto options = std::make_shared<BenchOptions>();
    CLI::App* bench = app.add_subcommand("bench", "Instruments")->require_subcommand(1);
    CLI::App* probed = bench->add_subcommand(
        "probe", "Tries an instrument under its profile; the output of a supply stays off");
    probed->add_option("kind", options->kind, "What it is")
        ->required()
        ->check(CLI::IsMember({"supply", "meter", "camera"}));
    probed
        ->add_option("address", options->address,
                     "HOST:PORT, serial:DEVICE@BAUD, usbtmc:DEVICE, v4l2:DEVICE or replay:FOLDER")
        ->required();
    probed->add_option("--profile", options->profile, "Instrument profile (JSON)");
    probed->add_option("--channel", options->channel, "Channel of a supply")->check(CLI::Range(1, 9));
    probed->callback([options, &answer] { probe(*options, answer); });
}

} // namespace ustor::cli
