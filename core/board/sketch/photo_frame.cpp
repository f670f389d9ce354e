#include "board/sketch/photo_frame.h"

#include "board/board.h"

#include <Eigen/Geometry>
#include <Eigen/LU>
#include <cmath>

namespace ustor {
namespace {

Eigen::Vector3d homogeneous(PixelPoint p, double x0 = 0, double y0 = 0) {
    return {p.x_px - x0, p.y_px - y0, 1};
}

/// A quadrilateral whose corners turn the same way, well apart from a line.
bool isConvex(const std::array<PixelPoint, 4>& c) {
    int turns = 0;
    for (std::size_t i = 0; i < 4; ++i) {
        const PixelPoint a = c[i], b = c[(i + 1) % 4], d = c[(i + 2) % 4];
        const double area = (b.x_px - a.x_px) * (d.y_px - b.y_px) - (b.y_px - a.y_px) * (d.x_px - b.x_px);
        constexpr double least_px2 = 1;
        if (std::fabs(area) < least_px2 || !std::isfinite(area)) return false;
        turns += area > 0 ? 1 : -1;
    }
    return std::abs(turns) == 4;
}

constexpr const char* badCorners =
    toSay("the four corners do not make a rectangle seen from somewhere: click them "
          "again, one after the other around");

} // namespace

Result<double> aspectOfRectangle(const std::array<PixelPoint, 4>& corners, double width_px,
                                 double height_px) {
    if (!isConvex(corners)) return Error{say(badCorners), "", {}};
    const double x0 = width_px / 2, y0 = height_px / 2;
    const Eigen::Vector3d m1 = homogeneous(corners[0], x0, y0), m2 = homogeneous(corners[1], x0, y0),
                          m4 = homogeneous(corners[2], x0, y0), m3 = homogeneous(corners[3], x0, y0);
    const double k2 = m1.cross(m4).dot(m3) / m2.cross(m4).dot(m3),
                 k3 = m1.cross(m4).dot(m2) / m3.cross(m4).dot(m2);
    const Eigen::Vector3d n2 = k2 * m2 - m1, n3 = k3 * m3 - m1;
    const double plain = n2.head<2>().norm() / n3.head<2>().norm();
    // Seen straight on, at least along one edge, the distance of the camera cannot be told; nor is it needed.
    constexpr double straight = 1e-3;
    if (std::fabs(n2.z()) < straight || std::fabs(n3.z()) < straight) return plain;
    const double focal2 = -n2.head<2>().dot(n3.head<2>()) / (n2.z() * n3.z());
    if (focal2 <= 0) return plain;
    return std::sqrt((n2.head<2>().squaredNorm() / focal2 + n2.z() * n2.z()) /
                     (n3.head<2>().squaredNorm() / focal2 + n3.z() * n3.z()));
}

Result<PhotoFrame> PhotoFrame::create(const BoardPhoto& photo) {
    if (!isConvex(photo.corners)) return Error{say(badCorners), photo.file, {}};
    if (!(photo.width_mm > 0) || !(photo.height_mm > 0))
        return Error{say("the size of the photographed rectangle is not known"), photo.file, {}};
    const double left = photo.low.x_mm, right = left + photo.width_mm, bottom = photo.low.y_mm,
                 top = bottom + photo.height_mm;
    const bool mirrored = photo.side == Side::Bottom;
    const double first = mirrored ? right : left, second = mirrored ? left : right;
    const BoardPoint targets[4] = {{first, top}, {second, top}, {second, bottom}, {first, bottom}};
    // Eight equations for the eight unknowns of a homography whose last entry is one.
    Eigen::Matrix<double, 8, 8> a;
    Eigen::Matrix<double, 8, 1> b;
    for (int i = 0; i < 4; ++i) {
        const auto [x, y] = photo.corners[static_cast<std::size_t>(i)];
        const auto [u, v] = targets[i];
        a.row(2 * i) << x, y, 1, 0, 0, 0, -u * x, -u * y;
        a.row(2 * i + 1) << 0, 0, 0, x, y, 1, -v * x, -v * y;
        b[2 * i] = u;
        b[2 * i + 1] = v;
    }
    const Eigen::Matrix<double, 8, 1> h = a.fullPivLu().solve(b);
    PhotoFrame frame;
    frame.m_toBoard << h[0], h[1], h[2], h[3], h[4], h[5], h[6], h[7], 1;
    frame.m_toPhoto = frame.m_toBoard.inverse();
    return frame;
}

BoardPoint PhotoFrame::toBoard(PixelPoint p) const {
    const Eigen::Vector3d q = m_toBoard * homogeneous(p);
    return {q.x() / q.z(), q.y() / q.z()};
}

PixelPoint PhotoFrame::toPhoto(BoardPoint p) const {
    const Eigen::Vector3d q = m_toPhoto * Eigen::Vector3d(p.x_mm, p.y_mm, 1);
    return {q.x() / q.z(), q.y() / q.z()};
}

} // namespace ustor
