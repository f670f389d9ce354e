#include "session/still_file.h"
#include "base/input_bounds.h"
#include "thermal/still/picture_file.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QSaveFile>

namespace ustor {
namespace {

constexpr const char* nothingRead = toSay("nothing was read");

QString pathOf(const std::filesystem::path& file) {
    return QString::fromStdString(file.string());
}

Result<Still> fromPicture(const StillOptions& options, const std::string& where) {
    const auto pixels = readPicture(where);
    if (!pixels) return pixels.error();
    if (pixels.value().channels() == 1) return stillFromNumbers(pixels.value(), options.unit, where);
    if (!options.low_c || !options.high_c)
        return Error{say("a picture in colours: type what both ends of its scale bar say"), where,
                     say(nothingRead)};
    return stillFromColours(pixels.value(), *options.low_c, *options.high_c, options.bar, where);
}

bool startsLike(const QByteArray& head, const char* magic, int length) {
    return head.startsWith(QByteArray(magic, length));
}

bool isTiff(const QByteArray& head) {
    return startsLike(head, "II*\0", 4) || startsLike(head, "MM\0*", 4) || startsLike(head, "II+\0", 4) ||
           startsLike(head, "MM\0+", 4);
}

QByteArray headOf(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.read(pictureHead_bytes) : QByteArray();
}

} // namespace

bool needsScale(const std::filesystem::path& file) {
    const std::string head = headOf(pathOf(file)).toStdString();
    return isPicture(head) && !isPictureOfNumbers(head);
}

namespace {

/// What is kept beside a still; empty where nothing is.
QJsonObject besideOf(const std::filesystem::path& file) {
    QFile beside(pathOf(file) + ".json");
    if (!beside.open(QIODevice::ReadOnly)) return {};
    const QJsonObject j = QJsonDocument::fromJson(beside.readAll()).object();
    return j["format"].toString() == "ustor-still/1" ? j : QJsonObject();
}

Outcome keepBeside(const std::filesystem::path& file, QJsonObject j) {
    QSaveFile beside(pathOf(file) + ".json");
    j["format"] = "ustor-still/1";
    if (!beside.open(QIODevice::WriteOnly) || beside.write(QJsonDocument(j).toJson()) < 0 || !beside.commit())
        return Error{verbatim(beside.errorString()), beside.fileName().toStdString(),
                     say("it holds until the page is left")};
    return Done{};
}

} // namespace

std::optional<StillScale> scaleOf(const std::filesystem::path& file) {
    const QJsonObject j = besideOf(file);
    if (!j["low_c"].isDouble() || !j["high_c"].isDouble()) return std::nullopt;
    return StillScale{j["low_c"].toDouble(), j["high_c"].toDouble()};
}

Outcome keepScale(const std::filesystem::path& file, StillScale scale) {
    QJsonObject j = besideOf(file);
    j["low_c"] = scale.low_c;
    j["high_c"] = scale.high_c;
    return keepBeside(file, j);
}

std::optional<Registration> placeOf(const std::filesystem::path& file) {
    const QJsonObject place = besideOf(file)["place"].toObject();
    if (place.isEmpty()) return std::nullopt;
    auto read = registrationFromJson(QJsonDocument(place).toJson().toStdString(), file.string());
    return read ? std::optional(std::move(read.value())) : std::nullopt;
}

Outcome keepPlace(const std::filesystem::path& file, const Registration& place) {
    QJsonObject j = besideOf(file);
    j["place"] = QJsonDocument::fromJson(QByteArray::fromStdString(registrationToJson(place))).object();
    return keepBeside(file, j);
}

Result<int> takeStillsIn(const std::vector<std::filesystem::path>& files,
                         const std::filesystem::path& caseFolder) {
    const QDir folder(pathOf(caseFolder / "stills"));
    folder.mkpath(".");
    int taken = 0;
    std::string refused;
    for (const auto& file : files) {
        const QFileInfo info(pathOf(file));
        QString name = info.fileName();
        for (int n = 2; folder.exists(name); ++n) // another still of that name is kept
            name = QString("%1-%2.%3").arg(info.completeBaseName()).arg(n).arg(info.suffix());
        if (QFile::copy(info.filePath(), folder.filePath(name)))
            ++taken;
        else
            refused += (refused.empty() ? "" : ", ") + file.string();
    }
    if (!refused.empty())
        return Error{say("could not be copied into the case"), refused,
                     say("stills taken in: {taken}", {{"taken", taken}})};
    return taken;
}

Result<Still> readStill(const std::filesystem::path& file, const StillOptions& options) {
    const QString path = pathOf(file);
    const std::string where = file.string();
    QFile stream(path);
    if (!stream.open(QIODevice::ReadOnly))
        return Error{verbatim(stream.errorString()), where, say(nothingRead)};
    const QByteArray head = headOf(path);
    if (head.isEmpty()) return Error{say("empty"), where, say(nothingRead)};
    if (isTiff(head)) {
        const auto page = readTiffPage(where);
        if (!page) return page.error();
        return stillFromNumbers(page.value(), options.unit, where);
    }
    if (isPicture(head.toStdString())) return fromPicture(options, where);
    if (stream.size() > bounds::still_bytes || stream.peek(4096).contains('\0'))
        return Error{say("neither a picture that can be read nor a table of numbers"), where,
                     say(nothingRead)};
    return stillFromCsv(stream.readAll().toStdString(), options.unit, where);
}

} // namespace ustor
