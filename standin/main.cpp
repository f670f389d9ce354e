#include "board/board_files.h"
#include "standin/standin.h"

#include <QCommandLineParser>
#include <QCoreApplication>
#include <QJsonDocument>
#include <cstdio>
#include <cstdlib>

namespace {

/// The number after an option, held against its range; what is wrong is told, and the program ends.
double number(const QCommandLineParser& options, const QString& name, double low, double high) {
    bool ok = false;
    const double value = options.value(name).toDouble(&ok);
    if (ok && value >= low && value <= high) return value;
    std::fprintf(stderr, "--%s: a number from %g to %g, not '%s'\n", qPrintable(name), low, high,
                 qPrintable(options.value(name)));
    std::exit(2);
}

} // namespace

int main(int argc, char** argv) {
    using namespace ustor;
    QCoreApplication qt(argc, argv);
    QCommandLineParser options;
    options.setApplicationDescription(
        "A simulated bench: supply, meter and camera around one board with one hidden fault. Loopback only.");
    options.addHelpOption();
    options.addPositionalArgument("board", "Board files (netlist, centroid list, board.json)", "board...");
    options.addOptions(
        {{"seed", "Seed of noise, copper and, without --fault, of the fault", "number", "1"},
         {"fault", "Designator of the shorted part", "part"},
         {"ohms", "Resistance of the short", "ohms", "0.1"},
         {"speed", "How many times faster than the wall its time runs, where the machine can", "times", "1"},
         {"patience", "How many times longer than usual it may be silent", "times", "1"},
         {"serial", "Supply and meter answer on serial lines as well"}});
    options.process(qt);
    constexpr double mostOhms = 1e6, mostSeed = 9e15; // whole numbers up to there
    const double ohms = number(options, "ohms", 1e-6, mostOhms), speed = number(options, "speed", 0.1, 50),
                 patience = number(options, "patience", 1, 20);
    const auto seed = static_cast<std::uint64_t>(number(options, "seed", 0, mostSeed));
    const std::string part = options.value("fault").toStdString();
    const bool serial = options.isSet("serial");

    std::vector<std::filesystem::path> paths;
    for (const QString& file : options.positionalArguments())
        paths.emplace_back(file.toStdString());
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
