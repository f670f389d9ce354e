#pragma once

#include <opencv2/core.hpp>
#include <vector>

namespace ustor {

/// The rises of many frames, kelvin, all of one size. Of a large recording each number is kept in half the
/// bytes (binary16 of IEEE 754: eleven bits, half a millikelvin at one kelvin and far below a camera's
/// noise).
class KeptRises {
  public:
    /// Pixels in all that are kept as they come.
    static constexpr double mostInFull = 6e7;

    /// How many are to come, where that is known: a large recording is kept in halves from its first frame
    /// on.
    void expect(std::size_t frames, double pixels) {
        m_halves |= static_cast<double>(frames) * pixels > mostInFull;
    }
    /// CV_32FC1.
    void push_back(const cv::Mat& rise_k);
    std::size_t size() const { return m_rises.size(); }
    bool empty() const { return m_rises.empty(); }
    cv::Size picture() const { return m_rises.front().size(); }
    double pixels() const {
        return m_rises.empty() ? 0
                               : static_cast<double>(size()) * static_cast<double>(m_rises.front().total());
    }
    /// CV_32FC1.
    cv::Mat at(std::size_t frame) const;
    double meanAt(std::size_t frame, cv::Rect where) const;

  private:
    bool m_halves = false;
    std::vector<cv::Mat> m_rises;
};

} // namespace ustor
