#include "worlds/schools.h"

#include "diagnosis/moves/cost_to_repair.h"
#include "diagnosis/rail_rules.h"
#include "rail/handy_place.h"
#include "rail/stretch.h"

#include <algorithm>
#include <set>

namespace ustor::testing {
namespace {

constexpr int mostLifts = 12;
constexpr double mostMinutes = 150, putBackMinutes = 3, replaceMinutes = 4, injectMinutes = 3,
                 readMinutes = 0.5;

class Person {
  public:
    Person(OtherBench& bench, Habit habit)
        : m_bench(bench), m_board(bench.board()), m_habit(habit), m_parts(m_board) {
        m_result.repairable = bench.repairable();
        m_result.story = bench.story();
        m_result.ended = true;
    }

    PlayResult play() {
        spend(1);
        m_bench.plugIn();
        findRails();
        for (const Rail& rail : downRails())
            if (!hunt(rail)) break;
        if (m_replaced > 0 && !tired()) {
            spend(3);
            m_result.closedFixed = m_bench.plugIn().reaction == Reaction::Starts;
        }
        m_result.mended = m_bench.mended();
        return m_result;
    }

  private:
    struct Rail {
        Stretch stretch;
        NetIndex at = -1;
        double ohms = 0;
    };

    void spend(double minutes) { m_result.minutes += minutes; }
    bool tired() const { return m_result.lifts >= mostLifts || m_result.minutes > mostMinutes; }

    Reading read(NetIndex at) {
        spend(readMinutes);
        return m_bench.measure(at, -1, MeterMode::Ohms);
    }
    bool isDown(const Rail& rail, const Reading& reading) const {
        // Everybody knows that the rail of a big chip lies.
        constexpr double big_mm = 9;
        const bool core =
            std::any_of(rail.stretch.suspects.begin(), rail.stretch.suspects.end(), [&](PartIndex p) {
                const Part& part = m_board.parts[p];
                return part.partClass != PartClass::Connector &&
                       std::min(part.width_mm, part.height_mm) >= big_mm;
            });
        const RailKind kind = core ? RailKind::Core : railKindOf(m_board, m_parts, rail.stretch.nets.front());
        const RailState state = judgeReading(reading, kind).state;
        return state == RailState::Short || state == RailState::Partial;
    }

    void findRails() {
        std::set<NetIndex> covered;
        for (const NetIndex net : powerNets(m_board)) {
            if (covered.contains(net)) continue;
            Rail rail{stretchOf(m_board, net)};
            covered.insert(rail.stretch.nets.begin(), rail.stretch.nets.end());
            rail.at = netOfPlace(m_board, handyPlace(m_board, rail.stretch));
            m_rails.push_back(std::move(rail));
        }
    }
    std::vector<Rail> downRails() {
        std::vector<Rail> down;
        for (Rail& rail : m_rails) {
            const Reading reading = read(rail.at);
            rail.ohms = reading.value;
            if (isDown(rail, reading)) down.push_back(rail);
        }
        std::stable_sort(down.begin(), down.end(),
                         [](const Rail& a, const Rail& b) { return a.ohms < b.ohms; });
        return down;
    }

    static int rank(PartClass partClass, bool chipsFirst) {
        const bool capacitor =
            partClass == PartClass::CeramicCapacitor || partClass == PartClass::PolarCapacitor;
        const bool chip = partClass == PartClass::Ic || partClass == PartClass::Regulator ||
                          partClass == PartClass::Processor;
        if (chipsFirst) return chip ? 0 : capacitor ? 2 : 1;
        return capacitor ? 0 : chip ? 2 : 1;
    }

    /// In the order in which the habit lifts.
    std::vector<PartIndex> order(const Rail& rail) {
        std::vector<PartIndex> parts = rail.stretch.suspects;
        const bool chipsFirst = m_habit == Habit::ChipsFirst;
        std::stable_sort(parts.begin(), parts.end(), [&](PartIndex a, PartIndex b) {
            return rank(m_board.parts[a].partClass, chipsFirst) <
                   rank(m_board.parts[b].partClass, chipsFirst);
        });
        if (m_habit != Habit::LiftTheWarmest) return parts;
        // The parts nearest to the warmest spot, of the side that shows the clearer one.
        HeatFound best;
        for (const Side side : {Side::Top, Side::Bottom}) {
            spend(injectMinutes);
            const HeatFound found = m_bench.look(rail.at, side, 1, 2);
            const auto clear = [](const HeatFound& f) { return f.spots.empty() ? 0.0 : f.spots.front().snr; };
            if (clear(found) > clear(best)) best = found;
        }
        if (best.spots.empty()) return parts;
        const BoardPoint at = best.spots.front().at;
        std::stable_sort(parts.begin(), parts.end(), [&](PartIndex a, PartIndex b) {
            const auto away = [&](PartIndex p) {
                const double other = m_board.parts[p].side == best.side ? 0 : 2;
                return distance_mm(m_board.parts[p].centre, at) + other;
            };
            return away(a) < away(b);
        });
        return parts;
    }

    bool hunt(const Rail& rail) {
        if (!isDown(rail, read(rail.at))) return true; // a slip, or healed with another rail
        std::vector<PartIndex> innocent;
        bool found = false;
        for (const PartIndex part : order(rail)) {
            if (tired()) break;
            const bool guilty = m_bench.guilty(part);
            if (!m_result.firstLiftGuilty) m_result.firstLiftGuilty = guilty;
            ++m_result.lifts;
            m_result.needless += !guilty;
            spend(minutesToTry(m_board.parts[part]));
            m_bench.lift(part);
            if (!isDown(rail, read(rail.at))) {
                spend(replaceMinutes);
                m_bench.refit(part, true);
                ++m_replaced;
                found = true;
                break;
            }
            innocent.push_back(part);
        }
        for (const PartIndex part : innocent) {
            spend(putBackMinutes);
            m_bench.refit(part, false);
        }
        return found;
    }

    OtherBench& m_bench;
    const Board& m_board;
    Habit m_habit;
    NetParts m_parts;
    std::vector<Rail> m_rails;
    int m_replaced = 0;
    PlayResult m_result;
};

} // namespace

const char* nameOf(Habit habit) {
    switch (habit) {
    case Habit::CapacitorsFirst:
        return "capacitors first";
    case Habit::ChipsFirst:
        return "chips first";
    case Habit::LiftTheWarmest:
        return "lift the warmest";
    }
    return "";
}

PlayResult playByHabit(OtherBench& bench, Habit habit) {
    return Person(bench, habit).play();
}

} // namespace ustor::testing
