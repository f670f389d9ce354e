#include "session/sleep_inhibitor.h"

#include "base/message.h"

#include <QDBusError>
#include <QDBusMessage>
#include <QDBusPendingCallWatcher>
#include <QDBusPendingReply>
#include <utility>

namespace ustor {
namespace {

constexpr const char* service = "org.freedesktop.login1";
constexpr const char* path = "/org/freedesktop/login1";
constexpr const char* interface = "org.freedesktop.login1.Manager";

} // namespace

SleepInhibitor::SleepInhibitor(const QDBusConnection& bus, QObject* parent) : QObject(parent), m_bus(bus) {
    m_bus.connect(service, path, interface, "PrepareForSleep", this, SLOT(prepare(bool)));
}

void SleepInhibitor::prepare(bool sleeps) {
    if (sleeps) emit aboutToSleep();
}

void SleepInhibitor::hold(bool energised) {
    if (energised == std::exchange(m_wanted, energised)) return;
    if (energised)
        ask();
    else
        m_lock = {};
}

void SleepInhibitor::ask() {
    if (m_asked) return;
    if (!m_bus.isConnected()) return tell(m_bus.lastError().message());
    m_asked = true;
    auto call = QDBusMessage::createMethodCall(service, path, interface, "Inhibit");
    call << "sleep"
         << "Ustor" << QString::fromStdString(say("A supply's output is on").text()) << "block";
    auto* answer = new QDBusPendingCallWatcher(m_bus.asyncCall(call), this);
    connect(answer, &QDBusPendingCallWatcher::finished, this, [this, answer] {
        answer->deleteLater();
        m_asked = false;
        const QDBusPendingReply<QDBusUnixFileDescriptor> reply = *answer;
        if (!reply.isError()) {
            if (m_wanted) m_lock = reply.value();
            return;
        }
        tell(reply.error().message());
    });
}

void SleepInhibitor::tell(const QString& why) {
    if (!std::exchange(m_told, true)) emit cannot(why);
}

} // namespace ustor
