#include "bench/instrument_profile.h"
#include "base/input_bounds.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <cmath>
#include <functional>
#include <utility>
#include <vector>

namespace ustor {
namespace {

/// Takes the keys of one object one by one; the first that does not fit is the error.
class Keys {
  public:
    explicit Keys(QJsonObject object) : m_left(std::move(object)) {}

    void text(const char* key, QString& value) {
        take(key, [&](const QJsonValue& j) {
            if (j.isString())
                value = j.toString();
            else
                wrong(key, say("a text"));
        });
    }
    void words(const char* key, QStringList& value) {
        take(key, [&](const QJsonValue& j) {
            value.clear();
            for (const QJsonValue one : j.toArray())
                value << one.toString();
            if (value.isEmpty() || value.contains(QString())) wrong(key, say("a list of texts"));
        });
    }
    /// May be empty.
    void list(const char* key, QStringList& value) {
        take(key, [&](const QJsonValue& j) {
            for (const QJsonValue one : j.toArray())
                value << one.toString();
            if (!j.isArray() || value.contains(QString())) wrong(key, say("a list of commands"));
        });
    }
    void number(const char* key, double& value, double low, double high) {
        take(key, [&](const QJsonValue& j) {
            if (j.isDouble() && j.toDouble() >= low && j.toDouble() <= high)
                value = j.toDouble();
            else
                wrong(key, say("a number from {low} to {high}",
                               {{"low", QString::number(low)}, {"high", QString::number(high)}}));
        });
    }
    void whole(const char* key, int& value, int low, int high) {
        double number = value;
        this->number(key, number, low, high);
        if (number != std::floor(number)) wrong(key, say("a whole number"));
        value = static_cast<int>(number);
    }
    void box(const char* key, PictureCrop& value) {
        take(key, [&](const QJsonValue& j) {
            const QJsonArray a = j.toArray();
            value = {a.at(0).toInt(-1), a.at(1).toInt(-1), a.at(2).toInt(-1), a.at(3).toInt(-1)};
            if (a.size() != 4 || value.x < 0 || value.y < 0 || value.width < 1 || value.height < 1)
                wrong(key, say("[x, y, width, height] in whole pixels"));
        });
    }
    void take(const char* key, const std::function<void(const QJsonValue&)>& read) {
        if (m_left.contains(key)) read(m_left.take(key));
    }
    void wrong(const QString& key, const Message& wanted) {
        if (m_wrong.empty()) m_wrong = say("'{key}' must be {wanted}", {{"key", key}, {"wanted", wanted}});
    }
    /// Empty where all was understood.
    Message complaint() const {
        if (!m_wrong.empty() || m_left.isEmpty()) return m_wrong;
        return say("'{key}' is nothing that this kind of profile knows", {{"key", m_left.keys().first()}});
    }

  private:
    QJsonObject m_left;
    Message m_wrong;
};

const QString notGiven("\n"); // no command holds a line's end

/// How a setting is read back by SCPI's custom: its header with a question mark, what names a channel behind
/// it.
QString questionOf(const QString& setting) {
    if (setting.isEmpty()) return {};
    const auto channel = setting.indexOf("(@");
    return setting.section(' ', 0, 0) + "?" + (channel < 0 ? QString() : " " + setting.mid(channel));
}

void readSupply(Keys& keys, InstrumentProfile& p) {
    constexpr int mostChannels = 9;
    keys.whole("channels", p.channels, 1, mostChannels);
    const std::vector<std::pair<const char*, QString*>> commands{{"select", &p.select},
                                                                 {"set_trip", &p.setTrip},
                                                                 {"set_amps", &p.setAmps},
                                                                 {"set_volts", &p.setVolts},
                                                                 {"ask_trip", &p.askTrip},
                                                                 {"ask_amps", &p.askAmps},
                                                                 {"ask_volts", &p.askVolts},
                                                                 {"ask_channel", &p.askChannel},
                                                                 {"on", &p.on},
                                                                 {"off", &p.off},
                                                                 {"ask_output", &p.askOutput},
                                                                 {"read_volts", &p.readVolts},
                                                                 {"read_amps", &p.readAmps}};
    p.askTrip = p.askAmps = p.askVolts = notGiven;
    for (const auto& [key, command] : commands)
        keys.text(key, *command);
    for (const auto& [ask, set] :
         {std::pair{&p.askTrip, p.setTrip}, {&p.askAmps, p.setAmps}, {&p.askVolts, p.setVolts}})
        if (*ask == notGiven) *ask = questionOf(set);
    keys.list("watchdog", p.watchdog);
    keys.list("before_on", p.beforeOn);
    keys.words("on_words", p.onWords);
    keys.words("off_words", p.offWords);
    const std::vector<std::pair<const char*, QString>> musts{
        {"set_amps", p.setAmps},  {"set_volts", p.setVolts},   {"on", p.on},
        {"off", p.off},           {"ask_output", p.askOutput}, {"read_volts", p.readVolts},
        {"read_amps", p.readAmps}};
    for (const auto& [key, command] : musts)
        if (command.isEmpty()) keys.wrong(key, say("a command: nothing works without it"));
    if (!p.setVolts.contains("{volts}"))
        keys.wrong("set_volts", say("a command with {place} in it", {{"place", "{volts}"}}));
    if (!p.setAmps.contains("{amps}"))
        keys.wrong("set_amps", say("a command with {place} in it", {{"place", "{amps}"}}));
    if (!p.setTrip.isEmpty() && !p.setTrip.contains("{volts}"))
        keys.wrong("set_trip", say("a command with {place} in it, or empty", {{"place", "{volts}"}}));
    if (p.error.isEmpty() && (p.askAmps.isEmpty() || p.askVolts.isEmpty()))
        keys.wrong("ask_volts",
                   say("given, and 'ask_amps' too: without an error queue settings are read back"));
}

void readMeter(Keys& keys, InstrumentProfile& p) {
    keys.text("read_ohms", p.readOhms);
    keys.text("read_diode", p.readDiode);
    keys.text("read_beep", p.readBeep);
    keys.text("read_volts", p.readDcVolts);
    keys.number("over_range", p.overRange, 1, 1e300);
    keys.whole("answer_ms", p.answer_ms, 100, 60000);
}

void readCamera(Keys& keys, InstrumentProfile& p) {
    using bounds::narrowest_px, bounds::widest_px;
    keys.number("kelvin_per_count", p.kelvinPerCount, 1e-6, 10);
    keys.number("kelvin_offset", p.kelvinOffset, -1000, 1000);
    keys.number("netd_mk", p.netd_mk, 1, 1000);
    keys.number("frame_rate_hz", p.frameRate_hz, 0, 1000);
    keys.whole("width", p.width, narrowest_px, widest_px);
    keys.whole("height", p.height, narrowest_px, widest_px);
    keys.box("crop", p.crop);
}

int lineOf(const QByteArray& text, int offset) {
    return 1 + static_cast<int>(text.left(offset).count('\n'));
}

} // namespace

QString wordOf(InstrumentProfile::Kind kind) {
    return kind == InstrumentProfile::Kind::Supply  ? "supply"
           : kind == InstrumentProfile::Kind::Meter ? "meter"
                                                    : "camera";
}

Message labelOf(InstrumentProfile::Kind kind) {
    return kind == InstrumentProfile::Kind::Supply  ? say("supply")
           : kind == InstrumentProfile::Kind::Meter ? say("meter")
                                                    : say("camera");
}

Result<InstrumentProfile> profileFromJson(const QByteArray& json, const QString& where) {
    const auto wrong = [&where](const Message& what) {
        return Error{what, where.toStdString(), say("no instrument is spoken to by this profile")};
    };
    QJsonParseError fault;
    const QJsonDocument document = QJsonDocument::fromJson(json, &fault);
    if (fault.error != QJsonParseError::NoError)
        return wrong(say("line {line}: {fault}",
                         {{"line", lineOf(json, fault.offset)}, {"fault", fault.errorString()}}));
    QJsonObject object = document.object();
    if (object.take("format").toString() != "ustor-instrument/1")
        return wrong(say("not an instrument profile: \"format\" must be \"ustor-instrument/1\""));
    InstrumentProfile profile;
    const QString kind = object.take("kind").toString();
    Keys keys(object);
    keys.text("name", profile.name);
    if (kind == "camera") {
        profile.kind = InstrumentProfile::Kind::Camera;
        readCamera(keys, profile);
    } else if (kind == "supply" || kind == "meter") {
        QString end = QString::fromLatin1(profile.lineEnd);
        keys.text("line_end", end);
        if (end != "\n" && end != "\r\n" && end != "\r") keys.wrong("line_end", say("\\n, \\r\\n or \\r"));
        profile.lineEnd = end.toLatin1();
        keys.text("identity", profile.identity);
        keys.text("clear", profile.clear);
        keys.text("error", profile.error);
        if (profile.identity.isEmpty())
            keys.wrong("identity", say("a query: it shows that somebody answers"));
        if (kind == "meter") profile.kind = InstrumentProfile::Kind::Meter;
        kind == "meter" ? readMeter(keys, profile) : readSupply(keys, profile);
    } else {
        return wrong(say("\"kind\" must be \"supply\", \"meter\" or \"camera\""));
    }
    if (const Message complaint = keys.complaint(); !complaint.empty()) return wrong(complaint);
    return profile;
}

Result<InstrumentProfile> profileFor(const QString& path, InstrumentProfile::Kind kind) {
    if (path.isEmpty()) {
        InstrumentProfile plain;
        plain.kind = kind;
        return plain;
    }
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly)) return Error{verbatim(file.errorString()), path.toStdString(), {}};
    auto read = profileFromJson(file.read(bounds::profile_bytes), path);
    if (read && read.value().kind != kind)
        return Error{say("this profile is for a {own}, not for a {wanted}",
                         {{"own", labelOf(read.value().kind)}, {"wanted", labelOf(kind)}}),
                     path.toStdString(),
                     {}};
    return read;
}

} // namespace ustor
