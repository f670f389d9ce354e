#pragma once

#include "base/result.h"
#include "base/units.h"
#include "rail/multigrid.h"

#include <memory>
#include <vector>

namespace ustor {

class GroundedNetwork;

/// A network of resistors, solved by nodal analysis: L v = i with L the weighted Laplacian and one node of
/// each island held at zero volts. Nodes are numbered from 0.
class ResistorNetwork {
  public:
    explicit ResistorNetwork(int nodes) : m_nodes(nodes) {}

    struct Edge {
        int a, b;
        double siemens;
    };
    int nodes() const { return m_nodes; }
    const std::vector<Edge>& edges() const { return m_edges; }
    /// Resistances must be positive and finite.
    void connect(int a, int b, Ohms resistance);

    /// Node voltages in V against `reference` when currents (A, into each node) are driven. The currents must
    /// sum to zero within an island that does not hold the reference: what is fed there has no way out
    /// otherwise. Error when a driven node has no path to the reference.
    Result<std::vector<double>> solve(const std::vector<double>& amps, int reference) const;

    /// The island of the reference, prepared once for many drives. Error when it is badly scaled.
    Result<GroundedNetwork> grounded(int reference) const;

    /// Effective resistance (e_a - e_b)^T L^+ (e_a - e_b); error when a and b hang on different islands.
    Result<Ohms> between(int a, int b) const;

  private:
    std::vector<int> islands() const;

    int m_nodes;
    std::vector<Edge> m_edges;
};

/// A network with one node held at zero volts, ready to be solved again and again: factored while that is
/// cheap, by multigrid where a factor would grow too large.
class GroundedNetwork {
  public:
    /// True when a current into the node finds its way back.
    bool reaches(int node) const { return node == m_reference || m_row[node] >= 0; }
    /// Node voltages in V for currents (A, into each node); nodes without a path to the reference stay at
    /// zero, and must not be driven. Error when a large network does not converge.
    Result<std::vector<double>> solve(const std::vector<double>& amps) const;

  private:
    friend class ResistorNetwork;
    using Solver = Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>>;
    int m_reference = 0, m_rows = 0;
    std::vector<int> m_row;           ///< of each node; -1 for the reference and other islands
    std::shared_ptr<Solver> m_factor; ///< one of these two is there
    std::shared_ptr<Multigrid> m_multigrid;
};

} // namespace ustor
