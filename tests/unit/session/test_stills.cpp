#include "base/random.h"
#include "session/still_file.h"
#include "support/recordings.h"
#include "thermal/recording_writer.h"
#include "thermal/still/picture_file.h"
#include "unit/session/test_session.h"

#include <QFile>
#include <QImage>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>
#include <opencv2/imgproc.hpp>

using namespace ustor;

namespace {

constexpr double low_c = 22, high_c = 46;
constexpr PixelPoint spot{140.3, 90.6};

/// A warm board: a slope and a spot; one corner beyond the bar's hot end.
double sceneCelsius(int x, int y) {
    const double r2 = (x - spot.x_px) * (x - spot.x_px) + (y - spot.y_px) * (y - spot.y_px);
    const double corner2 = (x - 20.0) * (x - 20.0) + (y - 200.0) * (y - 200.0);
    return 25 + 0.02 * x + 14 * std::exp(-r2 / 800) + 40 * std::exp(-corner2 / 300);
}

struct Drawn {
    cv::Mat bgr;
    cv::Mat overlaid; ///< where words and marks lie
    cv::Rect bar;
};

/// Coloured by a published map of an independent library, with a scale bar, its frame, words and a cross over
/// the heat, as cameras draw them.
Drawn drawn(int map, bool upright) {
    constexpr int width = 320, height = 240;
    Drawn d;
    cv::Mat grey(height, width, CV_8UC1);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            grey.at<uchar>(y, x) =
                cv::saturate_cast<uchar>(255 * (sceneCelsius(x, y) - low_c) / (high_c - low_c));
    cv::applyColorMap(grey, d.bgr, map);
    d.overlaid = cv::Mat::zeros(d.bgr.size(), CV_8UC1);
    for (cv::Mat* to : {&d.bgr, &d.overlaid}) {
        const cv::Scalar white(255, 255, 255);
        cv::putText(*to, "spot 39.2 C", {8, 20}, cv::FONT_HERSHEY_PLAIN, 1, white, 1);
        cv::line(*to, {130, 91}, {150, 91}, white, 1);
        cv::line(*to, {140, 81}, {140, 101}, white, 1);
    }
    d.bar = upright ? cv::Rect(296, 24, 12, 192) : cv::Rect(40, 222, 220, 10);
    cv::Mat ramp(upright ? d.bar.height : 1, upright ? 1 : d.bar.width, CV_8UC1);
    for (int i = 0; i < static_cast<int>(ramp.total()); ++i) {
        const double share = (i + 0.5) / static_cast<double>(ramp.total());
        ramp.data[i] = cv::saturate_cast<uchar>(255 * (upright ? 1 - share : share));
    }
    cv::Mat coloured;
    cv::applyColorMap(ramp, coloured, map);
    cv::resize(coloured, coloured, d.bar.size(), 0, 0, cv::INTER_NEAREST);
    cv::rectangle(d.bgr, d.bar + cv::Size(4, 4) - cv::Point(2, 2), {0, 0, 0}, cv::FILLED);
    coloured.copyTo(d.bgr(d.bar));
    cv::rectangle(d.overlaid, d.bar + cv::Size(6, 6) - cv::Point(3, 3), {255}, cv::FILLED);
    cv::dilate(d.overlaid, d.overlaid, cv::Mat());
    return d;
}

QString saved(const cv::Mat& bgr, const QTemporaryDir& folder, const char* ending) {
    QImage image(bgr.cols, bgr.rows, QImage::Format_RGB32);
    for (int y = 0; y < bgr.rows; ++y)
        for (int x = 0; x < bgr.cols; ++x) {
            const auto& c = bgr.at<cv::Vec3b>(y, x);
            image.setPixel(x, y, qRgb(c[2], c[1], c[0]));
        }
    QString file = folder.filePath(QString("still.") + ending);
    constexpr int quality = 92;
    image.save(file, nullptr, quality);
    return file;
}

void write(const QString& file, const QByteArray& bytes) {
    QFile out(file);
    QVERIFY(out.open(QIODevice::WriteOnly));
    out.write(bytes);
}

/// 1 K of texture, and one frame of a rendered pulse on it.
Still textured(const cv::Mat& centikelvin) {
    cv::Mat numbers = centikelvin.clone();
    for (int y = 0; y < numbers.rows; ++y)
        for (int x = 0; x < numbers.cols; ++x)
            numbers.at<std::uint16_t>(y, x) = static_cast<std::uint16_t>(
                numbers.at<std::uint16_t>(y, x) + 100 + 100 * std::sin(0.55 * x) * std::cos(0.4 * y));
    return stillFromNumbers(numbers, StillUnit::Centikelvin, "still").value();
}

} // namespace

void TestStills::coloursGiveTheirTemperatures_data() {
    QTest::addColumn<int>("map");
    QTest::addColumn<bool>("upright");
    QTest::addColumn<QByteArray>("ending");
    QTest::newRow("inferno, upright") << int(cv::COLORMAP_INFERNO) << true << QByteArray("png");
    QTest::newRow("viridis, lying") << int(cv::COLORMAP_VIRIDIS) << false << QByteArray("png");
    QTest::newRow("turbo, lossy") << int(cv::COLORMAP_TURBO) << true << QByteArray("jpg");
    QTest::newRow("plasma, lying and lossy") << int(cv::COLORMAP_PLASMA) << false << QByteArray("jpg");
    QTest::newRow("grey ends in white") << int(cv::COLORMAP_BONE) << true << QByteArray("png");
}

void TestStills::coloursGiveTheirTemperatures() {
    QFETCH(int, map);
    QFETCH(bool, upright);
    QFETCH(QByteArray, ending);
    const QTemporaryDir folder;
    const Drawn d = drawn(map, upright);
    const QString file = saved(d.bgr, folder, ending.constData());
    QVERIFY(needsScale(file.toStdString()));
    QVERIFY(!readStill(file.toStdString()).ok()); // nobody said what the ends are
    const auto read = readStill(file.toStdString(), {StillUnit::Guess, low_c, high_c, {}});
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    const bool lossy = ending == "jpg";
    long wrong = 0, seen = 0, plain = 0, marked = 0, saturated = 0;
    for (int y = 0; y < d.bgr.rows; ++y)
        for (int x = 0; x < d.bgr.cols; ++x) {
            const double truth = sceneCelsius(x, y), told = read.value().celsius.at<float>(y, x);
            if (d.overlaid.at<uchar>(y, x)) {
                if (std::isfinite(told) && std::fabs(told - truth) > 2) ++marked;
                continue;
            }
            if (truth > high_c + 1) {
                saturated += std::isfinite(told);
                continue;
            }
            if (truth > high_c - 1) continue;
            ++plain;
            if (!std::isfinite(told)) continue;
            ++seen;
            // One step of 256 colours is 0.1 K, and where a dark end meets a dark frame one line in a hundred
            // of the span is not certain; a lossy file blurs colours by some steps.
            wrong += std::fabs(told - truth) > (lossy ? 1.0 : 0.4);
        }
    const auto told = [&] {
        return QString("%1 of %2 seen, %3 wrong, %4 marks, %5 saturated taken")
            .arg(seen)
            .arg(plain)
            .arg(wrong)
            .arg(marked)
            .arg(saturated);
    };
    QVERIFY2(static_cast<double>(seen) > 0.97 * static_cast<double>(plain), qPrintable(told()));
    QVERIFY2(static_cast<double>(wrong) < (lossy ? 0.02 : 0.001) * static_cast<double>(seen),
             qPrintable(told()));
    QVERIFY2(marked < 60 && saturated < 20, qPrintable(told()));
    QVERIFY(read.value().step_k > 0.05 && read.value().step_k < 0.2);
}

void TestStills::numbersOfManyFiles() {
    const QTemporaryDir folder;
    // 16-bit grey PNG in centikelvin, as another library writes it.
    QImage grey(40, 30, QImage::Format_Grayscale16);
    for (int y = 0; y < 30; ++y)
        for (int x = 0; x < 40; ++x)
            reinterpret_cast<std::uint16_t*>(grey.scanLine(y))[x] =
                static_cast<std::uint16_t>(29815 + 10 * x + y);
    const QString png = folder.filePath("grey.png");
    QVERIFY(grey.save(png));
    QVERIFY(!needsScale(png.toStdString()));
    const auto fromPng = readStill(png.toStdString());
    QVERIFY(fromPng.ok());
    QVERIFY(std::fabs(fromPng.value().celsius.at<float>(7, 20) - (25 + 2.0 + 0.07)) < 1e-3);
    QVERIFY(fromPng.value().notes.front().text().find("centikelvin") != std::string::npos);
    // The first page of a recording.
    testing::RenderSettings settings;
    settings.seconds = 1;
    const Recording recording = testing::render({}, settings);
    const auto writer = RecordingWriter::create(folder.filePath("r").toStdString(), recording.info);
    QVERIFY(writer.value()->add(recording.frames.front()).ok());
    const auto fromTiff = readStill(folder.filePath("r/frames.tiff").toStdString());
    QVERIFY(fromTiff.ok());
    QVERIFY(std::fabs(cv::mean(fromTiff.value().celsius)[0] - 25) < 0.2);
    // A table with a head of words, semicolons and decimal commas.
    QByteArray table = "\xef\xbb\xbf"
                       "Camera;thermal\r\nEmissivity;0,95\r\n";
    for (int y = 0; y < 12; ++y) {
        for (int x = 0; x < 16; ++x)
            table += QByteArray::number(20 + x + 0.25 * y).replace('.', ',') + ';';
        table += "\r\n";
    }
    write(folder.filePath("table.csv"), table);
    const auto fromCsv = readStill(folder.filePath("table.csv").toStdString());
    QVERIFY2(fromCsv.ok(), fromCsv.ok() ? "" : fromCsv.error().text().c_str());
    QCOMPARE(fromCsv.value().celsius.size(), cv::Size(16, 12));
    QCOMPARE(fromCsv.value().celsius.at<float>(2, 3), 23.5F);
}

// The toolkit's own readers and writers of pictures are the other opinion.
void TestStills::picturesOfEachKind_data() {
    QTest::addColumn<QByteArray>("ending");
    QTest::addColumn<int>("format");
    QTest::addColumn<int>("off"); // by so many steps of a colour
    QTest::newRow("PNG in colours") << QByteArray("png") << int(QImage::Format_RGB888) << 0;
    QTest::newRow("PNG with a palette") << QByteArray("png") << int(QImage::Format_Indexed8) << 0;
    QTest::newRow("PNG of grey") << QByteArray("png") << int(QImage::Format_Grayscale8) << 0;
    QTest::newRow("PNG with transparency") << QByteArray("png") << int(QImage::Format_ARGB32) << 0;
    QTest::newRow("PNG with 16 bits a colour") << QByteArray("png") << int(QImage::Format_RGBA64) << 0;
    QTest::newRow("JPEG") << QByteArray("jpg") << int(QImage::Format_RGB888) << 2;
    QTest::newRow("JPEG of grey") << QByteArray("jpg") << int(QImage::Format_Grayscale8) << 2;
    QTest::newRow("BMP") << QByteArray("bmp") << int(QImage::Format_RGB888) << 0;
    QTest::newRow("BMP with a palette") << QByteArray("bmp") << int(QImage::Format_Indexed8) << 0;
}

void TestStills::picturesOfEachKind() {
    QFETCH(QByteArray, ending);
    QFETCH(int, format);
    QFETCH(int, off);
    const QTemporaryDir folder;
    const auto path = [&](const char* name) { return folder.filePath(QString(name) + "." + ending); };
    const auto error = [](const QString& file) {
        const auto read = readPicture(file.toStdString());
        return read ? QString() : QString::fromStdString(read.error().text());
    };
    QImage image(61, 37, QImage::Format_RGB888);
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x)
            image.setPixel(x, y, qRgb(4 * x, 255 - 3 * y, 2 * x + y));
    image = image.convertToFormat(static_cast<QImage::Format>(format));
    QVERIFY(image.save(path("whole"), nullptr, 100));
    const auto read = readPicture(path("whole").toStdString());
    QVERIFY2(read.ok(), qPrintable(error(path("whole"))));
    const cv::Mat& pixels = read.value();
    QCOMPARE(pixels.type(), CV_8UC3);
    const QImage seen(path("whole"));
    QCOMPARE(QSize(pixels.cols, pixels.rows), seen.size());
    for (int y = 0; y < pixels.rows; ++y)
        for (int x = 0; x < pixels.cols; ++x) {
            const auto& c = pixels.at<cv::Vec3b>(y, x);
            const QRgb other = seen.pixel(x, y);
            QVERIFY(std::abs(c[0] - qBlue(other)) <= off && std::abs(c[1] - qGreen(other)) <= off &&
                    std::abs(c[2] - qRed(other)) <= off);
        }
    // Cut off: half a picture is no picture. And one that is larger than any camera's.
    QFile whole(path("whole"));
    QVERIFY(whole.open(QIODevice::ReadOnly));
    const QByteArray bytes = whole.readAll();
    write(path("cut"), bytes.left(bytes.size() / 2));
    QVERIFY2(error(path("cut")).contains("cut."), qPrintable(error(path("cut"))));
    QVERIFY(image.scaled(5000, 9).save(path("wide")));
    QVERIFY(error(path("wide")).contains("5000 by 9"));
}

void TestStills::mapsAreWrittenAsPictures() {
    const QTemporaryDir folder;
    cv::Mat colours(20, 30, CV_8UC4);
    for (int y = 0; y < colours.rows; ++y)
        for (int x = 0; x < colours.cols; ++x)
            colours.at<cv::Vec4b>(y, x) = {static_cast<uchar>(8 * x), static_cast<uchar>(12 * y), 200,
                                           static_cast<uchar>(x > 3 ? 255 : 0)};
    const QString file = folder.filePath("map.png");
    QVERIFY(writePng(colours, file.toStdString()).ok());
    const QImage seen(file);
    QCOMPARE(seen.size(), QSize(30, 20));
    QCOMPARE(seen.pixel(7, 9), qRgba(200, 108, 56, 255));
    QCOMPARE(qAlpha(seen.pixel(2, 9)), 0);
    const auto wrong = writePng(colours, folder.filePath("no/such/map.png").toStdString());
    QVERIFY(!wrong.ok() && wrong.error().where.find("map.png") != std::string::npos);
}

void TestStills::wrongFilesAreTold() {
    const QTemporaryDir folder;
    const auto wrong = [&](const char* name, const QByteArray& bytes, const char* said) {
        write(folder.filePath(name), bytes);
        const auto read =
            readStill(folder.filePath(name).toStdString(), {StillUnit::Guess, low_c, high_c, {}});
        QVERIFY2(!read.ok(), name);
        QVERIFY2(read.error().text().find(said) != std::string::npos, read.error().text().c_str());
        QVERIFY(read.error().text().find(name) != std::string::npos);
    };
    wrong("empty.csv", "", "empty");
    wrong("words.csv", "no numbers here\nnor here\n", "no rows of numbers");
    QByteArray rows;
    for (int y = 0; y < 10; ++y)
        rows += y == 6 ? "20,20,20,20\n" : "20,20,20,20,20,20,20,20\n";
    wrong("short.csv", rows, "short.csv:7");
    wrong("cold.csv", QByteArray("-300,-300,-300,-300,-300,-300,-300,-300\n").repeated(10),
          "name their unit");
    wrong("small.csv", QByteArray("20,20,20,20\n").repeated(10), "between 8 and 4096");
    wrong("binary.dat", QByteArray("\0\1\2\3abc", 7), "neither a picture");
    wrong("cut.png",
          "\x89PNG\r\n\x1a\n"
          "cut",
          "");
    wrong("cut.tiff", QByteArray("II*\0\x10\0\0\0", 8), "TIFF");
    cv::Mat flat(240, 320, CV_8UC3, cv::Scalar(30, 60, 90));
    const QString noBar = saved(flat, folder, "png");
    const auto read = readStill(noBar.toStdString(), {StillUnit::Guess, low_c, high_c, {}});
    QVERIFY(!read.ok() && read.error().text().find("no scale bar") != std::string::npos);
    // Ends the wrong way round, and a bar that is none.
    QVERIFY(!readStill(noBar.toStdString(), {StillUnit::Guess, high_c, low_c, {}}).ok());
    QVERIFY(!readStill(noBar.toStdString(), {StillUnit::Guess, low_c, high_c, ScaleBar{{0, 0, 9, 90}, true}})
                 .ok());
    QVERIFY(!readStill(folder.filePath("missing.png").toStdString()).ok());
}

// A part that warms by the closed form of a line source in a plate (Carslaw and Jaeger, 10.4), the camera
// moved by a known shift between the two stills.
void TestStills::differenceShowsWhatWarmed() {
    testing::RenderSettings settings;
    settings.seconds = 4;
    settings.on_s = 1.5;
    settings.off_s = 1;
    const PixelPoint at{30.4, 20.6};
    const Recording recording = testing::render({{at, 0.4}}, settings);
    const Still before = textured(recording.frames.front().centikelvin);
    std::size_t warmest = 0;
    for (std::size_t i = 0; i < recording.frames.size(); ++i)
        if (recording.frames[i].time_s < 2.45) warmest = i; // at the end of the first pulse
    Still warm = textured(recording.frames[warmest].centikelvin);
    const auto still = stillDifference(warm, before);
    QVERIFY(still.ok());
    QVERIFY(!still.value().spots.empty());
    QVERIFY(distance_px(still.value().spots.front().at, at) < 0.5);

    const cv::Mat shift = (cv::Mat_<double>(2, 3) << 1, 0, 0.6, 0, 1, -0.4);
    cv::warpAffine(warm.celsius, warm.celsius, shift, warm.celsius.size(), cv::INTER_CUBIC,
                   cv::BORDER_REPLICATE);
    const auto moved = stillDifference(warm, before);
    QVERIFY(moved.ok() && !moved.value().spots.empty());
    const PixelPoint there{at.x_px + 0.6, at.y_px - 0.4}; // in the later one, which is looked at
    QVERIFY2(distance_px(moved.value().spots.front().at, there) < 0.5,
             moved.value().notes.front().text().c_str());
    QVERIFY(moved.value().notes.front().text().find("moved by 0.7") != std::string::npos);
}

// Noise alone: pairs of stills in which nothing warmed.
void TestStills::nothingWarmedIsNothing() {
    for (std::uint64_t seed = 1; seed <= 20; ++seed) {
        testing::RenderSettings settings;
        settings.seconds = 1;
        settings.seed = seed;
        const Recording recording = testing::render({}, settings);
        const auto still = stillDifference(textured(recording.frames[20].centikelvin),
                                           textured(recording.frames[2].centikelvin));
        QVERIFY(still.ok());
        QVERIFY2(still.value().spots.empty(), qPrintable(QString::number(seed)));
        QVERIFY(std::fabs(still.value().noise_k - 0.05 * std::sqrt(2.0)) < 0.01);
    }
    const Still one = textured(testing::render({}, {}).frames.front().centikelvin);
    Still other = one;
    other.celsius = cv::Mat(20, 20, CV_32FC1, cv::Scalar(20));
    QVERIFY(!stillDifference(one, other).ok());
}
