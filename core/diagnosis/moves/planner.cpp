#include "diagnosis/moves/planner.h"

#include "rail/handy_place.h"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace ustor {
namespace {

/// What takes as long as the shop takes for such work; lifting is priced by part.
std::optional<WorkKind> workOf(MoveKind kind) {
    switch (kind) {
    case MoveKind::MeasureRail:
    case MoveKind::MeasureAcross:
    case MoveKind::MeasurePart:
    case MoveKind::ReadVolts:
    case MoveKind::MeasureAfterLift:
    case MoveKind::ProveRail:
        return WorkKind::Read;
    case MoveKind::Inject:
    case MoveKind::TurnOver:
    case MoveKind::WatchFlares:
        return WorkKind::LookAtHeat;
    default:
        return std::nullopt;
    }
}

} // namespace

Message percent(double p) {
    if (p > 0.995) return say("more than 99 %");
    return say("{percent} %", {{"percent", std::lround(p * 100)}});
}

std::optional<bool> readsLow(const Reading& reading) {
    if (reading.mode == MeterMode::Volts) return std::nullopt;
    if (reading.state == ReadingState::OverRange) return false;
    return reading.value < (reading.mode == MeterMode::Diode ? low_v : low_ohms);
}

Planner::Planner(const Standing& standing)
    : m(standing), m_state(standing.state), m_board(standing.state.board), m_now(*standing.state.now),
      m_prospect(standing.state, standing.belief, standing.pace) {
    const auto& rails = m.circuit.rails();
    m_ownLow.resize(rails.size());
    for (std::size_t r = 0; r < rails.size(); ++r)
        for (const LoadLevel& level : rails[r].levels)
            if (level.ohms <= low_ohms) m_ownLow[r] += level.share;
    for (const NetIndex net : powerNets(m_board, *m_state.netParts))
        if (const int rail = m.circuit.railOf(net); rail >= 0) m_power.insert(rail);
    m_readings.resize(rails.size());
    for (const auto& r : m_state.readings)
        if (const int rail = m.circuit.railOf(r.net); rail >= 0 && r.taken.against.empty())
            m_readings[static_cast<std::size_t>(rail)].push_back(&r);
    // Of a rail that is read again and again the newest tell.
    constexpr std::size_t newest = 40;
    for (auto& readings : m_readings)
        if (readings.size() > newest) readings.erase(readings.begin(), readings.end() - newest);
}

void Planner::chooseRail() {
    double most = -1;
    for (const NetIndex net : m.down.nets) {
        const int rail = m.circuit.railOf(net);
        if (rail < 0 || rail == m_hunted) continue;
        const double odds = m_prospect.oddsOf([&](const View& view) {
            return std::any_of(view.left.begin(), view.left.end(),
                               [&](const Fault& f) { return shorts(f, rail); });
        });
        if (odds > most) {
            most = odds;
            m_hunted = rail;
        }
    }
}

std::vector<NextMove> Planner::moves() {
    if (m_state.closed) return {};
    chooseRail();
    story();
    afterWork();
    measureRails();
    across();
    volts();
    powerAgain();
    if (!m.down.nets.empty()) {
        lookOver();
        split();
        unplug();
        readAlong();
        inject();
    }
    watchFlares();
    lifts();
    replacements();
    measureParts();
    refit();
    prove();
    injectUnderVoltage(); // the rail is the hunted one from here on
    stop();
    // The complaint and the first look cost next to nothing, and come before anything is touched.
    std::stable_sort(m_moves.begin(), m_moves.end(), [](const NextMove& a, const NextMove& b) {
        return a.turn != b.turn ? a.turn < b.turn : (a.turn == 1 || a.turn == 2) && a.total() < b.total();
    });
    putSchoolFirst();
    return std::move(m_moves);
}

void Planner::price(NextMove& move) const {
    if (const auto work = workOf(move.kind)) move.minutes *= m.pace.factor(*work);
}

void Planner::add(NextMove move) {
    price(move);
    constexpr double least_bitsPerMinute = 0.2, nothing_bitsPerMinute = 0.02;
    const bool asks = !move.outcomes.empty() && move.kind != MoveKind::Lift && move.kind != MoveKind::Replace;
    if (move.turn == 1 && asks && move.worth() < least_bitsPerMinute)
        move.turn = move.worth() < nothing_bitsPerMinute ? 3 : 2;
    m_moves.push_back(std::move(move));
}

Planner::Given Planner::given(const std::function<double(const View&)>& likelihood) const {
    Given all;
    for (const View& view : m_prospect.views())
        all.push_back(likelihood(view));
    return all;
}

void Planner::weigh(NextMove& move, const Given& yes, const Message& ifSo, const Message& ifNot,
                    PartIndex off, double putBack_min) const {
    Given no;
    for (const double p : yes)
        no.push_back(1 - p);
    move.minutesAfter = m_prospect.add(move.outcomes, ifSo, yes, off, putBack_min) +
                        m_prospect.add(move.outcomes, ifNot, no, off, putBack_min);
    move.gainBits = m_prospect.gainBits({yes, no});
}

void Planner::offer(std::vector<NextMove> found, std::size_t most) {
    std::stable_sort(found.begin(), found.end(),
                     [](const NextMove& a, const NextMove& b) { return a.total() < b.total(); });
    if (found.size() > most) found.resize(most);
    for (NextMove& move : found)
        add(std::move(move));
}

std::string Planner::railName() const {
    const NetIndex net = netOfPlace(m_board, handyPlace(m_board, m.down));
    return m_board.nets[net >= 0 ? net : m.down.nets.front()].name;
}

bool Planner::asNow(const CaseState::TakenReading& r) const {
    if (r.then == m_state.now) return true;
    const int rail = m.circuit.railOf(r.net);
    const auto [known, fresh] = m_asNow.try_emplace({r.then.get(), rail}, false);
    if (fresh) known->second = stoodAsNow(r, rail);
    return known->second;
}

bool Planner::stoodAsNow(const CaseState::TakenReading& r, int rail) const {
    const auto touches = [&](const std::string& name) {
        const PartIndex p = partNamed(m_state, name);
        return p < 0 || rail < 0 ||
               std::any_of(part(p).pads.begin(), part(p).pads.end(),
                           [&](const Pad& pad) { return m.circuit.railOf(pad.net) == rail; });
    };
    const auto count = [](const std::map<std::string, int>& counts, const std::string& name) {
        const auto found = counts.find(name);
        return found == counts.end() ? 0 : found->second;
    };
    std::set<std::string> changed;
    std::set_symmetric_difference(r.then->off.begin(), r.then->off.end(), m_now.off.begin(), m_now.off.end(),
                                  std::inserter(changed, changed.end()));
    for (const auto& [name, times] : m_now.mounting)
        if (count(r.then->mounting, name) != times) changed.insert(name);
    for (const auto& [name, times] : m_now.generation)
        if (count(r.then->generation, name) != times) changed.insert(name);
    return std::none_of(changed.begin(), changed.end(), touches);
}

NetIndex Planner::handyNet(int rail) const {
    NetIndex best = -1;
    std::size_t most = 0;
    for (const NetIndex net : m.circuit.rails()[static_cast<std::size_t>(rail)].nets) {
        const std::size_t weight = m_state.netParts->on(net).size() + (m_board.nets[net].nominal ? 1000 : 0);
        if (best < 0 || weight > most) {
            best = net;
            most = weight;
        }
    }
    return best;
}

MeterMode Planner::newestMode(int rail) const {
    if (rail >= 0)
        for (auto at = m_readings[static_cast<std::size_t>(rail)].rbegin();
             at != m_readings[static_cast<std::size_t>(rail)].rend(); ++at)
            if (const MeterMode mode = (*at)->taken.reading.mode; mode != MeterMode::Volts) return mode;
    return MeterMode::Ohms;
}

double Planner::lowShare(int rail, const View& view, PartIndex without) const {
    constexpr double shows = 0.94;
    double low = ownLow(rail, view);
    for (const Fault& fault : view.left) {
        if (!shorts(fault, rail) || (without >= 0 && fault.part == without)) continue;
        if (!fault.through()) return shows;
        const int a = m.circuit.railOf(fault.a), b = m.circuit.railOf(fault.b);
        const int other = a == rail ? b : a;
        if (other >= 0 && other != rail) low = std::max(low, m_ownLow[static_cast<std::size_t>(other)]);
    }
    return low;
}

double Planner::ownLow(int rail, const View& view) const {
    const auto& readings = m_readings[static_cast<std::size_t>(rail)];
    for (auto at = readings.rbegin(); at != readings.rend(); ++at) {
        const auto low = readsLow((*at)->taken.reading);
        if (!low) continue;
        const bool explained = std::any_of(view.left.begin(), view.left.end(),
                                           [&](const Fault& fault) { return shorts(fault, rail); });
        if (explained) {
            const Reading& reading = (*at)->taken.reading;
            const bool tells = *low && reading.mode == MeterMode::Ohms && asNow(**at);
            if (tells) return staysAsLow(rail, reading.value);
            break;
        }
        if (*low && !asNow(**at)) break; // something else may have shorted it then
        constexpr double again = 0.9, never = 0.03;
        return *low ? again : never;
    }
    return m_ownLow[static_cast<std::size_t>(rail)];
}

double Planner::staysAsLow(int rail, double read_ohms) const {
    // Beside a short a rail takes no more than what was read; by itself it reads about as low, or higher.
    constexpr double noMore = 1.25, alike = 1.6, contact_ohms = 0.2;
    double may = 0, does = 0;
    for (const LoadLevel& level : m.circuit.rails()[static_cast<std::size_t>(rail)].levels) {
        if (level.ohms * noMore < read_ohms) continue;
        may += level.share;
        if (level.ohms <= alike * read_ohms + contact_ohms) does += level.share;
    }
    return may > 0 ? does / may : m_ownLow[static_cast<std::size_t>(rail)];
}

double Planner::saysShort(int rail, const View& view) const {
    if (!lowByNature(rail)) return lowShare(rail, view);
    constexpr double seldom = 0.1;
    double own = 0, next_ohms = 0; // what is next to nothing for such a rail
    for (const LoadLevel& level : m.circuit.rails()[static_cast<std::size_t>(rail)].levels) {
        if (own + level.share > seldom) break;
        own += level.share;
        next_ohms = level.ohms;
    }
    double says = own;
    for (const Fault& fault : view.left) {
        if (!shorts(fault, rail) || fault.through()) continue;
        double its = 0;
        for (const ShortLevel& level :
             shortLevels(fault.part < 0 ? PartClass::Other : part(fault.part).partClass))
            if (level.ohms <= next_ohms) its += level.share;
        says = std::max(says, its);
    }
    return says;
}

std::string Planner::padOn(const Part& of, NetIndex net) const {
    for (const Pad& pad : of.pads) {
        std::string place = of.designator + "." + pad.pin;
        if (pad.net == net && netOfPlace(m_board, place) == net) return place;
    }
    return {};
}

double Planner::worstRail() const {
    std::map<int, double> rails;
    for (const View& view : m_prospect.views()) {
        std::set<int> on;
        for (const Fault& fault : view.left)
            if (fault.conducts()) on.insert({m.circuit.railOf(fault.a), m.circuit.railOf(fault.b)});
        for (const int rail : on)
            if (rail >= 0) rails[rail] += view.odds;
    }
    double worst = 0;
    for (const auto& [rail, odds] : rails)
        worst = std::max(worst, odds);
    return worst;
}

bool Planner::mayPower() const {
    constexpr double likely = 0.6;
    return m.tools.supply && worstRail() < likely &&
           std::all_of(m_state.lifted.begin(), m_state.lifted.end(), [&](const std::string& name) {
               const PartIndex p = partNamed(m_state, name);
               return p >= 0 && (part(p).partClass == PartClass::CeramicCapacitor ||
                                 part(p).partClass == PartClass::PolarCapacitor ||
                                 part(p).partClass == PartClass::ClampDiode);
           });
}

} // namespace ustor
