#pragma once

#include "base/points.h"
#include "base/result.h"
#include "board/board_photo.h"

#include <Eigen/Core>

namespace ustor {

/// Width over height of a rectangle from its four corners in a photo, for a camera with square pixels whose
/// axis goes through the middle of the picture (Z. Zhang and L.-W. He, Whiteboard scanning and image
/// enhancement, Digital Signal Processing 17, 414, 2007 [memory]). Corners from the upper left clockwise.
/// Error when three of them lie on one line or the four cross over.
Result<double> aspectOfRectangle(const std::array<PixelPoint, 4>& corners, double width_px, double height_px);

/// Brings a photo of a board's side to board millimetres and back: perspective is removed by four corners of
/// the board's rectangle. The bottom is photographed with the board turned about its upright axis, so that x
/// runs the other way.
class PhotoFrame {
  public:
    /// Error as of `aspectOfRectangle`, or when the size is not positive.
    static Result<PhotoFrame> create(const BoardPhoto& photo);

    BoardPoint toBoard(PixelPoint p) const;
    PixelPoint toPhoto(BoardPoint p) const;
    /// Row by row, photo pixels to board millimetres: for a painter.
    const Eigen::Matrix3d& matrix() const { return m_toBoard; }

  private:
    Eigen::Matrix3d m_toBoard, m_toPhoto;
};

} // namespace ustor
