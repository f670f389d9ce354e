#include "guard/guard.h"

#include <CLI/CLI.hpp>
#include <QCoreApplication>
#include <QHostAddress>
#include <csignal>
#include <cstdio>
#include <fcntl.h>
#include <sys/signalfd.h>
#include <unistd.h>

namespace {

/// Signals that ask for an end arrive as readable bytes, so that the output is switched off in the ordinary
/// way.
int endSignals() {
    sigset_t set;
    sigemptyset(&set);
    for (const int s : {SIGTERM, SIGINT, SIGHUP})
        sigaddset(&set, s);
    sigprocmask(SIG_BLOCK, &set, nullptr);
    return signalfd(-1, &set, SFD_CLOEXEC);
}

} // namespace

int main(int argc, char** argv) {
    using namespace ustor;
    const int endFd = endSignals();
    std::signal(SIGPIPE, SIG_IGN);
    QCoreApplication qt(argc, argv);
    CLI::App app{"Owns the supply's connection and switches its output off when anything dies. Lines of JSON "
                 "on standard input and output."};
    std::string supply;
    int poll_ms = 40;
    double patience = 1;
    app.add_option(
           "--supply", supply,
           "Where the supply is: HOST:PORT, serial:DEVICE@BAUD or usbtmc:DEVICE, then ; profile=FILE and ; "
           "channel=N")
        ->required();
    app.add_option("--poll-ms", poll_ms, "How often the supply is read")->check(CLI::Range(2, 500));
    app.add_option("--patience", patience,
                   "Times longer silences, for a simulated bench on this machine only")
        ->check(CLI::Range(1.0, 20.0));
    CLI11_PARSE(app, argc, argv);
    const auto address = instrumentFromText(QString::fromStdString(supply));
    if (!address) {
        std::fprintf(stderr, "%s\n", address.error().text().c_str());
        return 2;
    }
    const auto profile = profileFor(address.value().profile, InstrumentProfile::Kind::Supply);
    if (!profile) {
        std::fprintf(stderr, "%s\n", profile.error().text().c_str());
        return 2;
    }
    if (address.value().channel > profile.value().channels) {
        std::fprintf(stderr, "channel %d: the profile knows of %d\n", address.value().channel,
                     profile.value().channels);
        return 2;
    }
    const SocketAddress& socket = address.value().socket;
    if (patience > 1 && !(socket.known() && QHostAddress(socket.host).isLoopback())) {
        std::fprintf(stderr, "--patience: only for a simulated bench on the loopback address\n");
        return 2;
    }
    fcntl(STDOUT_FILENO, F_SETFL, fcntl(STDOUT_FILENO, F_GETFL) | O_NONBLOCK);
    Guard guard(STDIN_FILENO, STDOUT_FILENO);
    guard.setPollInterval(poll_ms);
    guard.setPatience(patience);
    QSocketNotifier end(endFd, QSocketNotifier::Read);
    QObject::connect(&end, &QSocketNotifier::activated, &guard,
                     [&guard] { guard.shutDown("asked to end by the system"); });
    QObject::connect(&guard, &Guard::finished, &qt, [](int code) { QCoreApplication::exit(code); });
    guard.open(address.value(), profile.value());
    return QCoreApplication::exec();
}
