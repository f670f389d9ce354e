#include "bench/usbtmc_link.h"

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
        emit closed(path + ": " + QString::fromLocal8Bit(std::strerror(errno)));
        return;
    }
    __u32 timeout_ms = UsbtmcLink::answer_ms;
    m_driver = ::ioctl(m_file, USBTMC_IOCTL_SET_TIMEOUT, &timeout_ms) == 0;
    if (m_driver) ::ioctl(m_file, USBTMC_IOCTL_CLEAR); // what is left of whoever spoke before
    emit opened();
}

void UsbtmcDevice::close() {
    if (m_file >= 0) ::close(m_file);
    m_file = -1;
}

void UsbtmcDevice::fail(const QString& doing) {
    const QString why = QString::fromLocal8Bit(std::strerror(errno));
    close();
    emit closed(doing + ": " + why);
}

/// The driver's own read waits for its time; of any other device it has to be asked first.
bool UsbtmcDevice::waitForAnswer() const {
    if (m_driver) return true;
    pollfd wait{m_file, POLLIN, 0};
    if (::poll(&wait, 1, UsbtmcLink::answer_ms) > 0) return true;
    errno = ETIMEDOUT;
    return false;
}

void UsbtmcDevice::exchange(const QByteArray& message, bool asks) {
    if (m_file < 0) return;
    if (::write(m_file, message.constData(), static_cast<std::size_t>(message.size())) != message.size()) {
        fail("writing");
        return;
    }
    if (!asks) return;
    QByteArray answer;
    constexpr qsizetype longest = 1 << 20;
    char chunk[4096];
    // An answer may come in several reads; its last byte is a new line (IEEE 488.2, 8.5).
    while (!answer.endsWith('\n') && answer.size() < longest) {
        if (!waitForAnswer()) return fail("reading");
        const auto size = ::read(m_file, chunk, sizeof chunk);
        if (size <= 0) return fail("reading");
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
    connect(m_device, &UsbtmcDevice::closed, this, [this](const QString& why) {
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

void UsbtmcLink::end(const QString& why) {
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

} // namespace ustor
