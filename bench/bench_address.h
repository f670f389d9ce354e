#pragma once

#include "base/result.h"

#include <QByteArray>
#include <QString>

namespace ustor {

/// Host and port of a device on a socket.
struct SocketAddress {
    QString host = "127.0.0.1";
    quint16 port = 0;
    bool known() const { return port != 0; }
    QString text() const { return host + ":" + QString::number(port); }
};

/// "host:port" or "host" with SCPI's customary port 5025.
Result<SocketAddress> addressFromText(const QString& text);

/// Where the instruments of a bench are. The control socket is only there on a simulated bench, and only
/// practice uses it.
struct BenchAddress {
    SocketAddress supply, meter, camera, control;
    double speed = 1;    ///< of the bench's time against the host's; 1 for anything real
    double patience = 1; ///< how many times longer a simulated bench may be silent; 1 for anything real
};

/// Reads the line that a simulated bench prints when it is ready.
Result<BenchAddress> benchFromReadyLine(const QByteArray& line);

} // namespace ustor
