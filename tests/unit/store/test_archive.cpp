#include "store/case_archive.h"
#include "store/case_folder.h"
#include "support/boards.h"
#include "unit/store/test_store.h"

#include <QFile>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>

using namespace ustor;
namespace fs = std::filesystem;

namespace {

QByteArray bytesOf(const fs::path& file) {
    QFile f(QString::fromStdString(file.string()));
    return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
}

void write(const fs::path& file, const QByteArray& bytes) {
    fs::create_directories(file.parent_path());
    QFile f(QString::fromStdString(file.string()));
    QVERIFY(f.open(QIODevice::WriteOnly));
    QCOMPARE(f.write(bytes), bytes.size());
}

/// A case with facts and something that looks like a recording.
void makeCase(const fs::path& folder) {
    auto made = CaseFolder::create(folder, "Wind sensor hub", testing::smallBoard());
    QVERIFY(made.ok());
    for (const char* words : {"one", "zwei \u00bf", "three"})
        QVERIFY(made.value().log->append(Noted{words}, 100).ok());
    QByteArray frames(300000, '\0');
    for (qsizetype i = 0; i < frames.size(); ++i)
        frames[i] = static_cast<char>(i * i / 7);
    write(folder / "recordings" / "01" / "frames.tiff", frames);
}

std::size_t entriesIn(const fs::path& folder) {
    return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), fs::directory_iterator()));
}

/// A zip made by another program (Info-ZIP); false where it is not installed.
bool zipElsewhere(const fs::path& folder, const fs::path& file, const QStringList& names) {
    QProcess zip;
    zip.setWorkingDirectory(QString::fromStdString(folder.string()));
    zip.start("zip", QStringList{"-q", QString::fromStdString(file.string())} + names);
    return zip.waitForFinished() && zip.exitCode() == 0;
}

} // namespace

void TestArchive::everyByteTravels() {
    const QTemporaryDir base;
    const fs::path root = base.path().toStdString(), from = root / "a", to = root / "elsewhere";
    makeCase(from);
    QVERIFY(exportCase(from, root / "x.ustor-case").ok());
    QVERIFY(exportCase(from, root / "x.ustor-case").ok()); // an older one of that name is replaced
    const auto landed = importCase(root / "x.ustor-case", to);
    QVERIFY2(landed.ok(), landed.ok() ? "" : landed.error().text().c_str());
    QCOMPARE(landed.value().filename().string(), std::string("wind-sensor-hub"));
    int compared = 0;
    for (const auto& item : fs::recursive_directory_iterator(from))
        if (item.is_regular_file()) {
            QCOMPARE(bytesOf(landed.value() / fs::relative(item.path(), from)), bytesOf(item.path()));
            ++compared;
        }
    QVERIFY(compared >= 4);
    // A second one stands beside the first.
    const auto again = importCase(root / "x.ustor-case", to);
    QVERIFY(again.ok() && again.value() != landed.value());
    QCOMPARE(CaseFolder::open(again.value()).value().log->facts().size(), std::size_t(3));
    QCOMPARE(entriesIn(to), std::size_t(2));
}

// The zip format as another program understands it: Info-ZIP's unzip, from Debian.
void TestArchive::anotherProgramReadsIt() {
    if (QStandardPaths::findExecutable("unzip").isEmpty()) QSKIP("unzip is not installed");
    const QTemporaryDir base;
    const fs::path root = base.path().toStdString();
    makeCase(root / "a");
    QVERIFY(exportCase(root / "a", root / "x.ustor-case").ok());
    QProcess unzip;
    unzip.start("unzip", {"-p", base.filePath("x.ustor-case"), "facts.jsonl"});
    QVERIFY(unzip.waitForFinished());
    QCOMPARE(unzip.exitCode(), 0);
    QCOMPARE(unzip.readAllStandardOutput(), bytesOf(root / "a" / "facts.jsonl"));
}

void TestArchive::badFilesLeaveNothingBehind_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QString>("says");
    QTest::newRow("no such file") << "missing"
                                  << "cannot be opened";
    QTest::newRow("not a zip") << "text"
                               << "cannot be opened";
    QTest::newRow("empty file") << "empty"
                                << "";
    QTest::newRow("cut short") << "cut"
                               << "cannot be opened";
    QTest::newRow("a byte turned over") << "damaged"
                                        << "damaged";
    QTest::newRow("names a file outside") << "outside"
                                          << "outside the case";
    QTest::newRow("no case inside") << "other"
                                    << "case.json is missing";
}

void TestArchive::badFilesLeaveNothingBehind() {
    QFETCH(QString, kind);
    QFETCH(QString, says);
    const QTemporaryDir base;
    const fs::path root = base.path().toStdString(), file = root / "x.ustor-case", to = root / "to";
    makeCase(root / "a");
    QVERIFY(exportCase(root / "a", file).ok());
    QByteArray bytes = bytesOf(file);
    if (kind == "missing") fs::remove(file);
    if (kind == "text") write(file, "this is no case");
    if (kind == "empty") write(file, "");
    if (kind == "cut") write(file, bytes.left(bytes.size() / 2));
    if (kind == "damaged") {
        // In the middle of the largest entry's compressed bytes: its checksum tells.
        bytes[bytes.size() / 2] = static_cast<char>(bytes[bytes.size() / 2] ^ 0x55);
        write(file, bytes);
    }
    if (kind == "outside" || kind == "other") {
        fs::remove(file);
        write(root / "outside.txt", "written over");
        if (!zipElsewhere(root / "a", file, {kind == "outside" ? "../outside.txt" : "facts.jsonl"}))
            QSKIP("zip is not installed");
    }
    write(to / "keep.txt", "kept");
    const auto landed = importCase(file, to);
    QVERIFY(!landed.ok());
    QVERIFY2(QString::fromStdString(landed.error().text()).contains(says), landed.error().text().c_str());
    QVERIFY(landed.error().where.find("x.ustor-case") != std::string::npos);
    QCOMPARE(entriesIn(to), std::size_t(1));
    QCOMPARE(bytesOf(to / "keep.txt"), QByteArray("kept"));
}

void TestArchive::wholeCasesOnly() {
    const QTemporaryDir base;
    const fs::path root = base.path().toStdString();
    QVERIFY(!exportCase(root / "nowhere", root / "x.ustor-case").ok());
    QVERIFY(!fs::exists(root / "x.ustor-case"));
    makeCase(root / "a");
    QVERIFY(!exportCase(root / "a", root / "no" / "such" / "x.ustor-case").ok());
    // Exported into itself it does not hold itself.
    QVERIFY(exportCase(root / "a", root / "a" / "x.ustor-case").ok());
    QVERIFY(exportCase(root / "a", root / "a" / "x.ustor-case").ok());
    const auto landed = importCase(root / "a" / "x.ustor-case", root / "to");
    QVERIFY(landed.ok());
    QVERIFY(!fs::exists(landed.value() / "x.ustor-case"));
}

// 64 megabytes of nothing in some 64 kilobytes.
void TestArchive::bombsAreNotUnpacked() {
    const QTemporaryDir folder;
    const fs::path base = folder.path().toStdString();
    makeCase(base / "case");
    write(base / "case" / "bomb", QByteArray(64 << 20, '\0'));
    const fs::path file = base / "bomb.ustor-case";
    QVERIFY(zipElsewhere(base / "case", file, {"-r", "."}));
    const auto taken = importCase(file, base / "book");
    QVERIFY(!taken.ok());
    QVERIFY2(taken.error().text().find("times its size") != std::string::npos, taken.error().text().c_str());
    QCOMPARE(entriesIn(base / "book"), std::size_t(0));
}
