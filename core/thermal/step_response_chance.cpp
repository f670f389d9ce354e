#include "thermal/step_response.h"

#include <Eigen/Dense>
#include <algorithm>

namespace ustor {
namespace {

/// Columns for some lags, the first terms, beside those of a baseline.
Eigen::MatrixXd withLags(const Eigen::MatrixXd& baseline, int first, int count) {
    Eigen::MatrixXd columns = Eigen::MatrixXd::Zero(baseline.rows(), baseline.cols() + count);
    columns.leftCols(baseline.cols()) = baseline;
    for (int i = 0; i < count; ++i)
        columns(first + i, baseline.cols() + i) = 1;
    return columns;
}

} // namespace

/// Bent at every knot: it follows hot-air heat that decays, which no power explains.
Eigen::MatrixXd StepResponse::bent() const {
    const int knots = this->knots();
    Eigen::MatrixXd columns = Eigen::MatrixXd::Zero(m_gram.rows(), knots);
    columns.middleRows(fixedTerms, knots).setIdentity();
    return columns;
}

cv::Mat StepResponse::seenThroughout() const {
    cv::Mat seen(m_height, m_width, CV_32FC1, cv::Scalar(1));
    for (const auto& [block, unseen] : m_unseen)
        seen(blockAt(block)).setTo(0);
    return seen;
}

Eigen::VectorXd StepResponse::crossOf(const cv::Mat& weights, cv::Rect within) const {
    (void)noise_k(); // all frames are in the sums
    Eigen::VectorXd cross = Eigen::VectorXd::Zero(m_gram.rows());
    for (int y = within.y; y < within.br().y; ++y) {
        const long first = static_cast<long>(y) * m_width + within.x;
        const Eigen::Map<const Eigen::VectorXf> row(weights.ptr<float>(y) + within.x, within.width);
        cross += (m_cross.middleCols(first, within.width) * row).cast<double>();
    }
    return cross;
}

/// Sum of squares of the course that the columns explain.
double StepResponse::explained(const Eigen::VectorXd& cross, const Eigen::MatrixXd& columns) const {
    const Eigen::VectorXd own = columns.transpose() * cross;
    return own.dot(inverseOf(columns.transpose() * m_gram * columns) * own);
}

/// What a telegraph explains beside the columns, in the mean.
double StepResponse::byChance(const Eigen::VectorXd& cross, const Eigen::MatrixXd& columns) const {
    const Rows left = telegraphsLeft(columns, m_gram, inverseOf(columns.transpose() * m_gram * columns), 1);
    return std::max(1e-300, (left.cast<double>() * cross).squaredNorm() / telegraphs);
}

double StepResponse::slowOverChance(const cv::Mat& weights, cv::Rect within) const {
    constexpr int firstSlow = 2, slow = lags - firstSlow;
    const Eigen::VectorXd cross = crossOf(weights, within);
    const Eigen::MatrixXd smooth = bent();
    const double more = explained(cross, withLags(smooth, firstSlow, slow)) - explained(cross, smooth);
    return more / slow / byChance(cross, withLags(smooth, 0, lags));
}

double StepResponse::quickOverChance(const cv::Mat& weights, cv::Rect within) const {
    constexpr int quick = 3;
    const Eigen::VectorXd cross = crossOf(weights, within);
    const Eigen::MatrixXd hats = this->hats(Baseline::Bending);
    Eigen::MatrixXd bending = Eigen::MatrixXd::Zero(m_gram.rows(), hats.cols());
    bending.bottomRows(hats.rows()) = hats;
    double best = 0;
    for (int lag = 0; lag < quick; ++lag)
        best = std::max(best, explained(cross, withLags(bending, lag, 1)));
    return (best - explained(cross, bending)) / byChance(cross, withLags(bending, 0, lags));
}

} // namespace ustor
