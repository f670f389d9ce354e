#include "thermal/kept_rises.h"

namespace ustor {

void KeptRises::push_back(const cv::Mat& rise_k) {
    const auto halve = [](const cv::Mat& full) {
        cv::Mat half;
        full.convertTo(half, CV_16F);
        return half;
    };
    if (!m_halves && pixels() + static_cast<double>(rise_k.total()) > mostInFull) {
        m_halves = true;
        for (cv::Mat& rise : m_rises)
            rise = halve(rise);
    }
    m_rises.push_back(m_halves ? halve(rise_k) : rise_k);
}

cv::Mat KeptRises::at(std::size_t frame) const {
    if (!m_halves) return m_rises[frame];
    cv::Mat full;
    m_rises[frame].convertTo(full, CV_32F);
    return full;
}

double KeptRises::meanAt(std::size_t frame, cv::Rect where) const {
    if (!m_halves) return cv::mean(m_rises[frame](where))[0];
    cv::Mat full;
    m_rises[frame](where).convertTo(full, CV_32F);
    return cv::mean(full)[0];
}

} // namespace ustor
