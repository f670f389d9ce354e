#pragma once

#include <QDBusUnixFileDescriptor>
#include <QObject>
#include <QStringList>
#include <cerrno>
#include <fcntl.h>
#include <unistd.h>

/// Plays the system's login service: hands out one end of a pipe and sees when it was closed.
class FakeLogin : public QObject {
    Q_OBJECT
    Q_CLASSINFO("D-Bus Interface", "org.freedesktop.login1.Manager")
  public:
    ~FakeLogin() override {
        if (m_read >= 0) ::close(m_read);
    }
    QStringList asked;
    bool released() const {
        char byte = 0;
        return m_read >= 0 && ::read(m_read, &byte, 1) == 0; // its other end is closed
    }

  public slots:
    QDBusUnixFileDescriptor Inhibit(const QString& what, const QString& who, const QString& why,
                                    const QString& mode) {
        asked = {what, who, why, mode};
        int ends[2] = {-1, -1};
        if (::pipe2(ends, O_NONBLOCK | O_CLOEXEC) != 0) return {};
        m_read = ends[0];
        QDBusUnixFileDescriptor given;
        given.giveFileDescriptor(ends[1]);
        return given;
    }

  signals:
    void PrepareForSleep(bool sleeps);

  private:
    int m_read = -1;
};
