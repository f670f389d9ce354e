#include "base/random.h"
#include "diagnosis/circuit/board_circuit.h"
#include "reference/spice_engine.h"
#include "reference/test_reference.h"
#include "support/boards.h"

#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;

namespace {

/// A board of some rails: an input with a fuse and a switch, converters with two switches or with a chip,
/// links, loads.
Board randomBoard(Random& random) {
    Board board;
    testing::addNet(board, "GND");
    int parts = 0;
    const auto name = [&parts](const char* letter) { return letter + std::to_string(++parts); };
    const auto chip = [&](const char* letter, PartClass kind, const std::string& a,
                          const std::string& b) -> Part& {
        return testing::addChip(board, name(letter), kind, {3.0 * parts, 5}, a, b);
    };
    const auto load = [&](const std::string& net) {
        for (int i = random.below(3); i >= 0; --i)
            chip("C", PartClass::CeramicCapacitor, net, "GND");
        chip("C", PartClass::CeramicCapacitor, net, "GND");
        for (int i = random.below(3); i > 0; --i)
            chip("U", PartClass::Ic, net, "GND");
    };
    chip("J", PartClass::Connector, "VIN_12V", "GND");
    chip("F", PartClass::Fuse, "VIN_12V", "VSYS_12V");
    load("VSYS_12V");
    Part& input = chip("Q", PartClass::Mosfet, "VSYS_12V", "MAIN");
    input.pads[0].pin = "D";
    input.pads[1].pin = "S";
    input.pads.push_back({"G", {1, 1}, testing::addNet(board, "GATE_IN"), Side::Top, false, 0.4, 0.4, 0});
    load("MAIN");
    const int rails = 1 + random.below(4);
    for (int i = 0; i < rails; ++i) {
        const std::string number = std::to_string(i), node = "SW" + number;
        const std::string out = random.below(2) ? "+1V0_CORE" + number : "+3V3_" + number;
        Part& high = chip("Q", PartClass::Mosfet, "MAIN", node);
        high.pads[0].pin = "D";
        high.pads[1].pin = "S";
        high.pads.push_back(
            {"G", {1, 2}, testing::addNet(board, "HG" + number), Side::Top, false, 0.4, 0.4, 0});
        Part& low = chip("Q", PartClass::Mosfet, node, "GND");
        low.pads[0].pin = "D";
        low.pads[1].pin = "S";
        low.pads.push_back(
            {"G", {1, 3}, testing::addNet(board, "LG" + number), Side::Top, false, 0.4, 0.4, 0});
        chip("L", PartClass::Inductor, node, out);
        load(out);
        if (random.below(2)) {
            chip("R", PartClass::SenseResistor, out, out + "_S").value = "0R01";
            load(out + "_S");
        }
    }
    return board;
}

struct Asked {
    ProbedNets probed;
    std::vector<PartIndex> off;
    std::vector<Conductor> faults;
    std::vector<std::pair<int, double>> loads;
};

Asked randomQuestion(const Board& board, const BoardCircuit& circuit, Random& random) {
    Asked asked;
    const auto anyNet = [&] {
        const auto& rail =
            circuit.rails()[static_cast<std::size_t>(random.below(static_cast<int>(circuit.rails().size())))];
        return rail.nets[static_cast<std::size_t>(random.below(static_cast<int>(rail.nets.size())))];
    };
    asked.probed.place = anyNet();
    if (random.below(4) == 0) asked.probed.against = anyNet();
    asked.probed.mode = random.below(2) ? MeterMode::Ohms : MeterMode::Diode;
    asked.probed.reversed = random.below(4) == 0;
    const auto ohms = [&random] { return std::exp(random.uniform(std::log(0.02), std::log(200.0))); };
    const int kind = random.below(4);
    if (kind != 0) asked.faults.push_back({random.below(2) ? asked.probed.place : anyNet(), -1, ohms()});
    if (kind == 2) asked.faults.push_back({anyNet(), anyNet(), ohms()}); // punched through
    if (kind == 3)
        for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
            if (random.below(6) == 0) asked.off.push_back(p);
    for (int r = 0; r < static_cast<int>(circuit.rails().size()); ++r)
        if (random.below(3) == 0)
            asked.loads.emplace_back(r, std::exp(random.uniform(std::log(1.0), std::log(1e5))));
    return asked;
}

/// The whole board as a netlist, written from its branches and rails alone: nothing of how `predict` cuts and
/// solves. Nodes carry a prefix, so that many stand in one file.
QString netlistOf(const Board& board, const NetParts& parts, const BoardCircuit& circuit, const Asked& asked,
                  const QString& prefix, double amps) {
    QString text;
    int count = 0;
    const auto ground = [&](NetIndex net) {
        return net < 0 || board.nets[static_cast<std::size_t>(net)].ground;
    };
    const auto node = [&](NetIndex net) {
        return ground(net) ? QString("0") : prefix + "_" + QString::number(net);
    };
    const auto resistor = [&](NetIndex a, NetIndex b, double ohms) {
        if (node(a) != node(b))
            text += QString("R%1x%2 %3 %4 %5\n")
                        .arg(prefix)
                        .arg(++count)
                        .arg(node(a), node(b))
                        .arg(ohms, 0, 'g', 12);
    };
    const auto diode = [&](NetIndex a, NetIndex b, const Junction& junction) {
        if (node(a) == node(b)) return;
        ++count;
        text += QString("D%1x%2 %3 %4 M%1x%2\n").arg(prefix).arg(count).arg(node(a), node(b));
        text += QString(".model M%1x%2 D(IS=%3 N=%4)\n")
                    .arg(prefix)
                    .arg(count)
                    .arg(junction.saturation_a, 0, 'g', 12)
                    .arg(junction.emission);
    };
    for (const Branch& b : circuit.branches()) {
        if (std::binary_search(asked.off.begin(), asked.off.end(), b.part)) continue;
        if (b.ohms > 0)
            resistor(b.a, b.b, b.ohms);
        else
            diode(b.a, b.b, b.junction);
    }
    for (const Conductor& f : asked.faults)
        resistor(f.a, f.b, f.ohms);
    for (int r = 0; r < static_cast<int>(circuit.rails().size()); ++r) {
        const auto& rail = circuit.rails()[static_cast<std::size_t>(r)];
        double ohms = rail.usualOhms;
        for (const auto& [index, other] : asked.loads)
            if (index == r) ohms = other;
        std::vector<int> chips;
        int all = 0;
        for (const NetIndex net : rail.nets) {
            chips.push_back(0);
            for (const PartIndex p : parts.on(net)) {
                const PartClass kind = board.parts[static_cast<std::size_t>(p)].partClass;
                chips.back() +=
                    kind == PartClass::Ic || kind == PartClass::Regulator || kind == PartClass::Processor;
            }
            all += chips.back();
        }
        if (all == 0) resistor(rail.nets.front(), -1, ohms);
        for (std::size_t i = 0; i < rail.nets.size(); ++i)
            if (chips[i] > 0) {
                resistor(rail.nets[i], -1, ohms * all / chips[i]);
                diode(-1, rail.nets[i], junctionDropping(0.45, 1e-3));
            }
    }
    // Everything that may hang in the air leaks a little, as the engine itself lets it.
    const bool placeIsRed = (asked.probed.mode == MeterMode::Diode) == asked.probed.reversed;
    const NetIndex red = placeIsRed ? asked.probed.place : asked.probed.against,
                   black = placeIsRed ? asked.probed.against : asked.probed.place;
    text += QString("I%1 %2 %3 %4\n").arg(prefix, node(black), node(red)).arg(amps, 0, 'g', 6);
    return text;
}

} // namespace

// The same board, whole, in a SPICE engine with its own junction model and solver. Pass rule: ohms within 2
// %, diode test within 20 mV, and the same verdict of over range, which is asked only where the volts are not
// at its very edge.
void TestPredictedReadings::readingsAgreeWithSpice() {
    if (testing::spiceIsMissing()) QSKIP("no SPICE engine (package ngspice) on this machine");
    Random random(417);
    int compared = 0, ranged = 0;
    constexpr int boards = 260, atOnce = 20; // some ask gates that are left open: nothing to compare
    for (int first = 0; first < boards; first += atOnce) {
        struct Case {
            Board board;
            Asked asked;
            PredictedReading reading;
            double amps;
        };
        std::vector<Case> cases;
        QString text = "predicted readings\n", prints;
        for (int i = 0; i < atOnce; ++i) {
            cases.push_back({randomBoard(random), {}, {}, 0});
            Case& c = cases.back();
            const NetParts parts(c.board);
            const BoardCircuit circuit(c.board, parts);
            do {
                c.asked = randomQuestion(c.board, circuit, random);
            } while (c.asked.probed.place == c.asked.probed.against);
            const auto reading =
                circuit.predict(c.asked.probed, {c.asked.off, c.asked.faults, c.asked.loads});
            QVERIFY(reading);
            c.reading = *reading;
            // In ohms the engine is asked at the current that a meter would come to with that resistance.
            c.amps = 1e-3;
            if (c.asked.probed.mode != MeterMode::Diode)
                while (c.amps > 2e-8 && c.reading.value * c.amps > 0.3)
                    c.amps /= 10;
            const QString prefix = "n" + QString::number(i);
            text += netlistOf(c.board, parts, circuit, c.asked, prefix, c.amps);
            for (const NetIndex net : {c.asked.probed.place, c.asked.probed.against})
                if (net >= 0) prints += QString("print v(%1_%2)\n").arg(prefix).arg(net);
        }
        const auto volts = testing::spice(text + ".control\nset numdgt=9\nop\n" + prints + ".endc\n.end\n");
        for (int i = 0; i < atOnce; ++i) {
            const Case& c = cases[static_cast<std::size_t>(i)];
            const auto at = [&](NetIndex net) {
                return net < 0 ? 0.0 : volts.value(QString("n%1_%2").arg(i).arg(net), std::nan(""));
            };
            const double across = std::fabs(at(c.asked.probed.place) - at(c.asked.probed.against));
            const QString told = QString("board %1: %2 against %3 V at %4 A")
                                     .arg(first + i)
                                     .arg(c.reading.overRange ? -1 : c.reading.value)
                                     .arg(across)
                                     .arg(c.amps);
            QVERIFY2(std::isfinite(across), qPrintable(told));
            const bool diode = c.asked.probed.mode == MeterMode::Diode;
            const double most = diode ? 2.5 : 0.3;
            if (c.reading.overRange || across > 1.1 * most) {
                QVERIFY2(c.reading.overRange && across > 0.9 * most, qPrintable(told));
                ++ranged;
                continue;
            }
            ++compared;
            if (diode)
                QVERIFY2(std::fabs(c.reading.value - across) < 0.02, qPrintable(told));
            else
                QVERIFY2(std::fabs(c.reading.value * c.amps / across - 1) < 0.02, qPrintable(told));
        }
    }
    QVERIFY(compared > 150 && ranged > 2);
}
