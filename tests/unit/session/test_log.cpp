#include "session/log.h"
#include "unit/session/test_session.h"

#include <QDir>
#include <QFile>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>

using namespace ustor;

void TestLog::linesAreKeptByLevel() {
    const QTemporaryDir folder;
    const std::filesystem::path at = folder.path().toStdString();
    {
        const Log log(at / "state" / "ustor");
        QCOMPARE(Log::file(), at / "state" / "ustor" / "ustor.log");
        Log::note(Log::Level::Info, "begins");
        Log::note(Log::Level::Fault, "two\nlines of it");
        qWarning("from the toolkit");
        qDebug("not of any use later");
    }
    Log::note(Log::Level::Info, "after its end"); // into none
    QVERIFY(Log::file().empty() && Log::newest(9).isEmpty());
    QFile file(QString::fromStdString((at / "state" / "ustor" / "ustor.log").string()));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QStringList lines = QString::fromUtf8(file.readAll()).split('\n', Qt::SkipEmptyParts);
    QCOMPARE(lines.size(), 3);
    QVERIFY(lines[0].endsWith("info begins"));
    QVERIFY(lines[1].endsWith("error two lines of it"));
    QVERIFY(lines[2].endsWith("warning from the toolkit"));
    // ISO 8601, with the offset from UTC.
    QVERIFY(QRegularExpression("^\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d\\.\\d{3}[+-]\\d\\d:\\d\\d ")
                .match(lines[0])
                .hasMatch());
}

void TestLog::oldLinesGoAndNobodyWaits() {
    const QTemporaryDir folder;
    {
        const Log log(folder.path().toStdString());
        const QString line(1000, 'x');
        constexpr int many = 8 * static_cast<int>(Log::bytesAFile) / 1000;
        for (int i = 0; i < many; ++i) {
            Log::note(Log::Level::Info, line);
            if (i % 1000 == 0) QTest::qSleep(20); // else most would be dropped, which is no fault
        }
    }
    const auto files = QDir(folder.path()).entryInfoList(QDir::Files);
    QVERIFY(files.size() > 1);
    QVERIFY(files.size() <= static_cast<qsizetype>(Log::files));
    for (const QFileInfo& file : files)
        QVERIFY(file.size() <= static_cast<qint64>(Log::bytesAFile));
}

void TestLog::aFolderThatCannotBeWritten() {
    const QTemporaryDir folder;
    QFile inTheWay(folder.filePath("file"));
    QVERIFY(inTheWay.open(QIODevice::WriteOnly));
    QTest::ignoreMessage(QtWarningMsg, QRegularExpression("no log is kept"));
    const Log log(folder.filePath("file").toStdString());
    Log::note(Log::Level::Info, "into none");
    QVERIFY(Log::file().empty());
}

// Names of folders are people's own: titles of cases, customers, user names.
void TestLog::placesAreLeftOut() {
    QCOMPARE(Log::withoutPlaces("/home/somebody/cases/mrs-x/facts.jsonl: cannot be opened"),
             QString("facts.jsonl: cannot be opened"));
    QCOMPARE(Log::withoutPlaces("serial:/dev/ttyUSB0@9600 broke"), QString("serial:ttyUSB0@9600 broke"));
    QCOMPARE(Log::withoutPlaces("either/or, 3.3 V/A, no path"), QString("either/or, 3.3 V/A, no path"));
    // In quotes a folder may hold blanks.
    QCOMPARE(Log::withoutPlaces("in '/a/b c/d.txt' and \"/e f/g\""), QString("in 'd.txt' and \"g\""));
}
