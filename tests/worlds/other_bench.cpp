#include "worlds/other_bench.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numeric>

namespace ustor::testing {
namespace {

bool isCapacitor(const Part& part) {
    return part.partClass == PartClass::CeramicCapacitor || part.partClass == PartClass::PolarCapacitor;
}

} // namespace

OtherBench::OtherBench(Random& random, const WorldStatistics& statistics)
    : m_random(random), m_statistics(statistics), m_made(randomPowerBoard(random)),
      m_habit(random.uniform()) {
    // A board that starts with its fault is not brought; of two faults each alone must show.
    constexpr int tries = 200;
    for (int i = 0; i < tries; ++i) {
        m_faults.clear();
        m_damage.clear();
        draw(statistics);
        if (everyCauseShows()) return;
    }
}

bool OtherBench::everyCauseShows() {
    const std::vector<WorldFault> all = m_faults;
    bool shows = true;
    for (const WorldFault& cause : all) {
        if (cause.follows) continue;
        m_faults = {cause};
        shows = shows && plugIn().reaction != Reaction::Starts;
    }
    m_faults = all;
    return shows;
}

double OtherBench::logNormal(double median, double sigma) {
    return median * std::exp(sigma * m_random.normal());
}

/// One fault of a kind, then of a part by its weight.
WorldFault OtherBench::drawOne(const WorldStatistics& s) {
    const Board& board = m_made.board;
    double kind = m_random.uniform();
    const auto is = [&kind](double share) { return (kind -= share) < 0; };
    if (is(s.firmware)) return {WorldFault::Kind::Firmware};
    if (is(s.laminate)) {
        const auto& rail =
            m_made.rails[static_cast<std::size_t>(m_random.below(static_cast<int>(m_made.rails.size())))];
        return {WorldFault::Kind::Short, -1, rail.net, -1, logNormal(2, 1)};
    }
    if (is(s.open)) {
        std::vector<PartIndex> parts{m_made.fuse};
        for (const auto& feed : m_made.feeds)
            for (const PartIndex p : feed.parts)
                if (board.parts[p].partClass != PartClass::Ic &&
                    board.parts[p].partClass != PartClass::Regulator)
                    parts.push_back(p);
        return {WorldFault::Kind::Open,
                parts[static_cast<std::size_t>(m_random.below(static_cast<int>(parts.size())))]};
    }
    if (is(s.dead)) {
        std::vector<PartIndex> parts;
        for (const auto& feed : m_made.feeds)
            if (feed.controller >= 0) parts.push_back(feed.controller);
        return {WorldFault::Kind::Dead,
                parts[static_cast<std::size_t>(m_random.below(static_cast<int>(parts.size())))]};
    }
    auto all = possibleShorts(s);
    double sum = 0;
    for (PossibleShort& each : all) {
        each.fault.ohms = logNormal(each.median_ohm, each.sigma);
        sum += each.weight;
    }
    double at = m_random.uniform() * sum;
    for (const PossibleShort& each : all)
        if ((at -= each.weight) < 0) return each.fault;
    return all.back().fault;
}

std::vector<OtherBench::PossibleShort> OtherBench::possibleShorts(const WorldStatistics& s) const {
    const Board& board = m_made.board;
    std::vector<PossibleShort> all;
    const auto add = [&](double weight, PartIndex part, NetIndex a, NetIndex b, double median_ohm,
                         double sigma) {
        all.push_back({weight, {WorldFault::Kind::Short, part, a, b}, median_ohm, sigma});
    };
    for (const auto& rail : m_made.rails) {
        for (const PartIndex p : rail.capacitors)
            add(board.parts[p].partClass == PartClass::PolarCapacitor ? s.polar : s.capacitor, p, rail.net,
                -1, 0.5, 1.3);
        for (const PartIndex p : rail.consumers)
            if (p != m_made.charger)
                add(rail.core ? s.processor : s.chip, p, rail.net, -1, rail.core ? 0.15 : 5,
                    rail.core ? 0.8 : 1.5);
    }
    for (const PartIndex p : m_made.clamps)
        add(s.clamp, p, m_made.rails.front().net, -1, 0.15, 0.8);
    for (const auto& feed : m_made.feeds) {
        for (const PartIndex p : feed.parts)
            if (board.parts[p].partClass == PartClass::Mosfet) {
                std::vector<NetIndex> nets;
                for (const Pad& pad : board.parts[p].pads)
                    if (pad.pin != "G") nets.push_back(real(pad.net));
                add(s.mosfet, p, nets[0], nets[1], 0.1, 0.8);
            }
        if (feed.controller >= 0) {
            add(s.regulator * 0.6, feed.controller, feed.from, -1, 1.5, 1.5);
            add(s.regulator * 0.2, feed.controller, feed.to, -1, 2, 1.5);
        }
    }
    return all;
}

std::vector<int> OtherBench::alikeToAMeter() const {
    std::vector<int> group(m_made.board.nets.size());
    std::iota(group.begin(), group.end(), 0);
    constexpr double digit_ohm = 0.1;
    for (const WorldElement& e : m_made.elements) {
        if (e.kind != WorldElement::Kind::Resistor || e.own || e.ohms >= digit_ohm || e.a < 0 || e.b < 0)
            continue;
        const int from = group[static_cast<std::size_t>(e.b)], to = group[static_cast<std::size_t>(e.a)];
        std::replace(group.begin(), group.end(), from, to);
    }
    return group;
}

double OtherBench::bestGuessByMeter() const {
    const auto groups = alikeToAMeter();
    const auto groupOf = [&](NetIndex net) { return net < 0 ? -1 : groups[static_cast<std::size_t>(net)]; };
    double best = 0;
    for (const WorldFault& fault : m_faults) {
        if (fault.part < 0 || fault.follows) continue;
        if (fault.kind != WorldFault::Kind::Short) return 1; // an open part can be read across
        const auto joined = std::minmax({groupOf(fault.a), groupOf(fault.b)});
        std::map<PartIndex, double> weights;
        double sum = 0;
        for (const PossibleShort& each : possibleShorts(m_statistics)) {
            if (std::minmax({groupOf(each.fault.a), groupOf(each.fault.b)}) != joined) continue;
            const double z = std::log(fault.ohms / each.median_ohm) / each.sigma;
            const double look = m_damage.contains(each.fault.part)
                                    ? m_statistics.shows / m_statistics.innocentShows
                                    : (1 - m_statistics.shows) / (1 - m_statistics.innocentShows);
            const double weight = each.weight * look * std::exp(-z * z / 2) / each.sigma;
            weights[each.fault.part] += weight;
            sum += weight;
        }
        for (const auto& [part, weight] : weights)
            best = std::max(best, weight / sum);
    }
    return best;
}

void OtherBench::draw(const WorldStatistics& s) {
    const Board& board = m_made.board;
    m_faults.push_back(drawOne(s));
    if (chance(s.two) && m_faults.front().kind != WorldFault::Kind::Firmware) {
        const WorldFault second = drawOne(s);
        if (second.kind != WorldFault::Kind::Firmware && second.part != m_faults.front().part)
            m_faults.push_back(second);
    }
    const std::vector<WorldFault> first = m_faults;
    for (const WorldFault& fault : first) {
        if (fault.kind != WorldFault::Kind::Short) continue;
        if (fault.part >= 0 && isCapacitor(board.parts[fault.part]) && chance(s.atVoltage))
            m_faults.front().fromVolts = 1.5;
        const bool atInput = fault.a == m_made.main || fault.a == m_made.rails.front().net;
        if (atInput && fault.ohms < 3 && chance(s.fuseBlown))
            m_faults.push_back({WorldFault::Kind::Open, m_made.fuse, -1, -1, 0, 0, true});
        if (fault.part < 0) continue;
        for (const auto& feed : m_made.feeds)
            if (std::find(feed.high.begin(), feed.high.end(), fault.part) != feed.high.end() &&
                feed.controller >= 0 && feed.controller != fault.part && feed.controller != m_made.charger &&
                chance(s.companion))
                m_faults.push_back({WorldFault::Kind::Dead, feed.controller, -1, -1, 0, 0, true});
    }
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p) {
        const bool cause = std::any_of(m_faults.begin(), m_faults.end(), [p](const WorldFault& f) {
            return f.part == p && f.kind != WorldFault::Kind::Dead;
        });
        static constexpr Damage looks[] = {Damage::Burnt, Damage::Cracked, Damage::Discoloured,
                                           Damage::Bulged};
        static constexpr Damage marks[] = {Damage::Discoloured, Damage::Corroded, Damage::Cracked};
        if (cause && chance(s.shows)) m_damage[p] = looks[m_random.below(4)];
        if (!cause && chance(s.innocentShows)) m_damage[p] = marks[m_random.below(3)];
    }
}

std::string OtherBench::story() const {
    std::string text;
    for (const WorldFault& f : m_faults) {
        text += text.empty() ? "" : ", ";
        text += f.part < 0 ? f.kind == WorldFault::Kind::Firmware ? "nothing electrical" : "laminate"
                           : m_made.board.parts[f.part].designator;
        if (f.kind == WorldFault::Kind::Short) {
            const auto name = [&](NetIndex n) {
                return n < 0 ? std::string("GND") : m_made.board.nets[n].name;
            };
            text += " " + name(f.a) + "-" + name(f.b) + " " + std::to_string(f.ohms).substr(0, 5);
            if (f.fromVolts > 0) text += " at voltage";
        } else if (f.kind == WorldFault::Kind::Open)
            text += f.follows ? " blown" : " open";
        else if (f.kind == WorldFault::Kind::Dead)
            text += f.follows ? " dead with it" : " dead";
    }
    return text.empty() ? "mended" : text;
}

bool OtherBench::guilty(PartIndex part) const {
    return std::any_of(m_faults.begin(), m_faults.end(),
                       [part](const WorldFault& f) { return f.part == part; });
}

bool OtherBench::mended() const {
    return m_faults.empty() && m_off.empty();
}

bool OtherBench::repairable() const {
    return std::all_of(m_faults.begin(), m_faults.end(), [&](const WorldFault& f) {
        if (f.part < 0) return false;
        const auto& rails = m_made.rails;
        return std::none_of(rails.begin(), rails.end(), [&](const PowerBoard::Rail& rail) {
            return rail.core &&
                   std::find(rail.consumers.begin(), rail.consumers.end(), f.part) != rail.consumers.end();
        });
    });
}

std::vector<WorldElement> OtherBench::standing(double atVolts) const {
    std::vector<WorldElement> all;
    for (const WorldElement& e : m_made.elements) {
        if (e.part >= 0 && !on(e.part)) continue;
        const bool open = std::any_of(m_faults.begin(), m_faults.end(), [&](const WorldFault& f) {
            return f.kind == WorldFault::Kind::Open && f.part == e.part && e.part >= 0;
        });
        if (!open) all.push_back(e);
    }
    for (const WorldFault& f : m_faults)
        if (f.kind == WorldFault::Kind::Short && (f.part < 0 || on(f.part)) && atVolts >= f.fromVolts)
            all.push_back({WorldElement::Kind::Resistor, f.a, f.b, f.ohms, 0, f.part, false, false, {}});
    return all;
}

/// Ideal diodes with a drop and a series resistance, switched until none changes its mind.
OtherBench::Solved OtherBench::solve(const std::vector<WorldElement>& elements, const Drive& drive,
                                     bool diodes) const {
    std::map<NetIndex, int> node;
    const auto nodeOf = [&](NetIndex net) {
        if (net < 0) return -1;
        return node.emplace(net, static_cast<int>(node.size())).first->second;
    };
    struct Edge {
        int a, b;
        const WorldElement* e;
        bool conducts;
    };
    std::vector<Edge> edges;
    for (const WorldElement& e : elements)
        if (diodes || e.kind == WorldElement::Kind::Resistor)
            edges.push_back({nodeOf(e.a), nodeOf(e.b), &e, e.kind == WorldElement::Kind::Resistor});
    const int in = nodeOf(drive.in), out = nodeOf(drive.out);
    const int n = static_cast<int>(node.size());
    Eigen::VectorXd v = Eigen::VectorXd::Zero(n);
    for (int round = 0; round < 60; ++round) {
        Eigen::MatrixXd g = Eigen::MatrixXd::Identity(n, n) * 1e-8;
        Eigen::VectorXd i = Eigen::VectorXd::Zero(n);
        const auto join = [&](int a, int b, double siemens) {
            if (a >= 0) g(a, a) += siemens;
            if (b >= 0) g(b, b) += siemens;
            if (a >= 0 && b >= 0) {
                g(a, b) -= siemens;
                g(b, a) -= siemens;
            }
        };
        const auto push = [&](int into, int from, double amps) {
            if (into >= 0) i(into) += amps;
            if (from >= 0) i(from) -= amps;
        };
        for (const Edge& edge : edges) {
            if (!edge.conducts) continue;
            join(edge.a, edge.b, 1 / edge.e->ohms);
            if (edge.e->kind == WorldElement::Kind::Diode)
                push(edge.a, edge.b, edge.e->drop_v / edge.e->ohms);
        }
        push(in, out, drive.amps);
        // A source that holds its voltage: a stiff resistance beside the current.
        if (drive.most_v > 0) {
            const double siemens = drive.amps / drive.most_v;
            join(in, out, siemens);
        }
        v = g.ldlt().solve(i);
        bool changed = false;
        for (Edge& edge : edges) {
            if (edge.e->kind != WorldElement::Kind::Diode) continue;
            const double across = (edge.a < 0 ? 0 : v(edge.a)) - (edge.b < 0 ? 0 : v(edge.b));
            const bool conducts = across > edge.e->drop_v - (edge.conducts ? 1e-6 : 0);
            changed = changed || conducts != edge.conducts;
            edge.conducts = conducts;
        }
        if (!changed) break;
    }
    Solved solved{std::vector<double>(m_made.board.nets.size(), 0.0)};
    for (const auto& [net, k] : node)
        solved.volts[static_cast<std::size_t>(net)] = v(k);
    return solved;
}

double OtherBench::resistance(NetIndex place, NetIndex against, double atVolts) const {
    const auto elements = standing(atVolts);
    constexpr double test_a = 1e-6;
    const Solved s = solve(elements, {place, against, test_a, 0}, false);
    return (s.at(place) - s.at(against)) / test_a;
}

Reading OtherBench::measure(NetIndex place, NetIndex against, MeterMode mode) {
    place = real(place);
    against = real(against);
    if (chance(m_statistics.slip)) {
        // Another pad, or a probe that does not touch.
        if (chance(0.3)) return {mode, ReadingState::OverRange, 0, 0};
        place =
            m_made.rails[static_cast<std::size_t>(m_random.below(static_cast<int>(m_made.rails.size())))].net;
    }
    if (mode == MeterMode::Diode) {
        const auto elements = standing(0.5);
        const Solved s = solve(elements, {against, place, 1e-3, 0}, true);
        const double shown = s.at(against) - s.at(place);
        if (shown > 2) return {mode, ReadingState::OverRange, 0, 0};
        const double noisy =
            std::max(0.0, shown * (1 + 0.02 * m_random.normal()) + 0.0005 * m_random.normal());
        return {mode, ReadingState::Value, std::round(noisy * 1000) / 1000, 0.001};
    }
    const double ohms = resistance(place, against, 0.2);
    if (ohms > 2e7) return {mode, ReadingState::OverRange, 0, 0};
    const double shown = ohms * (1 + 0.015 * m_random.normal()) + std::fabs(0.12 * m_random.normal());
    const double digit = shown < 200 ? 0.1 : shown < 2000 ? 1 : 100;
    return {mode, ReadingState::Value, std::round(shown / digit) * digit, digit};
}

bool OtherBench::works(const PowerBoard::Feed& feed) const {
    return std::all_of(feed.parts.begin(), feed.parts.end(), [&](PartIndex p) {
        return on(p) && std::none_of(m_faults.begin(), m_faults.end(), [&](const WorldFault& f) {
                   return f.part == p &&
                          (f.kind == WorldFault::Kind::Open || f.kind == WorldFault::Kind::Dead);
               });
    });
}

/// From the plug to the loads: what comes up, and what the source shows for it.
void OtherBench::powerUp() {
    m_up.clear();
    m_tries = -1;
    const double rated = m_made.rails.front().volts;
    const bool negotiates = rated > 15 && m_habit < 0.5;
    const NetIndex in = m_made.rails.front().net, main = m_made.main;
    const double atJack = resistance(m_made.jack, -1, rated);
    constexpr double limit_a = 3, leads = 0.12, hard_ohms = 4;
    const auto shows = [&](double volts, double amps, Reaction reaction) {
        m_shows = {std::max(0.0, volts), std::max(0.0, amps), "", reaction};
    };
    if (atJack < hard_ohms) {
        m_up[m_made.jack] = m_up[in] = limit_a * atJack;
        return shows(limit_a * (atJack + leads), limit_a, Reaction::None);
    }
    m_up[m_made.jack] = rated;
    if (on(m_made.fuse) && resistance(m_made.jack, in, 0) < 1) m_up[in] = rated;
    const auto& toMain = m_made.feeds[1];
    if (m_up[in] < 1 || !works(toMain))
        return negotiates && m_up[in] > 1 ? shows(5, 0.02 + 0.02 * m_habit, Reaction::None)
                                          : shows(rated, 0.004 * m_habit, Reaction::None);
    // A high side that is punched through puts its input on its output; the low side answers.
    const bool crowbar = std::any_of(m_faults.begin(), m_faults.end(), [&](const WorldFault& f) {
        return f.kind == WorldFault::Kind::Short && f.b >= 0 && on(f.part) && (f.a == main || f.b == main);
    });
    const double atMain = crowbar ? 0.1 : resistance(main, -1, rated);
    constexpr double refused_ohms = 20;
    if (atMain < refused_ohms) {
        if (m_habit < 0.35) return shows(rated, 0.004, Reaction::None);
        if (m_habit < 0.6 && negotiates) return shows(5, 0.03, Reaction::None);
        if (m_habit < 0.8) {
            m_up[main] = 1 + m_habit;
            return shows(rated, 0.2 * m_habit, Reaction::None);
        }
        m_tries = main;
        return shows(rated, 0.1, Reaction::Pulses);
    }
    m_up[main] = rated;
    // What lies between the plug and the main rail is up with it.
    for (const PartIndex p : toMain.parts)
        for (const Pad& pad : m_made.board.parts[p].pads)
            if (pad.pin != "G" && real(pad.net) >= 0 && m_made.board.parts[p].partClass == PartClass::Mosfet)
                m_up.try_emplace(real(pad.net), rated);
    bool all = true, pulls = false;
    double heavy = rated / std::max(atMain, rated / limit_a);
    for (const bool starts : {false, true}) {
        for (std::size_t k = 2; k < m_made.feeds.size(); ++k) {
            const auto& feed = m_made.feeds[k];
            const PowerBoard::Rail& rail = *m_made.railOf(feed.to);
            if (rail.waits != starts) continue;
            double siemens = 1 / resistance(feed.to, -1, rail.volts);
            for (const WorldElement& e : m_made.elements)
                if (e.own && e.a == feed.to) siemens -= 1 / e.ohms;
            const bool shorted = siemens > 1 / (rail.core ? 2.5 : 25.0);
            const bool up =
                m_up[feed.from] > 0.8 * m_made.railOf(feed.from)->volts && works(feed) && !shorted;
            m_up[feed.to] = up ? rail.volts : shorted ? rail.volts * 0.1 * m_habit : 0;
            if (up && siemens > 0) heavy += rail.volts * rail.volts * siemens / rated;
            all = all && up;
            if (shorted && !pulls) m_tries = feed.to;
            pulls = pulls || shorted;
        }
        if (!all) break;
    }
    heavy = std::min(heavy, 2.5);
    if (!all) {
        if (pulls && m_habit > 0.65) return shows(rated, 0.15 + heavy, Reaction::Pulses);
        if (negotiates && m_habit < 0.2) return shows(5, 0.2 + 0.2 * m_habit, Reaction::None);
        return shows(rated, 0.02 + 0.2 * m_habit + heavy, Reaction::None);
    }
    const bool firmware = std::any_of(m_faults.begin(), m_faults.end(), [](const WorldFault& f) {
        return f.kind == WorldFault::Kind::Firmware;
    });
    if (firmware) return shows(rated, 0.1 + 0.3 * m_habit, Reaction::None);
    // What still leaks shows in the current, not in the board.
    shows(rated, 0.5 + 0.3 * m_habit + heavy, Reaction::Starts);
}

SourceShows OtherBench::plugIn() {
    powerUp();
    m_shows.volts = std::round(m_shows.volts * 100) / 100;
    m_shows.amps = std::round(m_shows.amps * 1000) / 1000;
    return m_shows;
}

Reading OtherBench::volts(NetIndex place) {
    powerUp();
    const auto found = m_up.find(place);
    const double shown = (found == m_up.end() ? 0 : found->second) * (1 + 0.01 * m_random.normal());
    return {MeterMode::Volts, ReadingState::Value, std::round(shown * 100) / 100, 0.01};
}

HeatFound OtherBench::look(NetIndex into, Side side, double volts, double amps) {
    HeatFound found;
    found.side = side;
    found.net = into < 0 ? "" : m_made.board.nets[static_cast<std::size_t>(into)].name;
    const auto elements = standing(volts);
    // A source that holds `volts` up to `amps`.
    Solved s = solve(elements, {into, -1, 1e3 * volts, volts}, true);
    const Solved limited = solve(elements, {into, -1, amps, 0}, true);
    if (limited.at(into) < volts) s = limited;
    struct Warm {
        BoardPoint at;
        Side side;
        double watts, size_mm;
    };
    std::vector<Warm> warm;
    const auto warms = [&](PartIndex p, double watts) {
        const Part& part = m_made.board.parts[p];
        const double spread = 0.2 * std::min(part.width_mm, part.height_mm);
        warm.push_back(
            {{part.centre.x_mm + spread * m_random.normal(), part.centre.y_mm + spread * m_random.normal()},
             part.side,
             watts,
             part.width_mm});
    };
    double inLaminate = 0;
    for (const WorldElement& e : elements) {
        const double across = s.at(e.a) - s.at(e.b);
        double watts = 0;
        if (e.kind == WorldElement::Kind::Resistor)
            watts = across * across / e.ohms;
        else if (across > e.drop_v)
            watts = across * (across - e.drop_v) / e.ohms;
        if (watts <= 0) continue;
        if (e.part >= 0)
            warms(e.part, watts);
        else if (!e.warms.empty())
            for (const PartIndex p : e.warms)
                warms(p, watts / static_cast<double>(e.warms.size()));
        else if (!e.own)
            inLaminate += watts;
    }
    constexpr double noise_w = 5e-4, seen_snr = 6.5, clearest = 200;
    for (const Warm& w : warm) {
        const bool through = w.side != side;
        const double snr = std::min(clearest, w.watts / noise_w * (through ? 0.25 : 1) / (1 + w.size_mm / 8));
        if (snr < seen_snr || chance(0.05)) continue;
        const double sigma = through ? 1.5 : 0.25 + 1 / snr;
        found.spots.push_back({{w.at.x_mm + sigma * m_random.normal(), w.at.y_mm + sigma * m_random.normal()},
                               sigma,
                               snr,
                               w.watts * 1e3 * (through ? 0.25 : 1),
                               0});
    }
    if (chance(m_statistics.stray)) {
        const BoardBox box = m_made.board.box();
        found.spots.push_back(
            {{m_random.uniform(box.low.x_mm, box.high.x_mm), m_random.uniform(box.low.y_mm, box.high.y_mm)},
             0.4,
             m_random.uniform(7, 25),
             4,
             0});
    }
    std::sort(found.spots.begin(), found.spots.end(),
              [](const HeatSpot& a, const HeatSpot& b) { return a.snr > b.snr; });
    std::erase_if(found.spots,
                  [&](const HeatSpot& spot) { return spot.snr < 0.1 * found.spots.front().snr; });
    constexpr std::size_t most = 5;
    if (found.spots.size() > most) found.spots.resize(most);
    if (inLaminate / noise_w > seen_snr &&
        (found.spots.empty() || inLaminate / noise_w > found.spots.front().snr)) {
        found.verdict = HeatVerdict::Spread;
        found.spots.clear();
    } else if (found.spots.empty())
        found.verdict = HeatVerdict::None;
    else
        found.verdict = found.spots.front().sigma_mm > 1 ? HeatVerdict::FarSide : HeatVerdict::Point;
    return found;
}

HeatFound OtherBench::watch(Side side) {
    powerUp();
    HeatFound found{HeatVerdict::None, side, {}, ""};
    if (m_tries < 0 || m_shows.reaction != Reaction::Pulses) return found;
    // Each try is short: what it leaves in the fault is less than a steady ampere does.
    constexpr double volts = 0.5, amps = 0.4;
    found = look(m_tries, side, volts, amps);
    found.net.clear();
    return found;
}

std::vector<Seen> OtherBench::seen() const {
    std::vector<Seen> all;
    for (const auto& [part, damage] : m_damage)
        if (on(part)) all.push_back({m_made.board.parts[part].designator, damage, ""});
    return all;
}

PartMeasured OtherBench::measurePart(PartIndex part) {
    PartMeasured measured{m_made.board.parts[part].designator};
    measured.shorted = std::any_of(m_faults.begin(), m_faults.end(), [part](const WorldFault& f) {
        return f.part == part && f.kind == WorldFault::Kind::Short && f.fromVolts == 0;
    });
    if (chance(m_statistics.slip)) measured.shorted = !measured.shorted;
    return measured;
}

void OtherBench::lift(PartIndex part) {
    m_off.insert(part);
}

void OtherBench::refit(PartIndex part, bool fresh) {
    m_off.erase(part);
    if (!fresh) return;
    std::erase_if(m_faults, [part](const WorldFault& f) { return f.part == part; });
    m_damage.erase(part);
}

} // namespace ustor::testing
