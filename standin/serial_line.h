#pragma once

#include <QByteArray>
#include <QObject>
#include <QSocketNotifier>
#include <functional>
#include <memory>

namespace ustor::standin {

/// The far end of a serial cable: a pseudo terminal whose near end is opened like any serial port.
class SerialLine : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    ~SerialLine() override;
    /// The path of the near end; empty where the system has none to give.
    QString open();
    void write(const QByteArray& bytes) const;

  signals:
    void line(const QByteArray& text);

  private:
    void take();

    int m_far = -1, m_near = -1; ///< the near end is held open: else each leaving would be an error
    QByteArray m_buffer;
    std::unique_ptr<QSocketNotifier> m_notifier;
};

} // namespace ustor::standin
