#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/flare_run.h"

namespace ustor {

class NextPanel;

/// A watch for flares in front of a person: that the board has to have its own power, then the seconds left.
class FlareWatch : public QObject {
    Q_OBJECT
  public:
    FlareWatch(BenchLink& bench, FlareRun::Settings settings, NextPanel& next, QObject* parent = nullptr);
    /// Asks for the board's own power; the watch begins when the person says that it is on.
    void prepare();
    void stop() { m_run.stop(StopCause::Person); }
    bool running() const { return m_run.running(); }
    /// Asked for, but nobody said yet that the board has power.
    bool waits() const { return m_waits; }

  signals:
    void refused(const QString& why);
    void finished(const ustor::FlareRun::End& end);

  private:
    void begin();
    void count();

    NextPanel& m_next;
    FlareRun m_run;
    QTimer m_count;
    bool m_waits = true;
};

} // namespace ustor
