#include "store/case_folder.h"
#include "store/casebook.h"
#include "store/known_good_file.h"
#include "store/report.h"
#include "store/work_pace_file.h"
#include "support/boards.h"
#include "unit/store/test_store.h"

#include <QDir>
#include <QFile>
#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QTemporaryDir>
#include <QTest>
#include <unistd.h>

using namespace ustor;

namespace {

void makeCase(const std::filesystem::path& folder, const std::string& title, const std::string& complaint) {
    auto made = CaseFolder::create(folder, title, testing::smallBoard());
    QVERIFY(made.ok());
    QVERIFY(made.value().log->append(Complaint{complaint}, 100).ok());
}

} // namespace

void TestCasebook::casesAreFoundAgain() {
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    makeCase(base / "a", "Wind sensor hub", "no reading since the storm, 100 % dead");
    makeCase(base / "b", "Greenhouse controller", "valves stuck");
    auto book = Casebook::open(base);
    QVERIFY(book.ok());
    QVERIFY(book.value()->refresh().ok());
    QCOMPARE(book.value()->find("").value().size(), std::size_t(2));
    QCOMPARE(book.value()->find("storm hub").value().size(), std::size_t(1));
    QCOMPARE(book.value()->find("100 %").value().size(), std::size_t(1)); // a percent sign is a percent sign
    QCOMPARE(book.value()->find("lighthouse").value().size(), std::size_t(0));
    QVERIFY(book.value()->find("'; DROP TABLE cases; --").ok());
    QCOMPARE(book.value()->find("").value().size(), std::size_t(2));
}

void TestCasebook::indexIsMadeAnewFromFolders() {
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    makeCase(base / "a", "Synth board", "hum");
    {
        auto book = Casebook::open(base);
        QVERIFY(book.value()->refresh().ok());
    }
    std::filesystem::remove(base / "casebook.sqlite");
    auto book = Casebook::open(base);
    QVERIFY(book.value()->refresh().ok());
    QCOMPARE(book.value()->find("hum").value().size(), std::size_t(1));
    std::filesystem::remove_all(base / "a");
    QVERIFY(book.value()->refresh().ok());
    QCOMPARE(book.value()->find("").value().size(), std::size_t(0));
}

// A program that ended before it told the index, a folder copied over from elsewhere: the facts' size tells.
void TestCasebook::casesThatGrewAreReadAnew() {
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    makeCase(base / "a", "Synth board", "hum");
    makeCase(base / ".incoming-1", "Half unpacked", "hum");
    auto book = Casebook::open(base);
    QVERIFY(book.value()->refresh().ok());
    QCOMPARE(book.value()->find("").value().size(), std::size_t(1));
    QCOMPARE(book.value()->find("").value().front().board, testing::smallBoard().name);
    {
        auto opened = CaseFolder::open(base / "a");
        QVERIFY(opened.value().log->append(Noted{"a crack beside the jack"}, 200).ok());
        QVERIFY(opened.value().log->append(Closed{true, "C12", ""}, 300).ok());
    }
    QCOMPARE(book.value()->find("crack").value().size(), std::size_t(0));
    QVERIFY(book.value()->refresh().ok());
    const auto found = book.value()->find("crack").value();
    QCOMPARE(found.size(), std::size_t(1));
    QCOMPARE(found.front().status, std::string("fixed"));
    QCOMPARE(found.front().culprit, std::string("C12"));
    QCOMPARE(found.front().changed_s, 300.0);
}

// It is only an index: what an older version wrote holds nothing that the folders do not.
void TestCasebook::anOlderIndexIsMadeAnew() {
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    makeCase(base / "a", "Synth board", "hum");
    {
        QSqlDatabase db = QSqlDatabase::addDatabase("QSQLITE", "old");
        db.setDatabaseName(QString::fromStdString((base / "casebook.sqlite").string()));
        QVERIFY(db.open());
        QVERIFY(db.exec("CREATE TABLE cases (folder TEXT PRIMARY KEY, title TEXT)").lastError().type() ==
                QSqlError::NoError);
        db.exec("INSERT INTO cases VALUES ('/nowhere', 'an older row')");
        db.exec("PRAGMA user_version = 1");
        db.close();
    }
    QSqlDatabase::removeDatabase("old");
    auto book = Casebook::open(base);
    QVERIFY(book.ok() && book.value()->trouble().empty());
    QVERIFY(book.value()->refresh().ok());
    QCOMPARE(book.value()->find("").value().size(), std::size_t(1));
}

void TestCasebook::newerCasesAreLeftAlone() {
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    makeCase(base / "a", "x", "y");
    QVERIFY(!CaseFolder::create(base / "a", "x", testing::smallBoard()).ok());
    QFile file(folder.filePath("a/case.json"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("{\"format\":\"ustor-case/2\"}");
    file.close();
    const auto opened = CaseFolder::open(base / "a");
    QVERIFY(!opened.ok());
    QVERIFY(opened.error().what.text().find("newer") != std::string::npos);
    QVERIFY(!CaseFolder::open(base / "nowhere").ok());
    QCOMPARE(freeCaseFolder(base, "A").filename().string(), std::string("a-2"));
    QCOMPARE(freeCaseFolder(base, "\u00bf?").filename().string(), std::string("case"));
}

void TestCasebook::reportIsAPage() {
    QTemporaryDir folder;
    const std::vector<Fact> facts{
        {1, 1e9, Complaint{"dead <b>loud</b>"}},
        {2, 1e9, ReadingTaken{"C10.1", "", {MeterMode::Ohms, ReadingState::Value, 0.3, 0}}},
        {3, 1e9, Noted{"slip"}},
        {4, 1e9, Struck{3}}};
    const Assessment a = assess(testing::smallBoard(), facts, {});
    const ReportInput input{"Report", &facts, &a, {}};
    const QString html = reportHtml(input);
    QVERIFY(html.contains("&lt;b&gt;loud")); // a customer's words are words
    QVERIFY(html.contains("<s>slip</s>"));
    QVERIFY(html.contains("short"));
    const std::filesystem::path file = folder.filePath("r.html").toStdString();
    QVERIFY(writeReportHtml(input, file).ok());
    QVERIFY(!writeReportHtml(input, folder.filePath("no/such/r.html").toStdString()).ok());
}

void TestCasebook::theIndexIsNeverInTheWay_data() {
    QTest::addColumn<QByteArray>("content");
    QTest::newRow("damaged") << QByteArray("SQLite format 3 no more").repeated(200);
    QTest::newRow("a folder in its place") << QByteArray();
}

void TestCasebook::theIndexIsNeverInTheWay() {
    QFETCH(QByteArray, content);
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    makeCase(base / "a", "Wind sensor hub", "dead");
    QFile index(folder.filePath("casebook.sqlite"));
    if (content.isEmpty()) {
        QVERIFY(QDir(folder.path()).mkdir("casebook.sqlite"));
    } else {
        QVERIFY(index.open(QIODevice::WriteOnly));
        index.write(content);
        index.close();
    }
    auto book = Casebook::open(base);
    QVERIFY2(book.ok(), book.ok() ? "" : book.error().text().c_str());
    QVERIFY(!book.value()->trouble().empty());
    QVERIFY(book.value()->refresh().ok());
    QCOMPARE(book.value()->find("").value().size(), std::size_t(1));
}

// Another program holds it, or it may not be written: the cases are there all the same, and it is said.
void TestCasebook::anIndexThatIsHeldElsewhere() {
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    makeCase(base / "a", "Wind sensor hub", "dead");
    {
        QSqlDatabase other = QSqlDatabase::addDatabase("QSQLITE", "holder");
        other.setDatabaseName(QString::fromStdString((base / "casebook.sqlite").string()));
        QVERIFY(other.open());
        QSqlQuery hold(other);
        QVERIFY(hold.exec("CREATE TABLE something (x)") && hold.exec("BEGIN EXCLUSIVE"));
        auto book = Casebook::open(base);
        QVERIFY2(book.ok(), book.ok() ? "" : book.error().text().c_str());
        QVERIFY(book.value()->trouble().text().find("could not be used") != std::string::npos);
        QVERIFY(book.value()->refresh().ok());
        QCOMPARE(book.value()->find("").value().size(), std::size_t(1));
        QVERIFY(hold.exec("ROLLBACK"));
        hold.finish();
        other.close();
    }
    QSqlDatabase::removeDatabase("holder");
    // Let go of, it is used again.
    auto book = Casebook::open(base);
    QVERIFY(book.ok() && book.value()->trouble().empty());
}

void TestCasebook::anIndexThatMayNotBeWritten() {
    if (::geteuid() == 0) QSKIP("whoever may write everywhere cannot be kept from it");
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    makeCase(base / "a", "Wind sensor hub", "dead");
    QVERIFY(Casebook::open(base).ok());
    QFile::setPermissions(folder.filePath("casebook.sqlite"), QFileDevice::ReadOwner);
    QFile::setPermissions(folder.path(), QFileDevice::ReadOwner | QFileDevice::ExeOwner);
    auto book = Casebook::open(base);
    QVERIFY(book.ok() && !book.value()->trouble().empty());
    QVERIFY(book.value()->refresh().ok());
    QCOMPARE(book.value()->find("").value().size(), std::size_t(1));
    QFile::setPermissions(folder.path(),
                          QFileDevice::ReadOwner | QFileDevice::WriteOwner | QFileDevice::ExeOwner);
}

void TestCasebook::goodBoardsAreKeptByModel() {
    QTemporaryDir folder;
    const std::filesystem::path book = folder.path().toStdString();
    const auto reading = [](const char* place, double ohms, const char* donor) {
        return KnownReading{place, {MeterMode::Ohms, ReadingState::Value, ohms, 0}, false, donor};
    };
    std::vector<Message> warnings;
    QVERIFY(loadKnownGood(book, "Wind Hub", "", warnings).empty());
    QVERIFY(keepKnownGood(book, {"Wind Hub", {reading("C1.1", 450, "one")}}, "one").ok());
    QVERIFY(keepKnownGood(book, {"Wind Hub", {reading("C1.1", 470, "two")}}, "two").ok());
    // The same donor again replaces what it gave.
    QVERIFY(keepKnownGood(book, {"Wind Hub", {reading("C1.1", 455, "one")}}, "one").ok());
    const auto all = loadKnownGood(book, "Wind Hub", "", warnings);
    QCOMPARE(all.readings.size(), std::size_t(2));
    const auto others = loadKnownGood(book, "Wind Hub", "one", warnings);
    QCOMPARE(others.readings.size(), std::size_t(1));
    QCOMPARE(others.readings.front().reading.value, 470.0);
    QVERIFY(loadKnownGood(book, "Other", "", warnings).empty());
    // A case that is opened again takes back what it gave; the others stay.
    QVERIFY(keepKnownGood(book, {"Wind Hub", {}}, "one").ok());
    QCOMPARE(loadKnownGood(book, "Wind Hub", "", warnings).readings.size(), std::size_t(1));
    QVERIFY(keepKnownGood(book, {"Wind Hub", {reading("C1.1", 455, "one")}}, "one").ok());
    QVERIFY(warnings.empty());
    // A file with a row that cannot be read is told, and never written over.
    const auto path = knownGoodFile(book, "Wind Hub");
    QFile file(QString::fromStdString(path.string()));
    QVERIFY(file.open(QIODevice::Append));
    file.write("C2.1,smell,5,ohm,,x\n");
    file.close();
    QVERIFY(!keepKnownGood(book, {"Wind Hub", {reading("C1.1", 1, "three")}}, "three").ok());
    QCOMPARE(loadKnownGood(book, "Wind Hub", "", warnings).readings.size(), std::size_t(2));
    QVERIFY(warnings.front().text().find(":4") != std::string::npos);
}

void TestCasebook::thePaceIsKeptByCase() {
    QTemporaryDir folder;
    const std::filesystem::path book = folder.path().toStdString();
    const auto lifted = [](const std::string& name, long times) {
        CasePace timed{name, {}};
        timed.pace.add(WorkKind::LiftSmall, {times, 0});
        return timed;
    };
    const auto timesBut = [&](const char* name) {
        std::vector<Message> warnings;
        const long times = loadPace(book, name, warnings).timed(WorkKind::LiftSmall).times;
        return warnings.empty() ? times : -1L;
    };
    QCOMPARE(timesBut(""), 0L);
    QVERIFY(keepPace(book, {"one", {}}).ok());
    QVERIFY(!std::filesystem::exists(paceFile(book))); // nothing to tell
    QVERIFY(keepPace(book, lifted("one", 1)).ok());
    QVERIFY(keepPace(book, lifted("two", 10)).ok());
    QVERIFY(keepPace(book, lifted("one", 2)).ok()); // closed again: replaced
    QCOMPARE(timesBut(""), 12L);
    QCOMPARE(timesBut("two"), 2L);
    QVERIFY(keepPace(book, {"one", {}}).ok()); // opened again: taken back
    QCOMPARE(timesBut(""), 10L);
    for (std::size_t i = 0; i < casesKept; ++i)
        QVERIFY(keepPace(book, lifted("later " + std::to_string(i), 1)).ok());
    QCOMPARE(timesBut(""), static_cast<long>(casesKept)); // the oldest is gone
    QFile file(QString::fromStdString(paceFile(book).string()));
    QVERIFY(file.open(QIODevice::Append));
    file.write("mine,lift small part,often,1\n");
    file.close();
    QVERIFY(!keepPace(book, lifted("one", 2)).ok());
    QVERIFY(file.open(QIODevice::ReadOnly) && file.readAll().contains("often"));
}
