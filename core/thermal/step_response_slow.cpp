#include "thermal/step_response.h"

#include "base/median.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {

/// Sum of squares of each pixel's course that some lags and a baseline explain (CV_32FC1). Lags and knots are
/// nearly collinear: single precision would not do.
cv::Mat StepResponse::explainedBy(const Eigen::MatrixXd& hats, int ofLags) const {
    Eigen::MatrixXd columns = Eigen::MatrixXd::Zero(m_gram.rows(), ofLags + hats.cols());
    columns.topLeftCorner(ofLags, ofLags).setIdentity();
    columns.bottomRightCorner(hats.rows(), hats.cols()) = hats;
    const Eigen::MatrixXd inverse = inverseOf(columns.transpose() * m_gram * columns);
    const long pixels = static_cast<long>(m_width) * m_height, atOnce = 4096;
    cv::Mat explained(m_height, m_width, CV_32FC1);
    for (long first = 0; first < pixels; first += atOnce) {
        const long some = std::min(atOnce, pixels - first);
        const Eigen::MatrixXd cross = columns.transpose() * m_cross.middleCols(first, some).cast<double>();
        Eigen::Map<Eigen::RowVectorXf>(explained.ptr<float>() + first, some) =
            ((inverse * cross).array() * cross.array()).colwise().sum().matrix().cast<float>();
    }
    return explained;
}

/// A level, and the courses that most of what restless pixels do is made of: their principal components.
/// Knots x courses.
Eigen::MatrixXd StepResponse::sharedCourses(const cv::Mat& restless) const {
    constexpr int most = 2, fewestPixels = 30;
    constexpr double worthWhile = 0.02; // of what they do in all
    const int knots = this->knots();
    Eigen::MatrixXd courses = Eigen::MatrixXd::Zero(m_gram.rows() - fixedTerms, 1);
    courses.topRows(knots).setOnes();
    const Eigen::MatrixXd inverse = inverseOf(m_gram.block(fixedTerms, fixedTerms, knots, knots));
    Eigen::MatrixXd covariance = Eigen::MatrixXd::Zero(knots, knots);
    int pixels = 0;
    for (int i = 0; i < static_cast<int>(restless.total()); ++i) {
        if (restless.data[i] == 0) continue;
        Eigen::VectorXd course = inverse * m_cross.col(i).segment(fixedTerms, knots).cast<double>();
        course.array() -= course.mean();
        covariance += course * course.transpose();
        ++pixels;
    }
    if (pixels < fewestPixels) return courses;
    cv::Mat values, vectors; // the largest first, a vector a row
    cv::eigen(cv::Mat(knots, knots, CV_64F, covariance.data()), values, vectors);
    for (int i = 0; i < most && i < knots - 2; ++i) {
        if (values.at<double>(i) < worthWhile * covariance.trace()) break;
        courses.conservativeResize(Eigen::NoChange, courses.cols() + 1);
        courses.rightCols(1).setZero();
        courses.rightCols(1).topRows(knots) =
            Eigen::Map<const Eigen::VectorXd>(vectors.ptr<double>(i), knots);
    }
    return courses;
}

void StepResponse::countMirrors() {
    m_mirrorsCount = true;
    m_slow.done = m_solutions[static_cast<std::size_t>(Baseline::Shared)].done = false;
}

const StepResponse::Slow& StepResponse::slow() const {
    if (m_slow.done) return m_slow;
    m_slow.quiet = cv::Mat(m_height, m_width, CV_32FC1, cv::Scalar(1));
    cv::Mat restless = cv::Mat::zeros(m_height, m_width, CV_8UC1);
    if (!m_mirrorsCount) tellRestless(restless);
    m_slow.shared = sharedCourses(restless);
    m_slow.done = true;
    return m_slow;
}

/// Not 0 where a pixel falls while the power heats, far more than most: a mirror from which something warm
/// goes away evenly. Its course is much like that of gathered heat, upside down.
cv::Mat StepResponse::growsColder(const Eigen::MatrixXd& level) const {
    constexpr int slowLag = 3;
    constexpr float far = 8;
    Eigen::MatrixXd columns = Eigen::MatrixXd::Zero(m_gram.rows(), 2);
    columns(slowLag, 0) = 1;
    columns.bottomRightCorner(level.rows(), 1) = level;
    const Eigen::RowVectorXd toRise =
        (inverseOf(columns.transpose() * m_gram * columns) * columns.transpose()).row(0);
    cv::Mat rise(m_height, m_width, CV_32FC1);
    for (int i = 0; i < static_cast<int>(rise.total()); ++i)
        rise.ptr<float>()[i] = static_cast<float>(toRise * m_cross.col(i).cast<double>());
    const float middle = medianOf(std::vector<float>(rise.begin<float>(), rise.end<float>()));
    const cv::Mat off = cv::abs(rise - middle);
    const float usual = 1.4826F * medianOf(std::vector<float>(off.begin<float>(), off.end<float>()));
    return rise < middle - far * usual;
}

/// A pixel is restless where it falls while the power heats, or where a baseline bent at every knot explains
/// more beside the lags than noise would (an F ratio), and some share of what the lags and it explain
/// together: of strong heat the lags, five in all, miss a little too. The clearer the one, the less is asked
/// of the other.
void StepResponse::tellRestless(cv::Mat& restless) const {
    constexpr float aboveNoise = 2.5F, fairShare = 0.05F, clear = 5, smallShare = 0.01F, broken = -1,
                    surely = 10, beyondAll = 1e5F;
    const double noise_k = this->noise_k(); // and all frames are in the sums
    const Eigen::MatrixXd bent = Eigen::MatrixXd::Identity(m_gram.rows() - fixedTerms, knots());
    const Eigen::MatrixXd level = bent.rowwise().sum();
    const cv::Mat all = explainedBy(bent, lags), power = explainedBy(level, lags);
    const double unit = 1 / ((knots() - 1) * noise_k * noise_k);
    const cv::Mat ownOfEach = (all - power) * unit;
    cv::Mat own, following;
    constexpr double neighbours_px = 1;
    cv::GaussianBlur(ownOfEach, own, {}, neighbours_px);
    cv::GaussianBlur((power - explainedBy(level, 0)) * unit, following, {}, neighbours_px);
    // What all of the picture does, as where the median that was taken off each frame is a mirror's, tells
    // none of them from the others.
    const float usual = std::max(1.0F, medianOf(std::vector<float>(own.begin<float>(), own.end<float>())));
    own /= usual;
    const cv::Mat cold = growsColder(level);
    for (int i = 0; i < static_cast<int>(own.total()); ++i) {
        const float way = own.ptr<float>()[i], power_ = following.ptr<float>()[i];
        const bool goesOwnWay = (way > aboveNoise && way > fairShare * (way + power_)) ||
                                (way > clear && way > smallShare * (way + power_));
        if (!goesOwnWay && !cold.data[i] && way > broken && ownOfEach.ptr<float>()[i] > broken) continue;
        m_slow.quiet.ptr<float>()[i] = 0;
        restless.data[i] = way > surely && way < beyondAll;
    }
    cv::erode(m_slow.quiet, m_slow.quiet, cv::Mat());
}

} // namespace ustor
