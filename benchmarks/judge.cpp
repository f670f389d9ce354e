#include "base/median.h"
#include "benchmarks.h"
#include "diagnosis/assess.h"
#include "many_facts.h"
#include "processor_time.h"
#include "support/boards.h"
#include "support/ipc2581_text.h"

#include <Eigen/Dense>
#include <cstdio>

namespace ustor {
namespace {

template <class Work> double spent_ms(const Work& work) {
    const double before_s = processorTime_s(CLOCK_THREAD_CPUTIME_ID);
    work();
    return 1e3 * (processorTime_s(CLOCK_THREAD_CPUTIME_ID) - before_s);
}

/// What the figures are compared with: a dense network of 300 nodes solved once.
double reference_ms() {
    const Eigen::MatrixXd conductances =
        Eigen::MatrixXd::Random(300, 300) + 300 * Eigen::MatrixXd::Identity(300, 300);
    std::vector<double> times;
    double sum = 0;
    for (int run = 0; run < 9; ++run)
        times.push_back(spent_ms([&] {
            sum += (conductances * conductances.transpose())
                       .eval()
                       .llt()
                       .solve(Eigen::VectorXd::Ones(300))
                       .sum();
        }));
    return sum > 0 ? medianOf(times) : 0;
}

/// One rail with so many parts on it, and two more beside.
Board longRail(int parts) {
    Board board;
    board.outline = {{0, 0}, {200, 0}, {200, 100}, {0, 100}};
    testing::addNet(board, "GND");
    const char* rails[] = {"+3V3_MAIN", "+5V_AUX", "+1V8_MEM"};
    for (int i = 0; i < parts; ++i) {
        const int row = i / 48;
        const BoardPoint at{2.0 + 4 * (i % 48), 2.0 + 4 * row};
        const char* rail = i < parts - 40 ? rails[0] : rails[1 + i % 2];
        const bool chip = i % 12 == 0;
        testing::addChip(board, (chip ? "U" : "C") + std::to_string(i + 1),
                         chip ? PartClass::Ic : PartClass::CeramicCapacitor, at, rail, "GND", chip ? 3 : 1);
    }
    return board;
}

/// Each fact is told by itself, as on a bench; then readings of one rail that is down.
void tell(const char* what, const Board& board, int count, double reference) {
    std::vector<Fact> facts;
    for (const FactBody& body : manyFacts(board, count))
        facts.push_back(
            {static_cast<long>(facts.size()) + 1, 60.0 * static_cast<double>(facts.size()), body});
    double last_ms = 0;
    std::vector<double> added;
    Assessor assessor(board, {});
    const double opened_ms = spent_ms([&] { assessor.take(facts); });
    std::string place;
    for (const Part& part : board.parts)
        if (place.empty() && part.pads.size() > 1 && part.pads.front().net >= 0 &&
            board.nets[part.pads.front().net].nominal)
            place = part.designator + "." + part.pads.front().pin;
    for (int i = 0; i < 15; ++i) {
        facts.push_back(
            {static_cast<long>(facts.size()) + 1, 60.0 * static_cast<double>(facts.size()),
             ReadingTaken{place, "", {i % 2 ? MeterMode::Diode : MeterMode::Ohms, {}, 0.004 + i, 0.1}}});
        last_ms = spent_ms([&] { assessor.take(facts); });
        added.push_back(last_ms);
    }
    std::printf("  %-44s all at once %7.1f ms, one more reading %6.1f ms (%.1f times the reference)\n", what,
                opened_ms, medianOf(added), medianOf(added) / reference);
    std::fflush(stdout);
}

} // namespace

void benchJudge() {
    const double reference = reference_ms();
    std::printf("Judging, processor time; the reference is one dense network of 300 nodes, %.1f ms\n",
                reference);
    const Board demo = testing::demoBoard("chart-plotter");
    tell("demo board, 20 facts", demo, 20, reference);
    tell("demo board, 60 facts", demo, 60, reference);
    tell("rail of 300 parts, 60 facts (wanted: 50 ms)", longRail(340), 60, reference);
    const Board large = testing::manyParts(10000, 6);
    tell("board of 10,000 parts, 200 facts (300 ms)", large, 200, reference);
    tell("demo board, 20,000 facts (50 ms)", demo, 20000, reference);
    tell("board of 10,000 parts, 20,000 facts", large, 20000, reference);
    std::printf("\n");
}

} // namespace ustor
