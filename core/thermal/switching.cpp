#include "thermal/switching.h"

#include "thermal/power_lags.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

constexpr int block_px = 3;
constexpr double smooth_s = 0.16; ///< deviation of the smoothing before the slope is taken
constexpr std::array<double, 4> answers_s{0.2, 0.6, 1.5, 4}; ///< tau that are tried
constexpr double knot_s = 8;

/// Courses of small blocks, the liveliest first: frames x blocks, with the middle of each.
struct Courses {
    Eigen::MatrixXd k;
    std::vector<PixelPoint> at;
};

/// Evenly in time, so that slopes are differences: frames of a camera that jitters are brought to a grid.
struct Grid {
    double start_s = 0, step_s = 0;
    long count = 0;
    double time_s(long i) const { return start_s + static_cast<double>(i) * step_s; }
};

Grid gridOf(const std::vector<double>& times_s) {
    const auto frames = static_cast<long>(times_s.size());
    return {times_s.front(), (times_s.back() - times_s.front()) / static_cast<double>(frames - 1), frames};
}

Eigen::VectorXd onGrid(const Eigen::VectorXd& course, const std::vector<double>& times_s, const Grid& grid) {
    Eigen::VectorXd even(grid.count);
    std::size_t after = 1;
    for (long i = 0; i < grid.count; ++i) {
        const double t = grid.time_s(i);
        while (after + 1 < times_s.size() && times_s[after] < t)
            ++after;
        const double span = times_s[after] - times_s[after - 1];
        const double share = std::clamp((t - times_s[after - 1]) / span, 0.0, 1.0);
        even[i] =
            course[static_cast<long>(after) - 1] * (1 - share) + course[static_cast<long>(after)] * share;
    }
    return even;
}

Courses liveliest(const RepairedFrames& frames) {
    constexpr std::size_t most = 320;
    const cv::Size size = frames.rises_k.picture();
    // Within some seconds each: what drifts, as most mirrors do, is not livelier for the length of it.
    constexpr double stretch_s = 5;
    cv::Mat within = cv::Mat::zeros(size, CV_32F), steps = within.clone(), before, smooth;
    const std::size_t all = frames.rises_k.size();
    for (std::size_t first = 0, next = 0; first < all; first = next) {
        cv::Mat sum = cv::Mat::zeros(size, CV_32F), squares = sum.clone();
        for (; next < all && frames.times_s[next] < frames.times_s[first] + stretch_s; ++next) {
            cv::blur(frames.rises_k.at(next), smooth, {block_px, block_px});
            sum += smooth;
            cv::accumulateSquare(smooth, squares);
            if (!before.empty()) cv::accumulateSquare(smooth - before, steps);
            smooth.copyTo(before);
        }
        within += squares - sum.mul(sum) / static_cast<double>(next - first);
    }
    // Changes over some seconds against changes from frame to frame: life against noise.
    const cv::Mat variance = within / static_cast<double>(all);
    cv::Mat life;
    cv::divide(variance, steps / static_cast<double>(all) + 1e-8, life);
    std::vector<std::pair<float, cv::Point>> places;
    // One of each tile: a can that mirrors must not crowd out the rest.
    constexpr int tile_px = 6;
    for (int y = 1; y + 1 < size.height; y += tile_px)
        for (int x = 1; x + 1 < size.width; x += tile_px) {
            const cv::Rect tile(x, y, std::min(tile_px, size.width - 1 - x),
                                std::min(tile_px, size.height - 1 - y));
            double top = 0;
            cv::Point at;
            cv::minMaxLoc(life(tile), nullptr, &top, nullptr, &at);
            places.emplace_back(static_cast<float>(top), at + tile.tl());
        }
    const std::size_t kept = std::min(most, places.size());
    std::partial_sort(places.begin(), places.begin() + static_cast<long>(kept), places.end(),
                      [](const auto& a, const auto& b) { return a.first > b.first; });
    Courses courses{Eigen::MatrixXd(static_cast<long>(frames.rises_k.size()), static_cast<long>(kept)), {}};
    for (std::size_t b = 0; b < kept; ++b)
        courses.at.push_back(
            {static_cast<double>(places[b].second.x), static_cast<double>(places[b].second.y)});
    for (std::size_t i = 0; i < frames.rises_k.size(); ++i)
        for (std::size_t b = 0; b < kept; ++b)
            courses.k(static_cast<long>(i), static_cast<long>(b)) = frames.rises_k.meanAt(
                i, cv::Rect(places[b].second.x - 1, places[b].second.y - 1, block_px, block_px));
    return courses;
}

Eigen::MatrixXd baseline(const Grid& grid) {
    const double span_s = grid.step_s * static_cast<double>(grid.count - 1);
    Eigen::MatrixXd hats = Eigen::MatrixXd::Zero(grid.count, static_cast<int>(span_s / knot_s) + 2);
    for (long i = 0; i < grid.count; ++i) {
        const double place = static_cast<double>(i) * grid.step_s / knot_s;
        const int knot = static_cast<int>(place);
        hats(i, knot) = 1 - (place - knot);
        hats(i, knot + 1) = place - knot;
    }
    return hats;
}

/// Smoothed course and its slope, by a Gaussian and its derivative.
Eigen::VectorXd undone(const Eigen::VectorXd& course, const Grid& grid, double answer_s) {
    const int reach = std::max(1, static_cast<int>(std::ceil(3 * smooth_s / grid.step_s)));
    Eigen::VectorXd out = Eigen::VectorXd::Zero(grid.count);
    for (long i = 0; i < grid.count; ++i) {
        double sum = 0, weights = 0, slope = 0, squares = 0;
        for (int d = -reach; d <= reach; ++d) {
            const long j = std::clamp(i + d, 0L, grid.count - 1);
            const double t = d * grid.step_s, weight = std::exp(-t * t / (2 * smooth_s * smooth_s));
            sum += weight * course[j];
            weights += weight;
            slope += weight * t * course[j];
            squares += weight * t * t;
        }
        out[i] = sum / weights + answer_s * slope / squares;
    }
    return out;
}

/// The most likely sequence of two levels, 0 and `height`, in noise; a change costs `price`.
std::vector<std::uint8_t> levels(const Eigen::VectorXd& values, double height, double sigma, double price) {
    const long count = values.size();
    std::vector<std::array<std::uint8_t, 2>> from(static_cast<std::size_t>(count));
    std::array<double, 2> cost{0, 0};
    for (long i = 0; i < count; ++i) {
        std::array<double, 2> next{};
        for (int s = 0; s < 2; ++s) {
            const double stay = cost[s], change = cost[1 - s] + price;
            from[static_cast<std::size_t>(i)][s] = static_cast<std::uint8_t>(stay <= change ? s : 1 - s);
            const double left = (values[i] - s * height) / sigma;
            next[s] = std::min(stay, change) + 0.5 * left * left;
        }
        cost = next;
    }
    std::vector<std::uint8_t> states(static_cast<std::size_t>(count));
    int state = cost[0] <= cost[1] ? 0 : 1;
    for (long i = count - 1; i >= 0; --i) {
        states[static_cast<std::size_t>(i)] = static_cast<std::uint8_t>(state);
        state = from[static_cast<std::size_t>(i)][state];
    }
    return states;
}

struct TwoLevels {
    std::vector<std::uint8_t> states;
    double clearness = 0;
};

/// Levels and baseline in turn, from the middle between what is highest and lowest nearby.
TwoLevels twoLevels(const Eigen::VectorXd& values, const Eigen::MatrixXd& hats, const Grid& grid) {
    constexpr int rounds = 5;
    constexpr double window_s = 5;
    const auto half = static_cast<long>(window_s / grid.step_s);
    TwoLevels found;
    found.states.resize(static_cast<std::size_t>(grid.count));
    for (long i = 0; i < grid.count; ++i) {
        const long from = std::max(0L, i - half), to = std::min(grid.count - 1, i + half);
        const auto near = values.segment(from, to - from + 1);
        found.states[static_cast<std::size_t>(i)] = values[i] > (near.maxCoeff() + near.minCoeff()) / 2;
    }
    // Neighbours in the smoothed course are not independent: as many evidences as fit into it.
    const double each = std::max(1.0, 2 * std::sqrt(3.14159265358979) * smooth_s / grid.step_s);
    for (int round = 0; round < rounds; ++round) {
        Eigen::MatrixXd terms(grid.count, hats.cols() + 1);
        for (long i = 0; i < grid.count; ++i)
            terms(i, 0) = found.states[static_cast<std::size_t>(i)];
        terms.rightCols(hats.cols()) = hats;
        Eigen::MatrixXd gram = terms.transpose() * terms;
        gram.diagonal().array() += 1e-6 * static_cast<double>(grid.count);
        const Eigen::VectorXd c = gram.ldlt().solve(terms.transpose() * values);
        const Eigen::VectorXd left = values - terms * c;
        const double height = c[0], sigma = std::max(1e-6, usualSize(left));
        if (height <= 0) return {};
        found.clearness = height / sigma;
        constexpr double price = 2;
        found.states = levels(values - hats * c.tail(hats.cols()), height, sigma * std::sqrt(each), price);
    }
    return found;
}

std::vector<double> edgesOf(const std::vector<std::uint8_t>& states, const Grid& grid) {
    std::vector<double> edges;
    if (states.front()) edges.push_back(grid.start_s - grid.step_s);
    for (std::size_t i = 1; i < states.size(); ++i)
        if (states[i] != states[i - 1]) edges.push_back(grid.time_s(static_cast<long>(i)) - grid.step_s / 2);
    return edges;
}

/// Correlation of two sequences of states.
double alikeness(const std::vector<std::uint8_t>& a, const std::vector<std::uint8_t>& b) {
    double both = 0, onA = 0, onB = 0;
    const auto count = static_cast<double>(a.size());
    for (std::size_t i = 0; i < a.size(); ++i) {
        both += a[i] && b[i];
        onA += a[i];
        onB += b[i];
    }
    const double spread = std::sqrt(onA * (count - onA) * onB * (count - onB));
    return spread > 0 ? (both * count - onA * onB) / spread : 0;
}

/// What lags of a power that is switched at these times leave of a course.
double leftBy(const std::vector<double>& edges, const Eigen::VectorXd& course, const Eigen::MatrixXd& hats,
              const std::vector<double>& times_s) {
    FoundSwitching switching;
    switching.times_s = edges;
    const Eigen::MatrixXd lags = powerLags(switching.supply(), times_s, 0);
    Eigen::MatrixXd terms(lags.rows(), lags.cols() - 1 + hats.cols());
    terms << lags.leftCols(lags.cols() - 1), hats; // the slowest is the baseline's
    return leftOver(course, terms, Eigen::VectorXd::Ones(course.size())).squaredNorm();
}

void refine(std::vector<double>& edges, const Eigen::VectorXd& course, const Grid& grid,
            const std::vector<double>& times_s) {
    const Eigen::MatrixXd hats = baseline(grid);
    double best = leftBy(edges, course, hats, times_s);
    for (const double step_s : {0.16, 0.08, 0.04, 0.02})
        for (int sweep = 0; sweep < 2; ++sweep)
            for (std::size_t e = 0; e < edges.size(); ++e)
                for (const double by : {-step_s, step_s}) {
                    for (int go = 0; go < 4; ++go) {
                        const double was = edges[e];
                        edges[e] += by;
                        const bool ordered = (e == 0 || edges[e - 1] < edges[e]) &&
                                             (e + 1 == edges.size() || edges[e] < edges[e + 1]);
                        const double left = ordered ? leftBy(edges, course, hats, times_s) : best;
                        if (left < best) {
                            best = left;
                            continue;
                        }
                        edges[e] = was;
                        break;
                    }
                }
}

} // namespace

std::vector<SupplySample> FoundSwitching::supply() const {
    std::vector<SupplySample> samples;
    constexpr double edge_s = 1e-3, before_s = 10, after_s = 1e4;
    if (times_s.empty()) return samples;
    const auto add = [&samples](double time_s, bool on) {
        samples.push_back({time_s, on, 1, 1, on ? 1.0 : 0.0, on ? 1.0 : 0.0});
    };
    add(times_s.front() - before_s, false);
    for (std::size_t i = 0; i < times_s.size(); ++i) {
        add(times_s[i] - edge_s, i % 2 == 1);
        add(times_s[i], i % 2 == 0);
    }
    add(times_s.back() + after_s, times_s.size() % 2 == 1);
    return samples;
}

void sharpenAt(FoundSwitching& found, PixelPoint place, const RepairedFrames& frames) {
    const cv::Size size = frames.rises_k.picture();
    const cv::Rect block(std::clamp(static_cast<int>(std::lround(place.x_px)) - 1, 0, size.width - block_px),
                         std::clamp(static_cast<int>(std::lround(place.y_px)) - 1, 0, size.height - block_px),
                         block_px, block_px);
    Eigen::VectorXd course(static_cast<long>(frames.rises_k.size()));
    for (long i = 0; i < course.size(); ++i)
        course[i] = frames.rises_k.meanAt(static_cast<std::size_t>(i), block);
    refine(found.times_s, course, gridOf(frames.times_s), frames.times_s);
    found.at = place;
}

std::vector<FoundSwitching> findSwitching(const RepairedFrames& frames, std::size_t most) {
    constexpr std::size_t fewestFrames = 40, fewestEdges = 6, manyEdges = 24;
    constexpr double clear = 3, alike = 0.75;
    std::vector<FoundSwitching> all;
    if (frames.rises_k.size() < fewestFrames) return all;
    const Grid grid = gridOf(frames.times_s);
    const Courses courses = liveliest(frames);
    const Eigen::MatrixXd hats = baseline(grid);
    struct Candidate {
        long block;
        TwoLevels levels;
        double score;
    };
    std::vector<Candidate> candidates;
    for (long b = 0; b < courses.k.cols(); ++b) {
        const Eigen::VectorXd even = onGrid(courses.k.col(b), frames.times_s, grid);
        Candidate best{b, {}, 0};
        for (const double answer_s : answers_s) {
            TwoLevels found = twoLevels(undone(even, grid, answer_s), hats, grid);
            if (found.clearness < clear) continue;
            const std::size_t edges = edgesOf(found.states, grid).size();
            if (edges < fewestEdges) continue;
            // Each edge says again that it is one.
            const double score = found.clearness * std::sqrt(static_cast<double>(std::min(edges, manyEdges)));
            if (score > best.score) best = {b, std::move(found), score};
        }
        if (best.score > 0) candidates.push_back(std::move(best));
    }
    std::sort(candidates.begin(), candidates.end(),
              [](const Candidate& a, const Candidate& b) { return a.score > b.score; });
    std::vector<const Candidate*> kept;
    for (const Candidate& c : candidates) {
        const bool known = std::any_of(kept.begin(), kept.end(), [&](const Candidate* k) {
            return alikeness(k->levels.states, c.levels.states) > alike;
        });
        if (known || kept.size() >= most) continue;
        kept.push_back(&c);
        FoundSwitching found{edgesOf(c.levels.states, grid), courses.at[static_cast<std::size_t>(c.block)],
                             c.levels.clearness};
        const Eigen::VectorXd course = courses.k.col(c.block);
        refine(found.times_s, course, grid, frames.times_s);
        all.push_back(std::move(found));
    }
    return all;
}

std::vector<FoundSwitching> switchingByBeats(const std::vector<Beat>& beats) {
    std::vector<FoundSwitching> all;
    for (const double late_s : {0.0, 0.2, 0.4, 0.6}) {
        FoundSwitching found;
        for (const Beat& beat : beats) // on, off, on, ...: a beat that changes nothing is none
            if (beat.on == (found.times_s.size() % 2 == 0)) found.times_s.push_back(beat.time_s + late_s);
        if (!found.times_s.empty()) all.push_back(std::move(found));
    }
    return all;
}

} // namespace ustor
