#include "support/layered_plate.h"

#include <Eigen/SparseCore>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor::testing {

LayeredPlate::LayeredPlate(double width_mm, double height_mm, Random& random)
    : m_columns(static_cast<int>(std::ceil((width_mm + 2 * margin_mm) / cell_mm))),
      m_rows(static_cast<int>(std::ceil((height_mm + 2 * margin_mm) / cell_mm))) {
    constexpr double capacity_j_m3k = 2e6, cell_m = cell_mm * 1e-3, area_m2 = cell_m * cell_m;
    constexpr double laminate_w_mk = 0.8, loss_w_m2k = 8, pi2 = std::numbers::pi * std::numbers::pi;
    const double thickness_m = random.uniform(0.8e-3, 1.6e-3), conductivity = random.uniform(8, 35);
    const double thermalTime_s = 0.3 * std::pow(1.0 / 0.3, random.uniform());
    const double inner = random.uniform() < 0.5 ? 0 : random.uniform(0.2, 0.6); // share of inner planes
    const double deep_m = thickness_m / layers;
    m_capacity_j_k = capacity_j_m3k * area_m2 * deep_m;
    // What vias carry beside the laminate is in this.
    const double through_w_mk =
        std::clamp(capacity_j_m3k * thickness_m * thickness_m / (pi2 * thermalTime_s), 0.3, 1.5);
    m_throughTime_s = capacity_j_m3k * thickness_m * thickness_m / (pi2 * through_w_mk);
    const double through_w_k = through_w_mk * area_m2 / deep_m, loss_w_k = loss_w_m2k * area_m2;
    const double all_w_k = conductivity * thickness_m, bare_w_k = laminate_w_mk * deep_m; // of a square
    double most_w_k = 0;
    std::array<cv::Mat, layers> sheet;
    for (std::size_t layer = 0; layer < layers; ++layer) {
        const bool face = layer == 0 || layer == layers - 1, plane = layer == 1 || layer == layers - 2;
        const double share = face ? (1 - inner) / 2 : plane ? inner / 2 : 0;
        sheet[layer] = share > 0 ? copper(share * all_w_k, bare_w_k, random)
                                 : cv::Mat(m_rows, m_columns, CV_32FC1, cv::Scalar(bare_w_k));
        double most = 0;
        cv::minMaxLoc(sheet[layer], nullptr, &most);
        most_w_k = std::max(most_w_k, most);
    }
    m_step_s = 0.8 * m_capacity_j_k / (4 * most_w_k + 2 * through_w_k + loss_w_k);
    const double share = m_step_s / m_capacity_j_k;
    m_through = static_cast<float>(through_w_k * share);
    m_loss = static_cast<float>(loss_w_k * share);
    const auto between = [&](float a, float b) {
        return static_cast<float>(share * 2 * a * b / (a + b)); // two halves in a row
    };
    for (std::size_t layer = 0; layer < layers; ++layer) {
        m_rise[layer] = cv::Mat::zeros(m_rows, m_columns, CV_32FC1);
        m_next[layer] = cv::Mat::zeros(m_rows, m_columns, CV_32FC1);
        m_right[layer] = cv::Mat::zeros(m_rows, m_columns, CV_32FC1);
        m_down[layer] = cv::Mat::zeros(m_rows, m_columns, CV_32FC1);
        for (int y = 0; y < m_rows; ++y)
            for (int x = 0; x < m_columns; ++x) {
                const float here = sheet[layer].at<float>(y, x);
                if (x + 1 < m_columns)
                    m_right[layer].at<float>(y, x) = between(here, sheet[layer].at<float>(y, x + 1));
                if (y + 1 < m_rows)
                    m_down[layer].at<float>(y, x) = between(here, sheet[layer].at<float>(y + 1, x));
            }
    }
}

/// Patches of copper: smooth noise, and slots that cut a plane. Conductance of a square, W/K.
cv::Mat LayeredPlate::copper(double mean_w_k, double bare_w_k, Random& random) const {
    cv::Mat patches(m_rows, m_columns, CV_32FC1), sheet;
    for (auto it = patches.begin<float>(); it != patches.end<float>(); ++it)
        *it = static_cast<float>(random.normal());
    cv::GaussianBlur(patches, patches, {}, 4 / cell_mm);
    cv::Scalar mean, deviation;
    cv::meanStdDev(patches, mean, deviation);
    sheet = (patches - mean) / deviation[0];
    cv::exp(0.25 * sheet, sheet);
    sheet *= mean_w_k;
    for (int i = 0; i < 4; ++i) {
        const cv::Point a(random.below(m_columns), random.below(m_rows));
        const cv::Point b(a.x + random.below(31) - 15, a.y + random.below(31) - 15);
        cv::line(sheet, a, b, cv::Scalar(bare_w_k), 1);
    }
    return cv::max(sheet, bare_w_k);
}

/// One row after one step: what flows in from the four neighbours and from the layers above and below.
void LayeredPlate::stepRow(std::size_t layer, int y, float* out) const {
    const auto row = [&](const std::array<cv::Mat, layers>& of, int at) { return of[layer].ptr<float>(at); };
    const int up = std::max(0, y - 1), next = std::min(y + 1, m_rows - 1), last = m_columns - 1;
    const float *here = row(m_rise, y), *over = row(m_rise, up), *below = row(m_rise, next);
    const float *right = row(m_right, y), *down = row(m_down, y), *downHere = row(m_down, up);
    const bool first = layer == 0, deepest = layer == layers - 1;
    const float* towardsNear = first ? here : m_rise[layer - 1].ptr<float>(y);
    const float* towardsFar = deepest ? here : m_rise[layer + 1].ptr<float>(y);
    const float loss = first || deepest ? m_loss : 0, through = m_through;
    // The shares at the rims are zero, or the neighbour is the cell itself: nothing flows there.
    for (int x = 0; x <= last; ++x)
        out[x] = here[x] * (1 - loss) + down[x] * (below[x] - here[x]) + downHere[x] * (over[x] - here[x]) +
                 through * (towardsNear[x] + towardsFar[x] - 2 * here[x]);
    for (int x = 0; x < last; ++x)
        out[x] += right[x] * (here[x + 1] - here[x]);
    for (int x = 1; x <= last; ++x)
        out[x] += right[x - 1] * (here[x - 1] - here[x]);
}

void LayeredPlate::step() {
    for (std::size_t layer = 0; layer < layers; ++layer)
        for (int y = 0; y < m_rows; ++y)
            stepRow(layer, y, m_next[layer].ptr<float>(y));
    for (const Face face : {Near, Far})
        m_lost_j += m_loss * cv::sum(m_rise[layerOf(face)])[0] * m_capacity_j_k;
    std::swap(m_rise, m_next);
}

namespace {

/// Share of an even stretch from `from` to `to`, in cells, that falls to a cell: each place of it is shared
/// between the two middles beside it in proportion, so that the middle of the heat stays where it was put.
double shareOf(int cell, double from, double to) {
    const auto below = [cell](double u) {
        const double d = std::clamp(u - cell, -1.0, 1.0);
        return d < 0 ? (d + 1) * (d + 1) / 2 : 1 - (1 - d) * (1 - d) / 2;
    };
    return (below(to) - below(from)) / (to - from);
}

} // namespace

void LayeredPlate::addHeat(Face face, BoardPoint at, double reach_mm, double joules) {
    const double x0 = columnOf(at.x_mm - reach_mm / 2), x1 = columnOf(at.x_mm + reach_mm / 2);
    const double y0 = columnOf(at.y_mm - reach_mm / 2), y1 = columnOf(at.y_mm + reach_mm / 2);
    for (int y = std::max(0, static_cast<int>(std::floor(y0)));
         y <= std::min(m_rows - 1, static_cast<int>(std::ceil(y1))); ++y)
        for (int x = std::max(0, static_cast<int>(std::floor(x0)));
             x <= std::min(m_columns - 1, static_cast<int>(std::ceil(x1))); ++x)
            m_rise[layerOf(face)].at<float>(y, x) +=
                static_cast<float>(joules * shareOf(x, x0, x1) * shareOf(y, y0, y1) / m_capacity_j_k);
}

void LayeredPlate::addArea(BoardPoint middle, double reach_mm, double joules) {
    std::vector<std::pair<cv::Point, double>> cells;
    double sum = 0;
    for (int y = 0; y < m_rows; ++y)
        for (int x = 0; x < m_columns; ++x) {
            const double r =
                std::hypot(x - columnOf(middle.x_mm), y - columnOf(middle.y_mm)) * cell_mm / reach_mm;
            if (r >= 1) continue;
            const double weight = std::pow(std::cos(r * std::numbers::pi / 2), 2);
            cells.emplace_back(cv::Point(x, y), weight);
            sum += weight;
        }
    for (const auto& [cell, weight] : cells)
        for (cv::Mat& rise : m_rise)
            rise.at<float>(cell) += static_cast<float>(joules * weight / sum / layers / m_capacity_j_k);
}

void LayeredPlate::warm(BoardPoint middle, double reach_mm, double peak_k) {
    for (int y = 0; y < m_rows; ++y)
        for (int x = 0; x < m_columns; ++x) {
            const double r =
                std::hypot(x - columnOf(middle.x_mm), y - columnOf(middle.y_mm)) * cell_mm / reach_mm;
            for (cv::Mat& rise : m_rise)
                rise.at<float>(y, x) += static_cast<float>(peak_k * std::exp(-0.5 * r * r));
        }
}

double LayeredPlate::rise_k(Face face, BoardPoint at) const {
    const double x = std::clamp(columnOf(at.x_mm), 0.0, m_columns - 1.001),
                 y = std::clamp(columnOf(at.y_mm), 0.0, m_rows - 1.001);
    const int i = static_cast<int>(x), j = static_cast<int>(y);
    const double u = x - i, v = y - j;
    const auto value = [&](int dy, int dx) {
        return static_cast<double>(m_rise[layerOf(face)].at<float>(j + dy, i + dx));
    };
    return (1 - v) * ((1 - u) * value(0, 0) + u * value(0, 1)) +
           v * ((1 - u) * value(1, 0) + u * value(1, 1));
}

namespace {

/// Rows (or columns) between cells: a matrix that makes pixels of cells by Lagrange's cubic through four
/// neighbours. OpenCV's own warp goes by steps of 1/32 cell, which is much beside a hundredth of a
/// millimetre.
Eigen::SparseMatrix<float, Eigen::RowMajor> between(int pixels, int cells, double first, double apart) {
    Eigen::SparseMatrix<float, Eigen::RowMajor> weights(pixels, cells);
    for (int i = 0; i < pixels; ++i) {
        const double at = first + apart * i;
        const int k = static_cast<int>(std::floor(at));
        const double t = at - k;
        const std::array<double, 4> of{-t * (t - 1) * (t - 2) / 6, (t + 1) * (t - 1) * (t - 2) / 2,
                                       -(t + 1) * t * (t - 2) / 2, (t + 1) * t * (t - 1) / 6};
        for (int n = 0; n < 4; ++n)
            weights.coeffRef(i, std::clamp(k - 1 + n, 0, cells - 1)) +=
                static_cast<float>(of[static_cast<std::size_t>(n)]);
    }
    return weights;
}

} // namespace

cv::Mat LayeredPlate::picture(Face face, int width, int height, double mmPerPixel) const {
    const double apart = mmPerPixel / cell_mm, first = columnOf(0);
    using Cells = Eigen::Matrix<float, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
    const Eigen::Map<const Cells> rise(m_rise[layerOf(face)].ptr<float>(), m_rows, m_columns);
    cv::Mat pixels(height, width, CV_32FC1);
    const Cells rows = between(height, m_rows, first, apart) * rise;
    Eigen::Map<Cells>(pixels.ptr<float>(), height, width) =
        rows * between(width, m_columns, first, apart).transpose();
    return pixels;
}

double LayeredPlate::storedJoules() const {
    double kelvin = 0;
    for (const cv::Mat& rise : m_rise)
        kelvin += cv::sum(rise)[0];
    return m_capacity_j_k * kelvin;
}

} // namespace ustor::testing
