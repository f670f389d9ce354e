#include "board/board_files.h"
#include "standin/standin.h"

#include <CLI/CLI.hpp>
#include <QCoreApplication>
#include <QJsonDocument>
#include <cstdio>

int main(int argc, char** argv) {
    using namespace ustor;
    QCoreApplication qt(argc, argv);
    CLI::App app{
        "A simulated bench: supply, meter and camera around one board with one hidden fault. Loopback only."};
    std::vector<std::string> files;
    std::string part;
    double ohms = 0.1, speed = 1, patience = 1;
    std::uint64_t seed = 1;
    app.add_option("board", files, "Board files (netlist, centroid list, board.json)")->required();
    app.add_option("--seed", seed, "Seed of noise, copper and, without --fault, of the fault");
    app.add_option("--fault", part, "Designator of the shorted part");
    app.add_option("--ohms", ohms, "Resistance of the short")->check(CLI::PositiveNumber);
    app.add_option("--speed", speed,
                   "How many times faster than the wall its time runs, where the machine can")
        ->check(CLI::Range(0.1, 50.0));
    app.add_option("--patience", patience, "How many times longer than usual it may be silent")
        ->check(CLI::Range(1.0, 20.0));
    bool serial = false;
    app.add_flag("--serial", serial, "Supply and meter answer on serial lines as well");
    CLI11_PARSE(app, argc, argv);

    std::vector<std::filesystem::path> paths(files.begin(), files.end());
    const auto board = readBoardFiles(paths);
    if (!board) {
        std::fprintf(stderr, "%s\n", board.error().text().c_str());
        return 2;
    }
    const auto fault =
        part.empty() ? standin::drawFault(board.value(), seed) : standin::faultAt(board.value(), part, ohms);
    if (!fault) {
        std::fprintf(stderr, "%s: no part that could short a rail to ground\n",
                     part.empty() ? "board" : part.c_str());
        return 2;
    }
    standin::Setup setup;
    setup.seed = seed;
    setup.fault = *fault;
    standin::StandIn standIn(board.value(), setup, speed, patience);
    if (!standIn.listen()) {
        std::fprintf(stderr, "no free port on the loopback address\n");
        return 1;
    }
    if (serial && !standIn.listenOnSerial()) {
        std::fprintf(stderr, "no pseudo terminal for a serial line\n");
        return 1;
    }
    std::printf("%s\n", QJsonDocument(standIn.ready()).toJson(QJsonDocument::Compact).constData());
    std::fflush(stdout);
    return QCoreApplication::exec();
}
