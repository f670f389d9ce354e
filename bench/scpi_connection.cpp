#include "bench/scpi_connection.h"

#include "bench/guard_protocol.h"

#include <algorithm>
#include <utility>

namespace ustor {

namespace {

/// Patience is counted in slices: a process that slept through its time (stopped, or on a machine that had no
/// time for it) has not listened, and loses one slice by it, however long it slept. What came meanwhile is
/// read before the next.
constexpr int slices = 4;

} // namespace

ScpiConnection::ScpiConnection(QObject* parent) : QObject(parent) {
    m_reconnectTimer.setSingleShot(true);
    m_answerTimer.setTimerType(Qt::PreciseTimer);
    connect(&m_answerTimer, &QTimer::timeout, this, &ScpiConnection::stillNoAnswer);
    connect(&m_reconnectTimer, &QTimer::timeout, this, &ScpiConnection::connectNow);
}

ScpiConnection::~ScpiConnection() {
    if (m_link) m_link->disconnect(this);
}

void ScpiConnection::open(const InstrumentAddress& address, const InstrumentProfile& profile) {
    m_address = address;
    m_profile = profile;
    m_wanted = true;
    m_link = linkTo(address, profile.lineEnd);
    if (!m_link) {
        emit lost(say("no commands can be sent to {place}", {{"place", address.place()}}));
        return;
    }
    connect(m_link.get(), &LineLink::opened, this, [this] {
        emit opened();
        sendNext();
    });
    connect(m_link.get(), &LineLink::closed, this, &ScpiConnection::fail);
    connect(m_link.get(), &LineLink::line, this,
            [this](const QByteArray& line) { takeLine(QString::fromLatin1(line)); });
    connectNow();
}

void ScpiConnection::close() {
    m_wanted = false;
    m_reconnectTimer.stop();
    m_answerTimer.stop();
    m_queue.clear();
    m_pending = false;
    if (m_link) m_link->close();
}

void ScpiConnection::connectNow() {
    if (m_wanted && m_link->isIdle()) m_link->open();
}

void ScpiConnection::fail(const Message& why) {
    m_answerTimer.stop();
    m_pending = false;
    // A late answer would be taken for the next query's: after a time-out only a fresh connection is safe.
    m_link->drop();
    const auto waiting = std::exchange(m_queue, {});
    for (const Item& item : waiting)
        if (item.answer)
            item.answer(Error{why, where().toStdString(), say("the setting may not have been taken")});
    if (!m_wanted) return;
    m_pause_ms = std::clamp(2 * m_pause_ms, GuardTiming::firstPause_ms, GuardTiming::mostPause_ms);
    if (!m_reconnectTimer.isActive()) m_reconnectTimer.start(m_pause_ms);
    emit lost(why);
}

void ScpiConnection::set(const QString& command, Answer answer) {
    m_queue.push_back({command, {}, {}});
    if (m_profile.error.isEmpty()) {
        sendNext();
        if (answer) answer(QString());
        return;
    }
    query(m_profile.error, [answer = std::move(answer)](const Result<QString>& reply) {
        if (!answer) return;
        if (!reply) return answer(reply);
        const bool fine = reply.value().startsWith("0") || reply.value().startsWith("+0");
        answer(fine ? Result<QString>(QString()) : Result<QString>(reply.value()));
    });
}

void ScpiConnection::query(const QString& command, Answer answer) {
    m_queue.push_back({command, std::move(answer), {}});
    sendNext();
}

void ScpiConnection::tell(const QString& command) {
    m_queue.push_back({command, {}, {}});
    sendNext();
}

void ScpiConnection::afterAll(std::function<void()> then) {
    m_queue.push_back({{}, {}, std::move(then)});
    sendNext();
}

void ScpiConnection::forget(const QString& command) {
    for (std::size_t i = m_pending ? 1 : 0; i < m_queue.size();) {
        if (m_queue[i].line != command) {
            ++i;
            continue;
        }
        // Its question to the error queue stands right behind it (see `set`).
        const std::size_t last = m_profile.error.isEmpty() ? i + 1 : std::min(i + 2, m_queue.size());
        m_queue.erase(m_queue.begin() + static_cast<long>(i), m_queue.begin() + static_cast<long>(last));
    }
}

void ScpiConnection::urgent(const QString& command) {
    if (isOpen()) m_link->sendUrgent(command.toLatin1());
}

void ScpiConnection::sendNext() {
    while (isOpen() && !m_pending && !m_queue.empty()) {
        if (m_queue.front().then) {
            const auto then = std::move(m_queue.front().then);
            m_queue.pop_front();
            then();
            continue;
        }
        const Item& item = m_queue.front();
        m_link->send(item.line.toLatin1(), static_cast<bool>(item.answer));
        if (item.answer) {
            awaitAnswer();
        } else {
            m_queue.pop_front();
        }
    }
}

void ScpiConnection::awaitAnswer() {
    m_pending = true;
    m_slices = 0;
    m_answerTimer.start(m_timeout_ms / slices);
}

void ScpiConnection::stillNoAnswer() {
    if (++m_slices >= slices) fail(say("no answer within {time} ms", {{"time", m_timeout_ms}}));
}

void ScpiConnection::takeLine(const QString& line) {
    if (!m_pending || m_queue.empty()) {
        // An answer out of turn, a greeting; but what talks without end answers nothing that is asked.
        constexpr int most = 50;
        if (++m_unasked > most) fail(say("it sends without being asked"));
        return;
    }
    m_unasked = 0;
    m_pause_ms = 0;
    m_answerTimer.stop();
    m_pending = false;
    const Answer answer = std::move(m_queue.front().answer);
    m_queue.pop_front();
    answer(line);
    sendNext();
}

} // namespace ustor
