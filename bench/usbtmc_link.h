#pragma once

#include "bench/line_link.h"

#include <QThread>

namespace ustor {

/// Reads and writes of a USBTMC device block: they are done in a thread of their own, one after the other.
class UsbtmcDevice : public QObject {
    Q_OBJECT
  public:
    ~UsbtmcDevice() override { close(); }

  public slots:
    void open(const QString& path);
    /// Writes a message; where `asks`, reads the answer.
    void exchange(const QByteArray& message, bool asks);
    void close();

  signals:
    void opened();
    void closed(const QString& why);
    void line(const QByteArray& text);

  private:
    void fail(const QString& doing);
    bool waitForAnswer() const;

    int m_file = -1;
    bool m_driver = false; ///< the kernel's driver answers; else a character device that stands in for it
};

/// Messages over USB's test and measurement class, by the kernel's driver: one write a message, one read an
/// answer. An answer is waited for no longer than `answer_ms`, so that switching off is not held up by it.
class UsbtmcLink : public LineLink {
    Q_OBJECT
  public:
    static constexpr int answer_ms = 400;

    UsbtmcLink(QString device, QByteArray lineEnd);
    ~UsbtmcLink() override;
    void open() override;
    void close() override;
    void drop() override;
    bool isOpen() const override { return m_state == State::Open; }
    bool isIdle() const override { return m_state == State::Idle; }
    void send(const QByteArray& line, bool asks) override;

  private:
    enum class State { Idle, Opening, Open };
    void end(const QString& why);

    QString m_path;
    QByteArray m_lineEnd;
    QThread m_thread;
    UsbtmcDevice* m_device; ///< lives in the thread, ends with it
    State m_state = State::Idle;
    int m_unheard = 0; ///< answers of a time before the last opening
};

} // namespace ustor
