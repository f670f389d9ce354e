#include "board/board_files.h"
#include "cli/commands.h"
#include "session/practice/auto_walk.h"
#include "session/practice/demo_case.h"
#include "session/practice/standin_process.h"

#include <QTemporaryDir>
#include <memory>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

struct PracticeOptions {
    std::vector<std::string> files;
    std::string casebook, fault;
    double ohms = 0.1, speed = 6;
    std::uint64_t seed = 1;
    int runs = 1;
    bool toTheEnd = false;
};

Json jsonOf(const WalkResult& walk, std::uint64_t seed) {
    Json j{{"seed", seed},
           {"finished", walk.finished},
           {"hidden", walk.hidden},
           {"hidden_ohms", walk.hiddenOhms},
           {"rank", walk.rank},
           {"odds", walk.odds},
           {"hottest_pixel", walk.hottestPixel},
           {"heat", walk.heatVerdict},
           {"injected_watts", walk.injectedWatts},
           {"lifted", walk.lifted},
           {"culprit", walk.culprit},
           {"bench_seconds", walk.benchSeconds}};
    j["first"] = Json::array();
    for (const auto& [part, odds] : walk.first)
        j["first"].push_back({{"part", part}, {"odds", odds}});
    j["broken_off"] = walk.brokenOff;
    if (!walk.trouble.empty()) j["trouble"] = walk.trouble;
    return j;
}

/// One repair on a fresh simulated bench. Error when bench or case cannot be set up.
Result<WalkResult> oneWalk(const Board& board, const QStringList& arguments,
                           const std::filesystem::path& casebook, const PracticeOptions& options,
                           std::uint64_t seed, const std::string& complaint, Answer& answer) {
    StandInProcess standIn;
    if (const auto started = standIn.start(programBeside("ustor-standin"), arguments); !started)
        return started.error();
    auto folder = CaseFolder::create(freeCaseFolder(casebook, "practice " + std::to_string(seed)),
                                     "Practice " + std::to_string(seed), board);
    if (!folder) return folder.error();
    CaseSession session(std::move(folder.value()), {});
    if (const auto noted = session.add(Complaint{complaint}); !noted) return noted.error();
    BenchLink bench(programBeside("ustor-guard"));
    bench.open(standIn.address());
    Hands hands;
    if (const auto opened = hands.open(standIn.address().control); !opened) return opened.error();
    WalkSettings settings;
    settings.toTheEnd = options.toTheEnd;
    settings.seed = seed;
    if (options.runs == 1) settings.tell = [&answer](const Message& said) { answer.line(said); };
    return autoWalk(session, bench, hands, settings);
}

QStringList standInArguments(const PracticeOptions& options, std::uint64_t seed) {
    QStringList arguments;
    for (const auto& f : options.files)
        arguments << QString::fromStdString(f);
    arguments << "--seed" << QString::number(seed) << "--speed" << QString::number(options.speed)
              << "--patience" << QString::number(patienceInPractice);
    if (!options.fault.empty())
        arguments << "--fault" << QString::fromStdString(options.fault) << "--ohms"
                  << QString::number(options.ohms);
    return arguments;
}

void run(const PracticeOptions& options, Answer& answer) {
    const auto board = readBoardFiles({options.files.begin(), options.files.end()});
    if (!board) return answer.wrong(board.error());
    QTemporaryDir scratch;
    const std::filesystem::path casebook =
        options.casebook.empty() ? scratch.path().toStdString() : options.casebook;
    Json walks = Json::array();
    int first = 0, three = 0, naive = 0, unfinished = 0;
    for (int i = 0; i < options.runs; ++i) {
        const std::uint64_t seed = options.seed + static_cast<std::uint64_t>(i);
        const auto walk = oneWalk(board.value(), standInArguments(options, seed), casebook, options, seed,
                                  "practice", answer);
        if (!walk) return answer.wrong(walk.error());
        const WalkResult& w = walk.value();
        walks.push_back(jsonOf(w, seed));
        first += w.rank == 1;
        three += w.rank >= 1 && w.rank <= 3;
        naive += w.finished && w.hottestPixel == w.hidden;
        unfinished += !w.finished;
        std::string line = "seed " + std::to_string(seed) + ": hidden " + w.hidden + " (" +
                           fixed(w.hiddenOhms, 3) + " ohm), rank " + std::to_string(w.rank) + " at " +
                           fixed(100 * w.odds, 0) + " %; heat: " + w.heatVerdict +
                           "; hottest pixel: " + w.hottestPixel;
        if (!w.first.empty()) line += "; first: " + w.first.front().first;
        if (!w.trouble.empty()) line += "; " + w.trouble.text();
        if (!w.brokenOff.empty()) line += "; broken off and begun anew: " + joined(w.brokenOff, ", ").text();
        answer.line(line);
        if (options.runs == 1) answer.code = w.finished && w.rank == 1 ? Done_ : No;
    }
    answer.data = {{"runs", options.runs},         {"right_first", first},     {"among_first_three", three},
                   {"hottest_pixel_right", naive}, {"unfinished", unfinished}, {"walks", walks}};
    answer.line(std::to_string(options.runs) + " runs: right part first " + std::to_string(first) +
                ", among the first three " + std::to_string(three) +
                "; the hottest pixel would have chosen right " + std::to_string(naive) + " times");
}

void demo(const PracticeOptions& options, Answer& answer) {
    const auto scenario = demoScenario();
    if (!scenario) return answer.wrong(scenario.error());
    const auto board = readBoardFiles(scenario.value().boardFiles);
    if (!board) return answer.wrong(board.error());
    QTemporaryDir scratch;
    const std::filesystem::path casebook =
        options.casebook.empty() ? scratch.path().toStdString() : options.casebook;
    PracticeOptions walked = options;
    walked.toTheEnd = true;
    const auto walk = oneWalk(board.value(), scenario.value().standInArguments(options.speed), casebook,
                              walked, scenario.value().seed, scenario.value().complaint, answer);
    if (!walk) return answer.wrong(walk.error());
    answer.data = jsonOf(walk.value(), scenario.value().seed);
    const WalkResult& w = walk.value();
    for (const auto& [part, odds] : w.first)
        answer.line(part + ": " + fixed(100 * odds, 1) + " %");
    answer.line(w.finished ? "found " + w.culprit + "; hidden was " + w.hidden
                           : "not finished: " + w.trouble.text());
    answer.code = w.finished && w.culprit == w.hidden ? Done_ : No;
}

} // namespace

void addPracticeCommands(CLI::App& app, Answer& answer) {
    auto options = std::make_shared<PracticeOptions>();
    CLI::App* practice = app.add_subcommand("practice", "Simulated repairs")->require_subcommand(1);
    CLI::App* ran = practice->add_subcommand("run", "Walks simulated repairs by itself");
    ran->add_option("--board", options->files, "Board files")->required();
    ran->add_option("--runs", options->runs, "How many, each with the next seed")
        ->check(CLI::Range(1, 10000));
    ran->add_option("--fault", options->fault, "Designator of the shorted part, instead of a drawn one");
    ran->add_option("--ohms", options->ohms, "Resistance of that short")->check(CLI::PositiveNumber);
    ran->add_flag("--to-the-end", options->toTheEnd, "Lift, prove and close as well");
    CLI::App* demoed = practice->add_subcommand("demo", "Walks the demo case to its end");
    for (CLI::App* command : {ran, demoed}) {
        command->add_option("--casebook", options->casebook, "Folder that keeps the cases");
        command->add_option("--speed", options->speed, "How many times faster than the wall")
            ->check(CLI::Range(0.5, 20.0));
    }
    ran->add_option("--seed", options->seed, "First seed");
    ran->callback([options, &answer] { run(*options, answer); });
    demoed->callback([options, &answer] { demo(*options, answer); });
}

} // namespace ustor::cli
