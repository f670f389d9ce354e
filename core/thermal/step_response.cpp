#include "thermal/step_response.h"

#include "base/check.h"
#include "base/median.h"
#include "thermal/frame_sums.h"
#include "thermal/passing.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>

namespace ustor {
namespace {

constexpr std::size_t atOnce = framesAtOnce;

} // namespace

StepResponse::StepResponse(int width, int height)
    : m_width(width), m_height(height), m_squares(Eigen::VectorXf::Zero(width * height)) {
    for (int i = 0; i < telegraphs; ++i)
        m_telegraphs.emplace_back(static_cast<std::uint64_t>(i) + 1);
    grow(fixedTerms + 2);
}

void StepResponse::grow(int terms) {
    const int old = static_cast<int>(m_gram.rows());
    if (terms <= old) return;
    Eigen::MatrixXd gram = Eigen::MatrixXd::Zero(terms, terms);
    gram.topLeftCorner(old, old) = m_gram;
    m_gram = gram;
    for (auto& [block, unseen] : m_unseen) {
        Eigen::MatrixXd larger = Eigen::MatrixXd::Zero(terms, terms);
        larger.topLeftCorner(old, old) = unseen;
        unseen = larger;
    }
    Rows cross = Rows::Zero(terms, m_width * m_height);
    if (old > 0) cross.topRows(old) = m_cross;
    m_cross = std::move(cross);
    Rows rows = Rows::Zero(terms, atOnce);
    if (old > 0) rows.topRows(old) = m_waitingRows;
    m_waitingRows = rows;
}

/// Knots twice as far apart. A wide hat is the sum of a fine one and half of its neighbours, so that nothing
/// has to be seen again.
void StepResponse::joinKnots() {
    flush();
    m_waitingRows.setZero();
    const int knots = static_cast<int>(m_gram.rows()) - fixedTerms;
    Eigen::MatrixXd joined = Eigen::MatrixXd::Identity(m_gram.rows(), m_gram.rows());
    for (int fine = 0; fine < knots; ++fine)
        for (int wide = 0; wide < knots; ++wide)
            joined(fixedTerms + fine, fixedTerms + wide) = std::max(0.0, 1 - std::fabs(fine / 2.0 - wide));
    m_gram = joined.transpose() * m_gram * joined;
    for (auto& [block, unseen] : m_unseen)
        unseen = joined.transpose() * unseen * joined;
    // In place, from the first up: what a wide one needs is not written over yet.
    const auto sum = [&](int knot) { return m_cross.row(fixedTerms + knot); };
    for (int wide = 0; wide < knots; ++wide) {
        Eigen::RowVectorXf wider = Eigen::RowVectorXf::Zero(m_cross.cols());
        for (int fine = std::max(0, 2 * wide - 1); fine <= std::min(knots - 1, 2 * wide + 1); ++fine)
            wider += (fine == 2 * wide ? 1.0F : 0.5F) * sum(fine);
        sum(wide) = wider;
    }
    m_knot_s *= 2;
}

Eigen::VectorXd StepResponse::rowAt(double time_s, double watts) {
    const double lastWatts = m_lagged.lastWatts();
    m_lagged.goTo(time_s, watts);
    // How long a pulse lasts with its pause, from one rise to the next.
    m_most_w = std::max(m_most_w, watts);
    if (watts > m_most_w / 2 && lastWatts <= m_most_w / 2) {
        constexpr double shortest_s = 0.2; // a first reading on the rising edge is no pulse
        if (m_onSince_s >= 0 && time_s - m_onSince_s > shortest_s) {
            m_periods_s += time_s - m_onSince_s;
            ++m_periods;
        }
        m_onSince_s = time_s;
    }
    const double since_s = time_s - m_start_s;
    while (since_s / m_knot_s >= mostKnots - 1)
        joinKnots();
    const double place = since_s / m_knot_s;
    const int knot = static_cast<int>(place);
    constexpr int some = 4;
    if (fixedTerms + knot + 2 > m_gram.rows()) grow(fixedTerms + knot + 2 + some);
    Eigen::VectorXd row = Eigen::VectorXd::Zero(m_gram.rows());
    for (int k = 0; k < lags; ++k)
        row[k] = m_lagged[k];
    for (int i = 0; i < telegraphs; ++i)
        row[lags + i] = m_telegraphs[i].at(since_s);
    row[fixedTerms + knot] = 1 - (place - knot);
    row[fixedTerms + knot + 1] = place - knot;
    return row;
}

void StepResponse::add(double time_s, double watts, const cv::Mat& kelvin, const cv::Mat& covered) {
    USTOR_CHECK(kelvin.type() == CV_32FC1 && kelvin.cols == m_width && kelvin.rows == m_height &&
                    kelvin.isContinuous(),
                "a frame of the model's size");
    if (m_frames == 0) m_start_s = time_s;
    USTOR_CHECK(m_frames == 0 || time_s > m_last_s, "frames come in order");
    const Eigen::VectorXd row = rowAt(time_s, watts);
    m_last_s = time_s;
    ++m_frames;
    for (Solution& solution : m_solutions)
        solution.done = false;
    m_slow.done = false;
    m_gram += row * row.transpose();
    m_waitingRows.col(static_cast<long>(m_waiting.size())) = row.cast<float>();
    m_waiting.push_back(covered.empty() ? kelvin : without(kelvin, row, covered));
    if (m_waiting.size() == atOnce) flush();
}

cv::Rect StepResponse::blockAt(int block) const {
    const int across = PictureBlocks::across(m_width), side = PictureBlocks::side_px;
    return cv::Rect(block % across * side, block / across * side, side, side) &
           cv::Rect(0, 0, m_width, m_height);
}

/// The frame without its covered blocks, which are counted as unseen.
cv::Mat StepResponse::without(const cv::Mat& kelvin, const Eigen::VectorXd& row, const cv::Mat& covered) {
    cv::Mat left = kelvin.clone();
    USTOR_CHECK(covered.type() == CV_8UC1 && covered.size() == PictureBlocks::of({m_width, m_height}),
                "a picture of blocks");
    const Eigen::MatrixXd own = row * row.transpose();
    for (int block = 0; block < static_cast<int>(covered.total()); ++block) {
        if (covered.data[block] == 0) continue;
        Eigen::MatrixXd& unseen = m_unseen[block];
        if (unseen.size() == 0)
            unseen = own;
        else
            unseen += own;
        left(blockAt(block)).setTo(0);
    }
    return left;
}

void StepResponse::flush() const {
    if (m_waiting.empty()) return;
    // Of the knots only those around these frames are not zero.
    std::vector<const float*> weights;
    std::vector<float*> sums;
    for (int row = 0; row < m_waitingRows.rows(); ++row) {
        if (row >= fixedTerms && m_waitingRows.row(row).head(static_cast<long>(m_waiting.size())).isZero(0))
            continue;
        weights.push_back(m_waitingRows.row(row).data());
        sums.push_back(m_cross.row(row).data());
    }
    std::vector<const float*> frames;
    for (const cv::Mat& frame : m_waiting)
        frames.push_back(frame.ptr<float>());
    addFrames(frames.data(), static_cast<int>(frames.size()), weights.data(), sums.data(),
              static_cast<int>(sums.size()), m_squares.data(), static_cast<long>(m_width) * m_height);
    m_waiting.clear();
}

bool StepResponse::ready() const {
    constexpr int fewest = 3 * (lags + 2);
    if (m_frames < fewest) return false;
    // Without a change of power the lag terms say nothing.
    const Eigen::VectorXd ones = Eigen::VectorXd::Ones(m_gram.rows() - fixedTerms);
    const double mean = m_gram.row(0).tail(ones.size()).dot(ones) / m_frames;
    return m_gram(0, 0) / m_frames - mean * mean > 1e-12 / m_frames;
}

/// Knots some pulses apart, by joining those of the finest baseline; never closer than its knots.
Eigen::MatrixXd StepResponse::hats(Baseline baseline) const {
    if (baseline == Baseline::Shared) return slow().shared;
    const int knots = this->knots();
    const double period_s = this->period_s();
    constexpr double pulses = 1.5;
    const int joined = std::max(1, static_cast<int>(std::ceil(pulses * period_s / m_knot_s)));
    const int columns = std::max(2, (knots - 1 + joined - 1) / joined + 1);
    const double apart = static_cast<double>(knots - 1) / (columns - 1);
    Eigen::MatrixXd hats = Eigen::MatrixXd::Zero(m_gram.rows() - fixedTerms, columns);
    for (int i = 0; i < knots; ++i)
        for (int c = 0; c < columns; ++c)
            hats(i, c) = std::max(0.0, 1 - std::fabs(i / apart - c));
    return hats;
}

const StepResponse::Solution& StepResponse::solution(Baseline baseline) const {
    Solution& found = m_solutions[static_cast<std::size_t>(baseline)];
    if (found.done) return found;
    USTOR_CHECK(ready(), "not enough frames");
    flush();
    const Eigen::MatrixXd hats = this->hats(baseline);
    const int terms = lags + static_cast<int>(hats.cols());
    Eigen::MatrixXd columns = Eigen::MatrixXd::Zero(m_gram.rows(), terms);
    columns.topLeftCorner(lags, lags).setIdentity();
    columns.bottomRightCorner(hats.rows(), hats.cols()) = hats;
    found.inverse = inverseOf(columns.transpose() * m_gram * columns);
    found.coefficients = lagsOf(found.inverse, columns, 0, m_cross.cols());
    // The median over pixels: edges of parts, hands and glare do not count as camera noise. Some thousand
    // are enough.
    constexpr long enough = 20000;
    const long apart = std::max(1L, m_squares.size() / enough);
    std::vector<double> variances;
    for (long i = 0; i < m_squares.size(); i += apart) {
        const Eigen::VectorXd cross = columns.transpose() * m_cross.col(i).cast<double>();
        variances.push_back(static_cast<double>(m_squares[i]) - cross.dot(found.inverse * cross));
    }
    found.noise_k =
        std::sqrt(std::max(1e-12, medianOf(std::move(variances)) / std::max(1, m_frames - terms)));
    found.chance = telegraphsLeft(columns, m_gram, found.inverse, found.noise_k) * m_cross;
    solveBlocks(columns, found);
    found.done = true;
    return found;
}

/// The lags' coefficients of some pixels in a row. Lags and baseline are nearly alike: what is left of their
/// sums after subtraction needs more digits than a float has.
StepResponse::Rows StepResponse::lagsOf(const Eigen::MatrixXd& inverse, const Eigen::MatrixXd& columns,
                                        long first, long count) const {
    constexpr long atOncePixels = 4096;
    const Eigen::MatrixXd toLags = inverse.topRows(lags) * columns.transpose();
    Rows found(lags, count);
    for (long i = 0; i < count; i += atOncePixels) {
        const long some = std::min(atOncePixels, count - i);
        found.middleCols(i, some) =
            (toLags * m_cross.middleCols(first + i, some).cast<double>()).cast<float>();
    }
    return found;
}

Eigen::MatrixXd StepResponse::inverseOf(const Eigen::MatrixXd& gram) const {
    // Scaled to a unit diagonal; a whiff of regularisation keeps near-collinear lags from blowing up.
    const Eigen::VectorXd scale = gram.diagonal().cwiseMax(1e-300).cwiseSqrt().cwiseInverse();
    Eigen::MatrixXd scaled = scale.asDiagonal() * gram * scale.asDiagonal();
    scaled.diagonal().array() += 1e-7;
    return scale.asDiagonal() * scaled.ldlt().solve(Eigen::MatrixXd::Identity(gram.rows(), gram.cols())) *
           scale.asDiagonal();
}

/// The same for blocks that were covered for a while: without the frames in which they were.
void StepResponse::solveBlocks(const Eigen::MatrixXd& columns, Solution& solution) const {
    solution.blockInverses.clear();
    for (const auto& [block, unseen] : m_unseen) {
        const Eigen::MatrixXd gram = m_gram - unseen;
        const Eigen::MatrixXd inverse = inverseOf(columns.transpose() * gram * columns);
        const Rows left = telegraphsLeft(columns, gram, inverse, solution.noise_k);
        solution.blockInverses[block] = inverse.topLeftCorner(lags, lags);
        const cv::Rect at = blockAt(block);
        for (int y = at.y; y < at.br().y; ++y) {
            const long first = static_cast<long>(y) * m_width + at.x;
            solution.coefficients.middleCols(first, at.width) = lagsOf(inverse, columns, first, at.width);
            solution.chance.middleCols(first, at.width) = left * m_cross.middleCols(first, at.width);
        }
    }
}

/// What is left of each telegraph and of each pixel beside the model, t' y - t' B (B'B)^-1 B' y, in units of
/// the camera's noise: telegraphs x terms.
StepResponse::Rows StepResponse::telegraphsLeft(const Eigen::MatrixXd& columns, const Eigen::MatrixXd& gram,
                                                const Eigen::MatrixXd& inverse, double noise_k) const {
    Eigen::MatrixXd left = -(columns * (inverse * (columns.transpose() * gram.middleCols(lags, telegraphs))));
    left.middleRows(lags, telegraphs) += Eigen::MatrixXd::Identity(telegraphs, telegraphs);
    for (int i = 0; i < telegraphs; ++i) {
        const double variance = left.col(i).dot(gram * left.col(i));
        left.col(i) *= variance > 1e-9 ? 1 / (std::sqrt(variance) * noise_k) : 0;
    }
    return left.transpose().cast<float>();
}

std::vector<cv::Mat> StepResponse::chance(Baseline baseline) const {
    const Solution& found = solution(baseline);
    std::vector<cv::Mat> maps;
    for (int i = 0; i < telegraphs; ++i)
        maps.push_back(
            cv::Mat(m_height, m_width, CV_32FC1, const_cast<float*>(found.chance.row(i).data())).clone());
    return maps;
}

Eigen::VectorXd StepResponse::weights(double seconds) const {
    Eigen::VectorXd w = Eigen::VectorXd::Zero(lags);
    for (int k = 0; k < lags; ++k)
        w[k] = 1 - std::exp(-seconds / LagBank::lag_s[k]);
    return w;
}

StepResponse::Maps StepResponse::at(double seconds, Baseline baseline) const {
    const Solution& found = solution(baseline);
    const Eigen::VectorXd w = weights(seconds);
    Maps maps;
    maps.rise_k_per_w = combined(found.coefficients, w);
    const double own = std::max(0.0, w.dot(found.inverse.topLeftCorner(lags, lags) * w));
    maps.sigma_k_per_w = found.noise_k * std::sqrt(own);
    if (found.blockInverses.empty()) return maps;
    maps.excess = cv::Mat(m_height, m_width, CV_32FC1, cv::Scalar(1));
    for (const auto& [block, inverse] : found.blockInverses)
        maps.excess(blockAt(block)) = std::sqrt(std::max(1.0, w.dot(inverse * w) / std::max(1e-300, own)));
    return maps;
}

/// A picture of weighed coefficients.
cv::Mat StepResponse::combined(const Rows& coefficients, const Eigen::VectorXd& weights) const {
    cv::Mat picture(m_height, m_width, CV_32FC1);
    Eigen::Map<Eigen::RowVectorXf> out(picture.ptr<float>(), static_cast<long>(m_width) * m_height);
    out = weights.transpose().cast<float>() * coefficients;
    return picture;
}

StepResponse::Wave StepResponse::atRate(Baseline baseline) const {
    constexpr double usual_s = 2; // where only one pulse came yet
    const Solution& found = solution(baseline);
    Wave wave;
    wave.rate_rad_s = 2 * std::numbers::pi / (m_periods > 0 ? period_s() : usual_s);
    Eigen::VectorXd inPhase(lags), behind(lags);
    for (int k = 0; k < lags; ++k) {
        // 1 / (1 + i w tau)
        const double turn = wave.rate_rad_s * LagBank::lag_s[static_cast<std::size_t>(k)];
        inPhase[k] = 1 / (1 + turn * turn);
        behind[k] = turn / (1 + turn * turn);
    }
    wave.inPhase = combined(found.coefficients, inPhase);
    wave.behind = combined(found.coefficients, behind);
    const Eigen::MatrixXd own = found.inverse.topLeftCorner(lags, lags);
    wave.sigma_k_per_w =
        found.noise_k * std::sqrt(std::max({0.0, inPhase.dot(own * inPhase), behind.dot(own * behind)}));
    return wave;
}

StepResponse::Maps StepResponse::matched(int lag, Baseline baseline) const {
    const double noise_k = this->noise_k(); // and all frames are in the sums
    const Eigen::MatrixXd hats = this->hats(baseline);
    Eigen::MatrixXd columns = Eigen::MatrixXd::Zero(m_gram.rows(), 1 + hats.cols());
    columns(lag, 0) = 1;
    columns.bottomRightCorner(hats.rows(), hats.cols()) = hats;
    const auto inverseFor = [&](const Eigen::MatrixXd& gram) {
        return inverseOf(columns.transpose() * gram * columns);
    };
    const auto rowOf = [&](const Eigen::MatrixXd& inverse) {
        return Eigen::RowVectorXf((inverse.row(0) * columns.transpose()).cast<float>());
    };
    const Eigen::MatrixXd inverse = inverseFor(m_gram);
    Maps maps;
    maps.rise_k_per_w.create(m_height, m_width, CV_32FC1);
    Eigen::Map<Eigen::RowVectorXf> out(maps.rise_k_per_w.ptr<float>(), static_cast<long>(m_width) * m_height);
    out = rowOf(inverse) * m_cross;
    maps.sigma_k_per_w = noise_k * std::sqrt(std::max(0.0, inverse(0, 0)));
    if (m_unseen.empty()) return maps;
    maps.excess = cv::Mat(m_height, m_width, CV_32FC1, cv::Scalar(1));
    for (const auto& [block, unseen] : m_unseen) {
        const Eigen::MatrixXd own = inverseFor(m_gram - unseen);
        const Eigen::RowVectorXf row = rowOf(own);
        const cv::Rect at = blockAt(block);
        for (int y = at.y; y < at.br().y; ++y) {
            const long first = static_cast<long>(y) * m_width + at.x;
            out.segment(first, at.width) = row * m_cross.middleCols(first, at.width);
        }
        maps.excess(at) = std::sqrt(std::max(1.0, own(0, 0) / std::max(1e-300, inverse(0, 0))));
    }
    return maps;
}

double StepResponse::at(double seconds, int x, int y, Baseline baseline) const {
    const Solution& found = solution(baseline);
    return weights(seconds).dot(found.coefficients.col(static_cast<long>(y) * m_width + x).cast<double>());
}

double StepResponse::noise_k() const {
    return solution(Baseline::Bending).noise_k;
}

} // namespace ustor
