#pragma once

#include <QJsonObject>
#include <QObject>
#include <QPointer>
#include <QProcess>
#include <QStringList>
#include <QTimer>

namespace ustor {

/// The guard's side of its second: a process in a session of its own that switches off when the guard dies or
/// falls silent while the output may be on. It is started again when it ends.
class SecondProcess : public QObject {
    Q_OBJECT
  public:
    /// `command`: program and arguments; empty: there is none, and it always counts as alive.
    explicit SecondProcess(QStringList command, QObject* parent = nullptr);
    ~SecondProcess() override;
    bool alive() const;
    void beat();
    void watch(bool outputMayBeOn);
    void quit();

  signals:
    /// It does not stay alive.
    void failed();

  private:
    void start();
    void tell(const QJsonObject& message);

    QStringList m_command;
    QPointer<QProcess> m_process;
    QTimer m_again, m_lived;
    bool m_watches = false, m_told = false, m_quits = false;
    int m_failed = 0; ///< ends without having lived
};

} // namespace ustor
