#include "thermal/still/palette.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace ustor {
namespace {

constexpr int narrowest = 5;        ///< of a bar, px
constexpr double shortest = 0.25;   ///< of a bar, of the picture's side
constexpr int sameAcross = 14;      ///< largest difference across, of a channel: lossy files ripple
constexpr int smallStep = 90;       ///< largest step along, sum of the channels
constexpr double shortestWay = 220; ///< of the colours, sum of the channels

int apart(const cv::Vec3b& a, const cv::Vec3b& b) {
    return std::abs(a[0] - b[0]) + std::abs(a[1] - b[1]) + std::abs(a[2] - b[2]);
}

int widest(const cv::Vec3b& a, const cv::Vec3b& b) {
    return std::max({std::abs(a[0] - b[0]), std::abs(a[1] - b[1]), std::abs(a[2] - b[2])});
}

struct Run {
    int from = 0, to = 0; ///< rows, the last not in it
    double way = 0;       ///< net length of the colours' way
};

/// The longest stretch of a column over which the colour is the same across and goes on in small steps.
Run stretchAt(const cv::Mat& bgr, int x) {
    Run best, now;
    const auto close = [&] {
        if (now.to - now.from > best.to - best.from && now.way > 0) best = now;
    };
    bool open = false;
    for (int y = 0; y < bgr.rows; ++y) {
        const auto* line = bgr.ptr<cv::Vec3b>(y);
        bool flat = true;
        for (int i = 1; flat && i < narrowest; ++i)
            flat = widest(line[x], line[x + i]) <= sameAcross;
        const bool goesOn = flat && open && apart(line[x], bgr.at<cv::Vec3b>(y - 1, x)) <= smallStep;
        if (goesOn) {
            now.to = y + 1;
            continue;
        }
        if (open) close();
        open = flat;
        if (flat) now = {y, y + 1, 1};
    }
    if (open) close();
    // What a colour does within some rows is ripple; what it does over many is the bar.
    best.way = 0;
    constexpr int rows = 6;
    for (int y = best.from; y + rows < best.to; y += rows)
        best.way += apart(bgr.at<cv::Vec3b>(y, x + 2), bgr.at<cv::Vec3b>(y + rows, x + 2));
    return best;
}

struct Found {
    cv::Rect at;
    double way = 0;
};

/// A bar ends at both sides: what lies beside it looks different. A smooth part of the scene goes on.
bool standsAlone(const cv::Mat& bgr, const cv::Rect& at) {
    constexpr int beside = 3, different = 60, rows = 4;
    for (const int x : {at.x - beside, at.x + at.width + beside - 1}) {
        if (x < 0 || x >= bgr.cols) continue;
        int clear = 0, all = 0;
        for (int y = at.y; y < at.y + at.height; y += rows, ++all)
            clear += apart(bgr.at<cv::Vec3b>(y, x), bgr.at<cv::Vec3b>(y, at.x + at.width / 2)) > different;
        if (3 * clear < 2 * all) return false;
    }
    return true;
}

/// A palette does not come back to a colour; the texture of a scene does.
bool neverReturns(const cv::Mat& bgr, const cv::Rect& at) {
    constexpr int samples = 24, farAlong = 6, same = 40, tolerated = 10; // one pair in so many
    const auto colour = [&](int i) {
        return bgr.at<cv::Vec3b>(at.y + at.height * (2 * i + 1) / (2 * samples), at.x + at.width / 2);
    };
    int pairs = 0, returns = 0;
    for (int i = 0; i < samples; ++i)
        for (int j = i + farAlong; j < samples; ++j, ++pairs)
            returns += apart(colour(i), colour(j)) <= same;
    return tolerated * returns <= pairs;
}

Found uprightBar(const cv::Mat& bgr) {
    Found found;
    const int least = std::max(24, static_cast<int>(shortest * bgr.rows));
    int begin = -1;
    Run running;
    const auto close = [&](int end) {
        if (begin < 0) return;
        // A stretch is asked over some pixels to its right: so much wider is the bar.
        const cv::Rect at(begin, running.from, end - begin + narrowest - 1, running.to - running.from);
        // Bars are slender; what is broader is a part of the scene.
        constexpr int slender = 3;
        if (at.width * slender <= at.height && running.way > found.way && standsAlone(bgr, at) &&
            neverReturns(bgr, at))
            found = {at, running.way};
        begin = -1;
    };
    for (int x = 0; x + narrowest <= bgr.cols; ++x) {
        const Run here = stretchAt(bgr, x);
        const bool bar = here.to - here.from >= least && here.way >= shortestWay;
        constexpr int same = 3;
        const bool goesWithIt = begin >= 0 && bar && std::abs(here.from - running.from) <= same &&
                                std::abs(here.to - running.to) <= same;
        if (goesWithIt) {
            running.from = std::max(running.from, here.from);
            running.to = std::min(running.to, here.to);
            continue;
        }
        close(x);
        if (bar) {
            begin = x;
            running = here;
        }
    }
    close(bgr.cols - narrowest + 1);
    return found;
}

} // namespace

std::optional<ScaleBar> findScaleBar(const cv::Mat& bgr) {
    const Found upright = uprightBar(bgr), lying = uprightBar(bgr.t());
    if (upright.at.empty() && lying.at.empty()) return std::nullopt;
    if (upright.way >= lying.way) return ScaleBar{upright.at, true};
    return ScaleBar{{lying.at.y, lying.at.x, lying.at.height, lying.at.width}, false};
}

} // namespace ustor
