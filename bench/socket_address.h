#pragma once

#include "base/result.h"

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

} // namespace ustor
