#include "reference/millivolt_trials.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace ustor::testing {
namespace {

std::vector<BoardPoint> rectangle(double x, double y, double width, double height) {
    return {{x, y}, {x + width, y}, {x + width, y + height}, {x, y + height}};
}

/// One rail and ground on some layers.
struct Sheet {
    Board board;
    explicit Sheet(int layers) {
        board.nets = {{"RAIL", false, {}, false}, {"GND", true, {}, false}};
        for (int i = 0; i < layers; ++i)
            board.copper.push_back({"layer " + std::to_string(i), 0.035, {}});
    }
    void copper(std::size_t layer, NetIndex net, std::vector<BoardPoint> outline,
                std::vector<std::vector<BoardPoint>> holes = {}) {
        board.copper[layer].pieces.push_back({std::move(outline), std::move(holes), net});
    }
    /// A part with a pad on the rail and one on ground beside it, where a via leads down to the ground plane.
    PadRef part(const std::string& designator, BoardPoint at, PartClass partClass) {
        Part part;
        part.designator = designator;
        part.partClass = partClass;
        part.centre = at;
        Pad rail{"1", at, 0, Side::Top, false, 0.4, 0.4, 0},
            ground{"2", {at.x_mm + 0.9, at.y_mm}, 1, Side::Top, true, 0.4, 0.4, 0.3};
        part.pads = {rail, ground};
        board.parts.push_back(part);
        return {static_cast<PartIndex>(board.parts.size()) - 1, 0};
    }
};

double lognormal(Random& random, double deviation) {
    return std::exp(deviation * random.normal());
}

Stretch groundOf(const Board& board) {
    Stretch ground;
    for (NetIndex net = 0; net < static_cast<NetIndex>(board.nets.size()); ++net)
        if (board.nets[net].ground) ground.nets.push_back(net);
    return ground;
}

std::vector<double> fed(const CopperNetwork& copper, const GroundedNetwork& grounded, PadRef at,
                        double amps) {
    std::vector<double> drive(static_cast<std::size_t>(copper.network.nodes()), 0.0);
    drive[static_cast<std::size_t>(copper.nodeOf(at))] = amps;
    const auto volts = grounded.solve(drive);
    return volts ? volts.value() : std::vector<double>(drive.size(), 0.0);
}

/// What a meter would read on the real thing.
class Truth {
  public:
    Truth(const TrialRail& rail, Random& random) : m_rail(rail) {
        Board board = rail.board;
        const double whole = lognormal(random, 0.15);
        for (CopperLayer& layer : board.copper)
            layer.thickness_mm /= whole * lognormal(random, 0.05);
        CopperNetworkSettings settings;
        settings.mostCells = 60000;
        settings.plating_mm *= lognormal(random, 0.2);
        m_copper = copperNetwork(board, stretchOf(board, rail.net), settings).value();
        m_ground = copperNetwork(board, groundOf(board), settings).value();
        m_solved = m_copper.network.grounded(m_copper.nodeOf(rail.inject)).value();
        m_groundSolved = m_ground.network.grounded(m_ground.nodeOf(rail.minus)).value();
    }
    bool reaches(PartIndex part) const {
        const int rail = m_copper.nodeOf({part, 0}), ground = m_ground.nodeOf({part, 1});
        return rail >= 0 && ground >= 0 && m_solved.reaches(rail) && m_groundSolved.reaches(ground);
    }
    void hide(PartIndex part, double amps, double ohms) {
        m_down = fed(m_copper, m_solved, {part, 0}, -amps);
        m_up = fed(m_ground, m_groundSolved, {part, 1}, amps);
        m_short_v = amps * ohms + m_up[static_cast<std::size_t>(m_ground.nodeOf({part, 1}))] -
                    m_down[static_cast<std::size_t>(m_copper.nodeOf({part, 0}))];
    }
    double at(PadRef pad) const {
        const int node = m_copper.nodeOf(pad);
        if (node >= 0) return m_short_v + m_down[static_cast<std::size_t>(node)];
        return m_up[static_cast<std::size_t>(m_ground.nodeOf(pad))];
    }

  private:
    const TrialRail& m_rail;
    CopperNetwork m_copper, m_ground;
    GroundedNetwork m_solved, m_groundSolved;
    std::vector<double> m_down, m_up;
    double m_short_v = 0;
};

} // namespace

TrialRail slottedPlanes(Random& random) {
    Sheet sheet(3);
    sheet.copper(0, 0, rectangle(0, 0, 60, 40),
                 {rectangle(14, 0.6, 0.8, 27), rectangle(30, 12, 0.8, 27.4), rectangle(44, 6, 12, 0.8)});
    sheet.copper(1, 0, rectangle(20, 10, 25, 20));
    sheet.copper(2, 1, rectangle(0, 0, 62, 40), {rectangle(10, 18, 40, 1)});
    for (int i = 0; i < 12; ++i)
        sheet.board.vias.push_back({{21 + 2.0 * i, 11 + 1.5 * i}, 0, 0.3});
    const PadRef inject = sheet.part("J1", {2, 2}, PartClass::Connector);
    for (int i = 0; i < 16; ++i)
        sheet.part("C" + std::to_string(i + 1),
                   {4 + 14.0 * (i % 4) + random.uniform(0, 8), 3 + 9.5 * (i / 4) + random.uniform(0, 6)},
                   PartClass::CeramicCapacitor);
    return {std::move(sheet.board), 0, inject, {inject.part, 1}};
}

TrialRail branchedTraces(Random& random) {
    Sheet sheet(2);
    const double y = 20;
    sheet.copper(0, 0, rectangle(0, y - 1.5, 70, 3));
    sheet.copper(1, 1, rectangle(-2, -5, 76, 50), {rectangle(20, 22, 1, 18), rectangle(45, 2, 1, 15)});
    const PadRef inject = sheet.part("J1", {1, y}, PartClass::Connector);
    for (int i = 0; i < 7; ++i) {
        const double x = 6 + 9.5 * i + random.uniform(-2, 2), width = random.uniform(0.8, 3),
                     length = random.uniform(8, 17);
        const bool up = i % 2 == 0;
        sheet.copper(0, 0, rectangle(x - width / 2, up ? y : y - length, width, length));
        for (int k = 0; k < 2; ++k) {
            const double away = length * (k == 0 ? random.uniform(0.3, 0.6) : random.uniform(0.75, 0.95));
            sheet.part("C" + std::to_string(2 * i + k + 1), {x, up ? y + away : y - away},
                       PartClass::CeramicCapacitor);
        }
    }
    return {std::move(sheet.board), 0, inject, {inject.part, 1}};
}

std::vector<TrialRail> railsOf(const Board& board, std::size_t most) {
    std::map<NetIndex, std::vector<PadRef>> pads;
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
        pads[board.parts[p].pads[0].net].push_back({p, 0});
    std::vector<std::pair<std::size_t, NetIndex>> largest;
    for (const auto& [net, list] : pads)
        largest.emplace_back(list.size(), net);
    std::sort(largest.rbegin(), largest.rend());
    std::vector<TrialRail> rails;
    for (const auto& [count, net] : largest) {
        constexpr std::size_t fewest = 8;
        if (count < fewest || rails.size() >= most) break;
        // The current enters at the pad nearest to the board's corner.
        const BoardBox box = board.box();
        const PadRef inject = *std::min_element(pads[net].begin(), pads[net].end(), [&](PadRef a, PadRef b) {
            return distance_mm(board.pad(a).at, box.low) < distance_mm(board.pad(b).at, box.low);
        });
        rails.push_back({board, net, inject, {inject.part, 1}});
    }
    return rails;
}

void TrialTally::add(const MillivoltFinding& found, PartIndex hidden) {
    ++trials;
    cannotTell += !found.tells;
    for (std::size_t i = 0; i < found.candidates.size(); ++i) {
        const PlaceOdds& candidate = found.candidates[i];
        const bool hit = candidate.part == hidden;
        if (i == 0) {
            first += hit;
            statedFirst += candidate.odds;
        }
        if (i < 3) {
            amongThree += hit;
            statedThree += candidate.odds;
        }
        Bin& bin = bins[std::min(9, static_cast<int>(10 * candidate.odds))];
        ++bin.count;
        bin.hits += hit;
        bin.stated += candidate.odds;
    }
}

void TrialTally::add(const TrialTally& other) {
    trials += other.trials;
    first += other.first;
    amongThree += other.amongThree;
    cannotTell += other.cannotTell;
    statedFirst += other.statedFirst;
    statedThree += other.statedThree;
    for (const auto& [tenth, bin] : other.bins) {
        bins[tenth].count += bin.count;
        bins[tenth].hits += bin.hits;
        bins[tenth].stated += bin.stated;
    }
}

std::string TrialTally::row() const {
    char text[200];
    std::snprintf(
        text, sizeof text,
        "%4d shorts: first %5.1f %% (stated %5.1f), in three %5.1f %% (stated %5.1f), cannot tell %d;",
        trials, 100.0 * first / trials, 100 * statedFirst / trials, 100.0 * amongThree / trials,
        100 * statedThree / trials, cannotTell);
    std::string row = text;
    for (const auto& [tenth, bin] : bins) {
        std::snprintf(text, sizeof text, " %.0f->%.0f(%d)", 100 * bin.stated / bin.count,
                      100.0 * bin.hits / bin.count, bin.count);
        row += text;
    }
    return row;
}

double TrialTally::mostTooSure() const {
    double worst = 0;
    const auto compare = [&](double hits, double stated, double count) {
        constexpr double fewest = 20;
        if (count < fewest) return;
        // Binomial scatter of what was stated, and one trial of slack where that is next to nothing.
        const double share = stated / count, scatter = std::sqrt(count * share * (1 - share) + 1);
        worst = std::max(worst, (stated - hits) / scatter);
    };
    compare(first, statedFirst, trials);
    compare(amongThree, statedThree, trials);
    for (const auto& [tenth, bin] : bins)
        compare(bin.hits, bin.stated, bin.count);
    return worst;
}

namespace {

/// What a technician at the bench would do, pad after pad as asked.
std::optional<MillivoltFinding> play(const MillivoltLocator& locator, const Truth& truth,
                                     const TrialSettings& settings, Random& random) {
    std::vector<MillivoltReading> readings;
    while (true) {
        const auto found = locator.locate(readings);
        if (!found) return std::nullopt;
        const bool enough = static_cast<int>(readings.size()) == settings.readings;
        if (enough || !found.value().readNext) return found.value();
        const PadRef at = *found.value().readNext;
        constexpr double contact_v = 5e-6;
        const double volts = truth.at(at) + contact_v * random.normal();
        readings.push_back({at, std::round(volts / settings.resolution_v) * settings.resolution_v, {}});
    }
}

} // namespace

std::vector<TrialTally> tryShorts(const TrialRail& rail, const std::vector<TrialSettings>& settings,
                                  int shorts, Random& random) {
    const Stretch stretch = stretchOf(rail.board, rail.net);
    Board bare = rail.board;
    bare.copper.clear();
    CopperNetworkSettings mesh;
    mesh.mostCells = 30000;
    const MillivoltModel models[] = {millivoltModel(bare, stretch, mesh).value(),
                                     millivoltModel(rail.board, stretch, mesh).value()};
    std::vector<MillivoltLocator> locators;
    for (const TrialSettings& s : settings) {
        MillivoltSetup setup;
        setup.inject = rail.inject;
        setup.minus = rail.minus;
        setup.current = Amps(s.amps);
        setup.resolution = Volts(s.resolution_v);
        auto locator = MillivoltLocator::create(rail.board, stretch, models[s.copperKnown], setup);
        if (!locator) return std::vector<TrialTally>(settings.size());
        locators.push_back(locator.value());
    }
    std::vector<TrialTally> tallies(settings.size());
    Truth truth(rail, random);
    for (int trial = 0; trial < shorts; ++trial) {
        const PartIndex hidden =
            stretch
                .suspects[static_cast<std::size_t>(random.below(static_cast<int>(stretch.suspects.size())))];
        if (!truth.reaches(hidden)) continue;
        truth.hide(hidden, settings.front().amps, random.uniform(0.005, 0.1));
        for (std::size_t i = 0; i < settings.size(); ++i)
            if (const auto found = play(locators[i], truth, settings[i], random))
                tallies[i].add(*found, hidden);
    }
    return tallies;
}

} // namespace ustor::testing
