#include "session/still_file.h"
#include "base/input_bounds.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QImage>
#include <QImageReader>
#include <QJsonDocument>
#include <QJsonObject>
#include <QSaveFile>

namespace ustor {
namespace {

constexpr const char* nothingRead = toSay("nothing was read");

QString pathOf(const std::filesystem::path& file) {
    return QString::fromStdString(file.string());
}

/// Numbers of a grey picture with 16 bits.
cv::Mat numbersOf(const QImage& image) {
    cv::Mat numbers(image.height(), image.width(), CV_16UC1);
    for (int y = 0; y < numbers.rows; ++y)
        std::copy_n(reinterpret_cast<const std::uint16_t*>(image.constScanLine(y)), numbers.cols,
                    numbers.ptr<std::uint16_t>(y));
    return numbers;
}

cv::Mat coloursOf(const QImage& image) {
    const QImage rgb = image.convertToFormat(QImage::Format_RGB32);
    cv::Mat bgr(rgb.height(), rgb.width(), CV_8UC3);
    for (int y = 0; y < bgr.rows; ++y) {
        const auto* line = reinterpret_cast<const QRgb*>(rgb.constScanLine(y));
        for (int x = 0; x < bgr.cols; ++x)
            bgr.at<cv::Vec3b>(y, x) = {static_cast<uchar>(qBlue(line[x])),
                                       static_cast<uchar>(qGreen(line[x])),
                                       static_cast<uchar>(qRed(line[x]))};
    }
    return bgr;
}

Result<Still> fromPicture(const QString& path, const StillOptions& options, const std::string& where) {
    QImageReader reader(path);
    reader.setDecideFormatFromContent(true);
    const QImage image = reader.read();
    if (image.isNull()) return Error{verbatim(reader.errorString()), where, say(nothingRead)};
    if (image.format() == QImage::Format_Grayscale16)
        return stillFromNumbers(numbersOf(image), options.unit, where);
    if (!options.low_c || !options.high_c)
        return Error{say("a picture in colours: type what both ends of its scale bar say"), where,
                     say(nothingRead)};
    return stillFromColours(coloursOf(image), *options.low_c, *options.high_c, options.bar, where);
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
    constexpr int longest = 16;
    return file.open(QIODevice::ReadOnly) ? file.read(longest) : QByteArray();
}

bool isPicture(const QByteArray& head) {
    return startsLike(head, "\x89PNG", 4) || startsLike(head, "\xff\xd8\xff", 3) || startsLike(head, "BM", 2);
}

} // namespace

bool needsScale(const std::filesystem::path& file) {
    const QString path = pathOf(file);
    return isPicture(headOf(path)) && QImageReader(path).imageFormat() != QImage::Format_Grayscale16;
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
    if (isPicture(head)) return fromPicture(path, options, where);
    if (stream.size() > bounds::still_bytes || stream.peek(4096).contains('\0'))
        return Error{say("neither a picture that can be read nor a table of numbers"), where,
                     say(nothingRead)};
    return stillFromCsv(stream.readAll().toStdString(), options.unit, where);
}

} // namespace ustor
