#pragma once

#include <QDBusConnection>
#include <QDBusUnixFileDescriptor>
#include <QObject>

namespace ustor {

/// Keeps the machine awake while a supply's output is on, by the system's login service (logind, "Inhibit"
/// with "sleep" and "block"): a machine that sleeps watches nothing.
class SleepInhibitor : public QObject {
    Q_OBJECT
  public:
    explicit SleepInhibitor(const QDBusConnection& bus = QDBusConnection::systemBus(),
                            QObject* parent = nullptr);
    void hold(bool energised);
    bool holds() const { return m_lock.isValid(); }

  signals:
    /// The machine goes to sleep all the same.
    void aboutToSleep();
    /// Nobody can be asked; told once.
    void cannot(const QString& why);

  private slots:
    void prepare(bool sleeps);

  private:
    void ask();
    void tell(const QString& why);

    QDBusConnection m_bus;
    QDBusUnixFileDescriptor m_lock; ///< sleep is held off as long as it is open
    bool m_wanted = false, m_asked = false, m_told = false;
};

} // namespace ustor
