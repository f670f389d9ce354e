#include "worlds/told_case.h"

#include "diagnosis/assess.h"
#include "rail/handy_place.h"
#include "rail/stretch.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace ustor::testing {
namespace {

class Teller {
  public:
    Teller(OtherBench& bench, Random& random, bool meterOnly)
        : m_bench(bench), m_random(random), m_meterOnly(meterOnly), m_assessor(bench.board(), {}) {
        for (PartIndex p = 0; p < static_cast<PartIndex>(bench.board().parts.size()); ++p)
            m_guilty.push_back(bench.guilty(p));
        m_case.kind = kindOfFaults(bench);
        m_case.bestByMeter = bench.bestGuessByMeter();
        m_case.hasCulprit = std::any_of(m_guilty.begin(), m_guilty.end(), [](bool guilty) { return guilty; });
    }

    ToldCase tell() {
        add(Complaint{"dead"});
        add(m_bench.plugIn());
        readRails();
        judge();
        say(ToldCase::Read);
        if (!m_meterOnly) look();
        judge();
        say(ToldCase::Looked);
        m_case.amongTwo = among(2);
        lift();
        judge();
        say(ToldCase::Lifted);
        return m_case;
    }

  private:
    void add(const FactBody& body) {
        m_time_s += 600; // it waits until the board is cool
        m_facts.push_back({static_cast<long>(m_facts.size()) + 1, m_time_s, body});
    }
    void judge() { m_assessor.take(m_facts); }

    void readRails() {
        const Board& board = m_bench.board();
        std::set<NetIndex> covered;
        std::vector<std::string> places;
        for (const NetIndex net : powerNets(board)) {
            if (covered.contains(net)) continue;
            const Stretch stretch = stretchOf(board, net);
            covered.insert(stretch.nets.begin(), stretch.nets.end());
            places.push_back(handyPlace(board, stretch));
        }
        for (std::size_t i = places.size(); i > 1; --i)
            std::swap(places[i - 1], places[static_cast<std::size_t>(m_random.below(static_cast<int>(i)))]);
        for (const std::string& place : places)
            add(ReadingTaken{place, "", m_bench.measure(netOfPlace(board, place), -1, MeterMode::Ohms)});
    }

    void look() {
        const Assessment& a = m_assessor.assessment();
        if (a.down.nets.empty()) return;
        const std::string place = handyPlace(m_bench.board(), a.down);
        const NetIndex net = netOfPlace(m_bench.board(), place);
        for (const Side side : {Side::Top, Side::Bottom})
            add(m_bench.look(net, side, 1, 2));
    }

    void lift() {
        const Assessment& a = m_assessor.assessment();
        if (a.down.nets.empty() || ranked().front() < 0) return;
        const std::string place = handyPlace(m_bench.board(), a.down);
        const PartIndex part = ranked().front();
        m_bench.lift(part);
        add(Lifted{m_bench.board().parts[part].designator});
        add(ReadingTaken{place, "",
                         m_bench.measure(netOfPlace(m_bench.board(), place), -1, MeterMode::Ohms)});
    }

    std::vector<PartIndex> ranked() const {
        const auto& cause = m_assessor.assessment().belief.cause;
        std::vector<PartIndex> parts(cause.size());
        for (PartIndex p = 0; p < static_cast<PartIndex>(parts.size()); ++p)
            parts[static_cast<std::size_t>(p)] = p;
        std::stable_sort(parts.begin(), parts.end(), [&](PartIndex a, PartIndex b) {
            return cause[static_cast<std::size_t>(a)] > cause[static_cast<std::size_t>(b)];
        });
        return parts;
    }
    bool among(std::size_t most) const {
        const auto parts = ranked();
        return std::any_of(parts.begin(),
                           parts.begin() + static_cast<std::ptrdiff_t>(std::min(most, parts.size())),
                           [this](PartIndex p) { return m_guilty[static_cast<std::size_t>(p)]; });
    }
    void say(ToldCase::When when) {
        const auto first = static_cast<std::size_t>(ranked().front());
        m_case.said[when] = {m_assessor.assessment().belief.cause[first], m_guilty[first]};
    }

    OtherBench& m_bench;
    Random& m_random;
    bool m_meterOnly;
    Assessor m_assessor;
    std::vector<Fact> m_facts;
    std::vector<bool> m_guilty; ///< before anything was lifted
    double m_time_s = 1e6;
    ToldCase m_case;
};

} // namespace

ToldCase tellCase(OtherBench& bench, Random& random, bool meterOnly) {
    return Teller(bench, random, meterOnly).tell();
}

std::string kindOfFaults(const OtherBench& bench) {
    const auto& faults = bench.faults();
    const auto causes =
        std::count_if(faults.begin(), faults.end(), [](const WorldFault& f) { return !f.follows; });
    if (causes > 1) return "two faults";
    const WorldFault& fault = faults.front();
    switch (fault.kind) {
    case WorldFault::Kind::Open:
        return "open part";
    case WorldFault::Kind::Dead:
        return "dead controller";
    case WorldFault::Kind::Firmware:
        return "nothing electrical";
    case WorldFault::Kind::Short:
        break;
    }
    if (fault.part < 0) return "laminate";
    if (fault.fromVolts > 0) return "capacitor, at voltage";
    switch (bench.board().parts[static_cast<std::size_t>(fault.part)].partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::PolarCapacitor:
        return "capacitor";
    case PartClass::Mosfet:
        return "switch";
    case PartClass::ClampDiode:
        return "clamp diode";
    case PartClass::Regulator:
        return "controller shorted";
    default:
        return bench.repairable() ? "chip" : "processor";
    }
}

WorldStatistics shiftedStatistics(Random& random, double times) {
    WorldStatistics s;
    for (double* share :
         {&s.capacitor, &s.polar, &s.mosfet, &s.clamp, &s.chip, &s.regulator, &s.processor, &s.laminate,
          &s.open, &s.dead, &s.firmware, &s.companion, &s.fuseBlown, &s.shows, &s.innocentShows})
        *share *= std::exp(random.uniform(-std::log(times), std::log(times)));
    return s;
}

} // namespace ustor::testing
