#pragma once

#include "bench/line_link.h"

#include <QMutex>
#include <QThread>

namespace ustor {

/// Reads and writes of a USBTMC device block: they are done in a thread of their own, one after the other.
/// While an answer is waited for, what is urgent is written in between.
class UsbtmcDevice : public QObject {
    Q_OBJECT
  public:
    ~UsbtmcDevice() override { close(); }
    /// From any thread: written before what waits, within some milliseconds even while an answer is awaited.
    void interject(const QByteArray& message);

  public slots:
    void open(const QString& path);
    /// Writes a message; where `asks`, reads the answer.
    void exchange(const QByteArray& message, bool asks);
    void writeUrgent(); ///< what was interjected and is not written yet
    void close();

  signals:
    void opened();
    void closed(const ustor::Message& why);
    void line(const QByteArray& text);

  private:
    enum class Wait { Ready, Interrupted, Failed };
    bool write(const QByteArray& message);
    void fail(const Message& doing);
    Wait waitForAnswer();
    bool answerWaits(int slice_ms);

    int m_file = -1;
    bool m_driver = false; ///< the kernel's driver answers; else a character device that stands in for it
    bool m_status = false; ///< the driver reads the status byte: then it is known whether an answer waits
    QMutex m_mutex;
    QByteArrayList m_urgent; ///< by any thread
};

/// Messages over USB's test and measurement class, by the kernel's driver: one write a message, one read an
/// answer. An answer is asked for only when one waits, so that switching off is not held up by a read; where
/// the instrument has no status byte a read blocks for `answer_ms` at most.
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
    void sendUrgent(const QByteArray& line) override;

  private:
    enum class State { Idle, Opening, Open };
    void end(const Message& why);

    QString m_path;
    QByteArray m_lineEnd;
    QThread m_thread;
    UsbtmcDevice* m_device; ///< lives in the thread, ends with it
    State m_state = State::Idle;
    int m_unheard = 0; ///< answers of a time before the last opening
};

} // namespace ustor
