#pragma once

#include "base/units.h"

#include <optional>
#include <vector>

namespace ustor {

/// What conducts one way: Shockley's equation, I = saturation (exp(V / (emission VT)) - 1), VT = kT/q at 27
/// °C.
struct Junction {
    double saturation_a = 1e-12;
    double emission = 1;
    /// Amperes at volts from anode to cathode, and their slope in siemens.
    double amps(double volts) const;
    double siemens(double volts) const;
};

/// Thermal voltage kT/q at 27 °C, in volts (CODATA 2018: k and q are exact).
constexpr double thermalVolts = 0.025865;

/// The junction that drops so many volts at a current.
Junction junctionDropping(double volts, double amps, double emission = 1);

/// A small direct-current network of resistors and junctions, driven by one current: nodal analysis, solved
/// by Newton's method with the steps across junctions limited (Nagel, SPICE2, ERL-M520, 1975). Node 0 is
/// ground. Dense: meant for some tens of nodes,
/// at most `mostNodes`.
class JunctionNetwork {
  public:
    static constexpr int mostNodes = 120;
    explicit JunctionNetwork(int nodes) : m_nodes(nodes) {}

    int nodes() const { return m_nodes; }
    int addNode() { return m_nodes++; }
    /// Resistance positive and finite.
    void connect(int a, int b, Ohms resistance);
    void connect(int anode, int cathode, const Junction& junction);

    struct Answer {
        std::vector<double> volts; ///< of each node against ground
        double junctionShare =
            0; ///< of the driven current, what flows in junctions at either end of the drive
    };
    /// Amperes driven into node `in` and out of node `out`. Each node leaks 1e-12 S to ground, so that one
    /// that hangs in the air has an answer. It begins from the voltages of `from`, where an answer much like
    /// this one is at hand. Nothing when the method does not settle.
    std::optional<Answer> drive(int in, int out, double amps, const Answer* from = nullptr) const;

    /// Another resistance for one that was connected, by its place in `resistors`.
    void setResistance(std::size_t which, Ohms resistance) { m_resistors[which].ohms = resistance.value; }

    struct Resistor {
        int a, b;
        double ohms;
    };
    struct Diode {
        int anode, cathode;
        Junction junction;
    };
    const std::vector<Resistor>& resistors() const { return m_resistors; }
    const std::vector<Diode>& diodes() const { return m_diodes; }

  private:
    int m_nodes;
    std::vector<Resistor> m_resistors;
    std::vector<Diode> m_diodes;
};

} // namespace ustor
