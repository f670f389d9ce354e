// Stands for the window, in a process of its own that a test may kill: energises a supply through its guard
// and keeps it so. Tells what happens as lines of JSON.
#include "bench/guarded_supply.h"

#include <QCoreApplication>
#include <QJsonDocument>
#include <cstdio>

int main(int argc, char** argv) {
    using namespace ustor;
    QCoreApplication qt(argc, argv);
    const QStringList arguments = QCoreApplication::arguments();
    const auto address = arguments.size() == 3
                             ? instrumentFromText(arguments[2])
                             : Result<InstrumentAddress>(Error{verbatim("GUARD ADDRESS"), "", {}});
    if (!address) {
        std::fprintf(stderr, "%s\n", address.error().text().c_str());
        return 2;
    }
    GuardedSupply supply(arguments[1]);
    const auto tell = [](const QJsonObject& line) {
        std::printf("%s\n", QJsonDocument(line).toJson(QJsonDocument::Compact).constData());
        std::fflush(stdout);
    };
    bool done = false; // once: what a fault switched off is not switched on again
    QObject::connect(&supply, &Supply::connected, &qt, [&] {
        tell({{"guard", supply.guardPid()}});
        if (done) return;
        done = true;
        supply.cap(Volts(1.3), Amps(1));
        supply.setLimits(Volts(1), Amps(0.5), Volts(1.1), 2);
        supply.switchOn();
    });
    QObject::connect(&supply, &GuardedSupply::outputStateChanged, &qt, [&](OutputState state) {
        tell({{"state", static_cast<int>(state)}});
    });
    QObject::connect(&supply, &GuardedSupply::switchedOffByGuard, &qt, [&](GuardCause cause, const Message&) {
        tell({{"off", wordOf(cause).data()}});
    });
    supply.open(address.value());
    return QCoreApplication::exec();
}
