#pragma once

#include "bench/line_link.h"

#include <QSerialPort>

namespace ustor {

/// Lines over a serial port, or over USB that looks like one.
class SerialLink : public LineLink {
    Q_OBJECT
  public:
    SerialLink(const QString& device, int baud, QByteArray lineEnd);
    ~SerialLink() override;
    void open() override;
    void close() override;
    void drop() override;
    bool isOpen() const override { return m_port.isOpen(); }
    bool isIdle() const override { return !m_port.isOpen(); }
    void send(const QByteArray& line, bool asks) override;

  private:
    void take();
    void end(const Message& why);

    QByteArray m_lineEnd;
    QSerialPort m_port;
};

} // namespace ustor
