#pragma once

#include <QImage>
#include <opencv2/core.hpp>
#include <optional>

namespace ustor {

/// What `heatColours` says, to be painted.
QImage heatPicture(const cv::Mat& values, double low, double high, std::optional<double> clearBelow = {});

/// The colours from one end to the other, for a scale: cold at the left, or at the foot.
QImage heatRamp(Qt::Orientation orientation);

/// A span that is held: it widens at once when values leave it, and never shrinks by itself.
class HeldSpan {
  public:
    void show(double low, double high);
    void reset() { m_known = false; }
    double low() const { return m_low; }
    double high() const { return m_high; }

  private:
    bool m_known = false;
    double m_low = 0, m_high = 1;
};

} // namespace ustor
