#include "session/case_session.h"
#include "support/boards.h"
#include "unit/session/test_session.h"

#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <fstream>
#include <string>
#include <sys/resource.h>

using namespace ustor;

namespace {

struct Open {
    QTemporaryDir folder;
    CaseSession session{
        std::move(
            CaseFolder::create(folder.filePath("case").toStdString(), "hub", testing::smallBoard()).value()),
        Knowledge{}};
    std::size_t factsOnDisk() const {
        std::ifstream file(session.folder().path / "facts.jsonl");
        std::size_t lines = 0;
        for (std::string line; std::getline(file, line);)
            ++lines;
        return lines;
    }
};

ReadingTaken ohms(const char* place, double value) {
    return {place, "", {MeterMode::Ohms, ReadingState::Value, value, 0.01}};
}

} // namespace

void TestCaseSession::assessmentFollowsEachFact() {
    Open open;
    QVERIFY(open.session.assessment().down.nets.empty());
    const QSignalSpy changed(&open.session, &CaseSession::changed);
    const auto fact = open.session.add(ohms("C10.1", 0.3));
    QVERIFY(fact.ok());
    QCOMPARE(fact.value().id, 1L);
    QVERIFY(fact.value().time_s > 1.7e9); // seconds since 1970
    QVERIFY(!open.session.assessment().down.nets.empty());
    QCOMPARE(changed.count(), 1);
    QCOMPARE(open.factsOnDisk(), std::size_t(1));
}

void TestCaseSession::severalFactsTellOnce() {
    Open open;
    const QSignalSpy changed(&open.session, &CaseSession::changed);
    int told = 0;
    connect(&open.session, &CaseSession::factAdded, this, [&] { ++told; });
    QVERIFY(open.session.add({ohms("C10.1", 0.3), Noted{"a"}, Lifted{"C10"}}).ok());
    QCOMPARE(changed.count(), 1);
    QCOMPARE(told, 3);
    QVERIFY(open.session.assessment().state.lifted.contains("C10"));
    QVERIFY(open.session.add(std::vector<FactBody>{}).ok()); // nothing happened, nothing is told
    QCOMPARE(changed.count(), 1);
}

// The limit of the process on a file's size stands for the disk that fills up in the middle of two facts.
void TestCaseSession::aFullDiskKeepsWhatWasWritten() {
    Open open;
    QVERIFY(open.session.add(Noted{"first"}).ok());
    rlimit before{};
    getrlimit(RLIMIT_FSIZE, &before);
    const auto size = std::filesystem::file_size(open.session.folder().path / "facts.jsonl");
    const auto old = std::signal(SIGXFSZ, SIG_IGN);
    rlimit tight = before;
    tight.rlim_cur = size + 120;
    setrlimit(RLIMIT_FSIZE, &tight);
    const auto added = open.session.add({Noted{"fits"}, Noted{std::string(500, 'x')}, Noted{"never tried"}});
    setrlimit(RLIMIT_FSIZE, &before);
    std::signal(SIGXFSZ, old);
    QVERIFY(!added.ok());
    QVERIFY(!added.error().what.empty() && !added.error().where.empty());
    QCOMPARE(open.session.facts().size(), std::size_t(2));
    QCOMPARE(open.factsOnDisk(), std::size_t(2));
    QVERIFY(open.session.add(Noted{"there is room again"}).ok());
    QCOMPARE(open.session.facts().back().id, 3L);
}

void TestCaseSession::undoRedoAndStrikes() {
    Open open;
    QVERIFY(!open.session.canUndo() && !open.session.undo().ok() && !open.session.redo().ok());
    QVERIFY(open.session.add(ohms("C10.1", 0.3)).ok());
    QVERIFY(open.session.undo().ok());
    QVERIFY(open.session.assessment().down.nets.empty());
    QVERIFY(open.session.canRedo() && open.session.redo().ok());
    QVERIFY(!open.session.assessment().down.nets.empty());
    for (const bool down : {false, true, false}) {
        QVERIFY(open.session.toggleStruck(1).ok());
        QCOMPARE(!open.session.assessment().down.nets.empty(), down);
    }
    QCOMPARE(open.factsOnDisk(), open.session.facts().size()); // nothing was deleted
}

void TestCaseSession::whatAFactDidCanBeSeen() {
    Open open;
    QVERIFY(open.session.add({ohms("C10.1", 0.3), Seen{"C12", Damage::Burnt, ""}}).ok());
    const auto oddsOf = [](const Assessment& a, const char* name) {
        for (const Suspect& s : a.suspects)
            if (s.part >= 0 && a.state.board.parts[s.part].designator == name) return s.odds;
        return -1.0;
    };
    QVERIFY(oddsOf(open.session.assessment(), "C12") > 2 * oddsOf(open.session.without(2), "C12"));
    QVERIFY(open.session.without(1).down.nets.empty());
}
