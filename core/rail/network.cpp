#include "rail/network.h"

#include <algorithm>
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

namespace {

/// Each edge adds to two diagonals and one pair of neighbours; parallel edges add up.
Multigrid::Matrix laplacianOf(const std::vector<ResistorNetwork::Edge>& edges, const std::vector<int>& row,
                              int rows) {
    std::vector<int> start(static_cast<std::size_t>(rows) + 1, 0);
    for (const auto& edge : edges)
        if (row[edge.a] >= 0 && row[edge.b] >= 0) {
            ++start[row[edge.a] + 1];
            ++start[row[edge.b] + 1];
        }
    for (int i = 0; i < rows; ++i)
        start[i + 1] += start[i];
    std::vector<std::pair<int, double>> neighbours(static_cast<std::size_t>(start.back()));
    std::vector<int> next(start.begin(), start.end() - 1);
    std::vector<double> diagonal(static_cast<std::size_t>(rows), 0.0);
    for (const auto& edge : edges) {
        const int a = row[edge.a], b = row[edge.b];
        if (a >= 0) diagonal[a] += edge.siemens;
        if (b >= 0) diagonal[b] += edge.siemens;
        if (a < 0 || b < 0) continue;
        neighbours[next[a]++] = {b, -edge.siemens};
        neighbours[next[b]++] = {a, -edge.siemens};
    }
    Multigrid::Matrix laplacian(rows, rows);
    laplacian.reserve(start.back() + rows);
    for (int i = 0; i < rows; ++i) {
        std::sort(neighbours.begin() + start[i], neighbours.begin() + start[i + 1]);
        laplacian.startVec(i);
        bool diagonalIn = false;
        int last = -1;
        const auto put = [&](int column, double value) {
            if (column == last)
                laplacian.valuePtr()[laplacian.outerIndexPtr()[i + 1] - 1] += value;
            else
                laplacian.insertBack(i, column) = value;
            last = column;
        };
        for (int k = start[i]; k < start[i + 1]; ++k) {
            if (!diagonalIn && neighbours[k].first > i) {
                put(i, diagonal[i]);
                diagonalIn = true;
            }
            put(neighbours[k].first, neighbours[k].second);
        }
        if (!diagonalIn) put(i, diagonal[i]);
    }
    laplacian.finalize();
    return laplacian;
}

} // namespace

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

    auto laplacian = laplacianOf(m_edges, row, grounded.m_rows);
    constexpr int cheapToFactor = 150000;
    if (grounded.m_rows > cheapToFactor) {
        grounded.m_multigrid = std::make_shared<Multigrid>(std::move(laplacian));
        return grounded;
    }
    grounded.m_factor = std::make_shared<GroundedNetwork::Solver>(laplacian);
    if (grounded.m_factor->info() != Eigen::Success)
        return Error{say("the network cannot be solved (badly scaled)"), "", {}};
    return grounded;
}

Result<std::vector<double>> GroundedNetwork::solve(const std::vector<double>& amps) const {
    USTOR_CHECK(amps.size() == m_row.size(), "one current a node");
    std::vector<double> volts(m_row.size(), 0.0);
    if (m_rows == 0) return volts;
    Eigen::VectorXd drive = Eigen::VectorXd::Zero(m_rows);
    for (std::size_t node = 0; node < amps.size(); ++node)
        if (m_row[node] >= 0) drive[m_row[node]] = amps[node];
    double residual = 0;
    const Eigen::VectorXd solution =
        m_multigrid ? m_multigrid->solve(drive, residual) : m_factor->solve(drive).eval();
    constexpr double goodEnough = 1e-6; // far below what any reading can tell
    if (residual > goodEnough) return Error{say("the network cannot be solved (badly scaled)"), "", {}};
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
            return Error{
                say("a driven node has no path back to the reference"), "node " + std::to_string(node), {}};
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
