#pragma once

#include "base/random.h"
#include "board/board.h"
#include "standin/board_heat.h"

#include <opencv2/core.hpp>
#include <vector>

namespace ustor::standin {

/// What a small uncooled camera makes of a warm board: a picture from slightly aside, optical blur,
/// emissivity and reflections, white noise, drift, and a shutter that freezes the picture and shifts it every
/// dozen seconds.
class CameraModel {
  public:
    CameraModel(const Board& board, const BoardHeat& laminate, Side side, std::uint64_t seed);

    /// The next picture in centikelvin for the surface rise (by cell) at a time.
    cv::Mat picture(const std::vector<float>& surface_k, double time_s);

    PixelPoint pixelOf(BoardPoint p) const; ///< for the landmarks that hands click
    Side side() const { return m_side; }

    static constexpr int width = 160, height = 120;
    static constexpr double frameRate_hz = 25, netd_mk = 60, ambient_c = 24;

  private:
    void mapPixels(const Board& board, const BoardHeat& laminate);
    void mapEmissivity(const Board& board);

    Side m_side;
    Random m_random;
    cv::RNG m_noise; ///< of each pixel of each picture
    cv::Matx33d m_toImage;
    int m_columns, m_rows;
    cv::Mat m_mapX, m_mapY, m_emissivity, m_pattern, m_held;
    double m_drift_k = 0, m_offset_k = 0, m_nextShutter_s = 0, m_frozenUntil_s = -1;
};

} // namespace ustor::standin
