#include "support/recordings.h"
#include "thermal/power.h"
#include "thermal/recording_reader.h"
#include "thermal/recording_writer.h"
#include "unit/thermal/test_thermal.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;

namespace {

Recording shortOne() {
    testing::RenderSettings settings;
    settings.seconds = 2;
    settings.width = 24;
    settings.height = 16;
    return testing::render({{{10, 8}, 0.02}}, settings);
}

void write(const Recording& recording, const std::filesystem::path& folder) {
    auto writer = RecordingWriter::create(folder, recording.info);
    QVERIFY(writer.ok());
    for (const auto& frame : recording.frames)
        QVERIFY(writer.value()->add(frame).ok());
    for (const auto& sample : recording.supply)
        QVERIFY(writer.value()->add(sample).ok());
}

void overwrite(const QString& file, const QByteArray& content) {
    QFile f(file);
    QVERIFY(f.open(QIODevice::WriteOnly | QIODevice::Truncate));
    f.write(content);
}

} // namespace

void TestRecording::comesBackAsItWent() {
    QTemporaryDir folder;
    Recording recording = shortOne();
    recording.info.side = Side::Bottom;
    write(recording, folder.path().toStdString() + "/r");
    const auto back = readRecording(folder.path().toStdString() + "/r");
    QVERIFY2(back.ok(), back.ok() ? "" : back.error().text().c_str());
    QVERIFY(back.value().warnings.empty());
    QCOMPARE(back.value().frames.size(), recording.frames.size());
    QCOMPARE(back.value().supply.size(), recording.supply.size());
    for (std::size_t i = 0; i < recording.frames.size(); ++i) {
        QCOMPARE(back.value().frames[i].time_s, recording.frames[i].time_s);
        QCOMPARE(cv::norm(back.value().frames[i].centikelvin, recording.frames[i].centikelvin, cv::NORM_L1),
                 0.0);
    }
    QCOMPARE(back.value().info.netd_mk, recording.info.netd_mk);
    const auto info = readRecordingInfo(folder.path().toStdString() + "/r");
    QVERIFY(info.ok() && info.value().side == Side::Bottom);
    QCOMPARE(back.value().supply[40].amps, recording.supply[40].amps);
}

void TestRecording::neverOverwrites() {
    QTemporaryDir folder;
    write(shortOne(), folder.path().toStdString());
    const auto again = RecordingWriter::create(folder.path().toStdString(), shortOne().info);
    QVERIFY(!again.ok());
    QVERIFY(readRecording(folder.path().toStdString()).ok());
}

void TestRecording::brokenFoldersAreErrors() {
    QTemporaryDir folder;
    QVERIFY(!readRecording(folder.path().toStdString()).ok());
    for (const auto& [file, content] :
         {std::pair{"recording.json", QByteArray("{")},
          {"recording.json", QByteArray("{\"format\":\"ustor-recording/9\",\"width\":24,\"height\":16}")},
          {"recording.json", QByteArray("{\"format\":\"ustor-recording/1\",\"width\":-1,\"height\":16}")},
          {"frames.tiff", QByteArray("no tiff")},
          {"frames.tiff", QByteArray()},
          {"frames.csv", QByteArray("a,b\n1,2\n")},
          {"supply.csv", QByteArray("time_s,volts\n0,1\n")}}) {
        QTemporaryDir fresh;
        write(shortOne(), fresh.path().toStdString());
        overwrite(fresh.filePath(file), content);
        const auto read = readRecording(fresh.path().toStdString());
        QVERIFY2(!read.ok(), file);
        QVERIFY2(read.error().text().find(file) != std::string::npos, read.error().text().c_str());
    }
}

void TestRecording::wrongTimesLeaveTheOthers_data() {
    QTest::addColumn<int>("row");
    QTest::addColumn<QByteArray>("cell");
    QTest::addColumn<int>("lost");
    QTest::newRow("far ahead") << 10 << QByteArray("1e9") << 1;
    QTest::newRow("far behind") << 10 << QByteArray("-1e9") << 1;
    QTest::newRow("the first") << 0 << QByteArray("1e9") << 1;
    QTest::newRow("the last") << 49 << QByteArray("1e300") << 1;
    QTest::newRow("no number") << 10 << QByteArray("nan") << 1;
    QTest::newRow("a word") << 10 << QByteArray("soon") << 1;
    QTest::newRow("nothing") << 10 << QByteArray("") << 1;
}

// One wrong cell among the times costs its own frame, neither memory nor the frames behind it.
void TestRecording::wrongTimesLeaveTheOthers() {
    QFETCH(int, row);
    QFETCH(QByteArray, cell);
    QFETCH(int, lost);
    const QTemporaryDir folder;
    const std::filesystem::path path = folder.filePath("r").toStdString();
    const Recording recording = shortOne();
    QVERIFY(recording.frames.size() >= 50);
    write(recording, path);
    QFile times(folder.filePath("r/frames.csv"));
    QVERIFY(times.open(QIODevice::ReadOnly));
    QList<QByteArray> lines = times.readAll().split('\n');
    times.close();
    lines[row + 1] = lines[row + 1].split(',').first() + "," + cell + ",extra";
    lines[0] += ",note";
    overwrite(times.fileName(), lines.join('\n'));
    const auto read = readRecording(path);
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QCOMPARE(read.value().frames.size(), recording.frames.size() - static_cast<std::size_t>(lost));
    QVERIFY(!read.value().warnings.empty());
    // The supply's log likewise.
    QFile supply(folder.filePath("r/supply.csv"));
    QVERIFY(supply.open(QIODevice::Append));
    supply.write("1e12,1,1,1,1,1\n");
    supply.close();
    const auto again = readRecording(path);
    QVERIFY(again.ok());
    QCOMPARE(again.value().supply.size(), read.value().supply.size());
}

void TestRecording::cutOffFramesAreToldAndTheRestKept() {
    QTemporaryDir folder;
    write(shortOne(), folder.path().toStdString());
    QFile tiff(folder.filePath("frames.tiff"));
    QVERIFY(tiff.resize(tiff.size() * 2 / 3));
    const auto read = readRecording(folder.path().toStdString());
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QVERIFY(read.value().frames.size() > 10 && read.value().frames.size() < 50);
    // Rows of the times with a cell that is no number are left out and told with their line.
    QFile times(folder.filePath("frames.csv"));
    QVERIFY(times.open(QIODevice::ReadWrite));
    QByteArray text = times.readAll();
    text.replace("\n3,0.12\n", "\n3,soon\n");
    times.resize(0);
    times.write(text);
    times.close();
    const auto again = readRecording(folder.path().toStdString());
    QVERIFY(again.ok());
    const auto& warnings = again.value().warnings;
    QVERIFY(std::any_of(warnings.begin(), warnings.end(),
                        [](const Message& w) { return w.text().find("frames.csv:5") != std::string::npos; }));
}

// What is too large for the memory is read from its beginning, and the rest is told.
void TestRecording::tooLargeIsReadInPart() {
    QTemporaryDir folder;
    const Recording recording = shortOne();
    write(recording, folder.path().toStdString());
    constexpr int pages = 12;
    const auto read = readRecording(folder.path().toStdString(), {24 * 16 * pages});
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QCOMPARE(read.value().frames.size(), std::size_t(pages));
    QCOMPARE(read.value().frames.back().time_s, recording.frames[pages - 1].time_s);
    const auto& warnings = read.value().warnings;
    QVERIFY(std::any_of(warnings.begin(), warnings.end(), [](const Message& w) {
        return w.text().find("after page 12 would take too much memory") != std::string::npos;
    }));
    QVERIFY(
        readRecording(folder.path().toStdString(), {24 * 16 * static_cast<double>(recording.frames.size())})
            .value()
            .warnings.empty());
}

void TestRecording::powerBetweenReadings() {
    const std::vector<SupplySample> supply{
        {0, false, 1, 1, 0, 0}, {1, true, 1, 1, 1, 2}, {2, true, 1, 1, 1, 4}, {3, false, 1, 1, 1, 4}};
    QCOMPARE(deliveredPower_w(supply, 1.5), 3.0);
    QCOMPARE(deliveredPower_w(supply, -1), 0.0);
    QCOMPARE(deliveredPower_w(supply, 9), 0.0);
    QCOMPARE(deliveredPower_w(supply, 1.0, 0.5), 3.0);
    QCOMPARE(deliveredPower_w(supply, 3), 0.0); // off counts as nothing, whatever the readback lags
    QCOMPARE(switchOns(supply), std::vector<double>{0.5});
    QCOMPARE(meanOnPower_w(supply), 3.0);
    QCOMPARE(meanOnPower_w({}), 0.0);
}
