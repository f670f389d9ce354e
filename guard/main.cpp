#include "guard/guard.h"

#include <CLI/CLI.hpp>
#include <QCoreApplication>
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
    app.add_option("--supply", supply, "host:port of the supply")->required();
    app.add_option("--poll-ms", poll_ms, "How often the supply is read")->check(CLI::Range(2, 500));
    CLI11_PARSE(app, argc, argv);
    const auto address = addressFromText(QString::fromStdString(supply));
    if (!address) {
        std::fprintf(stderr, "%s\n", address.error().text().c_str());
        return 2;
    }
    fcntl(STDOUT_FILENO, F_SETFL, fcntl(STDOUT_FILENO, F_GETFL) | O_NONBLOCK);
    Guard guard(STDIN_FILENO, STDOUT_FILENO);
    guard.setPollInterval(poll_ms);
    QSocketNotifier end(endFd, QSocketNotifier::Read);
    QObject::connect(&end, &QSocketNotifier::activated, &guard,
                     [&guard] { guard.shutDown("asked to end by the system"); });
    QObject::connect(&guard, &Guard::finished, &qt, [](int code) { QCoreApplication::exit(code); });
    guard.open(address.value());
    return QCoreApplication::exec();
}
