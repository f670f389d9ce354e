#include "session/heat_study.h"
#include "support/recordings.h"
#include "thermal/recording_writer.h"
#include "unit/session/test_session.h"

#include <QFile>
#include <QImage>
#include <QTemporaryDir>
#include <QTest>
#include <tiffio.h>

using namespace ustor;

namespace {

std::filesystem::path written(const QTemporaryDir& folder) {
    testing::RenderSettings settings;
    settings.seconds = 12;
    settings.jumpAt_s = 5;
    const Recording recording = testing::render({{{30.4, 20.6}, 0.1}}, settings);
    std::filesystem::path path = folder.filePath("r").toStdString();
    const auto writer = RecordingWriter::create(path, recording.info);
    for (const auto& frame : recording.frames)
        (void)writer.value()->add(frame);
    for (const auto& sample : recording.supply)
        (void)writer.value()->add(sample);
    return path;
}

} // namespace

void TestHeatStudy::mapsAndCourses() {
    QTemporaryDir folder;
    const auto path = written(folder);
    const auto study = studyRecording(path, std::nullopt);
    QVERIFY(study.ok());
    QCOMPARE(study.value().maps.size(), allHeatMaps().size());
    QCOMPARE(study.value().located.verdict, HeatVerdict::Point);
    QVERIFY(std::fabs(cv::mean(study.value().still)[0] - 25) < 0.2);
    // The course of the source rises while the power is on.
    const auto course = study.value().courseAt({30.4, 20.6});
    double on = 0, off = 0;
    int ons = 0, offs = 0;
    for (std::size_t i = 0; i < course.size(); ++i) {
        (study.value().watts[i] > 0.05 ? on : off) += course[i];
        ++(study.value().watts[i] > 0.05 ? ons : offs);
    }
    QVERIFY(on / ons > off / offs + 0.1);
    // Without a repair it is told, and the answer is made without.
    const auto without = studyRecording(path, std::nullopt, 1.6, {Repair::Common});
    QVERIFY(without.ok());
    QVERIFY(!without.value().located.undone.empty());
    QVERIFY(without.value().located.repairs.size() < study.value().located.repairs.size() + 1);
}

void TestHeatStudy::exportsOpenElsewhere() {
    QTemporaryDir folder;
    const auto study = studyRecording(written(folder), std::nullopt);
    QVERIFY(study.ok());
    const std::filesystem::path out = folder.filePath("maps").toStdString();
    const auto files = exportMaps(study.value(), out);
    QVERIFY(files.ok());
    QCOMPARE(files.value().size(), std::size_t(12));
    TIFF* tiff = TIFFOpen((out / "first-instant.tiff").c_str(), "r");
    QVERIFY(tiff);
    std::vector<float> row(64);
    QCOMPARE(TIFFReadScanline(tiff, row.data(), 21), 1);
    QCOMPARE(row[30], study.value().maps[0].values.at<float>(21, 30));
    char* about = nullptr;
    QCOMPARE(TIFFGetField(tiff, TIFFTAG_IMAGEDESCRIPTION, &about), 1);
    QCOMPARE(QString(about), QString("first instant, K/W"));
    TIFFClose(tiff);
    QFile csv(QString::fromStdString((out / "delay.csv").string()));
    QVERIFY(csv.open(QIODevice::ReadOnly));
    const QList<QByteArray> lines = csv.readAll().trimmed().split('\n');
    QCOMPARE(lines.size(), 48);
    QCOMPARE(lines[21].split(',').size(), 64);
    QVERIFY(lines[0].split(',')[0].isEmpty()); // nothing is known there
    QVERIFY(lines[21].split(',')[30].toDouble() >= 0);
    const QImage picture(QString::fromStdString((out / "amplitude.png").string()));
    QCOMPARE(picture.size(), QSize(64, 48));
    // A folder that cannot be made.
    QVERIFY(!exportMaps(study.value(), "/dev/null/maps").ok());
}
