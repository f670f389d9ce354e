#include "bench/bench_address.h"

#include <QJsonDocument>
#include <QJsonObject>

namespace ustor {

Result<SocketAddress> addressFromText(const QString& text) {
    constexpr quint16 customary = 5025;
    const auto colon = text.lastIndexOf(':');
    SocketAddress address{colon < 0 ? text.trimmed() : text.left(colon).trimmed(), customary};
    if (colon >= 0) {
        bool ok = false;
        address.port = text.mid(colon + 1).trimmed().toUShort(&ok);
        if (!ok || address.port == 0)
            return Error{"the port must be a number from 1 to 65535", text.toStdString(), ""};
    }
    if (address.host.isEmpty()) return Error{"an address is host:port", text.toStdString(), ""};
    return address;
}

Result<BenchAddress> benchFromReadyLine(const QByteArray& line) {
    const QJsonObject j = QJsonDocument::fromJson(line).object();
    if (j["format"].toString() != "ustor-standin/1" || !j["ready"].toBool())
        return Error{"not the ready line of a simulated bench", "stand-in", ""};
    const auto socket = [&j](const char* name) {
        return SocketAddress{"127.0.0.1", static_cast<quint16>(j[name].toInt())};
    };
    return BenchAddress{socket("supply"),  socket("meter"),        socket("camera"),
                        socket("control"), j["speed"].toDouble(1), j["patience"].toDouble(1)};
}

} // namespace ustor
