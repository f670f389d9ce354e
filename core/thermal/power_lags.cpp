#include "thermal/power_lags.h"

#include "base/median.h"
#include "thermal/lag_bank.h"
#include "thermal/power.h"

#include <Eigen/Dense>
#include <algorithm>

namespace ustor {

Eigen::MatrixXd powerLags(const std::vector<SupplySample>& supply, const std::vector<double>& times_s,
                          double offset_s) {
    Eigen::MatrixXd lags(static_cast<long>(times_s.size()), LagBank::lags);
    LagBank bank;
    for (long i = 0; i < lags.rows(); ++i) {
        const double time_s = times_s[static_cast<std::size_t>(i)];
        bank.goTo(time_s, deliveredPower_w(supply, time_s, offset_s));
        for (int k = 0; k < LagBank::lags; ++k)
            lags(i, k) = bank[k];
    }
    return lags;
}

Eigen::VectorXd leftOver(const Eigen::VectorXd& course, const Eigen::MatrixXd& terms,
                         const Eigen::VectorXd& weights) {
    const Eigen::VectorXd scale = terms.colwise().norm().cwiseMax(1e-300).cwiseInverse();
    const Eigen::MatrixXd scaled = terms * scale.asDiagonal();
    const Eigen::MatrixXd weighed = weights.asDiagonal() * scaled;
    Eigen::MatrixXd gram = weighed.transpose() * scaled;
    gram.diagonal().array() += 1e-9 * weights.mean();
    return course - scaled * gram.ldlt().solve(weighed.transpose() * course);
}

double usualSize(const Eigen::VectorXd& left) {
    std::vector<double> sizes(static_cast<std::size_t>(left.size()));
    Eigen::Map<Eigen::VectorXd>(sizes.data(), left.size()) = left.cwiseAbs();
    constexpr double perMedian = 1.4826;
    return perMedian * medianOf(sizes);
}

} // namespace ustor
