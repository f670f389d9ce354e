#pragma once

#include "base/message.h"
#include "base/result.h"
#include "bench/instrument_profile.h"
#include "bench/line_link.h"

#include <QObject>
#include <QTimer>
#include <deque>
#include <functional>
#include <memory>

namespace ustor {

/// One instrument on any link: commands and queries in order, each query with a time-out; reconnects by
/// itself.
class ScpiConnection : public QObject {
    Q_OBJECT
  public:
    using Answer = std::function<void(const Result<QString>&)>;

    explicit ScpiConnection(QObject* parent = nullptr);
    ~ScpiConnection() override;

    void open(const InstrumentAddress& address, const InstrumentProfile& profile = {});
    void close();
    bool isOpen() const { return m_link && m_link->isOpen(); }
    bool nobodyListens() const { return m_link && m_link->nobodyListens(); }
    QString where() const { return m_address.place(); }
    const InstrumentProfile& profile() const { return m_profile; }

    /// The patience with one query. What this process itself slept meanwhile counts for little.
    void setTimeout(int milliseconds) { m_timeout_ms = milliseconds; }
    /// Sends a setting and reads the error queue behind it; the answer is the instrument's error or an empty
    /// text, which it is at once where the profile knows of no error queue.
    void set(const QString& command, Answer answer = {});
    void query(const QString& command, Answer answer);
    /// Sends in its turn, unchecked: for what only prepares the next command.
    void tell(const QString& command);
    /// Called in its turn, when all before it was answered; not at all where the connection breaks before.
    void afterAll(std::function<void()> then);
    /// Sends at once, before everything that waits: for switching off.
    void urgent(const QString& command);
    /// A setting that still waits is not sent any more, and nobody is told; what waits beside it is.
    void forget(const QString& command);
    int waiting() const { return static_cast<int>(m_queue.size()); }

  signals:
    void opened();
    void lost(const ustor::Message& why);

  private:
    struct Item {
        QString line;
        Answer answer;              ///< queries only
        std::function<void()> then; ///< nothing is sent: it is called
    };
    void connectNow();
    void sendNext();
    void takeLine(const QString& line);
    void fail(const Message& why);
    void awaitAnswer();
    void stillNoAnswer();

    std::unique_ptr<LineLink> m_link;
    InstrumentAddress m_address;
    InstrumentProfile m_profile;
    QTimer m_answerTimer, m_reconnectTimer;
    std::deque<Item> m_queue;
    bool m_pending = false, m_wanted = false;
    int m_timeout_ms = 1000;
    int m_slices = 0;   ///< of the patience with the query that was sent, used up
    int m_pause_ms = 0; ///< before the next try to connect; grows while none succeeds
    int m_unasked = 0;  ///< lines that nobody asked for, since the last that somebody did
};

} // namespace ustor
