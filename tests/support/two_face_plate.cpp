#include "support/two_face_plate.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor::testing {

TwoFacePlate::TwoFacePlate(double width_mm, double height_mm, Random& random)
    : m_columns(static_cast<int>(std::ceil((width_mm + 2 * margin_mm) / cell_mm))),
      m_rows(static_cast<int>(std::ceil((height_mm + 2 * margin_mm) / cell_mm))) {
    const double thickness_m = random.uniform(0.8e-3, 1.6e-3), conductivity = random.uniform(8, 35);
    constexpr double capacity_j_m3k = 2e6, cell_m = cell_mm * 1e-3, area_m2 = cell_m * cell_m;
    m_capacity_j_k = capacity_j_m3k * area_m2 * thickness_m / 2;
    double most_w_k = 0;
    cv::Mat sheet[2];
    for (const int face : {Near, Far}) {
        // Patches of copper: smooth noise, and slots that cut a plane.
        cv::Mat patches(m_rows, m_columns, CV_32FC1);
        for (auto it = patches.begin<float>(); it != patches.end<float>(); ++it)
            *it = static_cast<float>(random.normal());
        cv::GaussianBlur(patches, patches, {}, 4 / cell_mm);
        cv::Scalar mean, deviation;
        cv::meanStdDev(patches, mean, deviation);
        sheet[face] = (patches - mean) / deviation[0];
        cv::exp(0.25 * sheet[face], sheet[face]);
        sheet[face] *= conductivity * thickness_m / 2; // W/K of a square
        for (int i = 0; i < 4; ++i) {
            const cv::Point a(random.below(m_columns), random.below(m_rows));
            const cv::Point b(a.x + random.below(31) - 15, a.y + random.below(31) - 15);
            cv::line(sheet[face], a, b, cv::Scalar(0.5 * thickness_m / 2), 1);
        }
        double most = 0;
        cv::minMaxLoc(sheet[face], nullptr, &most);
        most_w_k = std::max(most_w_k, most);
    }
    constexpr double through_w_mk = 0.35, loss_w_m2k = 8;
    const double through_w_k = through_w_mk * area_m2 / thickness_m, loss_w_k = loss_w_m2k * area_m2;
    m_step_s = 0.8 * m_capacity_j_k / (4 * most_w_k + through_w_k + loss_w_k);
    const double share = m_step_s / m_capacity_j_k;
    m_through = static_cast<float>(through_w_k * share);
    m_loss = static_cast<float>(loss_w_k * share);
    for (const int face : {Near, Far}) {
        m_rise[face] = cv::Mat::zeros(m_rows, m_columns, CV_32FC1);
        m_right[face] = cv::Mat::zeros(m_rows, m_columns, CV_32FC1);
        m_down[face] = cv::Mat::zeros(m_rows, m_columns, CV_32FC1);
        const auto between = [&](float a, float b) {
            return static_cast<float>(share * 2 * a * b / (a + b)); // two halves in a row
        };
        for (int y = 0; y < m_rows; ++y)
            for (int x = 0; x < m_columns; ++x) {
                const float here = sheet[face].at<float>(y, x);
                if (x + 1 < m_columns)
                    m_right[face].at<float>(y, x) = between(here, sheet[face].at<float>(y, x + 1));
                if (y + 1 < m_rows)
                    m_down[face].at<float>(y, x) = between(here, sheet[face].at<float>(y + 1, x));
            }
    }
}

void TwoFacePlate::step() {
    cv::Mat change[2];
    for (const int face : {Near, Far}) {
        change[face] = cv::Mat::zeros(m_rows, m_columns, CV_32FC1);
        for (int y = 0; y < m_rows; ++y) {
            const float* here = m_rise[face].ptr<float>(y);
            const float* below = m_rise[face].ptr<float>(std::min(y + 1, m_rows - 1));
            const float* other = m_rise[1 - face].ptr<float>(y);
            const float* right = m_right[face].ptr<float>(y);
            const float* down = m_down[face].ptr<float>(y);
            float* out = change[face].ptr<float>(y);
            float* outBelow = change[face].ptr<float>(std::min(y + 1, m_rows - 1));
            for (int x = 0; x < m_columns; ++x) {
                const float flow = down[x] * (here[x] - below[x]); // none at the last row: its share is 0
                outBelow[x] += flow;
                out[x] -= flow + m_loss * here[x] + m_through * (here[x] - other[x]);
            }
            for (int x = 0; x + 1 < m_columns; ++x) {
                const float flow = right[x] * (here[x] - here[x + 1]);
                out[x] -= flow;
                out[x + 1] += flow;
            }
        }
        m_lost_j += m_loss * cv::sum(m_rise[face])[0] * m_capacity_j_k;
    }
    for (const int face : {Near, Far})
        m_rise[face] += change[face];
}

void TwoFacePlate::addHeat(Face face, BoardPoint at, double reach_mm, double joules) {
    // Shared out among the cells that the square covers, by area.
    const double x0 = columnOf(at.x_mm - reach_mm / 2), x1 = columnOf(at.x_mm + reach_mm / 2);
    const double y0 = columnOf(at.y_mm - reach_mm / 2), y1 = columnOf(at.y_mm + reach_mm / 2);
    const double whole = (x1 - x0) * (y1 - y0);
    for (int y = std::max(0, static_cast<int>(std::floor(y0 + 0.5)));
         y <= std::min(m_rows - 1, static_cast<int>(std::floor(y1 + 0.5))); ++y)
        for (int x = std::max(0, static_cast<int>(std::floor(x0 + 0.5)));
             x <= std::min(m_columns - 1, static_cast<int>(std::floor(x1 + 0.5))); ++x) {
            const double wide = std::min(x1, x + 0.5) - std::max(x0, x - 0.5),
                         high = std::min(y1, y + 0.5) - std::max(y0, y - 0.5);
            if (wide > 0 && high > 0)
                m_rise[face].at<float>(y, x) +=
                    static_cast<float>(joules * wide * high / whole / m_capacity_j_k);
        }
}

void TwoFacePlate::addArea(BoardPoint middle, double reach_mm, double joules) {
    std::vector<std::pair<cv::Point, double>> cells;
    double sum = 0;
    for (int y = 0; y < m_rows; ++y)
        for (int x = 0; x < m_columns; ++x) {
            const double r =
                std::hypot(x - columnOf(middle.x_mm), y - columnOf(middle.y_mm)) * cell_mm / reach_mm;
            if (r >= 1) continue;
            const double weight = std::pow(std::cos(r * 1.5707963267948966), 2);
            cells.emplace_back(cv::Point(x, y), weight);
            sum += weight;
        }
    for (const auto& [cell, weight] : cells)
        for (const int face : {Near, Far})
            m_rise[face].at<float>(cell) += static_cast<float>(joules * weight / sum / 2 / m_capacity_j_k);
}

void TwoFacePlate::warm(Face face, BoardPoint middle, double reach_mm, double peak_k) {
    for (int y = 0; y < m_rows; ++y)
        for (int x = 0; x < m_columns; ++x) {
            const double r =
                std::hypot(x - columnOf(middle.x_mm), y - columnOf(middle.y_mm)) * cell_mm / reach_mm;
            m_rise[face].at<float>(y, x) += static_cast<float>(peak_k * std::exp(-0.5 * r * r));
        }
}

double TwoFacePlate::rise_k(Face face, BoardPoint at) const {
    const double x = std::clamp(columnOf(at.x_mm), 0.0, m_columns - 1.001),
                 y = std::clamp(columnOf(at.y_mm), 0.0, m_rows - 1.001);
    const int i = static_cast<int>(x), j = static_cast<int>(y);
    const double u = x - i, v = y - j;
    const auto value = [&](int dy, int dx) {
        return static_cast<double>(m_rise[face].at<float>(j + dy, i + dx));
    };
    return (1 - v) * ((1 - u) * value(0, 0) + u * value(0, 1)) +
           v * ((1 - u) * value(1, 0) + u * value(1, 1));
}

cv::Mat TwoFacePlate::picture(Face face, int width, int height, double mmPerPixel) const {
    const double scale = mmPerPixel / cell_mm, first = columnOf(0);
    const cv::Mat toCells = (cv::Mat_<double>(2, 3) << scale, 0, first, 0, scale, first);
    cv::Mat out;
    cv::warpAffine(m_rise[face], out, toCells, cv::Size(width, height),
                   cv::INTER_CUBIC | cv::WARP_INVERSE_MAP, cv::BORDER_REPLICATE);
    return out;
}

double TwoFacePlate::storedJoules() const {
    return m_capacity_j_k * (cv::sum(m_rise[Near])[0] + cv::sum(m_rise[Far])[0]);
}

} // namespace ustor::testing
