#include "thermal/step_response.h"

#include "base/check.h"

#include <algorithm>
#include <cmath>

namespace ustor {

const double StepResponse::lag_s[StepResponse::lags] = {0.3, 1.2, 5.0, 20.0};

StepResponse::StepResponse(int width, int height)
    : m_width(width), m_height(height), m_gram(Eigen::MatrixXd::Zero(terms, terms)),
      m_cross(decltype(m_cross)::Zero(terms, width * height)),
      m_squares(Eigen::VectorXd::Zero(width * height)) {}

void StepResponse::add(double time_s, double watts, const cv::Mat& kelvin) {
    USTOR_CHECK(kelvin.type() == CV_32FC1 && kelvin.cols == m_width && kelvin.rows == m_height &&
                    kelvin.isContinuous(),
                "a frame of the model's size");
    if (m_frames == 0) {
        m_start_s = time_s;
    } else {
        USTOR_CHECK(time_s > m_last_s, "frames come in order");
        // Exact for power that is linear between the two frames.
        const double dt = time_s - m_last_s;
        for (int k = 0; k < lags; ++k) {
            const double u = dt / lag_s[k], decay = std::exp(-u);
            const double slopeShare = 1 - (1 - decay) / u;
            m_lagged[k] = m_lagged[k] * decay + m_lastWatts * (1 - decay - slopeShare) + watts * slopeShare;
        }
    }
    m_last_s = time_s;
    m_lastWatts = watts;
    ++m_frames;
    m_solved = false;

    Eigen::VectorXd row(terms);
    for (int k = 0; k < lags; ++k)
        row[k] = m_lagged[k];
    row[lags] = 1;
    row[lags + 1] = (time_s - m_start_s) / 30; // scaled, to keep the sums well conditioned
    const Eigen::Map<const Eigen::VectorXf> pixels(kelvin.ptr<float>(), m_width * m_height);
    const Eigen::VectorXd y = pixels.cast<double>();
    m_gram += row * row.transpose();
    for (int k = 0; k < terms; ++k)
        m_cross.row(k) += row[k] * y.transpose();
    m_squares += y.cwiseAbs2();
}

bool StepResponse::ready() const {
    constexpr int fewest = 3 * terms;
    if (m_frames < fewest) return false;
    // Without a change of power the lag terms say nothing.
    return m_gram(0, 0) - m_gram(0, lags) * m_gram(0, lags) / m_frames > 1e-12;
}

void StepResponse::solve() const {
    if (m_solved) return;
    USTOR_CHECK(ready(), "not enough frames");
    // Scaled to a unit diagonal; a whiff of regularisation keeps near-collinear lags from blowing up.
    const Eigen::VectorXd scale = m_gram.diagonal().cwiseMax(1e-300).cwiseSqrt().cwiseInverse();
    Eigen::MatrixXd scaled = scale.asDiagonal() * m_gram * scale.asDiagonal();
    scaled.diagonal().array() += 1e-7;
    m_inverse = scale.asDiagonal() * scaled.ldlt().solve(Eigen::MatrixXd::Identity(terms, terms)) *
                scale.asDiagonal();
    m_coefficients = m_inverse * m_cross;
    const Eigen::VectorXd left =
        m_squares - (m_coefficients.array() * m_cross.array()).colwise().sum().matrix().transpose();
    // The median over pixels: edges of parts, hands and glare do not count as camera noise.
    std::vector<double> variances(left.data(), left.data() + left.size());
    const auto middle = variances.begin() + static_cast<long>(variances.size() / 2);
    std::nth_element(variances.begin(), middle, variances.end());
    m_noise_k = std::sqrt(std::max(0.0, *middle / std::max(1, m_frames - terms)));
    m_solved = true;
}

Eigen::VectorXd StepResponse::weights(double seconds) const {
    Eigen::VectorXd w = Eigen::VectorXd::Zero(terms);
    for (int k = 0; k < lags; ++k)
        w[k] = 1 - std::exp(-seconds / lag_s[k]);
    return w;
}

StepResponse::Maps StepResponse::at(double seconds) const {
    solve();
    const Eigen::VectorXd w = weights(seconds);
    Maps maps;
    maps.rise_k_per_w.create(m_height, m_width, CV_32FC1);
    Eigen::Map<Eigen::VectorXf> out(maps.rise_k_per_w.ptr<float>(), m_width * m_height);
    out = (w.transpose() * m_coefficients).transpose().cast<float>();
    maps.sigma_k_per_w = m_noise_k * std::sqrt(std::max(0.0, w.dot(m_inverse * w)));
    return maps;
}

double StepResponse::at(double seconds, int x, int y) const {
    solve();
    return weights(seconds).dot(m_coefficients.col(y * m_width + x));
}

double StepResponse::noise_k() const {
    solve();
    return m_noise_k;
}

} // namespace ustor
