#include "bench/instrument_address.h"

#include <QJsonDocument>
#include <QJsonObject>

namespace ustor {
namespace {

using Link = InstrumentAddress::Link;

struct Scheme {
    Link link;
    const char* word;
};
constexpr Scheme schemes[] = {
    {Link::Serial, "serial:"}, {Link::Usbtmc, "usbtmc:"}, {Link::Video, "v4l2:"}, {Link::Replay, "replay:"}};

Error wrong(const Message& what, const QString& text) {
    return {what, text.toStdString(), {}};
}

/// The part before the options.
Result<InstrumentAddress> placeFromText(const QString& text) {
    InstrumentAddress address;
    for (const Scheme& scheme : schemes)
        if (text.startsWith(scheme.word, Qt::CaseInsensitive)) {
            address.link = scheme.link;
            address.device = text.mid(static_cast<int>(qstrlen(scheme.word))).trimmed();
        }
    if (address.link == Link::None) {
        auto socket = addressFromText(text);
        if (!socket) return socket.error();
        // Its text with the port would be read as that link.
        for (const Scheme& scheme : schemes)
            if (QString(scheme.word).chopped(1).compare(socket.value().host, Qt::CaseInsensitive) == 0)
                return wrong(say("'{word}' is a link and no host: what it leads to is missing",
                                 {{"word", socket.value().host}}),
                             text);
        return InstrumentAddress(socket.value());
    }
    const auto at = address.device.lastIndexOf('@');
    if (address.link == Link::Serial && at >= 0) {
        bool ok = false;
        address.baud = address.device.mid(at + 1).toInt(&ok);
        constexpr int slowest = 300, fastest = 4000000;
        if (!ok || address.baud < slowest || address.baud > fastest)
            return wrong(say("the speed of a serial port is a number from 300 to 4000000"), text);
        address.device = address.device.left(at).trimmed();
    }
    if (address.device.isEmpty()) return wrong(say("the path is missing"), text);
    return address;
}

} // namespace

QString InstrumentAddress::place() const {
    if (link == Link::None) return {};
    if (link == Link::Socket) return socket.text();
    QString words = device;
    for (const Scheme& scheme : schemes)
        if (scheme.link == link) words.prepend(scheme.word);
    return link == Link::Serial ? words + "@" + QString::number(baud) : words;
}

QString InstrumentAddress::text() const {
    QString words = place();
    if (!profile.isEmpty()) words += "; profile=" + profile;
    if (channel != 1) words += "; channel=" + QString::number(channel);
    return words;
}

Result<InstrumentAddress> instrumentFromText(const QString& text) {
    const QStringList parts = text.split(';');
    auto read = placeFromText(parts.first().trimmed());
    if (!read) return read;
    InstrumentAddress& address = read.value();
    for (qsizetype i = 1; i < parts.size(); ++i) {
        const QString option = parts[i].trimmed();
        const QString value = option.mid(option.indexOf('=') + 1).trimmed();
        if (option.startsWith("profile=")) {
            address.profile = value;
        } else if (option.startsWith("channel=")) {
            bool ok = false;
            address.channel = value.toInt(&ok);
            if (!ok || address.channel < 1 || address.channel > 9)
                return wrong(say("a channel is a number from 1 to 9"), text);
        } else {
            return wrong(
                say("what follows ';' is profile=FILE or channel=N, not '{option}'", {{"option", option}}),
                text);
        }
    }
    return read;
}

Result<BenchAddress> benchFromReadyLine(const QByteArray& line) {
    const QJsonObject j = QJsonDocument::fromJson(line).object();
    if (j["format"].toString() != "ustor-standin/1" || !j["ready"].toBool())
        return Error{say("not the ready line of a simulated bench"), "stand-in", {}};
    const auto socket = [&j](const char* name) {
        return SocketAddress{"127.0.0.1", static_cast<quint16>(j[name].toInt())};
    };
    return BenchAddress{socket("supply"),  socket("meter"),        socket("camera"),
                        socket("control"), j["speed"].toDouble(1), j["patience"].toDouble(1)};
}

} // namespace ustor
