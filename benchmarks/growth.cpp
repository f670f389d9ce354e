#include "app/cases_page.h"

#include "app/main_window.h"
#include "app/trail_panel.h"
#include "app/workbench.h"
#include "base/median.h"
#include "benchmarks.h"
#include "diagnosis/fact/fact_json.h"
#include "many_facts.h"
#include "processor_time.h"
#include "support/boards.h"
#include "support/ipc2581_text.h"
#include "support/wait.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QFile>
#include <QListWidget>
#include <QTemporaryDir>
#include <algorithm>
#include <cstdio>
#include <fstream>

namespace ustor {
namespace {

std::filesystem::path writeCase(const std::filesystem::path& folder, const Board& board,
                                const std::vector<FactBody>& bodies) {
    if (!CaseFolder::create(folder, "A case that has grown", board)) return {};
    std::ofstream file(CaseFolder::factsFileIn(folder));
    long id = 0;
    for (const FactBody& body : bodies) {
        ++id;
        file << factToJson({id, 1.79e9 + 60 * static_cast<double>(id), body}) << "\n";
    }
    return folder;
}

struct Took {
    double open_ms = 0, reading_ms = 0, judged_ms = 0, click_ms = 0;
};

/// Own work of the window's thread: what the disk takes to keep a fact is not in it.
Took noteReadings(const Board& board, const std::vector<FactBody>& bodies) {
    const QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    const auto path = writeCase(base / "grown", board, bodies);
    auto book = Casebook::open(base / "book");
    if (path.empty() || !book) return {};
    MainWindow window(std::move(book.value()));
    window.resize(1280, 800);
    window.show();
    QApplication::processEvents();
    const auto spent_ms = [&window](const auto& work) {
        const double before_s = processorTime_s(CLOCK_THREAD_CPUTIME_ID);
        work();
        for (int turn = 0; turn < 5; ++turn)
            QApplication::processEvents();
        // What is judged in a thread of its own is drawn when it comes.
        const CaseSession* session = window.workbench().session();
        while (session && session->isJudging())
            QApplication::processEvents(QEventLoop::WaitForMoreEvents);
        return 1e3 * (processorTime_s(CLOCK_THREAD_CPUTIME_ID) - before_s);
    };
    Took took;
    took.open_ms = spent_ms([&] { window.openFolder(QString::fromStdString(path.string())); });
    Workbench& bench = window.workbench();
    if (!bench.session()) return {};
    // A main rail that reads down, so that suspects are ranked and moves weighed each time.
    std::vector<std::string> rails;
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            if (pad.net >= 0 && board.nets[pad.net].nominal && board.nets[pad.net].nominal->value > 2)
                rails.push_back(part.designator + "." + pad.pin);
    std::vector<double> readings, judged, clicks;
    constexpr int times = 15;
    for (int i = 0; i < times; ++i)
        readings.push_back(spent_ms([&] {
            const double before_s = processorTime_s(CLOCK_THREAD_CPUTIME_ID);
            const auto& place = rails[static_cast<std::size_t>(i) % rails.size()];
            if (!bench.session()->add(ReadingTaken{place, "", {MeterMode::Ohms, {}, 3.0, 0.1}}))
                std::printf("  a reading was not taken\n");
            judged.push_back(1e3 * (processorTime_s(CLOCK_THREAD_CPUTIME_ID) - before_s));
        }));
    took.reading_ms = medianOf(readings);
    took.judged_ms = medianOf(judged);
    auto* trail = window.findChild<TrailPanel*>();
    auto* list = trail ? trail->findChild<QListWidget*>() : nullptr;
    for (int i = 1; list && i < 6; ++i)
        clicks.push_back(spent_ms([&] {
            list->setCurrentRow(list->count() - 2 * i);
            testing::waitUntil([&] { return !trail->explains(); }, 5000);
        }));
    took.click_ms = clicks.empty() ? 0 : medianOf(clicks);
    return took;
}

void tell(const char* what, const Took& small, const Took& grown) {
    std::printf("  %-42s opened in %6.0f ms, a reading noted in %6.1f ms, %6.1f of them before anything is "
                "drawn (%.1f "
                "times the young case's), a line of the trail chosen in %6.1f ms\n",
                what, grown.open_ms, grown.reading_ms, grown.judged_ms,
                grown.reading_ms / std::max(0.01, small.reading_ms), grown.click_ms);
    std::fflush(stdout);
}

void benchCasebook() {
    const QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    const auto first =
        writeCase(base / "case-0", testing::smallBoard(), manyFacts(testing::smallBoard(), 12));
    constexpr int cases = 10000;
    for (int i = 1; i < cases; ++i) {
        const auto next = base / ("case-" + std::to_string(i));
        std::filesystem::create_directory(next);
        for (const char* file : {"case.json", "board.board.json", "facts.jsonl"})
            std::filesystem::copy_file(first / file, next / file);
    }
    for (const bool indexed : {false, true}) {
        QElapsedTimer clock;
        clock.start();
        auto book = Casebook::open(base);
        if (!book) return;
        MainWindow window(std::move(book.value()));
        window.resize(1280, 800);
        window.show();
        QApplication::processEvents();
        const double usable_ms = static_cast<double>(clock.nsecsElapsed()) * 1e-6;
        const auto* page = window.findChild<CasesPage*>();
        double longest_ms = 0;
        const auto done = [&] {
            QElapsedTimer turn;
            turn.start();
            QApplication::processEvents();
            longest_ms = std::max(longest_ms, static_cast<double>(turn.nsecsElapsed()) * 1e-6);
            return !page->reads();
        };
        testing::waitUntil(done, 120000);
        std::printf("  %d cases, %s: usable in %.0f ms (wanted: 500), all gone over in %.1f s, the longest "
                    "turn of the "
                    "window meanwhile %.0f ms\n",
                    cases, indexed ? "with the index" : "for the first time", usable_ms,
                    static_cast<double>(clock.elapsed()) * 1e-3, longest_ms);
    }
}

} // namespace

void benchGrowth() {
    std::printf("As cases grow (processor time of the window's thread; wanted: a reading at 20,000 facts "
                "within 50 ms)\n");
    const Board demo = testing::demoBoard("chart-plotter");
    const Took young = noteReadings(demo, manyFacts(demo, 20));
    tell("demo board, 20 facts", young, young);
    tell("demo board, 5,000 facts", young, noteReadings(demo, manyFacts(demo, 5000)));
    tell("demo board, 20,000 facts", young, noteReadings(demo, manyFacts(demo, 20000)));
    const QTemporaryDir folder;
    const QString file = folder.filePath("large.xml");
    QFile out(file);
    const QByteArray text = QByteArray::fromStdString(testing::ipc2581Text(testing::manyParts(10000, 6)));
    if (!out.open(QIODevice::WriteOnly) || out.write(text) != text.size()) return;
    out.close();
    const auto large = readBoardFiles({file.toStdString()});
    if (!large) return std::printf("Large board: %s\n", large.error().text().c_str()), void();
    const Took few = noteReadings(large.value(), manyFacts(large.value(), 20));
    tell("board of 10,000 parts, 20 facts", few, few);
    tell("board of 10,000 parts, 60 facts", few, noteReadings(large.value(), manyFacts(large.value(), 60)));
    tell("board of 10,000 parts, 20,000 facts", few,
         noteReadings(large.value(), manyFacts(large.value(), 20000)));
    benchCasebook();
    std::printf("\n");
}

} // namespace ustor
