#include "standin/camera_model.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor::standin {

CameraModel::CameraModel(const Board& board, const BoardHeat& laminate, Side side, std::uint64_t seed)
    : m_side(side), m_random(seed * 31 + (side == Side::Top ? 1 : 2)), m_noise(m_random.bits()),
      m_columns(laminate.columns()), m_rows(laminate.rows()) {
    mapPixels(board, laminate);
    mapEmissivity(board);
    m_pattern.create(height, width, CV_32FC1);
    for (auto& p : cv::Mat_<float>(m_pattern))
        p = static_cast<float>(0.15 * m_random.normal());
    m_nextShutter_s = m_random.uniform(6, 14);
}

void CameraModel::mapPixels(const Board& board, const BoardHeat& laminate) {
    const BoardBox box = board.box();
    const double scale = 0.94 * std::min(width / box.width_mm(), height / box.height_mm());
    const double turn = m_random.uniform(-0.03, 0.03), mirror = m_side == Side::Top ? 1 : -1;
    const double cx = (box.low.x_mm + box.high.x_mm) / 2, cy = (box.low.y_mm + box.high.y_mm) / 2;
    const cv::Matx33d centre(1, 0, -cx, 0, 1, -cy, 0, 0, 1);
    const cv::Matx33d view(mirror * scale * std::cos(turn), scale * std::sin(turn), 0,
                           mirror * scale * std::sin(turn), -scale * std::cos(turn), 0,
                           m_random.uniform(-4e-4, 4e-4), m_random.uniform(-4e-4, 4e-4), 1);
    const cv::Matx33d place(1, 0, (width - 1) / 2.0 + m_random.uniform(-1, 1), 0, 1,
                            (height - 1) / 2.0 + m_random.uniform(-1, 1), 0, 0, 1);
    m_toImage = place * view * centre;
    const cv::Matx33d back = m_toImage.inv();
    m_mapX.create(height, width, CV_32FC1);
    m_mapY.create(height, width, CV_32FC1);
    const BoardPoint corner = laminate.centreOf(0);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const cv::Vec3d p = back * cv::Vec3d(x, y, 1);
            m_mapX.at<float>(y, x) = static_cast<float>((p[0] / p[2] - corner.x_mm) / laminate.cell_mm());
            m_mapY.at<float>(y, x) = static_cast<float>((p[1] / p[2] - corner.y_mm) / laminate.cell_mm());
        }
}

void CameraModel::mapEmissivity(const Board& board) {
    m_emissivity = cv::Mat(height, width, CV_32FC1, cv::Scalar(0.92));
    const auto fill = [&](const Part& part, double w, double h, double emissivity) {
        std::vector<cv::Point> corners;
        for (const auto& [sx, sy] : {std::pair{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}) {
            const PixelPoint p = pixelOf({part.centre.x_mm + sx * w / 2, part.centre.y_mm + sy * h / 2});
            corners.emplace_back(static_cast<int>(std::lround(p.x_px)),
                                 static_cast<int>(std::lround(p.y_px)));
        }
        cv::fillConvexPoly(m_emissivity, corners, cv::Scalar(emissivity));
    };
    for (const Part& part : board.parts) {
        if (part.side != m_side) continue;
        const bool metalTop = part.partClass == PartClass::Connector;
        if (metalTop)
            fill(part, part.width_mm, part.height_mm, 0.3);
        else if (part.partClass == PartClass::Inductor)
            fill(part, part.width_mm, part.height_mm, 0.7);
        else if (part.width_mm * part.height_mm > 6)
            fill(part, part.width_mm, part.height_mm, 0.86);
    }
    cv::GaussianBlur(m_emissivity, m_emissivity, {}, 0.8);
}

PixelPoint CameraModel::pixelOf(BoardPoint p) const {
    const cv::Vec3d q = m_toImage * cv::Vec3d(p.x_mm, p.y_mm, 1);
    return {q[0] / q[2], q[1] / q[2]};
}

cv::Mat CameraModel::picture(const std::vector<float>& surface, double time_s) {
    if (time_s >= m_nextShutter_s) {
        m_frozenUntil_s = time_s + 0.35;
        m_nextShutter_s = time_s + m_random.uniform(9, 16);
        m_offset_k = 0.25 * m_random.normal();
        m_drift_k = 0;
    }
    if (time_s < m_frozenUntil_s && !m_held.empty()) return m_held.clone();
    m_drift_k += 0.004 * m_random.normal();

    const cv::Mat cells(m_rows, m_columns, CV_32FC1, const_cast<float*>(surface.data()));
    cv::Mat scene;
    cv::remap(cells, scene, m_mapX, m_mapY, cv::INTER_LINEAR, cv::BORDER_CONSTANT, cv::Scalar(0));
    cv::GaussianBlur(scene, scene, {}, 0.75);
    // Linear in the small rises met here: what is not emitted is reflected from surroundings a little cooler
    // than the board, which is what makes bare metal stand out.
    constexpr double aboveSurroundings_k = 2.0;
    scene += cv::Scalar(aboveSurroundings_k);
    cv::Mat kelvin = scene.mul(m_emissivity) + m_pattern;
    cv::Mat noise(height, width, CV_32FC1), centikelvin;
    m_noise.fill(noise, cv::RNG::NORMAL, 0, netd_mk * 1e-3);
    const double common = ambient_c + 273.15 + m_offset_k + m_drift_k;
    kelvin += noise;
    kelvin.convertTo(centikelvin, CV_16U, 100, 100 * common); // rounds, and stays within the range
    m_held = centikelvin.clone();
    return centikelvin;
}

} // namespace ustor::standin
