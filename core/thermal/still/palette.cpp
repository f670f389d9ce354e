#include "thermal/still/palette.h"

#include "base/median.h"
#include "base/number_text.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <unordered_map>

namespace ustor {
namespace {

constexpr int fewestColours = 12;
/// Shades closer than this look alike after a lossy picture file.
constexpr double alike = 3;

double distance(const cv::Vec3f& a, const cv::Vec3f& b) {
    return cv::norm(a - b);
}

} // namespace

Result<Palette> Palette::learn(const cv::Mat& bgr, const ScaleBar& bar, const std::string& where) {
    const cv::Rect at = bar.at & cv::Rect(0, 0, bgr.cols, bgr.rows);
    cv::Mat strip = at.empty() ? cv::Mat() : bgr(at);
    if (!strip.empty() && !bar.upright) strip = strip.t(); // cold above then
    Palette palette;
    std::vector<double> scatter;
    for (int y = 0; y < strip.rows; ++y) {
        // The middle of each line: ticks at the rim and the frame do not count.
        std::array<std::vector<uchar>, 3> channels;
        const int rim = strip.cols / 4;
        for (int x = rim; x < strip.cols - rim; ++x)
            for (int c = 0; c < 3; ++c)
                channels[static_cast<std::size_t>(c)].push_back(strip.at<cv::Vec3b>(y, x)[c]);
        cv::Vec3f colour;
        for (int c = 0; c < 3; ++c) {
            auto& values = channels[static_cast<std::size_t>(c)];
            colour[c] = medianOf(values);
        }
        for (int x = rim; x < strip.cols - rim; ++x)
            scatter.push_back(distance(cv::Vec3f(strip.at<cv::Vec3b>(y, x)), colour));
        palette.m_colours.push_back(colour);
    }
    if (bar.upright) std::reverse(palette.m_colours.begin(), palette.m_colours.end());
    int different = 0;
    for (std::size_t i = 1; i < palette.m_colours.size(); ++i)
        different += palette.m_colours[i] != palette.m_colours[i - 1];
    if (different < fewestColours)
        return Error{say("the scale bar shows too few colours"), where, say("nothing was read")};
    const auto most = scatter.begin() + static_cast<long>(0.95 * static_cast<double>(scatter.size()));
    std::nth_element(scatter.begin(), most, scatter.end());
    constexpr double least = 6, scatters = 3;
    palette.m_tolerance = least + scatters * *most;
    return palette;
}

double Palette::step() const {
    return 1.0 / static_cast<double>(m_colours.size());
}

Palette::Match Palette::match(const cv::Vec3b& colour) const {
    const cv::Vec3f c(colour);
    const auto count = static_cast<int>(m_colours.size());
    int best = 0;
    double least = std::numeric_limits<double>::max(), share = 0;
    std::vector<double> away(m_colours.size());
    for (int i = 0; i < count; ++i) {
        away[static_cast<std::size_t>(i)] = distance(c, m_colours[static_cast<std::size_t>(i)]);
        // Between two neighbours: the nearest place on the line from one to the next.
        double along = 0, there = away[static_cast<std::size_t>(i)];
        if (i + 1 < count) {
            const cv::Vec3f from = m_colours[static_cast<std::size_t>(i)],
                            to = m_colours[static_cast<std::size_t>(i) + 1] - from;
            const double length2 = to.dot(to);
            along = length2 > 0 ? std::clamp((c - from).dot(to) / length2, 0.0, 1.0) : 0;
            there = distance(c, from + static_cast<float>(along) * to);
        }
        if (there < least) {
            least = there;
            best = static_cast<int>(std::lround(i + along));
            share = (i + along + 0.5) / count;
        }
    }
    if (least > m_tolerance) return {Place::Strange, 0};
    // Ends that keep one colour for a while are all end.
    int cold = 0, hot = count - 1;
    const double same = std::max(alike, m_tolerance / 2);
    while (cold < hot && distance(m_colours[static_cast<std::size_t>(cold) + 1], m_colours.front()) < same)
        ++cold;
    while (hot > cold && distance(m_colours[static_cast<std::size_t>(hot) - 1], m_colours.back()) < same)
        --hot;
    // The frame's colour bleeds into the last lines of a lossy picture: so near to an end nothing is sure.
    constexpr double margin = 0.02;
    if (best <= cold || best >= hot || share < margin || share > 1 - margin) return {Place::Saturated, share};
    constexpr double farApart = 0.1;
    const int apart = std::max(2, static_cast<int>(farApart * count));
    for (int i = 0; i < count; ++i)
        if (std::abs(i - best) > apart && away[static_cast<std::size_t>(i)] <= least + alike)
            return {Place::Twofold, share};
    return {Place::Inside, share};
}

Result<Still> stillFromColours(const cv::Mat& bgr, double low_c, double high_c, std::optional<ScaleBar> bar,
                               const std::string& where) {
    if (!(std::isfinite(low_c) && std::isfinite(high_c) && high_c > low_c))
        return Error{say("the bar's hot end must be warmer than its cold end"), where,
                     say("nothing was read")};
    if (!bar) bar = findScaleBar(bgr);
    if (!bar)
        return Error{
            say("no scale bar was found in the picture: say where it is, or save the still with its bar"),
            where, say("nothing was read")};
    const auto palette = Palette::learn(bgr, *bar, where);
    if (!palette) return palette.error();
    Still still;
    still.celsius = cv::Mat(bgr.size(), CV_32FC1, cv::Scalar(std::numeric_limits<float>::quiet_NaN()));
    still.step_k = (high_c - low_c) * palette.value().step();
    std::unordered_map<int, Palette::Match> known; // pictures have few colours
    std::array<long, 4> counts{};
    for (int y = 0; y < bgr.rows; ++y)
        for (int x = 0; x < bgr.cols; ++x) {
            if (bar->at.contains({x, y})) continue;
            const auto& colour = bgr.at<cv::Vec3b>(y, x);
            const int key = colour[0] | colour[1] << 8 | colour[2] << 16;
            auto found = known.find(key);
            if (found == known.end()) found = known.emplace(key, palette.value().match(colour)).first;
            ++counts[static_cast<std::size_t>(found->second.place)];
            if (found->second.place == Palette::Place::Inside)
                still.celsius.at<float>(y, x) =
                    static_cast<float>(low_c + (high_c - low_c) * found->second.share);
        }
    const double all = static_cast<double>(bgr.total());
    const auto tell = [&](Palette::Place place, const Message& why) {
        const long count = counts[static_cast<std::size_t>(place)];
        if (count > 0)
            still.notes.push_back(
                say("{all} % of the picture left out: {why}",
                    {{"all", textOfNumber(std::round(1000 * static_cast<double>(count) / all) / 10)},
                     {"why", why}}));
    };
    still.notes.push_back(
        say("palette learnt from the bar at {x}, {y}, {width} x {height} px",
            {{"x", bar->at.x}, {"y", bar->at.y}, {"width", bar->at.width}, {"height", bar->at.height}}));
    tell(Palette::Place::Saturated, say("at an end of the bar, and maybe beyond"));
    tell(Palette::Place::Strange, say("no colour of the bar (words and marks over the heat)"));
    tell(Palette::Place::Twofold, say("a colour that stands at two places of the bar"));
    if (counts[static_cast<std::size_t>(Palette::Place::Inside)] == 0)
        return Error{say("no pixel has a colour of the bar"), where, say("nothing was read")};
    return still;
}

} // namespace ustor
