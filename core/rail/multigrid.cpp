#include "rail/multigrid.h"

#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

using Matrix = Eigen::SparseMatrix<float, Eigen::RowMajor>;
using Eigen::Index;

/// A neighbour is strong where the coupling is not small against both diagonals: across weak ones the error
/// of a smoothed vector may jump, and no aggregate reaches.
bool isStrong(float coupling, float diagonalA, float diagonalB) {
    constexpr float threshold = 0.08F;
    return coupling * coupling > threshold * threshold * diagonalA * diagonalB;
}

/// Puts each unknown into an aggregate: first whole free neighbourhoods, then what is left to the strongest
/// neighbouring aggregate, else alone. Returns the number of aggregates.
int aggregate(const Matrix& a, const Eigen::VectorXf& diagonal, std::vector<int>& of) {
    of.assign(static_cast<std::size_t>(a.rows()), -1);
    int count = 0;
    const auto strong = [&](const Matrix::InnerIterator& it) {
        return it.col() != it.row() && isStrong(it.value(), diagonal[it.row()], diagonal[it.col()]);
    };
    for (Index row = 0; row < a.rows(); ++row) {
        if (of[row] >= 0) continue;
        bool free = true;
        for (Matrix::InnerIterator it(a, row); it && free; ++it)
            free = !strong(it) || of[it.col()] < 0;
        if (!free) continue;
        of[row] = count;
        for (Matrix::InnerIterator it(a, row); it; ++it)
            if (strong(it)) of[it.col()] = count;
        ++count;
    }
    const std::vector<int> roots = of;
    for (Index row = 0; row < a.rows(); ++row) {
        if (of[row] >= 0) continue;
        float most = 0;
        for (Matrix::InnerIterator it(a, row); it; ++it)
            if (strong(it) && roots[it.col()] >= 0 && std::fabs(it.value()) > most) {
                most = std::fabs(it.value());
                of[row] = roots[it.col()];
            }
        if (of[row] < 0) of[row] = count++;
    }
    return count;
}

/// Piecewise constant over the aggregates, smoothed by one damped Jacobi step of the matrix without its weak
/// couplings (these are added to the diagonal).
Matrix prolongation(const Matrix& a, const Eigen::VectorXf& diagonal, const std::vector<int>& of, int count) {
    constexpr float damping = 2.0F / 3; // 4/3 over 2, the bound of the spectrum of D^-1 A of a Laplacian
    Matrix p(a.rows(), count);
    std::vector<std::pair<int, float>> row;
    p.reserve(a.nonZeros() / 2);
    for (Index i = 0; i < a.rows(); ++i) {
        row.clear();
        const auto put = [&row](int column, float value) {
            for (auto& [c, v] : row)
                if (c == column) {
                    v += value;
                    return;
                }
            row.emplace_back(column, value);
        };
        float kept = diagonal[i];
        for (Matrix::InnerIterator it(a, i); it; ++it)
            if (it.col() != i && !isStrong(it.value(), diagonal[i], diagonal[it.col()])) kept += it.value();
        put(of[static_cast<std::size_t>(i)], 1 - damping);
        for (Matrix::InnerIterator it(a, i); it; ++it)
            if (it.col() != i && isStrong(it.value(), diagonal[i], diagonal[it.col()]))
                put(of[static_cast<std::size_t>(it.col())], -damping * it.value() / kept);
        std::sort(row.begin(), row.end());
        p.startVec(i);
        for (const auto& [column, value] : row)
            p.insertBack(i, column) = value;
    }
    p.finalize();
    return p;
}

/// One sweep of Gauss-Seidel over all rows.
template <class Rows>
void sweep(const Matrix& a, const Eigen::VectorXf& inverseDiagonal, const Eigen::VectorXf& b,
           Eigen::VectorXf& x, Rows inOrder) {
    const auto* outer = a.outerIndexPtr();
    const auto* inner = a.innerIndexPtr();
    const float* values = a.valuePtr();
    inOrder([&](Index row) {
        float left = b[row];
        for (auto k = outer[row]; k < outer[row + 1]; ++k)
            left -= values[k] * x[inner[k]];
        x[row] += left * inverseDiagonal[row];
    });
}

} // namespace

Multigrid::Multigrid(Matrix matrix) : m_matrix(std::move(matrix)) {
    coarsen(m_matrix.cast<float>());
}

void Multigrid::coarsen(Coarse matrix) {
    constexpr Index smallEnough = 3000;
    constexpr std::size_t mostLevels = 20;
    while (matrix.rows() > smallEnough && m_levels.size() < mostLevels) {
        const Eigen::VectorXf diagonal = matrix.diagonal();
        std::vector<int> of;
        const int count = aggregate(matrix, diagonal, of);
        constexpr double littleGain = 0.9;
        if (count > littleGain * static_cast<double>(matrix.rows())) break;
        Level level;
        level.prolong = prolongation(matrix, diagonal, of, count);
        level.collect = level.prolong.transpose();
        level.inverseDiagonal = diagonal.cwiseInverse();
        Coarse coarse = level.collect * (matrix * level.prolong).eval();
        level.matrix = std::move(matrix);
        m_levels.push_back(std::move(level));
        matrix = std::move(coarse);
    }
    m_coarsest.compute(matrix);
}

void Multigrid::cycle(std::size_t at, std::vector<Work>& work) const {
    Work& here = work[at];
    if (at == m_levels.size()) {
        here.x = m_coarsest.solve(here.b);
        return;
    }
    const Level& level = m_levels[at];
    const Index rows = level.matrix.rows();
    here.x.setZero(rows);
    sweep(level.matrix, level.inverseDiagonal, here.b, here.x, [&](auto relax) {
        for (Index row = 0; row < rows; ++row)
            relax(row);
    });
    here.left = here.b;
    here.left.noalias() -= level.matrix * here.x;
    work[at + 1].b.noalias() = level.collect * here.left;
    cycle(at + 1, work);
    here.x.noalias() += level.prolong * work[at + 1].x;
    sweep(level.matrix, level.inverseDiagonal, here.b, here.x, [&](auto relax) {
        for (Index row = rows - 1; row >= 0; --row)
            relax(row);
    });
}

Eigen::VectorXd Multigrid::solve(const Eigen::VectorXd& b, double& reached) const {
    std::vector<Work> work(m_levels.size() + 1);
    const auto precondition = [&](const Eigen::VectorXd& left) {
        // Scaled to one: single precision has no room for residuals of 1e-40.
        const double size = left.norm();
        work[0].b = (left / size).cast<float>();
        cycle(0, work);
        return Eigen::VectorXd(work[0].x.cast<double>() * size);
    };
    Eigen::VectorXd x = Eigen::VectorXd::Zero(b.size()), left = b, image(b.size());
    const double size = b.norm();
    reached = size > 0 ? 1 : 0;
    if (size == 0) return x;
    Eigen::VectorXd z = precondition(left), direction = z;
    double rho = left.dot(z);
    constexpr int most = 200;
    for (int step = 0; step < most; ++step) {
        image.noalias() = m_matrix * direction;
        const double alpha = rho / direction.dot(image);
        if (!std::isfinite(alpha)) break;
        x += alpha * direction;
        left -= alpha * image;
        reached = left.norm() / size;
        if (reached <= wanted) break;
        z = precondition(left);
        const double next = left.dot(z);
        direction = z + (next / rho) * direction;
        rho = next;
    }
    return x;
}

} // namespace ustor
