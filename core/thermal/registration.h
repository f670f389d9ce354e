#pragma once

#include "base/points.h"
#include "base/result.h"
#include "board/board.h"

#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// One place known in both frames.
struct Landmark {
    BoardPoint board;
    PixelPoint image;
};

/// Where the camera looks: a homography from board millimetres to pixels and back.
class Registration {
  public:
    /// Least squares over four or more landmarks (OpenCV findHomography). Error when they are fewer, lie on a
    /// line, would fold the board (two were swapped), or do not fit a plane at all.
    static Result<Registration> fromLandmarks(const std::vector<Landmark>& landmarks, Side side);

    PixelPoint toImage(BoardPoint p) const;
    BoardPoint toBoard(PixelPoint p) const;
    double pixelsPerMm(BoardPoint at) const; ///< local scale, mean of both axes
    /// Root mean square of what the landmarks miss, in mm. With exactly four it is 0 by construction and says
    /// nothing.
    double residual_mm() const { return m_residual_mm; }
    /// Standard deviation to reckon with when a pixel is put on the board: the residual, or the usual click
    /// with four.
    double sigma_mm() const;
    Side side() const { return m_side; }
    const std::vector<Landmark>& landmarks() const { return m_landmarks; }

  private:
    Registration() = default;
    int turns() const; ///< at each landmark: one up for a turn to the left, one down for one to the right
    std::array<double, 9> m_toImage{}, m_toBoard{};
    double m_residual_mm = 0;
    Side m_side = Side::Top;
    std::vector<Landmark> m_landmarks;
};

/// "ustor-registration/1": {"format", "side", "landmarks":[{"board_mm":[x,y],"image_px":[x,y]}]}.
std::string registrationToJson(const Registration& registration);
Result<Registration> registrationFromJson(std::string_view text, std::string_view fileName);

} // namespace ustor
