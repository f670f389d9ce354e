#include "rail/network.h"

#include <cmath>
#include <functional>
#include <numeric>

namespace ustor {

void ResistorNetwork::connect(int a, int b, Ohms resistance) {
    USTOR_CHECK(a >= 0 && b >= 0 && a < m_nodes && b < m_nodes, "a node that is not in the network");
    USTOR_CHECK(resistance.value > 0 && std::isfinite(resistance.value), "a resistance must be positive");
    if (a != b) m_edges.push_back({a, b, 1 / resistance.value});
}

std::vector<int> ResistorNetwork::islands() const {
    std::vector<int> root(m_nodes);
    std::iota(root.begin(), root.end(), 0);
    const auto find = [&root](int node) {
        while (root[node] != node)
            node = root[node] = root[root[node]];
        return node;
    };
    for (const Edge& edge : m_edges)
        root[find(edge.a)] = find(edge.b);
    for (int node = 0; node < m_nodes; ++node)
        root[node] = find(node);
    return root;
}

Result<std::vector<double>> ResistorNetwork::solve(const std::vector<double>& amps, int reference) const {
    USTOR_CHECK(static_cast<int>(amps.size()) == m_nodes, "one current a node");
    const auto island = islands();
    for (int node = 0; node < m_nodes; ++node)
        if (amps[node] != 0 && island[node] != island[reference])
            return Error{"a driven node has no path back to the reference", "node " + std::to_string(node),
                         ""};

    // Only the island of the reference carries current; everything else floats and is reported at zero.
    std::vector<int> row(m_nodes, -1);
    int rows = 0;
    for (int node = 0; node < m_nodes; ++node)
        if (node != reference && island[node] == island[reference]) row[node] = rows++;
    std::vector<double> volts(m_nodes, 0.0);
    if (rows == 0) return volts;

    std::vector<Eigen::Triplet<double>> entries;
    entries.reserve(m_edges.size() * 4);
    for (const Edge& edge : m_edges) {
        const int a = row[edge.a], b = row[edge.b];
        if (a >= 0) entries.emplace_back(a, a, edge.siemens);
        if (b >= 0) entries.emplace_back(b, b, edge.siemens);
        if (a >= 0 && b >= 0) {
            entries.emplace_back(a, b, -edge.siemens);
            entries.emplace_back(b, a, -edge.siemens);
        }
    }
    Eigen::SparseMatrix<double> laplacian(rows, rows);
    laplacian.setFromTriplets(entries.begin(), entries.end());
    Eigen::VectorXd drive(rows);
    for (int node = 0; node < m_nodes; ++node)
        if (row[node] >= 0) drive[row[node]] = amps[node];
    const Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> solver(laplacian);
    if (solver.info() != Eigen::Success) return Error{"the network cannot be solved (badly scaled)", "", ""};
    const Eigen::VectorXd solution = solver.solve(drive);
    for (int node = 0; node < m_nodes; ++node)
        if (row[node] >= 0) volts[node] = solution[row[node]];
    return volts;
}

Result<Ohms> ResistorNetwork::between(int a, int b) const {
    if (a == b) return Ohms(0);
    std::vector<double> amps(m_nodes, 0.0);
    amps[a] = 1;
    amps[b] = -1;
    const auto volts = solve(amps, b);
    if (!volts) return volts.error();
    return Ohms(volts.value()[a]);
}

} // namespace ustor
