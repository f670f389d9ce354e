#include "thermal/step_response.h"

#include "base/check.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// Frames that are summed up together: the sums are many times larger than a frame, and are fetched once.
constexpr int atOnce = 8;

double medianOf(std::vector<double> values) {
    const auto middle = values.begin() + static_cast<long>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

} // namespace

StepResponse::StepResponse(int width, int height)
    : m_width(width), m_height(height), m_waiting(atOnce, width * height),
      m_squares(Eigen::VectorXf::Zero(width * height)) {
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
    Rows cross = Rows::Zero(terms, m_width * m_height);
    if (old > 0) cross.topRows(old) = m_cross;
    m_cross = std::move(cross);
    Eigen::MatrixXf rows = Eigen::MatrixXf::Zero(terms, atOnce);
    if (m_waits > 0) rows.topLeftCorner(old, m_waits) = m_waitingRows.leftCols(m_waits);
    m_waitingRows = rows;
}

Eigen::VectorXd StepResponse::rowAt(double time_s, double watts) {
    const double lastWatts = m_lagged.lastWatts();
    m_lagged.goTo(time_s, watts);
    // How long a pulse lasts with its pause, from one rise to the next.
    m_most_w = std::max(m_most_w, watts);
    if (watts > m_most_w / 2 && lastWatts <= m_most_w / 2) {
        if (m_onSince_s >= 0) {
            m_periods_s += time_s - m_onSince_s;
            ++m_periods;
        }
        m_onSince_s = time_s;
    }
    const double since_s = time_s - m_start_s, place = since_s / knot_s;
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

void StepResponse::add(double time_s, double watts, const cv::Mat& kelvin) {
    USTOR_CHECK(kelvin.type() == CV_32FC1 && kelvin.cols == m_width && kelvin.rows == m_height &&
                    kelvin.isContinuous(),
                "a frame of the model's size");
    if (m_frames == 0) m_start_s = time_s;
    USTOR_CHECK(m_frames == 0 || time_s > m_last_s, "frames come in order");
    const Eigen::VectorXd row = rowAt(time_s, watts);
    m_last_s = time_s;
    ++m_frames;
    m_solutions[0].done = m_solutions[1].done = false;
    m_gram += row * row.transpose();
    m_waitingRows.col(m_waits) = row.cast<float>();
    m_waiting.row(m_waits) =
        Eigen::Map<const Eigen::RowVectorXf>(kelvin.ptr<float>(), static_cast<long>(m_width) * m_height);
    if (++m_waits == atOnce) flush();
}

void StepResponse::flush() const {
    if (m_waits == 0) return;
    const auto frames = m_waiting.topRows(m_waits);
    m_cross.noalias() += m_waitingRows.leftCols(m_waits) * frames;
    m_squares += frames.colwise().squaredNorm().transpose();
    m_waits = 0;
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
    const int knots = static_cast<int>((m_last_s - m_start_s) / knot_s) + 2;
    const double period_s = m_periods > 0 ? m_periods_s / m_periods : 0;
    constexpr double pulses = 1.5;
    const int joined = baseline == Baseline::Straight
                           ? knots
                           : std::max(1, static_cast<int>(std::ceil(pulses * period_s / knot_s)));
    const int columns = std::max(2, (knots - 1 + joined - 1) / joined + 1);
    const double apart = static_cast<double>(knots - 1) / (columns - 1);
    Eigen::MatrixXd hats = Eigen::MatrixXd::Zero(m_gram.rows() - fixedTerms, columns);
    for (int i = 0; i < knots; ++i)
        for (int c = 0; c < columns; ++c)
            hats(i, c) = std::max(0.0, 1 - std::fabs(i / apart - c));
    return hats;
}

const StepResponse::Solution& StepResponse::solution(Baseline baseline) const {
    Solution& found = m_solutions[static_cast<int>(baseline)];
    if (found.done) return found;
    USTOR_CHECK(ready(), "not enough frames");
    flush();
    const Eigen::MatrixXd hats = this->hats(baseline);
    const int terms = lags + static_cast<int>(hats.cols());
    Eigen::MatrixXd columns = Eigen::MatrixXd::Zero(m_gram.rows(), terms);
    columns.topLeftCorner(lags, lags).setIdentity();
    columns.bottomRightCorner(hats.rows(), hats.cols()) = hats;
    const Eigen::MatrixXd gram = columns.transpose() * m_gram * columns;
    // Scaled to a unit diagonal; a whiff of regularisation keeps near-collinear lags from blowing up.
    const Eigen::VectorXd scale = gram.diagonal().cwiseMax(1e-300).cwiseSqrt().cwiseInverse();
    Eigen::MatrixXd scaled = scale.asDiagonal() * gram * scale.asDiagonal();
    scaled.diagonal().array() += 1e-7;
    found.inverse = scale.asDiagonal() * scaled.ldlt().solve(Eigen::MatrixXd::Identity(terms, terms)) *
                    scale.asDiagonal();
    const Rows cross = columns.transpose().cast<float>() * m_cross;
    const Rows coefficients = found.inverse.cast<float>() * cross;
    found.coefficients = coefficients.topRows(lags);
    const Eigen::VectorXf explained =
        (coefficients.array() * cross.array()).colwise().sum().matrix().transpose();
    // The median over pixels: edges of parts, hands and glare do not count as camera noise.
    std::vector<double> variances(static_cast<std::size_t>(m_squares.size()));
    for (long i = 0; i < m_squares.size(); ++i)
        variances[static_cast<std::size_t>(i)] =
            static_cast<double>(m_squares[i]) - static_cast<double>(explained[i]);
    found.noise_k =
        std::sqrt(std::max(1e-12, medianOf(std::move(variances)) / std::max(1, m_frames - terms)));
    askTelegraphs(columns, found);
    found.done = true;
    return found;
}

void StepResponse::askTelegraphs(const Eigen::MatrixXd& columns, Solution& solution) const {
    // What is left of each telegraph and of each pixel beside the model: t' y - t' B (B'B)^-1 B' y.
    Eigen::MatrixXd left(m_gram.rows(), telegraphs);
    const Eigen::MatrixXd toModel = columns * solution.inverse * columns.transpose() * m_gram;
    left = -toModel.middleCols(lags, telegraphs);
    left.middleRows(lags, telegraphs) += Eigen::MatrixXd::Identity(telegraphs, telegraphs);
    for (int i = 0; i < telegraphs; ++i) {
        const double variance = left.col(i).dot(m_gram * left.col(i));
        left.col(i) *= variance > 1e-9 ? 1 / (std::sqrt(variance) * solution.noise_k) : 0;
    }
    solution.chance = left.transpose().cast<float>() * m_cross;
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
    maps.rise_k_per_w.create(m_height, m_width, CV_32FC1);
    Eigen::Map<Eigen::VectorXf> out(maps.rise_k_per_w.ptr<float>(), static_cast<long>(m_width) * m_height);
    out = (w.transpose().cast<float>() * found.coefficients).transpose();
    maps.sigma_k_per_w =
        found.noise_k * std::sqrt(std::max(0.0, w.dot(found.inverse.topLeftCorner(lags, lags) * w)));
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
