#include "guard/second.h"

#include <QCommandLineParser>
#include <QCoreApplication>
#include <QHostAddress>
#include <algorithm>
#include <csignal>
#include <cstdio>
#include <fcntl.h>
#include <iterator>
#include <sys/signalfd.h>
#include <unistd.h>

namespace {

/// What the window does not try again.
constexpr int badCall = 2;

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
    QCommandLineParser given;
    given.setApplicationDescription(
        "Owns the supply's connection and switches its output off when anything dies. "
        "Lines of JSON on standard input and output.");
    given.addHelpOption();
    given.addOptions(
        {{"supply",
          "Where the supply is: HOST:PORT, serial:DEVICE@BAUD or usbtmc:DEVICE, then ; profile=FILE and ; "
          "channel=N",
          "place"},
         {"poll-ms", "How often the supply is read", "ms", "40"},
         {"patience", "Times longer silences, for a simulated bench on this machine only", "times", "1"},
         {"simulated", "A simulated bench on this machine: nothing is on when nobody listens there any more"},
         {"second-of", "Takes over when the guard of this process id dies", "process", "0"},
         {"settle", "Switches off what the process of this id left on (0: nobody), and ends", "process",
          "-1"}});
    if (!given.parse(QCoreApplication::arguments())) {
        std::fprintf(stderr, "%s\n", qPrintable(given.errorText()));
        return badCall;
    }
    if (given.isSet("help")) given.showHelp();
    Guard::Options options;
    bool fine[4] = {};
    options.poll_ms = given.value("poll-ms").toInt(&fine[0]);
    options.patience = given.value("patience").toDouble(&fine[1]);
    options.simulated = given.isSet("simulated");
    const qint64 secondOf = given.value("second-of").toLongLong(&fine[2]),
                 settle = given.value("settle").toLongLong(&fine[3]);
    const bool inRange =
        options.poll_ms >= 2 && options.poll_ms <= 500 && options.patience >= 1 && options.patience <= 20;
    if (!std::all_of(std::begin(fine), std::end(fine), [](bool each) { return each; }) || !inRange) {
        std::fprintf(
            stderr,
            "--poll-ms is a number from 2 to 500, --patience from 1 to 20, --second-of and --settle are "
            "process ids\n");
        return badCall;
    }
    const auto address = instrumentFromText(given.value("supply"));
    if (!address) {
        std::fprintf(stderr, "%s\n", address.error().text().c_str());
        return badCall;
    }
    const auto profile = profileFor(address.value().profile, InstrumentProfile::Kind::Supply);
    if (!profile) {
        std::fprintf(stderr, "%s\n", profile.error().text().c_str());
        return badCall;
    }
    if (address.value().channel > profile.value().channels) {
        std::fprintf(stderr, "channel %d: the profile knows of %d\n", address.value().channel,
                     profile.value().channels);
        return badCall;
    }
    const SocketAddress& socket = address.value().socket;
    if ((options.patience > 1 || options.simulated) &&
        !(socket.known() && QHostAddress(socket.host).isLoopback())) {
        std::fprintf(stderr, "--patience, --simulated: only for a simulated bench on the loopback address\n");
        return badCall;
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
