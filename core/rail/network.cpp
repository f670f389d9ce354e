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

Result<GroundedNetwork> ResistorNetwork::grounded(int reference) const {
    const auto island = islands();
    GroundedNetwork grounded;
    grounded.m_reference = reference;
    // Only the island of the reference carries current; everything else floats.
    auto& row = grounded.m_row;
    row.assign(m_nodes, -1);
    for (int node = 0; node < m_nodes; ++node)
        if (node != reference && island[node] == island[reference]) row[node] = grounded.m_rows++;
    if (grounded.m_rows == 0) return grounded;

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
    Eigen::SparseMatrix<double> laplacian(grounded.m_rows, grounded.m_rows);
    laplacian.setFromTriplets(entries.begin(), entries.end());
    grounded.m_solver = std::make_shared<GroundedNetwork::Solver>(laplacian);
    if (grounded.m_solver->info() != Eigen::Success)
        return Error{"the network cannot be solved (badly scaled)", "", ""};
    return grounded;
}

std::vector<double> GroundedNetwork::solve(const std::vector<double>& amps) const {
    USTOR_CHECK(amps.size() == m_row.size(), "one current a node");
    std::vector<double> volts(m_row.size(), 0.0);
    if (m_rows == 0) return volts;
    Eigen::VectorXd drive = Eigen::VectorXd::Zero(m_rows);
    for (std::size_t node = 0; node < amps.size(); ++node)
        if (m_row[node] >= 0) drive[m_row[node]] = amps[node];
    const Eigen::VectorXd solution = m_solver->solve(drive);
    for (std::size_t node = 0; node < volts.size(); ++node)
        if (m_row[node] >= 0) volts[node] = solution[m_row[node]];
    return volts;
}

Result<std::vector<double>> ResistorNetwork::solve(const std::vector<double>& amps, int reference) const {
    USTOR_CHECK(static_cast<int>(amps.size()) == m_nodes, "one current a node");
    const auto made = grounded(reference);
    if (!made) return made.error();
    for (int node = 0; node < m_nodes; ++node)
        if (amps[node] != 0 && !made.value().reaches(node))
            return Error{"a driven node has no path back to the reference", "node " + std::to_string(node),
                         ""};
    return made.value().solve(amps);
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
