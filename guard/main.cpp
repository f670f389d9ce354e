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
    app.add_option("--supply", supply, "host:port of the supply")->required();
    app.add_option("--poll-ms", poll_ms, "How often the supply is read")->check(CLI::Range(2, 500));
    app.add_option("--patience", patience,
                   "Times longer silences, for a simulated bench on this machine only")
        ->check(CLI::Range(1.0, 20.0));
    CLI11_PARSE(app, argc, argv);
    const auto address = addressFromText(QString::fromStdString(supply));
    if (!address) {
        std::fprintf(stderr, "%s\n", address.error().text().c_str());
        return 2;
    }
    if (patience > 1 && !QHostAddress(address.value().host).isLoopback()) {
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
    guard.open(address.value());
    return QCoreApplication::exec();
}
