#pragma once

#include <Eigen/SparseCholesky>
#include <Eigen/SparseCore>
#include <vector>

namespace ustor {

/// Solves A x = b for a large symmetric positive definite matrix with non-positive neighbours (the Laplacian
/// of a resistor network with one node grounded): conjugate gradients, preconditioned by smoothed
/// aggregation (P. Vanek, J. Mandel, M. Brezina, Computing 56, 179, 1996 [memory]). Work and memory grow
/// with the number of unknowns, where a factorisation of a sheet grows faster.
class Multigrid {
  public:
    using Matrix = Eigen::SparseMatrix<double, Eigen::RowMajor>;
    explicit Multigrid(Matrix matrix);

    /// `reached` tells the relative residual at the end; above `wanted` the matrix was too badly scaled.
    Eigen::VectorXd solve(const Eigen::VectorXd& b, double& reached) const;
    static constexpr double wanted = 1e-8;

  private:
    // The preconditioner need not be exact: single precision halves what has to be moved.
    using Coarse = Eigen::SparseMatrix<float, Eigen::RowMajor>;
    struct Level {
        Coarse matrix, prolong, collect; ///< `collect` is the transpose of `prolong`
        Eigen::VectorXf inverseDiagonal;
    };
    /// Vectors of one level of a cycle, kept from cycle to cycle.
    struct Work {
        Eigen::VectorXf b, x, left;
    };
    void coarsen(Coarse matrix);
    void cycle(std::size_t level, std::vector<Work>& work) const;

    Matrix m_matrix;
    std::vector<Level> m_levels; ///< finest first
    Eigen::SimplicialLDLT<Eigen::SparseMatrix<float>> m_coarsest;
};

} // namespace ustor
