#include "worlds/power_board.h"

#include "board/nominal_voltage.h"

#include <algorithm>
#include <cmath>

namespace ustor::testing {
namespace {

struct Pin {
    NetIndex net;
    const char* name;
};

class Maker {
  public:
    explicit Maker(Random& random) : m_random(random) {
        m_untold = random.uniform() < 0.3;
        m_unnamed = random.uniform() < 0.4;
        m_ground = net("GND", 0);
    }

    PowerBoard make() {
        m_board.name = "random";
        input();
        converters();
        m_board.outline = {{0, 0}, {width_mm, 0}, {width_mm, height()}, {0, height()}};
        return std::move(m_all);
    }

  private:
    static constexpr double width_mm = 120;
    Board& m_board = m_all.board;

    double height() const { return std::max(m_y[0] + m_row[0], m_y[1] + m_row[1]) + 6; }
    double logNormal(double median, double sigma) { return median * std::exp(sigma * m_random.normal()); }
    bool chance(double p) { return m_random.uniform() < p; }

    NetIndex net(const std::string& name, double volts) {
        const bool ground = name == "GND";
        std::string given = name;
        if (volts > 0 && (m_untold || chance(0.1))) given = "N" + std::to_string(100 + m_board.nets.size());
        m_board.nets.push_back({given, ground, nominalFromName(given), false});
        return static_cast<NetIndex>(m_board.nets.size()) - 1;
    }
    NetIndex signal() { return net("S" + std::to_string(m_board.nets.size()), 0); }

    /// Next place of its side: rows from left to right, so that what was made together lies together.
    PartIndex part(const char* prefix, PartClass partClass, double w, double h, const std::vector<Pin>& pins,
                   double bottomShare) {
        Part part;
        part.designator = prefix + std::to_string(++m_count[prefix[0] & 31]);
        part.partClass = partClass;
        part.side = chance(bottomShare) ? Side::Bottom : Side::Top;
        const int side = part.side == Side::Bottom;
        constexpr double gap = 0.7;
        if (m_x[side] + w + gap > width_mm - 4) {
            m_x[side] = 4;
            m_y[side] += m_row[side] + gap;
            m_row[side] = 0;
        }
        part.centre = {m_x[side] + w / 2, m_y[side] + h / 2};
        m_x[side] += w + gap + (chance(0.15) ? m_random.uniform(1, 6) : 0);
        m_row[side] = std::max(m_row[side], h);
        part.width_mm = w;
        part.height_mm = h;
        for (std::size_t i = 0; i < pins.size(); ++i) {
            const double turn = 6.283 * static_cast<double>(i) / static_cast<double>(pins.size());
            part.pads.push_back(
                {pins[i].name,
                 {part.centre.x_mm - w / 2 * std::cos(turn), part.centre.y_mm + h / 2 * std::sin(turn)},
                 pins[i].net,
                 part.side,
                 false,
                 0.4,
                 0.4,
                 0});
        }
        m_board.parts.push_back(part);
        return static_cast<PartIndex>(m_board.parts.size()) - 1;
    }

    void resistor(NetIndex a, NetIndex b, double ohms, PartIndex part, bool carries) {
        m_all.elements.push_back({WorldElement::Kind::Resistor, a, b, ohms, 0, part, false, carries, {}});
    }
    void diode(NetIndex anode, NetIndex cathode, double drop, PartIndex part) {
        m_all.elements.push_back(
            {WorldElement::Kind::Diode, anode, cathode, 4, drop, part, false, false, {}});
    }

    PowerBoard::Rail& rail(NetIndex net, PowerBoard::Role role, double volts, bool core) {
        PowerBoard::Rail made{net, role, volts, core, role == PowerBoard::Role::Derived && chance(0.35),
                              {},  {}};
        m_all.rails.push_back(made);
        return m_all.rails.back();
    }

    void capacitors(PowerBoard::Rail& rail, int count, double polarShare) {
        for (int i = 0; i < count; ++i) {
            const bool polar = chance(polarShare);
            const double w = polar ? 3.5 : chance(0.5) ? 1.0 : 1.6;
            rail.capacitors.push_back(
                part("C", polar ? PartClass::PolarCapacitor : PartClass::CeramicCapacitor, w, w * 0.55,
                     {{rail.net, "1"}, {m_ground, "2"}}, polar ? 0.05 : 0.35));
        }
    }

    /// What the rail takes by itself, and the protection of its chips.
    void own(const PowerBoard::Rail& rail, double ohms) {
        WorldElement load{
            WorldElement::Kind::Resistor, rail.net, -1, ohms, 0, -1, true, false, rail.consumers};
        m_all.elements.push_back(load);
        if (!rail.consumers.empty() && chance(0.9)) diode(-1, rail.net, m_random.uniform(0.33, 0.62), -1);
    }

    void input() {
        const double volts = chance(0.5) ? 19 : chance(0.5) ? 12 : 20;
        const NetIndex jack = net("VIN_JACK", 0), fused = net(volts == 12 ? "+12V_IN" : "+19V_IN", volts),
                       middle = net("N_MID", 0), sensed = net("VSYS_R", 0);
        m_all.jack = jack;
        m_all.main = net(volts == 12 ? "+12V_SYS" : "+19V_SYS", volts);
        const PartIndex plug =
            part("J", PartClass::Connector, 7, 6, {{jack, "1"}, {m_ground, "2"}, {m_ground, "3"}}, 0);
        m_all.fuse = part("F", PartClass::Fuse, 3.2, 1.6, {{jack, "1"}, {fused, "2"}}, 0.1);
        resistor(jack, fused, 0.02, m_all.fuse, true);
        auto& in = rail(fused, PowerBoard::Role::Input, volts, false);
        capacitors(in, 2 + m_random.below(4), 0.1);
        if (chance(0.8)) {
            m_all.clamps.push_back(
                part("D", PartClass::ClampDiode, 3.5, 2.5, {{fused, "1"}, {m_ground, "2"}}, 0.1));
            diode(-1, fused, 0.6, m_all.clamps.back());
        }
        const NetIndex g1 = signal(), g2 = signal();
        const PartIndex q1 =
            part("Q", PartClass::Mosfet, 3.3, 3.3, {{fused, "D"}, {middle, "S"}, {g1, "G"}}, 0.2);
        const PartIndex q2 =
            part("Q", PartClass::Mosfet, 3.3, 3.3, {{sensed, "D"}, {middle, "S"}, {g2, "G"}}, 0.2);
        diode(middle, fused, 0.52, q1);
        diode(middle, sensed, 0.52, q2);
        const PartIndex sense =
            part("R", PartClass::SenseResistor, 3.2, 1.6, {{sensed, "1"}, {m_all.main, "2"}}, 0.2);
        m_board.parts[sense].value = "0.01";
        resistor(sensed, m_all.main, 0.01, sense, true);
        m_all.charger = part("U", PartClass::Regulator, 4, 4,
                             {{fused, "1"},
                              {sensed, "2"},
                              {m_all.main, "3"},
                              {g1, "4"},
                              {g2, "5"},
                              {m_ground, "6"},
                              {signal(), "7"}},
                             0.1);
        own(in, logNormal(6e4, 0.8));
        auto& main = rail(m_all.main, PowerBoard::Role::Main, volts, false);
        capacitors(main, 4 + m_random.below(7), 0.3);
        if (chance(0.4)) {
            const NetIndex g = signal();
            const PartIndex hook =
                part("J", PartClass::Connector, 9, 4, {{m_all.main, "1"}, {m_ground, "2"}, {g, "3"}}, 0);
            static_cast<void>(hook);
        }
        main.consumers.push_back(m_all.charger);
        own(main, logNormal(8e3, 1.1));
        m_all.feeds.push_back({jack, fused, {m_all.fuse, plug}, {}, -1});
        m_all.feeds.push_back({fused, m_all.main, {q1, q2, sense, m_all.charger}, {q1}, m_all.charger});
    }

    void consumers(PowerBoard::Rail& rail, int count, NetIndex second) {
        for (int i = 0; i < count; ++i) {
            const double size = m_random.uniform(3, 7);
            std::vector<Pin> pins{{rail.net, "1"}, {m_ground, "2"}, {signal(), "3"}, {signal(), "4"}};
            if (second >= 0 && chance(0.3)) pins.push_back({second, "5"});
            rail.consumers.push_back(part("U", PartClass::Ic, size, size, pins, 0.25));
        }
    }

    /// One or several phases from `from` to a new rail.
    void converter(NetIndex from, NetIndex to, int phases) {
        PowerBoard::Feed feed{from, to, {}, {}, -1};
        const bool inside = phases == 1 && chance(0.5);
        if (inside) {
            const NetIndex node = signal();
            const PartIndex chip =
                part("U", PartClass::Regulator, 3, 3,
                     {{from, "1"}, {node, "2"}, {m_ground, "3"}, {to, "4"}, {signal(), "5"}}, 0.15);
            const PartIndex coil = part("L", PartClass::Inductor, 4, 4, {{node, "1"}, {to, "2"}}, 0.1);
            resistor(node, to, 0.03, coil, true);
            diode(node, from, 0.55, chip);
            diode(-1, node, 0.55, chip);
            feed.parts = {chip, coil};
            feed.high = {chip};
            feed.controller = chip;
        } else {
            static constexpr const char* names[] = {"1", "2", "3", "4",  "5",  "6",
                                                    "7", "8", "9", "10", "11", "12"};
            std::vector<Pin> pins{{from, "1"}, {m_ground, "2"}, {to, "3"}};
            std::vector<NetIndex> nodes;
            for (int k = 0; k < phases; ++k) {
                const NetIndex node = signal(), hg = signal(), lg = signal();
                nodes.push_back(node);
                for (const NetIndex each : {node, hg, lg})
                    pins.push_back({each, names[pins.size()]});
                const PartIndex high =
                    part("Q", PartClass::Mosfet, 3, 3, {{from, "D"}, {node, "S"}, {hg, "G"}}, 0.15);
                const PartIndex low =
                    part("Q", PartClass::Mosfet, 3, 3, {{node, "D"}, {m_ground, "S"}, {lg, "G"}}, 0.15);
                const PartIndex coil = part("L", PartClass::Inductor, 5, 5, {{node, "1"}, {to, "2"}}, 0.1);
                resistor(node, to, 0.01, coil, true);
                diode(node, from, 0.5, high);
                diode(-1, node, 0.5, low);
                feed.parts.insert(feed.parts.end(), {high, low, coil});
                feed.high.push_back(high);
            }
            feed.controller = part("U", chance(0.7) ? PartClass::Regulator : PartClass::Ic, 4, 4, pins, 0.15);
            feed.parts.push_back(feed.controller);
        }
        m_all.feeds.push_back(feed);
    }

    void derived(NetIndex to, double volts, bool core, NetIndex second) {
        auto& made = rail(to, PowerBoard::Role::Derived, volts, core);
        for (const auto& feed : m_all.feeds)
            if (feed.to == to)
                if (const auto* parent = m_all.railOf(feed.from)) made.waits = made.waits || parent->waits;
        capacitors(made, core ? 6 + m_random.below(8) : 2 + m_random.below(6), core ? 0.2 : 0.12);
        if (core) {
            made.consumers.push_back(
                part("U", m_unnamed ? PartClass::Ic : PartClass::Processor, 16, 16,
                     {{to, "1"}, {m_ground, "2"}, {to, "3"}, {signal(), "4"}, {signal(), "5"}}, 0));
            own(made, std::max(0.2, logNormal(1.6, 0.9)));
        } else {
            consumers(made, 1 + m_random.below(3), second);
            own(made, logNormal(volts < 2 ? 150 : 700, 1.1));
        }
    }

    void converters() {
        const NetIndex five = net("+5V", 5);
        converter(m_all.main, five, 1);
        derived(five, 5, false, -1);
        const NetIndex three = net("+3V3", 3.3);
        converter(m_all.main, three, 1);
        derived(three, 3.3, false, five);
        static const std::pair<const char*, double> low[] = {
            {"+1V8", 1.8}, {"+1V5", 1.5}, {"+1V2", 1.2}, {"+1V35", 1.35}};
        const int more = m_random.below(4);
        for (int i = 0; i < more; ++i) {
            const NetIndex made = net(low[i].first, low[i].second);
            converter(chance(0.6) ? m_all.main : five, made, 1);
            derived(made, low[i].second, false, three);
        }
        const int cores = 1 + m_random.below(2);
        for (int i = 0; i < cores; ++i) {
            const NetIndex core = net(i ? "+1V0_GFX" : "+0V9_CORE", i ? 1.0 : 0.9);
            converter(m_all.main, core, 1 + m_random.below(3));
            derived(core, 0.9, true, -1);
        }
        if (chance(0.7)) {
            const NetIndex always = net("+3V3_ALW", 3.3);
            const PartIndex chip =
                part("U", PartClass::Regulator, 2, 2, {{five, "1"}, {m_ground, "2"}, {always, "3"}}, 0.2);
            diode(always, five, 0.6, chip);
            m_all.feeds.push_back({five, always, {chip}, {chip}, chip});
            derived(always, 3.3, false, -1);
        }
        if (chance(0.7)) {
            const NetIndex switched = net("+3V3_S", 3.3), gate = signal();
            const PartIndex q =
                part("Q", PartClass::Mosfet, 2, 2, {{three, "S"}, {switched, "D"}, {gate, "G"}}, 0.3);
            diode(switched, three, 0.55, q);
            m_all.feeds.push_back({three, switched, {q}, {q}, -1});
            derived(switched, 3.3, false, -1);
        }
    }

    Random& m_random;
    PowerBoard m_all;
    bool m_untold, m_unnamed;
    NetIndex m_ground = -1;
    int m_count[32] = {};
    double m_x[2] = {4, 4}, m_y[2] = {4, 4}, m_row[2] = {0, 0};
};

} // namespace

const PowerBoard::Rail* PowerBoard::railOf(NetIndex net) const {
    for (const Rail& rail : rails)
        if (rail.net == net) return &rail;
    return nullptr;
}

PowerBoard randomPowerBoard(Random& random) {
    return Maker(random).make();
}

} // namespace ustor::testing
