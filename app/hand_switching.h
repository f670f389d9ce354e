#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/metronome_run.h"

namespace ustor {

class NextPanel;

/// An injection with a supply that has no remote control, in front of a person: what to set, then when to
/// switch, in words, in a count and by two tones; at the end, that the output has to be off.
class HandSwitching : public QObject {
    Q_OBJECT
  public:
    HandSwitching(BenchLink& bench, MetronomeRun::Settings settings, NextPanel& next,
                  QObject* parent = nullptr);
    /// Says what to set on the supply; the beats begin when the person is ready.
    void prepare(const QString& plus, const QString& minus);
    void stop();
    bool running() const { return m_run.running(); }
    /// Asked for, but nobody said yet that the supply is ready.
    bool waits() const { return m_waits; }
    const MetronomeRun& run() const { return m_run; }

  signals:
    void began();
    void refused(const QString& why);
    void live(const ustor::LiveHeat& heat);
    void finished(const ustor::InjectionOutcome& outcome);

  private:
    void begin();
    void count();

    NextPanel& m_next;
    MetronomeRun m_run;
    QTimer m_count;
    QString m_found;
    bool m_waits = true;
};

} // namespace ustor
