#include "bench/serial_link.h"
#include "base/input_bounds.h"

#include "bench/take_lines.h"

#include <utility>

namespace ustor {

SerialLink::SerialLink(const QString& device, int baud, QByteArray lineEnd) : m_lineEnd(std::move(lineEnd)) {
    m_port.setPortName(device);
    m_port.setBaudRate(baud);
    m_port.setReadBufferSize(bounds::waiting_bytes);
    connect(&m_port, &QSerialPort::readyRead, this, &SerialLink::take);
    connect(&m_port, &QSerialPort::errorOccurred, this, [this](QSerialPort::SerialPortError error) {
        // What a pulled cable raises; the others are told by `open` or end in a time-out.
        if (error == QSerialPort::ResourceError || error == QSerialPort::ReadError ||
            error == QSerialPort::WriteError)
            end(verbatim(m_port.errorString()));
    });
}

SerialLink::~SerialLink() {
    m_port.disconnect(this);
}

void SerialLink::take() {
    if (!takeLines(m_port, *this, [this] { take(); })) end(say(endlessAnswer));
}

void SerialLink::open() {
    if (!m_port.open(QIODevice::ReadWrite)) {
        emit closed(verbatim(m_port.portName() + ": " + m_port.errorString()));
        return;
    }
    m_port.clear(); // an answer to whoever spoke before
    emit opened();
}

void SerialLink::close() {
    if (!m_port.isOpen()) return;
    m_port.flush();
    m_port.close();
}

void SerialLink::drop() {
    if (m_port.isOpen()) m_port.close();
}

void SerialLink::end(const Message& why) {
    if (!m_port.isOpen()) return;
    m_port.close();
    emit closed(why);
}

void SerialLink::send(const QByteArray& line, bool /*asks*/) {
    m_port.write(line + m_lineEnd);
    m_port.flush();
}

} // namespace ustor
