#include "bench/socket_address.h"

namespace ustor {

Result<SocketAddress> addressFromText(const QString& text) {
    constexpr quint16 customary = 5025;
    const auto colon = text.lastIndexOf(':');
    SocketAddress address{colon < 0 ? text.trimmed() : text.left(colon).trimmed(), customary};
    if (colon >= 0) {
        bool ok = false;
        address.port = text.mid(colon + 1).trimmed().toUShort(&ok);
        if (!ok || address.port == 0)
            return Error{say("the port must be a number from 1 to 65535"), text.toStdString(), {}};
    }
    if (address.host.isEmpty()) return Error{say("an address is host:port"), text.toStdString(), {}};
    return address;
}

} // namespace ustor
