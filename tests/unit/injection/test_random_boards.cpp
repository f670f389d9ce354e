#include "base/random.h"
#include "injection/plan.h"
#include "injection/supervisor.h"
#include "support/boards.h"
#include "unit/injection/test_injection.h"

#include <Eigen/Dense>
#include <QTest>
#include <array>
#include <cmath>
#include <map>
#include <set>

using namespace ustor;
using testing::addChip;
using testing::addNet;

namespace {

constexpr int boards = 10000;

/// A board with its true resistances: an input, links, converters, load switches, cores with processors, one
/// fault. What the data says of a rail's voltage may be missing or wrong.
struct RandomBoard {
    Board board;
    std::vector<std::array<double, 3>> resistors; // net, net, ohms
    std::vector<NetIndex> rails;
    std::set<NetIndex> cores;

    explicit RandomBoard(Random& random) : m_random(random) {
        board.name = "random";
        addNet(board, "GND");
        const int stages = 1 + random.below(4);
        const NetIndex in = rail(random.uniform(5, 20), false);
        addChip(board, "J1", PartClass::Connector, at(), name(in), "GND", 5, 4);
        NetIndex main = in;
        if (random.uniform() < 0.7) {
            main = rail(*m_truth[in], false);
            const double length = random.uniform() < 0.5 ? 1.0 : 3.2;
            addChip(board, "F1", random.uniform() < 0.5 ? PartClass::Fuse : PartClass::Ferrite, at(),
                    name(in), name(main), length, length / 2);
            resistors.push_back({1.0 * in, 1.0 * main, 0.02});
            m_linked = {{in, main}, {main, in}};
        }
        for (int i = 0; i < stages; ++i)
            random.uniform() < 0.6 ? converter(main, i) : loadSwitch(main, i);
        breakOne();
    }

    /// Highest voltage of each net for one volt between a net and ground.
    Eigen::VectorXd perVolt(NetIndex into) const {
        const auto nets = static_cast<long>(board.nets.size());
        Eigen::MatrixXd conductance = Eigen::MatrixXd::Identity(nets, nets) * 1e-9;
        for (const auto& [a, b, ohms] : resistors) {
            const auto i = static_cast<long>(a), j = static_cast<long>(b);
            conductance(i, i) += 1 / ohms;
            conductance(j, j) += 1 / ohms;
            conductance(i, j) -= 1 / ohms;
            conductance(j, i) -= 1 / ohms;
        }
        constexpr double held = 1e6;
        const NetIndex ground = board.findNet("GND");
        conductance(ground, ground) += held;
        conductance(into, into) += held;
        Eigen::VectorXd current = Eigen::VectorXd::Zero(nets);
        current[into] = held;
        return conductance.ldlt().solve(current);
    }

    /// What a net may see, by the data and common practice: its working voltage as known; 1.3 V where it is
    /// not known or a processor hangs there.
    double allowed_v(NetIndex net) const {
        auto nominal = board.nets[net].nominal;
        if (const auto other = m_linked.find(net); other != m_linked.end())
            if (const auto& theirs = board.nets[other->second].nominal)
                nominal = nominal ? std::min(*nominal, *theirs) : *theirs;
        const double own = nominal ? nominal->value : carefulVolts.value;
        return cores.contains(net) ? std::min(own, carefulVolts.value) : own;
    }

  private:
    BoardPoint at() { return {m_random.uniform(0, 60), m_random.uniform(0, 40)}; }
    std::string name(NetIndex net) const { return board.nets[net].name; }

    NetIndex rail(double volts, bool core) {
        const NetIndex net = addNet(board, "RAIL" + std::to_string(rails.size()));
        rails.push_back(net);
        m_truth.resize(board.nets.size());
        m_truth[net] = volts;
        const double luck = m_random.uniform();
        auto& nominal = board.nets[net].nominal;
        if (luck < 0.6)
            nominal = Volts(volts);
        else if (luck < 0.75)
            nominal = Volts(m_random.uniform(0.6, 20)); // wrong in the data
        else
            nominal.reset();
        for (int i = 0; i < 3; ++i) {
            const std::string part = "C" + std::to_string(board.parts.size());
            addChip(board, part, PartClass::CeramicCapacitor, at(), name(net), "GND");
            m_capacitors.push_back(net);
        }
        resistors.push_back({1.0 * net, 0, core ? m_random.uniform(0.3, 5) : m_random.uniform(50, 5000)});
        if (core) {
            addChip(board, "U" + std::to_string(board.parts.size()), PartClass::Processor, at(), name(net),
                    "GND", 10, 10);
            cores.insert(net);
        }
        return net;
    }

    void mosfet(const std::string& designator, NetIndex drain, NetIndex source) {
        Part& part = addChip(board, designator, PartClass::Mosfet, at(), name(source), name(drain), 3, 3);
        part.pads[0].pin = "S";
        part.pads[1].pin = "D";
        part.pads.push_back(
            {"G", part.centre, addNet(board, "G_" + designator), Side::Top, false, 0.5, 0.5, 0});
        m_switches.push_back(resistors.size());
        resistors.push_back({1.0 * drain, 1.0 * source, 1e6});
    }

    void converter(NetIndex input, int i) {
        const bool core = m_random.uniform() < 0.5;
        const NetIndex out = rail(core ? m_random.uniform(0.7, 1.2) : m_random.uniform(1.5, 5), core);
        const NetIndex node = addNet(board, "SW" + std::to_string(i));
        m_truth.resize(board.nets.size());
        mosfet("Q" + std::to_string(2 * i), input, node);
        mosfet("Q" + std::to_string(2 * i + 1), node, 0);
        addChip(board, "L" + std::to_string(i), PartClass::Inductor, at(), "SW" + std::to_string(i),
                name(out), 5, 5);
        resistors.push_back({1.0 * node, 1.0 * out, 0.01});
    }

    void loadSwitch(NetIndex input, int i) {
        const bool core = m_random.uniform() < 0.3;
        const NetIndex out = rail(core ? m_random.uniform(0.7, 1.2) : *m_truth[input], core);
        mosfet("Q" + std::to_string(20 + i), input, out);
    }

    /// One shorted capacitor, hard or partial; or one shorted switch; or nothing.
    void breakOne() {
        const double luck = m_random.uniform();
        if (luck < 0.45 && !m_switches.empty()) {
            resistors[m_switches[static_cast<std::size_t>(
                m_random.below(static_cast<int>(m_switches.size())))]][2] = 0.005;
        } else if (luck < 0.9) {
            const NetIndex net =
                m_capacitors[static_cast<std::size_t>(m_random.below(static_cast<int>(m_capacitors.size())))];
            resistors.push_back({1.0 * net, 0, std::exp(m_random.uniform(-6, 4))});
        }
    }

    Random& m_random;
    std::vector<std::optional<double>> m_truth; ///< by net
    std::map<NetIndex, NetIndex> m_linked;      ///< one rail on two nets, joined by a link
    std::vector<NetIndex> m_capacitors;
    std::vector<std::size_t> m_switches;
};

PlanRequest randomRequest(Random& random) {
    PlanRequest request;
    if (random.uniform() < 0.7) request.faultResistance = Ohms(std::exp(random.uniform(-7, 5)));
    request.supply = {Volts(random.uniform(1, 60)), Amps(random.uniform(0.05, 30))};
    request.leads.gauge = 12 + random.below(20);
    request.school = static_cast<School>(random.below(3));
    return request;
}

} // namespace

// Against nodal analysis with all resistances known (Kirchhoff's current law): whatever is wrong with the
// board or its data, no net sees more than it may, even when the supply goes up to its trip.
void TestRandomBoards::noNodeSeesMoreThanItsLimit() {
    Random random(4711);
    int throughSwitches = 0;
    for (int i = 0; i < boards; ++i) {
        const RandomBoard made(random);
        const NetIndex into =
            made.rails[static_cast<std::size_t>(random.below(static_cast<int>(made.rails.size())))];
        const auto plan = planInjection(made.board, stretchOf(made.board, into), randomRequest(random));
        QVERIFY(!plan.steps.empty());
        double most = 0;
        for (const auto& step : plan.steps)
            most = std::max({most, step.volts.value, step.overVoltage.value});
        QVERIFY(most <= plan.limits.volts.value + 1e-9);
        const auto perVolt = made.perVolt(into);
        for (const NetIndex net : made.rails) {
            const double seen = most * perVolt[net];
            throughSwitches += made.cores.contains(net) && net != into && seen > 0.3;
            QVERIFY2(seen <= made.allowed_v(net) + 1e-6,
                     qPrintable(QString("board %1: %2 V on %3, allowed %4 V, injected into %5")
                                    .arg(i)
                                    .arg(seen)
                                    .arg(QString::fromStdString(made.board.nets[net].name))
                                    .arg(made.allowed_v(net))
                                    .arg(QString::fromStdString(made.board.nets[into].name))));
        }
    }
    QVERIFY2(throughSwitches > boards / 50, qPrintable(QString::number(throughSwitches)));
}

// A supply that obeys, telemetry and frames that fail at random: limits come before the output, nothing above
// the plan is ever set, and every run ends with the output off.
void TestRandomBoards::theSupervisorKeepsToThePlan() {
    Random random(4712);
    std::set<StopCause> seen;
    for (int i = 0; i < boards; ++i) {
        const RandomBoard made(random);
        const auto plan =
            planInjection(made.board, stretchOf(made.board, made.rails.front()), randomRequest(random));
        Supervisor supervisor(plan, {});
        bool output = false, limited = false;
        double volts = 0, amps = 0;
        const auto take = [&](const std::vector<SupplyCommand>& commands) {
            for (const auto& command : commands) {
                if (const auto* set = std::get_if<SetLimits>(&command)) {
                    limited = true;
                    volts = set->volts.value;
                    amps = set->amps.value;
                    QVERIFY(volts <= plan.limits.volts.value + 1e-9);
                    QVERIFY(amps <= plan.limits.amps.value + 1e-9);
                    QVERIFY(set->overVoltage.value <= plan.limits.volts.value + 1e-9);
                } else {
                    output = std::holds_alternative<SwitchOn>(command);
                    QVERIFY(limited || !output);
                }
            }
        };
        // From some moment on one thing goes wrong, or nothing.
        const int wrong = random.below(7);
        const double from_s = random.uniform(0, 30);
        take(supervisor.start(0));
        for (double t = 0.1; t < 2000 && supervisor.running(); t += 0.1) {
            const bool now = t > from_s;
            double flows = output ? amps : 0, warm_k = 0.5;
            bool reads = output;
            if (now && wrong == 1) continue; // everything silent: only the clock goes on below
            if (now && wrong == 2 && std::fmod(t, 0.7) < 0.35) flows *= 0.1;
            if (now && wrong == 3) warm_k = 80;
            if (now && wrong == 4) flows = 3 * amps + 0.1, reads = true;
            if (now && wrong == 5) reads = false;
            take(supervisor.telemetry(t, reads, Volts(std::min(volts, 0.5)), Amps(flows)));
            if (!(now && wrong == 6)) take(supervisor.frame(t, warm_k, 26));
        }
        if (supervisor.running()) take(supervisor.tick(3000));
        QVERIFY(!supervisor.running());
        QVERIFY(!output);
        seen.insert(supervisor.cause());
    }
    for (const auto cause :
         {StopCause::Finished, StopCause::Silence, StopCause::CurrentJumped, StopCause::TooWarm,
          StopCause::OverLimit, StopCause::OutputRefused, StopCause::CameraLost})
        QVERIFY2(seen.contains(cause), sentenceOf(cause).text().c_str());
}
