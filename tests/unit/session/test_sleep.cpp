#include "session/sleep_inhibitor.h"
#include "support/wait.h"
#include "unit/session/fake_login.h"
#include "unit/session/test_session.h"

#include <QProcess>
#include <QTest>
#include <unistd.h>

using namespace ustor;
using testing::waitUntil;

namespace {

/// A message bus of the test's own.
struct PrivateBus {
    QProcess daemon;
    QString address;
    PrivateBus() {
        daemon.start("dbus-daemon", {"--session", "--nofork", "--print-address=1"});
        if (waitUntil([this] { return daemon.canReadLine() || daemon.state() == QProcess::NotRunning; }))
            address = QString::fromLatin1(daemon.readLine().trimmed());
    }
    ~PrivateBus() {
        daemon.kill();
        daemon.waitForFinished();
    }
};

} // namespace

// The calls and the signal as the login service documents them (org.freedesktop.login1(5): Inhibit,
// PrepareForSleep).
void TestSleep::theMachineIsKeptAwakeWhileEnergised() {
    const PrivateBus bus;
    QVERIFY2(!bus.address.isEmpty(), "no dbus-daemon");
    auto server = QDBusConnection::connectToBus(bus.address, "login");
    FakeLogin login;
    QVERIFY(server.registerService("org.freedesktop.login1"));
    QVERIFY(server.registerObject("/org/freedesktop/login1", &login, QDBusConnection::ExportAllContents));
    const auto client = QDBusConnection::connectToBus(bus.address, "window");
    SleepInhibitor inhibitor(client);
    int sleeps = 0;
    connect(&inhibitor, &SleepInhibitor::aboutToSleep, this, [&] { ++sleeps; });
    inhibitor.hold(true);
    QVERIFY(waitUntil([&] { return inhibitor.holds(); }));
    QCOMPARE(login.asked, (QStringList{"sleep", "Ustor", "A supply's output is on", "block"}));
    QVERIFY(!login.released());
    emit login.PrepareForSleep(true);
    QVERIFY(waitUntil([&] { return sleeps == 1; }));
    inhibitor.hold(false);
    QVERIFY(waitUntil([&] { return login.released(); }));
    QDBusConnection::disconnectFromBus("window");
    QDBusConnection::disconnectFromBus("login");
}

void TestSleep::whereNobodyCanBeAskedItIsTold() {
    SleepInhibitor inhibitor(QDBusConnection::connectToBus("unix:path=/nowhere/bus", "nowhere"));
    QStringList told;
    connect(&inhibitor, &SleepInhibitor::cannot, this, [&](const QString& why) { told << why; });
    for (int i = 0; i < 3; ++i) {
        inhibitor.hold(true);
        QVERIFY(waitUntil([&] { return !told.isEmpty(); }));
        inhibitor.hold(false);
    }
    QCOMPARE(told.size(), 1);
    QDBusConnection::disconnectFromBus("nowhere");
}
