#include "thermal/passing.h"

#include "thermal/power_lags.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// Mean course of each block: frames x blocks.
Eigen::MatrixXd coursesOf(const std::vector<cv::Mat>& means_k) {
    const auto blocks = static_cast<long>(means_k.front().total());
    Eigen::MatrixXd courses(static_cast<long>(means_k.size()), blocks);
    for (std::size_t i = 0; i < means_k.size(); ++i)
        courses.row(static_cast<long>(i)) =
            Eigen::Map<const Eigen::RowVectorXf>(means_k[i].ptr<float>(), blocks).cast<double>();
    return courses;
}

/// Lags of the power and powers of the time: the first so many are stiff, all together bend.
struct Terms {
    Eigen::MatrixXd all;
    long stiff = 0;
};

Terms termsOf(const std::vector<double>& times_s, const std::vector<SupplySample>& supply) {
    const Eigen::MatrixXd lags = powerLags(supply, times_s, 0);
    constexpr int powers = 4;
    // Several lags together, a slow one and the higher powers can follow a hand that rests for some seconds.
    constexpr long middle = 1;
    Terms terms{Eigen::MatrixXd(lags.rows(), lags.cols() + powers), 3};
    terms.all.col(0) = lags.col(middle);
    const double start_s = times_s.front(), span_s = std::max(1e-9, times_s.back() - start_s);
    for (long i = 0; i < terms.all.rows(); ++i)
        for (int p = 0; p < powers; ++p)
            terms.all(i, 1 + p) =
                std::pow(2 * (times_s[static_cast<std::size_t>(i)] - start_s) / span_s - 1, p);
    for (long lag = 0, column = 1 + powers; lag < lags.cols(); ++lag)
        if (lag != middle) terms.all.col(column++) = lags.col(lag);
    return terms;
}

/// What is left over of a course when what passes does not count: least absolute deviations of the stiff
/// terms first, then least squares of all terms over what did not stand out.
Eigen::VectorXd leftWithoutPassers(const Eigen::VectorXd& course, const Terms& terms) {
    const Eigen::MatrixXd stiff = terms.all.leftCols(terms.stiff);
    Eigen::VectorXd left = leftOver(course, stiff, Eigen::VectorXd::Ones(course.size()));
    constexpr int rounds = 8, refinements = 3;
    constexpr double deviations = 5;
    for (int i = 0; i < rounds; ++i) {
        const double smallest = 0.1 * std::max(1e-6, usualSize(left));
        left = leftOver(course, stiff, left.cwiseAbs().cwiseMax(smallest).cwiseInverse());
    }
    for (int i = 0; i < refinements; ++i) {
        const double most = deviations * std::max(1e-6, usualSize(left));
        left = leftOver(course, terms.all, (left.array().abs() <= most).cast<double>());
    }
    return left;
}

/// Keeps what hangs together, is some blocks large and reaches the edge; grown by a block, for sleeves and
/// blur.
cv::Mat cameIn(const cv::Mat& outstanding) {
    cv::Mat labels, stats, centroids;
    const int count = cv::connectedComponentsWithStats(outstanding, labels, stats, centroids, 8);
    constexpr int fewest = 3;
    cv::Mat kept = cv::Mat::zeros(outstanding.size(), CV_8UC1);
    bool any = false;
    for (int i = 1; i < count; ++i) {
        const int* s = stats.ptr<int>(i);
        const bool edge = s[cv::CC_STAT_LEFT] == 0 || s[cv::CC_STAT_TOP] == 0 ||
                          s[cv::CC_STAT_LEFT] + s[cv::CC_STAT_WIDTH] == kept.cols ||
                          s[cv::CC_STAT_TOP] + s[cv::CC_STAT_HEIGHT] == kept.rows;
        if (!edge || s[cv::CC_STAT_AREA] < fewest) continue;
        kept.setTo(255, labels == i);
        any = true;
    }
    if (!any) return {};
    cv::dilate(kept, kept, cv::Mat());
    return kept;
}

} // namespace

cv::Mat blockMeans(const cv::Mat& picture) {
    const cv::Size blocks = PictureBlocks::of(picture.size());
    const cv::Size whole(blocks.width * PictureBlocks::side_px, blocks.height * PictureBlocks::side_px);
    cv::Mat padded, means;
    cv::copyMakeBorder(picture, padded, 0, whole.height - picture.rows, 0, whole.width - picture.cols,
                       cv::BORDER_REPLICATE);
    cv::resize(padded, means, blocks, 0, 0, cv::INTER_AREA);
    return means;
}

std::vector<cv::Mat> passingThrough(const std::vector<cv::Mat>& means_k, const std::vector<double>& times_s,
                                    const std::vector<SupplySample>& supply) {
    std::vector<cv::Mat> covered(means_k.size());
    constexpr std::size_t fewestFrames = 20;
    if (means_k.size() < fewestFrames) return covered;
    const cv::Size blocks = means_k.front().size();
    const Eigen::MatrixXd courses = coursesOf(means_k);
    const Terms terms = termsOf(times_s, supply);
    const auto frames = static_cast<long>(means_k.size());
    constexpr double deviations = 8, least_k = 0.15;
    std::vector<cv::Mat> outstanding(means_k.size());
    for (auto& picture : outstanding)
        picture = cv::Mat::zeros(blocks, CV_8UC1);
    for (int b = 0; b < blocks.area(); ++b) {
        const Eigen::VectorXd course = courses.col(b);
        // Where nothing stands out there is nothing to search for.
        if (course.maxCoeff() - course.minCoeff() < least_k) continue;
        const Eigen::VectorXd left = leftWithoutPassers(course, terms);
        const double most = std::max(least_k, deviations * usualSize(left));
        for (long i = 0; i < frames; ++i)
            if (std::fabs(left[i]) > most) outstanding[static_cast<std::size_t>(i)].data[b] = 255;
    }
    // It was there a little before it stood out, and a little longer.
    constexpr double margin_s = 0.2;
    std::vector<cv::Mat> own(means_k.size());
    for (std::size_t i = 0; i < own.size(); ++i)
        own[i] = cameIn(outstanding[i]);
    std::size_t from = 0;
    for (std::size_t i = 0; i < own.size(); ++i) {
        while (times_s[i] - times_s[from] > margin_s)
            ++from;
        for (std::size_t j = from; j < own.size() && times_s[j] - times_s[i] <= margin_s; ++j) {
            if (own[j].empty()) continue;
            if (covered[i].empty())
                covered[i] = own[j].clone();
            else
                covered[i] |= own[j];
        }
    }
    return covered;
}

} // namespace ustor
