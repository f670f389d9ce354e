#include "diagnosis/fact/fact_json.h"
#include "session/begun_injection.h"
#include "session/case_session.h"
#include "support/boards.h"
#include "thermal/recording_writer.h"
#include "unit/session/test_session.h"

#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cmath>
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

// No fact waits for what follows from those before it, and none is left out; the reference is all of them
// judged at once.
void TestCaseSession::aLargeCaseIsJudgedBeside() {
    const QTemporaryDir folder;
    const auto path = std::filesystem::path(folder.path().toStdString()) / "case";
    QVERIFY(CaseFolder::create(path, "grown", testing::smallBoard()).ok());
    {
        std::ofstream file(CaseFolder::factsFileIn(path));
        for (long id = 1; id <= 1200; ++id)
            file << factToJson({id, 1.79e9 + static_cast<double>(id), Noted{"a word"}}) << "\n";
    }
    auto opened = CaseFolder::open(path);
    QVERIFY(opened.ok());
    auto session = std::make_unique<CaseSession>(std::move(opened.value()), Knowledge{});
    QSignalSpy changed(session.get(), &CaseSession::changed), judging(session.get(), &CaseSession::judging);
    const Assessment* before = &session->assessment();
    QVERIFY(session->add(ohms("C10.1", 0.3)).ok());
    QVERIFY(session->isJudging());
    QCOMPARE(session->facts().size(), std::size_t(1201));
    QCOMPARE(&session->assessment(), before); // who shows it still may
    QVERIFY(session->assessment().down.nets.empty());
    QVERIFY(session->add(Seen{"C12", Damage::Burnt, ""}).ok());
    session->setKnown({}, {});
    QVERIFY(session->undo().ok());
    QCOMPARE(judging.count(), 4);
    while (session->isJudging())
        QVERIFY(changed.wait(20000));
    QVERIFY(changed.count() >= 1 && changed.count() <= 4);
    const Assessment whole = assess(session->board(), session->facts(), Knowledge{});
    QVERIFY(!whole.down.nets.empty());
    QCOMPARE(session->assessment().down.nets, whole.down.nets);
    QCOMPARE(session->assessment().suspects.size(), whole.suspects.size());
    for (std::size_t i = 0; i < whole.suspects.size(); ++i) {
        QCOMPARE(session->assessment().suspects[i].part, whole.suspects[i].part);
        QVERIFY(std::fabs(session->assessment().suspects[i].odds - whole.suspects[i].odds) < 1e-9);
    }
    // Closed while it is judged: the end waits for the thread.
    QVERIFY(session->add(ohms("C10.1", 0.31)).ok());
    session.reset();
    const auto again = CaseFolder::open(path);
    QCOMPARE(again.value().log->facts().size(), std::size_t(1204));
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
    QVERIFY(oddsOf(open.session.assessment(), "C12") > 2 * oddsOf(open.session.without(2)(), "C12"));
    QVERIFY(open.session.without(1)().down.nets.empty());
}

namespace {

InjectionPlan smallPlan() {
    InjectionPlan plan;
    plan.steps.resize(2);
    plan.steps.front().volts = Volts(0.4);
    plan.steps.front().amps = Amps(0.1);
    return plan;
}

const InjectionDone* lastInjection(const CaseSession& session) {
    const auto& facts = session.facts();
    const auto last = std::find_if(facts.rbegin(), facts.rend(), [](const Fact& f) {
        return std::holds_alternative<InjectionDone>(f.body);
    });
    return last == facts.rend() ? nullptr : &std::get<InjectionDone>(last->body);
}

} // namespace

// The program died after the output came on; what the recording holds is what is known.
void TestCaseSession::aBegunInjectionIsFoundAgain() {
    Open open;
    const auto recording = open.session.folder().nextRecording();
    QVERIFY(noteBegun(smallPlan(), {"C10.1", "C10.2", Side::Top}, recording, false, open.session).ok());
    {
        auto writer = RecordingWriter::create(recording, {16, 12, 10});
        QVERIFY(writer.ok());
        for (int i = 0; i <= 20; ++i) {
            QVERIFY(writer.value()
                        ->add(ThermalFrame{0.1 * i, cv::Mat(12, 16, CV_16UC1, cv::Scalar(29800))})
                        .ok());
            const bool on = i >= 5; // 0.2 V at 0.1 A
            QVERIFY(
                writer.value()->add(SupplySample{0.1 * i, on, 0.4, 0.1, on ? 0.2 : 0, on ? 0.1 : 0}).ok());
        }
    }
    const auto recovered = recoverBegun(open.session);
    QCOMPARE(recovered.injections, 1);
    QCOMPARE(recovered.cutOff, 1);
    QVERIFY(recovered.troubles.empty());
    const InjectionDone* done = lastInjection(open.session);
    QVERIFY(done);
    QCOMPARE(done->cause, StopCause::ProgramEnded);
    QCOMPARE(QString::fromStdString(done->plus), QString("C10.1"));
    QCOMPARE(QString::fromStdString(done->recording), QString("recordings/01"));
    QVERIFY2(std::abs(done->deliveredWatts - 0.02) < 1e-9, qPrintable(QString::number(done->deliveredWatts)));
    QVERIFY(std::abs(done->seconds - 2) < 1e-6);
    // What the supply showed meanwhile is as good a witness as if somebody had read it off.
    const auto* shows = std::get_if<SupplyShows>(&open.session.facts().back().body);
    QVERIFY(shows);
    QVERIFY(std::abs(shows->volts - 0.2) < 1e-9 && std::abs(shows->amps - 0.1) < 1e-9);
    // Told once: neither a second look nor a fact that names the recording makes it twice.
    QCOMPARE(recoverBegun(open.session).injections, 0);
    QVERIFY(noteBegun(smallPlan(), {"C10.1", "C10.2", Side::Top}, recording, false, open.session).ok());
    QCOMPARE(recoverBegun(open.session).injections, 0);
    QCOMPARE(open.factsOnDisk(), std::size_t(2));
    // One that had ended and was still gone over ended as it did.
    const auto second = open.session.folder().path / "recordings" / "02";
    QVERIFY(noteBegun(smallPlan(), {"C10.1", "C10.2", Side::Top}, second, false, open.session).ok());
    noteEnded(second, StopCause::Certain);
    const auto complete = recoverBegun(open.session);
    QCOMPARE(complete.injections, 1);
    QCOMPARE(complete.cutOff, 0);
    QCOMPARE(lastInjection(open.session)->cause, StopCause::Certain);
}

void TestCaseSession::aSpoiltNoteOfABegunInjectionIsTold() {
    Open open;
    const auto recording = open.session.folder().nextRecording();
    std::filesystem::create_directories(recording.parent_path());
    const std::filesystem::path note = recording.string() + ".begun.json";
    std::ofstream(note) << "{\"id\":1,\"kind\":\"inj";
    const auto recovered = recoverBegun(open.session);
    QCOMPARE(recovered.injections, 0);
    QCOMPARE(recovered.troubles.size(), std::size_t(1));
    QVERIFY(QString::fromStdString(recovered.troubles.front().text()).contains("01.begun.json"));
    QVERIFY(std::filesystem::exists(note));
    // Where it cannot be noted, it is said so, and nothing may be switched on.
    const std::filesystem::path nowhere = open.session.folder().path / "facts.jsonl" / "01";
    QVERIFY(!noteBegun(smallPlan(), {"C10.1", "C10.2", Side::Top}, nowhere, false, open.session).ok());
}
