#include "standin/circuit.h"

#include "base/check.h"
#include "base/random.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace ustor::standin {
namespace {

/// Every node leaks this much to everywhere, so that the matrix is regular; far above anything a meter shows.
constexpr double leakOhms = 1e9;

double copperOhmsPerMm(const Net& net) {
    if (net.ground) return 0.02e-3; // planes
    return net.nominal ? 0.15e-3 : 2e-3;
}

} // namespace

Circuit::Circuit(const Board& board, const Fault& fault, std::uint64_t seed)
    : m_board(board), m_fault(fault) {
    build(seed);
}

void Circuit::build(std::uint64_t seed) {
    for (const Part& part : m_board.parts) {
        auto& nodes = m_node.emplace_back();
        for (const Pad& pad : part.pads) {
            nodes.push_back(static_cast<int>(m_place.size()));
            m_place.push_back(pad.at);
            m_side.push_back(pad.side);
        }
    }
    addCopper();
    Random random(seed);
    for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p)
        addPart(p, random.uniform(0.7, 1.4));
    const PartIndex bad = m_board.findPart(m_fault.part);
    USTOR_CHECK(bad >= 0, "the fault's part is on the board");
    int rail = -1, ground = -1;
    for (std::size_t i = 0; i < m_board.parts[bad].pads.size(); ++i) {
        const Pad& pad = m_board.parts[bad].pads[i];
        if (pad.net < 0) continue;
        if (m_board.nets[pad.net].name == m_fault.net && rail < 0) rail = m_node[bad][i];
        if (m_board.nets[pad.net].ground) ground = m_node[bad][i];
    }
    USTOR_CHECK(rail >= 0 && ground >= 0, "the fault lies between rail and ground");
    m_elements.push_back({rail, ground, m_fault.ohms, bad, true});
}

/// A spanning tree of shortest hops over the pads of each net: what etched copper amounts to.
void Circuit::addCopper() {
    for (NetIndex net = 0; net < static_cast<NetIndex>(m_board.nets.size()); ++net) {
        const auto pads = m_board.padsOf(net);
        if (pads.size() < 2) continue;
        const double perMm = copperOhmsPerMm(m_board.nets[net]);
        std::vector<double> best(pads.size(), std::numeric_limits<double>::max());
        std::vector<std::size_t> from(pads.size(), 0);
        std::vector<bool> in(pads.size(), false);
        best[0] = 0;
        for (std::size_t step = 0; step < pads.size(); ++step) {
            std::size_t next = 0;
            double least = std::numeric_limits<double>::max();
            for (std::size_t i = 0; i < pads.size(); ++i)
                if (!in[i] && best[i] < least) {
                    least = best[i];
                    next = i;
                }
            in[next] = true;
            if (step > 0)
                m_elements.push_back(
                    {nodeOf(pads[next]), nodeOf(pads[from[next]]), 0.1e-3 + perMm * least, -1, false});
            for (std::size_t i = 0; i < pads.size(); ++i) {
                const double d = distance_mm(m_board.pad(pads[i]).at, m_board.pad(pads[next]).at);
                if (!in[i] && d < best[i]) {
                    best[i] = d;
                    from[i] = next;
                }
            }
        }
    }
}

void Circuit::addPart(PartIndex index, double spread) {
    const Part& part = m_board.parts[index];
    const auto& nodes = m_node[index];
    const auto between = [&](std::size_t a, std::size_t b, double ohms) {
        m_elements.push_back({nodes[a], nodes[b], ohms * spread, index, false});
    };
    if (nodes.size() < 2) return;
    switch (part.partClass) {
    case PartClass::Fuse:
        return between(0, 1, 0.012);
    case PartClass::Ferrite:
        return between(0, 1, 0.03);
    case PartClass::Inductor:
        return between(0, 1, part.width_mm > 6 ? 0.008 : 0.015);
    case PartClass::SenseResistor:
    case PartClass::Resistor:
        return between(0, 1, std::max(0.5e-3, resistorOhms(part.value).value_or(1e4)));
    case PartClass::CeramicCapacitor:
        return between(0, 1, 2e7);
    case PartClass::PolarCapacitor:
        return between(0, 1, 2e6);
    case PartClass::Diode:
    case PartClass::ClampDiode:
        return between(0, 1, 1e6);
    case PartClass::Mosfet:
        return between(0, nodes.size() - 1, 8e5);
    default:
        break;
    }
    // Chips: each rail pin loads its rail; a processor's core by nature with little.
    for (std::size_t i = 0; i < nodes.size(); ++i) {
        const NetIndex net = part.pads[i].net;
        if (net < 0 || m_board.nets[net].ground || !m_board.nets[net].nominal) continue;
        const auto ground = std::find_if(part.pads.begin(), part.pads.end(), [&](const Pad& pad) {
            return pad.net >= 0 && m_board.nets[pad.net].ground;
        });
        if (ground == part.pads.end()) return;
        const bool core = part.partClass == PartClass::Processor && m_board.nets[net].nominal->value <= 1.3;
        const double ohms = core ? 12 : part.partClass == PartClass::Connector ? 1e7 : 9e3;
        between(i, static_cast<std::size_t>(ground - part.pads.begin()), ohms);
    }
}

bool Circuit::faultIsOn() const {
    return !m_lifted.contains(m_fault.part) && !m_replaced.contains(m_fault.part);
}

bool Circuit::present(const Element& element) const {
    if (element.part < 0) return true;
    if (m_lifted.contains(m_board.parts[element.part].designator)) return false;
    return !element.fault || faultIsOn();
}

void Circuit::lift(const std::string& part) {
    m_lifted.insert(part);
    m_factored = false;
}

void Circuit::refit(const std::string& part) {
    m_lifted.erase(part);
    m_factored = false;
}

void Circuit::replace(const std::string& part) {
    m_lifted.erase(part);
    m_replaced.insert(part);
    m_factored = false;
}

int Circuit::nodeOf(PadRef pad) const {
    return m_node[pad.part][pad.pad];
}

void Circuit::factor() const {
    const int n = static_cast<int>(m_place.size());
    std::vector<Eigen::Triplet<double>> entries;
    for (int i = 0; i < n; ++i)
        entries.emplace_back(i, i, 1 / leakOhms);
    for (const Element& e : m_elements) {
        if (!present(e)) continue;
        const double g = 1 / e.ohms;
        entries.emplace_back(e.a, e.a, g);
        entries.emplace_back(e.b, e.b, g);
        entries.emplace_back(e.a, e.b, -g);
        entries.emplace_back(e.b, e.a, -g);
    }
    m_matrix.resize(n, n);
    m_matrix.setFromTriplets(entries.begin(), entries.end());
    m_solver = std::make_unique<Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>>>(m_matrix);
    USTOR_CHECK(m_solver->info() == Eigen::Success, "the board's network is regular");
    m_factored = true;
}

Circuit::Response Circuit::drive(PadRef a, PadRef b) const {
    if (!m_factored) factor();
    Response response;
    const int from = nodeOf(a), to = nodeOf(b);
    Eigen::VectorXd amps = Eigen::VectorXd::Zero(static_cast<long>(m_place.size()));
    amps[from] += 1;
    amps[to] -= 1;
    Eigen::VectorXd volts = m_solver->solve(amps);
    // Stiff copper against the leak: one step of refinement brings the small differences back.
    const Eigen::VectorXd left = amps - m_matrix * volts;
    volts += m_solver->solve(left);
    const double zero = volts[to];
    response.ohms = volts[from] - zero;
    response.connected = response.ohms < 0.1 * leakOhms;
    response.volts.resize(m_place.size());
    for (std::size_t i = 0; i < m_place.size(); ++i)
        response.volts[i] = volts[static_cast<long>(i)] - zero;
    return response;
}

/// Copper warms all along its length, never in one point.
void Circuit::heatAlong(const Element& copper, double watts, std::vector<Heat>& heat) const {
    const BoardPoint from = m_place[copper.a], to = m_place[copper.b];
    constexpr double piece_mm = 0.8;
    const int pieces = std::max(1, static_cast<int>(std::ceil(distance_mm(from, to) / piece_mm)));
    for (int i = 0; i < pieces; ++i) {
        const double share = (i + 0.5) / pieces;
        const BoardPoint at{from.x_mm + share * (to.x_mm - from.x_mm),
                            from.y_mm + share * (to.y_mm - from.y_mm)};
        heat.push_back({-1, at, m_side[share < 0.5 ? copper.a : copper.b], watts / pieces});
    }
}

std::vector<Circuit::Heat> Circuit::heatOf(const Response& response) const {
    std::vector<Heat> heat;
    for (const Element& e : m_elements) {
        if (!present(e)) continue;
        const double drop = response.volts[e.a] - response.volts[e.b], watts = drop * drop / e.ohms;
        if (watts < 1e-9) continue;
        if (e.part < 0) {
            heatAlong(e, watts, heat);
            continue;
        }
        const Part& part = m_board.parts[e.part];
        heat.push_back({e.part, e.fault ? m_fault.heatAt : part.centre, part.side, watts});
    }
    return heat;
}

} // namespace ustor::standin
