#include "guard/second.h"

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

int runGuard(const ustor::Guard::Options& options, const QStringList& second, int endFd) {
    using namespace ustor;
    fcntl(STDOUT_FILENO, F_SETFL, fcntl(STDOUT_FILENO, F_GETFL) | O_NONBLOCK);
    Guard guard(STDIN_FILENO, STDOUT_FILENO, options, second);
    QSocketNotifier end(endFd, QSocketNotifier::Read);
    QObject::connect(&end, &QSocketNotifier::activated, &guard, [&] {
        end.setEnabled(false);
        guard.shutDown(GuardCause::GuardEnded, say("asked to end by the system"));
    });
    QObject::connect(&guard, &Guard::finished, qApp, &QCoreApplication::quit, Qt::QueuedConnection);
    guard.open();
    return QCoreApplication::exec();
}

/// Signals that ask for an end are not heard: it ends when there is nothing left to watch.
int runSecond(const ustor::Guard::Options& options, qint64 guard) {
    ustor::Second second(STDIN_FILENO, options, guard);
    QObject::connect(&second, &ustor::Second::finished, qApp, &QCoreApplication::quit, Qt::QueuedConnection);
    return QCoreApplication::exec();
}

/// What an earlier program left on is switched off, however long that takes.
int runSettle(const ustor::Guard::Options& options, qint64 hung) {
    using namespace ustor;
    if (isGuard(hung)) ::kill(static_cast<pid_t>(hung), SIGKILL);
    OutputLedger ledger(options.supply, options.simulated, options.patience);
    ledger.stand(::getpid(), 0);
    ScpiSupply supply;
    OffUntilRead off(supply, ledger, options.simulated);
    QObject::connect(&off, &OffUntilRead::done, qApp, &QCoreApplication::quit, Qt::QueuedConnection);
    supply.open(options.supply, options.profile);
    off.begin();
    return QCoreApplication::exec();
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
    Guard::Options options;
    qint64 secondOf = 0, settle = -1;
    app.add_option(
           "--supply", supply,
           "Where the supply is: HOST:PORT, serial:DEVICE@BAUD or usbtmc:DEVICE, then ; profile=FILE and ; "
           "channel=N")
        ->required();
    app.add_option("--poll-ms", options.poll_ms, "How often the supply is read")->check(CLI::Range(2, 500));
    app.add_option("--patience", options.patience,
                   "Times longer silences, for a simulated bench on this machine only")
        ->check(CLI::Range(1.0, 20.0));
    app.add_flag("--simulated", options.simulated,
                 "A simulated bench on this machine: nothing is on when nobody listens there any more");
    app.add_option("--second-of", secondOf, "Takes over when the guard of this process id dies");
    app.add_option("--settle", settle,
                   "Switches off what the process of this id left on (0: nobody), and ends");
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
    if ((options.patience > 1 || options.simulated) &&
        !(socket.known() && QHostAddress(socket.host).isLoopback())) {
        std::fprintf(stderr, "--patience, --simulated: only for a simulated bench on the loopback address\n");
        return 2;
    }
    options.supply = address.value();
    options.profile = profile.value();
    if (secondOf > 0) return runSecond(options, secondOf);
    if (settle >= 0) return runSettle(options, settle);
    QStringList second{QCoreApplication::applicationFilePath(), "--second-of",
                       QString::number(QCoreApplication::applicationPid())};
    second << QCoreApplication::arguments().mid(1);
    return runGuard(options, second, endFd);
}
