#pragma once

#include "base/message.h"
#include "bench/instrument_address.h"

#include <QByteArray>
#include <QObject>
#include <memory>

namespace ustor {

/// A way to an instrument that carries lines. Calls return at once.
class LineLink : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    /// `opened` or `closed` follows.
    virtual void open() = 0;
    /// Ends it; what was sent is still carried. No signal follows.
    virtual void close() = 0;
    /// Ends it at once: after a time-out, when a late answer must not be taken for another's. No signal
    /// follows.
    virtual void drop() = 0;
    virtual bool isOpen() const = 0;
    virtual bool isIdle() const = 0; ///< neither open nor on the way
    /// `asks`: an answer is expected. Some ways must fetch it.
    virtual void send(const QByteArray& line, bool asks) = 0;
    /// Sends before whatever else is on the way: for switching off. An answer that is waited for may be lost.
    virtual void sendUrgent(const QByteArray& line) { send(line, false); }

    /// The other end said that no program listens there, when last tried.
    virtual bool nobodyListens() const { return false; }

  signals:
    void opened();
    void closed(const ustor::Message& why);
    void line(const QByteArray& text); ///< without its end
};

/// The way that an address asks for; null for what carries no lines.
std::unique_ptr<LineLink> linkTo(const InstrumentAddress& address, const QByteArray& lineEnd);

} // namespace ustor
