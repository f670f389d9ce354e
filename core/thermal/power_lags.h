#pragma once

#include "thermal/recording.h"

#include <Eigen/Core>
#include <vector>

namespace ustor {

/// Lags of the delivered power (see `LagBank`) at some times, one column for each lag; times must rise.
/// `offset_s`: supply's clock ahead of the times'.
Eigen::MatrixXd powerLags(const std::vector<SupplySample>& supply, const std::vector<double>& times_s,
                          double offset_s);

/// Least squares of a course by some terms, each frame with its weight; the terms' own sizes do not matter.
/// Returns what is left over of every frame.
Eigen::VectorXd leftOver(const Eigen::VectorXd& course, const Eigen::MatrixXd& terms,
                         const Eigen::VectorXd& weights);

/// The median of the absolute values, times 1.4826: the deviation of what is normal in them.
double usualSize(const Eigen::VectorXd& left);

} // namespace ustor
