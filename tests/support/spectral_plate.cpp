#include "support/spectral_plate.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ustor::testing {
namespace {

using Mode = std::complex<float>;

/// Cycles over the whole, below 0 beyond the middle.
int cycles(int index, int size) {
    return index <= size / 2 ? index : index - size;
}

} // namespace

SpectralPlate::SpectralPlate(cv::Size picture, double mmPerPixel, const Board& board)
    : m_picture(picture),
      m_whole(cv::getOptimalDFTSize(picture.width * 3 / 2), cv::getOptimalDFTSize(picture.height * 3 / 2)),
      m_corner((m_whole.width - picture.width) / 2, (m_whole.height - picture.height) / 2),
      m_pixel_m(1e-3 * mmPerPixel), m_capacity_j_m2k(Board::heatCapacity_j_m3k * board.thickness_m / 2),
      // The faces stand for the halves of the board, whose middles lie half a thickness apart.
      m_exchange_per_s(2 * board.through_w_mk / (board.thickness_m / 2) / m_capacity_j_m2k),
      m_sumRates(m_whole, CV_32FC1), m_sum(cv::Mat::zeros(m_whole, CV_32FC2)), m_difference(m_sum.clone()) {
    const double diffusivity = board.conductivity_w_mk / Board::heatCapacity_j_m3k;
    const double perPixel = 2 * std::numbers::pi / m_pixel_m;
    for (int row = 0; row < m_whole.height; ++row)
        for (int column = 0; column < m_whole.width; ++column) {
            const double x = perPixel * cycles(column, m_whole.width) / m_whole.width,
                         y = perPixel * cycles(row, m_whole.height) / m_whole.height;
            m_sumRates.at<float>(row, column) =
                static_cast<float>(diffusivity * (x * x + y * y) + board.loss_w_m2k / m_capacity_j_m2k);
        }
}

std::size_t SpectralPlate::addSource(PixelPoint at, double width_px, bool farSide) {
    Source source{cv::Mat(m_whole, CV_32FC2), farSide};
    const cv::Point2d place = cv::Point2d(m_corner) + cv::Point2d(at.x_px, at.y_px);
    const double ofWatt = 1 / (m_pixel_m * m_pixel_m * m_capacity_j_m2k);
    for (int row = 0; row < m_whole.height; ++row)
        for (int column = 0; column < m_whole.width; ++column) {
            const double x = 2 * std::numbers::pi * cycles(column, m_whole.width) / m_whole.width,
                         y = 2 * std::numbers::pi * cycles(row, m_whole.height) / m_whole.height;
            const double size = ofWatt * std::exp(-(x * x + y * y) * width_px * width_px / 2);
            source.modes.at<Mode>(row, column) = Mode(std::polar(size, -(x * place.x + y * place.y)));
        }
    m_sources.push_back(std::move(source));
    return m_sources.size() - 1;
}

void SpectralPlate::step(double seconds, const std::vector<double>& watts) {
    const auto time = static_cast<float>(seconds);
    if (time != m_time_s) {
        const auto goneAt = [time](double more_per_s) {
            return [time, more_per_s](float rate) {
                return -std::expm1(-(rate + static_cast<float>(more_per_s)) * time);
            };
        };
        m_gone.create(m_whole, CV_32FC1);
        m_fasterGone.create(m_whole, CV_32FC1);
        std::transform(m_sumRates.begin<float>(), m_sumRates.end<float>(), m_gone.begin<float>(), goneAt(0));
        std::transform(m_sumRates.begin<float>(), m_sumRates.end<float>(), m_fasterGone.begin<float>(),
                       goneAt(m_exchange_per_s));
        m_time_s = time;
    }
    for (int i = 0; i < static_cast<int>(m_sumRates.total()); ++i) {
        Mode sum = 0, difference = 0;
        for (std::size_t s = 0; s < m_sources.size(); ++s) {
            const Mode own = m_sources[s].modes.ptr<Mode>()[i] * static_cast<float>(watts[s]);
            sum += own;
            difference += m_sources[s].farSide ? -own : own;
        }
        const float rate = m_sumRates.ptr<float>()[i], faster = rate + static_cast<float>(m_exchange_per_s);
        const float gone = m_gone.ptr<float>()[i], fasterGone = m_fasterGone.ptr<float>()[i];
        Mode &all = m_sum.ptr<Mode>()[i], &apart = m_difference.ptr<Mode>()[i];
        all = all * (1 - gone) + sum * (gone / rate);
        apart = apart * (1 - fasterGone) + difference * (fasterGone / faster);
    }
}

cv::Mat SpectralPlate::rise_k() const {
    const cv::Mat modes = (m_sum + m_difference) / 2;
    cv::Mat whole;
    cv::dft(modes, whole, cv::DFT_INVERSE | cv::DFT_SCALE | cv::DFT_REAL_OUTPUT);
    return whole(cv::Rect(m_corner, m_picture)).clone();
}

} // namespace ustor::testing
