#include "diagnosis/circuit/junction_network.h"

#include "base/check.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

constexpr double leak_s = 1e-12;

/// Of bounded size: no memory is asked for while the method steps.
constexpr int most = JunctionNetwork::mostNodes;
using Matrix = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, most, most>;
using Vector = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, most, 1>;

double exponent(const Junction& junction, double volts) {
    // Beyond it no current of a bench flows, and `exp` would leave the numbers.
    constexpr double largest = 80;
    return std::min(largest, volts / (junction.emission * thermalVolts));
}

/// The next voltage across a junction: forward, one step may not multiply the current beyond reason (SPICE2's
/// rule).
double limited(double next, double last, const Junction& junction) {
    const double vt = junction.emission * thermalVolts;
    const double critical = vt * std::log(vt / (std::sqrt(2.0) * junction.saturation_a));
    if (next <= critical || std::fabs(next - last) <= 2 * vt) return next;
    if (last > 0) {
        const double grown = 1 + (next - last) / vt;
        return grown > 0 ? last + vt * std::log(grown) : critical;
    }
    return vt * std::log(std::max(next / vt, 1e-12));
}

} // namespace

double Junction::amps(double volts) const {
    return saturation_a * std::expm1(exponent(*this, volts));
}

double Junction::siemens(double volts) const {
    return saturation_a / (emission * thermalVolts) * std::exp(exponent(*this, volts));
}

Junction junctionDropping(double volts, double amps, double emission) {
    return {amps / std::expm1(volts / (emission * thermalVolts)), emission};
}

void JunctionNetwork::connect(int a, int b, Ohms resistance) {
    USTOR_CHECK(resistance.value > 0 && std::isfinite(resistance.value),
                "a resistance is positive and finite");
    m_resistors.push_back({a, b, resistance.value});
}

void JunctionNetwork::connect(int anode, int cathode, const Junction& junction) {
    m_diodes.push_back({anode, cathode, junction});
}

std::optional<JunctionNetwork::Answer> JunctionNetwork::drive(int in, int out, double amps,
                                                              const Answer* from) const {
    USTOR_CHECK(m_nodes <= mostNodes, "a network of junctions is small");
    const int rows = m_nodes - 1;
    Matrix fixed = leak_s * Matrix::Identity(rows, rows);
    Vector source = Vector::Zero(rows);
    const auto stamp = [](Matrix& into, int a, int b, double siemens) {
        if (a > 0) into(a - 1, a - 1) += siemens;
        if (b > 0) into(b - 1, b - 1) += siemens;
        if (a > 0 && b > 0) {
            into(a - 1, b - 1) -= siemens;
            into(b - 1, a - 1) -= siemens;
        }
    };
    for (const Resistor& r : m_resistors)
        stamp(fixed, r.a, r.b, 1 / r.ohms);
    if (in > 0) source(in - 1) += amps;
    if (out > 0) source(out - 1) -= amps;

    std::vector<double> across(m_diodes.size(), 0.0);
    if (from)
        for (std::size_t i = 0; i < m_diodes.size(); ++i)
            across[i] = from->volts[static_cast<std::size_t>(m_diodes[i].anode)] -
                        from->volts[static_cast<std::size_t>(m_diodes[i].cathode)];
    Matrix matrix(rows, rows);
    Vector right(rows), next(rows);
    Eigen::LLT<Matrix> solver(rows);
    constexpr int steps = 200;
    for (int step = 0; step < steps; ++step) {
        matrix = fixed;
        right = source;
        for (std::size_t i = 0; i < m_diodes.size(); ++i) {
            const Diode& d = m_diodes[i];
            const double siemens = d.junction.siemens(across[i]);
            const double rest = d.junction.amps(across[i]) - siemens * across[i];
            stamp(matrix, d.anode, d.cathode, siemens);
            if (d.anode > 0) right(d.anode - 1) -= rest;
            if (d.cathode > 0) right(d.cathode - 1) += rest;
        }
        solver.compute(matrix);
        next = solver.solve(right);
        if (!next.allFinite()) return std::nullopt;
        const auto at = [&next](int node) { return node > 0 ? next(node - 1) : 0.0; };
        bool settled = true;
        for (std::size_t i = 0; i < m_diodes.size(); ++i) {
            const Diode& d = m_diodes[i];
            const double wanted = at(d.anode) - at(d.cathode), taken = limited(wanted, across[i], d.junction);
            constexpr double close_v = 1e-7;
            if (std::fabs(taken - wanted) > close_v || std::fabs(taken - across[i]) > close_v)
                settled = false;
            across[i] = taken;
        }
        if (!settled) continue;
        Answer answer;
        answer.volts.assign(static_cast<std::size_t>(m_nodes), 0.0);
        for (int i = 0; i < rows; ++i)
            answer.volts[static_cast<std::size_t>(i) + 1] = next(i);
        double carried = 0;
        for (std::size_t i = 0; i < m_diodes.size(); ++i) {
            const Diode& d = m_diodes[i];
            const bool leaves = d.anode == in, arrives = d.cathode == out;
            const double here = d.junction.amps(across[i]);
            if (in > 0 ? leaves : arrives) carried += here;
        }
        answer.junctionShare = amps > 0 ? std::clamp(carried / amps, 0.0, 1.0) : 0;
        return answer;
    }
    return std::nullopt;
}

} // namespace ustor
