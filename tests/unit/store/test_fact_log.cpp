#include "store/case_folder.h"
#include "store/fact_log.h"
#include "support/boards.h"
#include "unit/store/test_store.h"

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace ustor;

namespace {

QByteArray contentOf(const QString& file) {
    QFile f(file);
    return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
}

std::filesystem::path logIn(const QTemporaryDir& folder) {
    return folder.filePath("facts.jsonl").toStdString();
}

} // namespace

void TestFactLog::acceptedFactsAreOnDisk() {
    QTemporaryDir folder;
    auto log = FactLog::open(logIn(folder));
    QVERIFY(log.ok());
    const auto fact = log.value()->append(Noted{"one"}, 1.5);
    QVERIFY(fact.ok());
    QCOMPARE(fact.value().id, 1L);
    // Read behind the writer's back: it is there before anything was closed.
    QVERIFY(contentOf(folder.filePath("facts.jsonl")).endsWith("\n"));
    QVERIFY(log.value()->append(Noted{"two"}, 2.5).ok());
    log.value().reset();
    const auto again = FactLog::open(logIn(folder));
    QVERIFY(again.ok());
    QCOMPARE(again.value()->facts().size(), std::size_t(2));
    QVERIFY(again.value()->warnings().empty());
}

void TestFactLog::tornLastLine() {
    QTemporaryDir folder;
    {
        auto log = FactLog::open(logIn(folder));
        QVERIFY(log.value()->append(Noted{"whole"}, 1).ok());
    }
    QFile file(folder.filePath("facts.jsonl"));
    QVERIFY(file.open(QIODevice::Append));
    file.write(R"({"id":2,"time":3,"kind":"no)");
    file.close();
    auto log = FactLog::open(logIn(folder));
    QVERIFY(log.ok());
    QCOMPARE(log.value()->facts().size(), std::size_t(1));
    QCOMPARE(log.value()->warnings().size(), std::size_t(1));
    QVERIFY(contentOf(folder.filePath("facts.torn")).contains("\"kind\":\"no"));
    QVERIFY(log.value()->append(Noted{"next"}, 4).ok());
    log.value().reset();
    QCOMPARE(FactLog::open(logIn(folder)).value()->facts().size(), std::size_t(2));
}

void TestFactLog::unknownKindsAndBadLines() {
    QTemporaryDir folder;
    QFile file(folder.filePath("facts.jsonl"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    const QByteArray lines = "{\"id\":1,\"time\":1,\"kind\":\"note\",\"text\":\"a\"}\nnot "
                             "json\n{\"id\":7,\"time\":1,\"kind\":\"x-ray\"}\n";
    file.write(lines);
    file.close();
    auto log = FactLog::open(logIn(folder));
    QVERIFY(log.ok());
    QCOMPARE(log.value()->facts().size(), std::size_t(2));
    QCOMPARE(log.value()->warnings().size(), std::size_t(2));
    QVERIFY(log.value()->warnings()[0].text().find("facts.jsonl:2") != std::string::npos);
    QCOMPARE(log.value()->append(Noted{"b"}, 2).value().id, 8L);
    QVERIFY(
        contentOf(folder.filePath("facts.jsonl")).startsWith(lines)); // what was there stays, byte for byte
}

// A case that another hand wrote, or whose board was changed for another: nothing of it counts for nothing
// without a word.
void TestFactLog::factsOfAnotherBoardAreTold() {
    QTemporaryDir base;
    const auto folder = std::filesystem::path(base.filePath("case").toStdString());
    QVERIFY(CaseFolder::create(folder, "Buoy light", testing::smallBoard()).ok());
    QFile file(base.filePath("case/facts.jsonl"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    for (int i = 1; i <= 8; ++i)
        file.write("{\"id\":" + QByteArray::number(i) + ",\"time\":1,\"kind\":\"lifted\",\"part\":\"C9" +
                   QByteArray::number(i) + "\"}\n");
    file.close();
    const auto opened = CaseFolder::open(folder);
    QVERIFY(opened.ok());
    QCOMPARE(opened.value().log->facts().size(), std::size_t(8));
    QCOMPARE(opened.value().warnings.size(), std::size_t(6));
    QVERIFY(opened.value().warnings[1].text().starts_with("fact 2: there is no part C92"));
    QVERIFY(opened.value().warnings[5].text().starts_with("3 more facts"));
}

// A line that cannot be counted keeps its number: what strikes it must not hit another.
void TestFactLog::numbersAreNotGivenTwice() {
    QTemporaryDir folder;
    QFile file(folder.filePath("facts.jsonl"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(R"({"id":1,"time":1,"kind":"note","text":"a"}
{"id":2,"time":"soon","kind":"reading"}
{"id":3,"time":1,"kind":"reading","place":"C1","mode":"smell","value":1}
)");
    file.close();
    auto log = FactLog::open(logIn(folder));
    QVERIFY(log.ok());
    QCOMPARE(log.value()->facts().size(), std::size_t(2));
    QCOMPARE(log.value()->append(Noted{"b"}, 2).value().id, 4L);
    // A file in which a number comes twice says so.
    QVERIFY(file.open(QIODevice::Append));
    file.write(R"({"id":3,"time":1,"kind":"note","text":"again"})"
               "\n");
    file.close();
    log.value().reset();
    const auto again = FactLog::open(logIn(folder));
    QVERIFY(again.ok());
    QVERIFY(again.value()->warnings().back().text().find("does not rise") != std::string::npos);
}

void TestFactLog::lookedAtWithoutTheLock() {
    QTemporaryDir folder;
    auto writer = FactLog::open(logIn(folder));
    QVERIFY(writer.value()->append(Noted{"one"}, 1).ok());
    auto reader = FactLog::openToRead(logIn(folder));
    QVERIFY(reader.ok());
    QCOMPARE(reader.value()->facts().size(), std::size_t(1));
    QVERIFY(!reader.value()->takesFacts());
    QVERIFY(!reader.value()->append(Noted{"two"}, 2).ok());
    // Caught in the middle of a line that somebody writes: left as it is.
    QFile file(folder.filePath("facts.jsonl"));
    QVERIFY(file.open(QIODevice::Append));
    file.write("{\"id\":2,");
    file.close();
    const QByteArray before = contentOf(file.fileName());
    reader = FactLog::openToRead(logIn(folder));
    QVERIFY(reader.ok());
    QCOMPARE(reader.value()->warnings().size(), std::size_t(1));
    QCOMPARE(contentOf(file.fileName()), before);
    QVERIFY(!QFile::exists(folder.filePath("facts.torn")));
    // Without any facts yet.
    QVERIFY(FactLog::openToRead(folder.filePath("none.jsonl").toStdString()).value()->facts().empty());
    QVERIFY(!QFile::exists(folder.filePath("none.jsonl")));
}

// What is written into a deleted file reaches nobody.
void TestFactLog::aDeletedFolderIsTold() {
    QTemporaryDir folder;
    auto log = FactLog::open(logIn(folder));
    QVERIFY(log.value()->append(Noted{"one"}, 1).ok());
    QVERIFY(QDir(folder.path()).removeRecursively());
    const auto added = log.value()->append(Noted{"two"}, 2);
    QVERIFY(!added.ok());
    QVERIFY2(added.error().text().find("deleted or moved") != std::string::npos,
             added.error().text().c_str());
    QCOMPARE(log.value()->facts().size(), std::size_t(1));
}

// A full disk, played by the system's limit on the size of a file: the write fails half-way.
void TestFactLog::fullDisk() {
    QTemporaryDir folder;
    auto log = FactLog::open(logIn(folder));
    QVERIFY(log.value()->append(Noted{"before"}, 1).ok());
    const auto size = contentOf(folder.filePath("facts.jsonl")).size();
    std::signal(SIGXFSZ, SIG_IGN);
    rlimit old{};
    getrlimit(RLIMIT_FSIZE, &old);
    rlimit tight = old;
    tight.rlim_cur = static_cast<rlim_t>(size + 10);
    setrlimit(RLIMIT_FSIZE, &tight);
    const auto refused = log.value()->append(Noted{"a fact that does not fit any more"}, 2);
    setrlimit(RLIMIT_FSIZE, &old);
    QVERIFY(!refused.ok());
    QVERIFY(!refused.error().kept.empty());
    QCOMPARE(contentOf(folder.filePath("facts.jsonl")).size(), size); // no half line stays
    QCOMPARE(log.value()->facts().size(), std::size_t(1));
    QVERIFY(log.value()->append(Noted{"after"}, 3).ok());
    log.value().reset();
    QCOMPARE(FactLog::open(logIn(folder)).value()->facts().size(), std::size_t(2));
}

void TestFactLog::oneWriterAtATime() {
    QTemporaryDir folder;
    auto log = FactLog::open(logIn(folder));
    const auto second = FactLog::open(logIn(folder));
    QVERIFY(!second.ok());
    QVERIFY(second.error().what.text().find("another window") != std::string::npos);
}

// kill -9 at any moment: what was accepted is there afterwards.
void TestFactLog::killedWriterLosesNothing() {
    QTemporaryDir folder;
    int pipes[2];
    QCOMPARE(pipe(pipes), 0);
    const pid_t child = fork();
    if (child == 0) {
        auto log = FactLog::open(logIn(folder));
        for (int i = 0;; ++i) {
            if (!log.value()->append(Noted{"fact"}, i).ok()) _exit(1);
            const char accepted = '.';
            if (write(pipes[1], &accepted, 1) != 1) _exit(1);
        }
    }
    close(pipes[1]);
    int accepted = 0;
    char byte = 0;
    while (accepted < 200 && read(pipes[0], &byte, 1) == 1)
        ++accepted;
    kill(child, SIGKILL);
    while (read(pipes[0], &byte, 1) == 1)
        ++accepted; // what it still managed to say
    waitpid(child, nullptr, 0);
    close(pipes[0]);
    const auto log = FactLog::open(logIn(folder));
    QVERIFY(log.ok());
    QVERIFY2(static_cast<int>(log.value()->facts().size()) >= accepted,
             qPrintable(QString("%1 of %2").arg(log.value()->facts().size()).arg(accepted)));
}
