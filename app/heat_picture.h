#pragma once

#include <QImage>
#include <opencv2/core.hpp>

namespace ustor {

/// Temperatures as colours of cividis (Nunez, Anderton, Renslow, PLoS ONE 13(7), 2018), between two fixed ends.
/// `alphaBelow`: values below this share of the span turn see-through, for laying over a board; 0 keeps all.
QImage heatPicture(const cv::Mat& values, double low, double high, double alphaBelow = 0);

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
