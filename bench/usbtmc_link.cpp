#include "bench/usbtmc_link.h"
#include "base/input_bounds.h"

#include <QElapsedTimer>
#include <QMutexLocker>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <linux/usb/tmc.h>
#include <poll.h>
#include <sys/ioctl.h>
#include <unistd.h>
#include <utility>

namespace ustor {

void UsbtmcDevice::open(const QString& path) {
    close();
    m_file = ::open(path.toLocal8Bit().constData(), O_RDWR | O_CLOEXEC | O_NOCTTY);
    if (m_file < 0) {
        emit closed(verbatim(path + ": " + QString::fromLocal8Bit(std::strerror(errno))));
        return;
    }
    __u32 timeout_ms = UsbtmcLink::answer_ms;
    m_driver = ::ioctl(m_file, USBTMC_IOCTL_SET_TIMEOUT, &timeout_ms) == 0;
    if (m_driver) ::ioctl(m_file, USBTMC_IOCTL_CLEAR); // what is left of whoever spoke before
    __u8 status = 0;
    m_status = m_driver && ::ioctl(m_file, USBTMC488_IOCTL_READ_STB, &status) == 0;
    emit opened();
}

void UsbtmcDevice::close() {
    if (m_file >= 0) ::close(m_file);
    m_file = -1;
}

void UsbtmcDevice::fail(const Message& doing) {
    const QString why = QString::fromLocal8Bit(std::strerror(errno));
    close();
    emit closed(joined({doing, verbatim(why)}, ": "));
}

bool UsbtmcDevice::write(const QByteArray& message) {
    if (::write(m_file, message.constData(), static_cast<std::size_t>(message.size())) == message.size())
        return true;
    fail(say("writing"));
    return false;
}

void UsbtmcDevice::interject(const QByteArray& message) {
    const QMutexLocker lock(&m_mutex);
    m_urgent << message;
}

void UsbtmcDevice::writeUrgent() {
    QByteArrayList urgent;
    {
        const QMutexLocker lock(&m_mutex);
        urgent.swap(m_urgent);
    }
    for (const QByteArray& message : urgent)
        if (m_file >= 0 && !write(message)) return;
}

/// Whether an answer waits after at most so many milliseconds.
bool UsbtmcDevice::answerWaits(int slice_ms) {
    if (!m_status) {
        pollfd wait{m_file, POLLIN, 0};
        return ::poll(&wait, 1, slice_ms) > 0;
    }
    __u8 status = 0;
    constexpr __u8 messageAvailable = 0x10; // IEEE 488.2, 11.2.1.2
    if (::ioctl(m_file, USBTMC488_IOCTL_READ_STB, &status) == 0 && (status & messageAvailable) != 0)
        return true;
    QThread::msleep(static_cast<unsigned long>(slice_ms));
    return false;
}

UsbtmcDevice::Wait UsbtmcDevice::waitForAnswer() {
    if (m_driver && !m_status) return Wait::Ready; // the driver's own read waits for its time
    constexpr int slice_ms = 5;
    QElapsedTimer clock;
    for (clock.start(); clock.elapsed() < UsbtmcLink::answer_ms;) {
        if (answerWaits(slice_ms)) return Wait::Ready;
        const QMutexLocker lock(&m_mutex);
        if (!m_urgent.isEmpty()) return Wait::Interrupted;
    }
    errno = ETIMEDOUT;
    return Wait::Failed;
}

void UsbtmcDevice::exchange(const QByteArray& message, bool asks) {
    // Nothing urgent before it: an "off" must not overtake the "on" that it was sent after.
    if (m_file < 0 || !write(message) || !asks) return;
    QByteArray answer;
    char chunk[4096];
    // An answer may come in several reads; its last byte is a new line (IEEE 488.2, 8.5).
    while (!answer.endsWith('\n') && answer.size() < bounds::line_bytes) {
        switch (waitForAnswer()) {
        case Wait::Ready:
            break;
        case Wait::Interrupted:
            // A new message may throw the answer away (IEEE 488.2, 6.3.2.3): then its time runs out.
            writeUrgent();
            if (m_file < 0) return;
            continue;
        case Wait::Failed:
            return fail(say("reading"));
        }
        const auto size = ::read(m_file, chunk, sizeof chunk);
        if (size <= 0) return fail(say("reading"));
        answer.append(chunk, size);
        if (m_driver && size < static_cast<long>(sizeof chunk)) break; // the end of the message, as USB tells
    }
    for (const QByteArray& one : answer.trimmed().split('\n'))
        emit line(one.trimmed());
}

UsbtmcLink::UsbtmcLink(QString device, QByteArray lineEnd)
    : m_path(std::move(device)), m_lineEnd(std::move(lineEnd)), m_device(new UsbtmcDevice) {
    m_device->moveToThread(&m_thread);
    connect(&m_thread, &QThread::finished, m_device, &QObject::deleteLater);
    connect(m_device, &UsbtmcDevice::opened, this, [this] {
        if (m_unheard > 0 || m_state != State::Opening) return;
        m_state = State::Open;
        emit opened();
    });
    connect(m_device, &UsbtmcDevice::closed, this, [this](const Message& why) {
        if (m_unheard == 0) end(why);
    });
    connect(m_device, &UsbtmcDevice::line, this, [this](const QByteArray& text) {
        if (m_unheard == 0 && m_state == State::Open) emit line(text);
    });
    m_thread.start();
}

UsbtmcLink::~UsbtmcLink() {
    // What was sent before ("off", say) is carried first.
    QMetaObject::invokeMethod(m_device, &UsbtmcDevice::close, Qt::BlockingQueuedConnection);
    m_thread.quit();
    m_thread.wait();
}

void UsbtmcLink::end(const Message& why) {
    if (m_state == State::Idle) return;
    m_state = State::Idle;
    emit closed(why);
}

void UsbtmcLink::open() {
    if (m_state != State::Idle) return;
    m_state = State::Opening;
    QMetaObject::invokeMethod(m_device, [device = m_device, path = m_path] { device->open(path); });
}

void UsbtmcLink::close() {
    drop();
}

void UsbtmcLink::drop() {
    if (m_state == State::Idle) return;
    m_state = State::Idle;
    // What the thread still says belongs to the time before, until it has come to the closing.
    ++m_unheard;
    QMetaObject::invokeMethod(m_device, [this, device = m_device] {
        device->close();
        QMetaObject::invokeMethod(this, [this] { --m_unheard; });
    });
}

void UsbtmcLink::send(const QByteArray& line, bool asks) {
    QMetaObject::invokeMethod(
        m_device, [device = m_device, message = line + m_lineEnd, asks] { device->exchange(message, asks); });
}

void UsbtmcLink::sendUrgent(const QByteArray& line) {
    m_device->interject(line + m_lineEnd);
    QMetaObject::invokeMethod(m_device, &UsbtmcDevice::writeUrgent);
}

} // namespace ustor
