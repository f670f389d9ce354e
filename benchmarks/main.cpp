#include "app/look.h"
#include "benchmarks.h"
#include "watched_application.h"

#include <CLI/CLI.hpp>

int main(int argc, char** argv) {
    using namespace ustor;
    WatchedApplication qt(argc, argv);
    WatchedApplication::setApplicationName("ustor-bench");
    CLI::App app{"Measures: right parts over simulated faults, live load, cost of the estimator."};
    int runs = 20;
    std::uint64_t seed = 2000;
    double speed = 3;
    app.add_option("--runs", runs, "Faults on each board");
    app.add_option("--seed", seed, "First seed");
    app.add_option("--speed", speed, "How much faster than the wall the simulated benches run");
    bool boardOnly = false;
    app.add_flag("--boards", boardOnly, "Only copper and the large board");
    bool streamOnly = false;
    app.add_flag("--stream", streamOnly, "Only the response model, a large stream and a long recording");
    bool liveOnly = false;
    app.add_flag("--live", liveOnly, "Only the window under live load");
    int safety = 0;
    app.add_option("--safety", safety, "Only so many energised runs with faults, on a busy machine");
    bool locate = false;
    app.add_flag("--locate", locate, "Only the memory that a large recording takes");
    bool growth = false;
    app.add_flag("--growth", growth, "Only cases that grow, and many of them");
    bool judge = false;
    app.add_flag("--judge", judge, "Only what it takes to judge one more reading");
    int games = 0;
    bool meterOnly = false, told = false;
    app.add_option("--play", games, "Only so many whole hunts on random boards");
    app.add_flag("--meter-only", meterOnly, "These without supply and camera for injections");
    app.add_flag("--told", told, "These told in full");
    int sure = 0;
    std::string page;
    app.add_option("--how-sure", sure, "Only how far stated odds hold, over so many simulated cases");
    app.add_option("--page", page, "File that this is written to, as docs/how-sure.md");
    int scenes = 10;
    std::string scene;
    app.add_option("--scenes", scenes, "Generated thermal recordings of each kind");
    app.add_option("--scene", scene, "Only recordings of this kind, each told in full");
    CLI11_PARSE(app, argc, argv);
    Look::install(qt);
    if (games > 0) return benchPlayers(games, seed, meterOnly, told), 0;
    if (sure > 0) return benchHowSure(sure, seed, page), 0;
    if (safety > 0) return benchSafety(safety), 0;
    if (!scene.empty()) return benchScenes(scenes, seed, scene == "all" ? "" : scene), 0;
    if (locate) return benchLargeLocate(), 0;
    if (growth) return benchGrowth(), 0;
    if (judge) return benchJudge(), 0;
    if (liveOnly) return benchLiveLoad(), benchLargeLive(0), benchLargeLive(2), 0;
    if (!streamOnly) benchCopper();
    if (!streamOnly) benchLargeBoard();
    if (boardOnly) return 0;
    benchJudge();
    benchGrowth();
    benchEstimator();
    benchLargeStream();
    benchLongRecording();
    benchLargeLocate();
    if (streamOnly) return 0;
    benchScenes(scenes, seed, "");
    benchLiveLoad();
    benchLargeLive(0);
    benchLargeLive(2);
    if (runs > 0) benchWalks(runs, seed, speed);
    return 0;
}
