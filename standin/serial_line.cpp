#include "standin/serial_line.h"

#include <cstdlib>
#include <fcntl.h>
#include <termios.h>
#include <unistd.h>

namespace ustor::standin {

SerialLine::~SerialLine() {
    m_notifier.reset();
    for (const int file : {m_near, m_far})
        if (file >= 0) ::close(file);
}

QString SerialLine::open() {
    m_far = ::posix_openpt(O_RDWR | O_NOCTTY | O_CLOEXEC | O_NONBLOCK);
    if (m_far < 0 || ::grantpt(m_far) != 0 || ::unlockpt(m_far) != 0) return {};
    char path[128];
    if (::ptsname_r(m_far, path, sizeof path) != 0) return {};
    m_near = ::open(path, O_RDWR | O_NOCTTY | O_CLOEXEC);
    termios raw{};
    if (m_near < 0 || ::tcgetattr(m_near, &raw) != 0) return {};
    ::cfmakeraw(&raw); // no echo, no line editing
    ::tcsetattr(m_near, TCSANOW, &raw);
    m_notifier = std::make_unique<QSocketNotifier>(m_far, QSocketNotifier::Read);
    connect(m_notifier.get(), &QSocketNotifier::activated, this, &SerialLine::take);
    return QString::fromLocal8Bit(path);
}

void SerialLine::write(const QByteArray& bytes) const {
    const auto written = ::write(m_far, bytes.constData(), static_cast<std::size_t>(bytes.size()));
    static_cast<void>(written); // a cable that nobody reads at its other end loses what is sent
}

void SerialLine::take() {
    char chunk[4096];
    const auto size = ::read(m_far, chunk, sizeof chunk);
    if (size <= 0) return;
    m_buffer.append(chunk, size);
    for (auto end = m_buffer.indexOf('\n'); end >= 0; end = m_buffer.indexOf('\n')) {
        const QByteArray text = m_buffer.left(end);
        m_buffer.remove(0, end + 1);
        emit line(text);
    }
}

} // namespace ustor::standin
