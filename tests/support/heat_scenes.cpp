#include "support/heat_scenes.h"

#include "base/random.h"
#include "support/layered_plate.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor::testing {
namespace {

struct Body {
    BoardPoint at; ///< mm from the picture's first pixel, y down
    double width_mm = 1, height_mm = 0.5;
    double capacity_j_k = 2e-3, contact_w_k = 0.02;
    double share = 0; ///< of the fault's power
    double rise_k = 0;
};

class Maker {
  public:
    Maker(SceneKind kind, std::uint64_t seed)
        : m_kind(kind), m_random(seed * 1000003 + static_cast<int>(kind)) {
        const bool large = m_random.uniform() < 0.4;
        m_info.width = large ? 256 : 160;
        m_info.height = large ? 192 : 120;
        m_info.frameRate_hz = kind == SceneKind::Whisper || m_random.uniform() < 0.6 ? 25 : 9;
        m_info.netd_mk = m_random.uniform(40, 100);
        m_mm = large ? m_random.uniform(0.25, 0.45) : m_random.uniform(0.3, 0.7);
        m_seconds = kind == SceneKind::Whisper ? 30 : m_random.uniform(20, 30);
        m_clockAhead_s = m_random.uniform(-0.1, 0.1);
        m_blur_px = m_random.uniform(0.6, 1.1);
        m_plate.emplace(m_info.width * m_mm, m_info.height * m_mm, m_random);
    }

    Scene make() {
        layParts();
        laySurface();
        switchTimes();
        if (has(SceneKind::Rework)) preheat();
        film();
        writeSupply();
        return std::move(m_scene);
    }

  private:
    bool has(SceneKind what) const {
        if (m_kind == what) return true;
        if (m_kind == SceneKind::Cooling) return what == SceneKind::Rework || what == SceneKind::Nothing;
        return m_kind == SceneKind::Several &&
               (what == SceneKind::Hand || what == SceneKind::Rework || what == SceneKind::Shutter);
    }
    BoardPoint somewhere(double margin_px) {
        return {m_random.uniform(margin_px, m_info.width - 1 - margin_px) * m_mm,
                m_random.uniform(margin_px, m_info.height - 1 - margin_px) * m_mm};
    }
    PixelPoint pixel(BoardPoint p) const { return {p.x_mm / m_mm, p.y_mm / m_mm}; }

    Body part(BoardPoint at) {
        Body body;
        body.at = at;
        const double scale = m_random.uniform(0.6, 1.6);
        body.width_mm = scale * (m_random.uniform() < 0.5 ? 1.0 : 0.5);
        body.height_mm = scale * 1.5 - body.width_mm;
        const double volume_mm3 = body.width_mm * body.height_mm * 0.5 * scale;
        body.capacity_j_k = volume_mm3 * 3.2e-3; // ceramic, J/mm3K
        body.contact_w_k = m_random.uniform(0.012, 0.035) * scale;
        return body;
    }

    void layParts() {
        const auto log = [&](double low, double high) {
            return low * std::pow(high / low, m_random.uniform());
        };
        m_watts = m_kind == SceneKind::Whisper ? log(0.3e-3, 2e-3) : log(3e-3, 0.45);
        if (m_kind == SceneKind::Far) m_watts = log(0.02, 0.45);
        if (m_kind == SceneKind::Wide) m_watts = log(0.15, 1.0);
        if (m_kind == SceneKind::Path || m_kind == SceneKind::Handheld || m_kind == SceneKind::Several)
            m_watts = log(0.01, 0.45);
        const double margin = 14;
        const BoardPoint fault = somewhere(margin);
        if (has(SceneKind::Nothing) || m_kind == SceneKind::Wide) {
            m_area = somewhere(25);
            m_areaReach_mm = m_random.uniform(7, 14);
            return;
        }
        m_scene.fault = pixel(fault);
        m_bodies.push_back(part(fault));
        m_bodies.back().share = 1;
        if (m_kind != SceneKind::Path) return;
        const int links = 1 + m_random.below(2);
        while (static_cast<int>(m_bodies.size()) <= links) {
            const BoardPoint at = somewhere(margin);
            if (std::any_of(m_bodies.begin(), m_bodies.end(),
                            [&](const Body& b) { return distance_mm(b.at, at) < 6; }))
                continue;
            m_bodies.push_back(part(at));
            m_bodies.back().share = m_random.uniform(1, 3);
            m_scene.inPath.push_back(pixel(at));
        }
    }

    /// Emissivity by surface: mask, chips, cans, bare pads; and faint warmth of a board that idles.
    void laySurface() {
        const cv::Size size(m_info.width, m_info.height);
        m_emissivity = cv::Mat(size, CV_32FC1, cv::Scalar(0.9));
        m_texture = cv::Mat::zeros(size, CV_32FC1);
        const auto box = [&](double least_mm, double most_mm) {
            const BoardPoint at = somewhere(4);
            return cv::Rect(
                cv::Point(static_cast<int>(at.x_mm / m_mm), static_cast<int>(at.y_mm / m_mm)),
                cv::Size(std::max(1, static_cast<int>(m_random.uniform(least_mm, most_mm) / m_mm)),
                         std::max(1, static_cast<int>(m_random.uniform(least_mm, most_mm) / m_mm))));
        };
        const int parts = static_cast<int>(size.area() * m_mm * m_mm / 40);
        for (int i = 0; i < parts; ++i) {
            const double kind = m_random.uniform();
            if (kind < 0.6) // pads and small metal ends
                cv::rectangle(m_emissivity, box(0.4, 1.2), cv::Scalar(m_random.uniform(0.1, 0.4)),
                              cv::FILLED);
            else if (kind < 0.92) { // chips
                const auto chip = box(1.5, 9);
                cv::rectangle(m_emissivity, chip, cv::Scalar(m_random.uniform(0.88, 0.95)), cv::FILLED);
                cv::rectangle(m_texture, chip, cv::Scalar(m_random.uniform(0, 1.2)), cv::FILLED);
            } else // cans
                cv::rectangle(m_emissivity, box(4, 12), cv::Scalar(m_random.uniform(0.08, 0.25)), cv::FILLED);
        }
        // Bodies are ceramic, plastic or lacquer: what shines cannot be located by anybody.
        for (const Body& body : m_bodies)
            if (m_kind != SceneKind::Far) {
                const cv::Point at(static_cast<int>(std::lround(body.at.x_mm / m_mm)),
                                   static_cast<int>(std::lround(body.at.y_mm / m_mm)));
                cv::circle(m_emissivity, at, std::max(2, static_cast<int>(1.6 / m_mm)), cv::Scalar(0.9),
                           cv::FILLED);
            }
        cv::GaussianBlur(m_texture, m_texture, {}, 1.5 / m_mm);
        m_pattern = cv::Mat(size, CV_32FC1);
        for (auto it = m_pattern.begin<float>(); it != m_pattern.end<float>(); ++it)
            *it = static_cast<float>(0.05 * m_random.normal());
    }

    void switchTimes() {
        double t = m_random.uniform(1, 2.5);
        const double on_s = m_random.uniform(0.5, 2.5), off_s = m_random.uniform(0.5, 2.5);
        while (t < m_seconds - 0.5) {
            const bool manual = m_kind == SceneKind::Manual;
            const double on = manual ? m_random.uniform(0.4, 4) : on_s,
                         off = manual ? m_random.uniform(0.4, 4) : off_s;
            m_pulses.push_back({t, std::min(t + on, m_seconds)});
            t += on + off;
        }
    }

    /// Watts into the fault at a time on the camera's clock: an electronic load settles in some tens of
    /// milliseconds, and shorts drift.
    double watts(double time_s) const {
        for (const auto& [on, off] : m_pulses)
            if (time_s >= on && time_s < off)
                return m_watts * (1 - std::exp(-(time_s - on) / 0.02)) * (1 + 0.08 * std::sin(0.3 * time_s));
        return 0;
    }

    /// Hot air on some place, minutes ago and just now.
    void preheat() {
        const BoardPoint at = somewhere(10);
        const double reach_mm = m_random.uniform(3, 8), warm_k = m_random.uniform(4, 25);
        m_plate->warm(at, reach_mm, warm_k);
        for (double t = 0; t < 4; t += m_plate->step_s())
            m_plate->step();
        for (Body& body : m_bodies)
            if (m_kind != SceneKind::Far) body.rise_k = m_plate->rise_k(LayeredPlate::Near, body.at);
    }

    void heat(double to_s) {
        const double dt = m_plate->step_s();
        const auto face = m_kind == SceneKind::Far ? LayeredPlate::Far : LayeredPlate::Near;
        for (; m_heated_s < to_s; m_heated_s += dt) {
            const double p = watts(m_heated_s);
            if (m_kind == SceneKind::Wide) m_plate->addArea(m_area, m_areaReach_mm, p * dt);
            for (Body& body : m_bodies) {
                const double under_k = m_plate->rise_k(face, body.at);
                const double flow_w = body.contact_w_k * (body.rise_k - under_k);
                body.rise_k += (p * body.share - flow_w) * dt / body.capacity_j_k;
                m_plate->addHeat(face, body.at, std::max(body.width_mm, 0.6), flow_w * dt);
            }
            m_plate->step();
        }
        if (!m_bodies.empty() && !has(SceneKind::Rework))
            m_scene.partRise_k = std::max(m_scene.partRise_k, m_bodies.front().rise_k);
    }

    void paintBodies(cv::Mat& surface) const {
        if (m_kind == SceneKind::Far) return;
        for (const Body& body : m_bodies) {
            const double x0 = (body.at.x_mm - body.width_mm / 2) / m_mm,
                         x1 = (body.at.x_mm + body.width_mm / 2) / m_mm;
            const double y0 = (body.at.y_mm - body.height_mm / 2) / m_mm,
                         y1 = (body.at.y_mm + body.height_mm / 2) / m_mm;
            for (int y = static_cast<int>(std::floor(y0)); y <= static_cast<int>(std::ceil(y1)); ++y)
                for (int x = static_cast<int>(std::floor(x0)); x <= static_cast<int>(std::ceil(x1)); ++x) {
                    // How much of the pixel, whose middle is (x, y), the body covers.
                    const double wide = std::min(x1, x + 0.5) - std::max(x0, x - 0.5),
                                 high = std::min(y1, y + 0.5) - std::max(y0, y - 0.5);
                    if (wide <= 0 || high <= 0 || x < 0 || y < 0 || x >= surface.cols || y >= surface.rows)
                        continue;
                    float& pixel = surface.at<float>(y, x);
                    pixel += static_cast<float>(wide * high * (body.rise_k - pixel));
                }
        }
    }

    /// What the surroundings show in a mirror, and how it changes: somebody bends over the board.
    double reflected_k(double time_s) const {
        double k = m_reflect_k;
        for (const auto& [when, reach, height] : m_visits)
            k += height * std::exp(-0.5 * std::pow((time_s - when) / reach, 2));
        return k;
    }

    void paintHand(cv::Mat& seen, double time_s) const {
        for (const auto& visit : m_hands) {
            const double inside = std::min(time_s - visit.from_s, visit.to_s - time_s);
            if (inside <= 0) continue;
            const double reach = std::min(1.0, inside / 0.4) * visit.reach_px;
            const cv::Point2d end(visit.x_px + visit.dx * reach + 1.5 * std::sin(5 * time_s),
                                  visit.y_px + visit.dy * reach + 1.5 * std::cos(4 * time_s));
            cv::Mat mask = cv::Mat::zeros(seen.size(), CV_32FC1);
            cv::line(mask, cv::Point(static_cast<int>(visit.x_px), static_cast<int>(visit.y_px)),
                     cv::Point(static_cast<int>(end.x), static_cast<int>(end.y)), cv::Scalar(1),
                     std::max(3, static_cast<int>(12 / m_mm)));
            cv::GaussianBlur(mask, mask, {}, 1.2);
            seen += mask.mul(cv::Scalar::all(8.5) - seen);
        }
    }

    struct HandVisit {
        double from_s, to_s, x_px, y_px, dx, dy, reach_px;
    };

    void planPeople() {
        m_reflect_k = m_random.uniform(-1, 2.5);
        const int visits = has(SceneKind::Nothing) ? 6 : 2;
        for (int i = 0; i < visits; ++i)
            m_visits.push_back(
                {m_random.uniform(0, m_seconds), m_random.uniform(0.6, 4), m_random.uniform(-0.6, 2)});
        if (!has(SceneKind::Hand)) return;
        const int hands = 1 + m_random.below(2);
        for (int i = 0; i < hands; ++i) {
            const double from = m_random.uniform(2, m_seconds - 6), length = m_random.uniform(1.5, 5);
            // From the rim inwards; over the board, but not over the fault all the time.
            const bool left = m_random.uniform() < 0.5;
            const double y = m_random.uniform(0, m_info.height);
            m_hands.push_back({from, from + length, left ? 0.0 : m_info.width - 1.0, y, left ? 1.0 : -1.0,
                               m_random.uniform(-0.4, 0.4), m_random.uniform(0.2, 0.6) * m_info.width});
        }
    }

    PixelPoint motion(double time_s) const {
        double most = 0;
        if (m_kind == SceneKind::Handheld) most = 3;
        if (m_kind == SceneKind::Several) most = 1;
        if (most == 0) return {};
        const double a = m_phase, w = 2 * std::numbers::pi / m_seconds;
        const auto way = [&](double t, double p) {
            return 0.5 * most *
                   (std::sin(w * t + p) + 0.5 * std::sin(2.7 * w * t + 2 * p) +
                    0.15 * std::sin(23 * w * t + p));
        };
        return {way(time_s, a) - way(0, a), way(time_s, a + 2) - way(0, a + 2)};
    }

    void film() {
        planPeople();
        m_phase = m_random.uniform(0, 6);
        const double frame_s = 1 / m_info.frameRate_hz;
        const int frames = static_cast<int>(m_seconds * m_info.frameRate_hz);
        double drift_k = 0, jump_k = 0, frozenUntil_s = -1;
        double nextShutter_s = has(SceneKind::Shutter) ? m_random.uniform(3, 8) : 1e9;
        const double slope_k_s = m_random.uniform(-0.01, 0.01);
        std::vector<cv::Point> dead;
        for (int i = 0; i < 4; ++i)
            dead.emplace_back(m_random.below(m_info.width), m_random.below(m_info.height));
        cv::Mat last;
        for (int i = 0; i < frames; ++i) {
            const double t = i * frame_s;
            heat(t);
            drift_k += slope_k_s * frame_s + 0.004 * std::sqrt(frame_s) * m_random.normal();
            if (t >= nextShutter_s) {
                frozenUntil_s = t + m_random.uniform(0.25, 0.6);
                nextShutter_s = t + m_random.uniform(5, 10);
                jump_k += m_random.uniform(-0.6, 0.6);
            }
            cv::Mat raw;
            if (t < frozenUntil_s && !last.empty()) {
                raw = last.clone();
            } else {
                raw = picture(t, drift_k + jump_k, dead);
            }
            last = raw;
            const bool lost = has(SceneKind::Shutter) && m_random.uniform() < 0.02;
            if (lost && i > 0) continue;
            const double stamp = t + 0.002 * m_random.normal();
            auto& all = m_scene.recording.frames;
            all.push_back(
                {all.empty() ? std::max(0.0, stamp) : std::max(stamp, all.back().time_s + 1e-3), raw});
            if (has(SceneKind::Shutter) && m_random.uniform() < 0.01)
                all.push_back({all.back().time_s + 0.004, raw.clone()});
        }
        m_scene.recording.info = m_info;
        m_scene.mmPerPixel = m_mm;
        m_scene.fault_w = m_watts;
    }

    cv::Mat picture(double time_s, double offset_k, const std::vector<cv::Point>& dead) {
        cv::Mat surface = m_plate->picture(LayeredPlate::Near, m_info.width, m_info.height, m_mm);
        paintBodies(surface);
        surface += m_texture;
        cv::Mat seen = surface.mul(m_emissivity) + (1 - m_emissivity) * reflected_k(time_s);
        const PixelPoint by = motion(time_s);
        if (by.x_px != 0 || by.y_px != 0) {
            const cv::Mat shift = (cv::Mat_<double>(2, 3) << 1, 0, by.x_px, 0, 1, by.y_px);
            cv::warpAffine(seen, seen, shift, seen.size(), cv::INTER_CUBIC, cv::BORDER_REPLICATE);
        }
        paintHand(seen, time_s);
        cv::GaussianBlur(seen, seen, {}, m_blur_px, m_blur_px, cv::BORDER_REPLICATE);
        seen += m_pattern;
        cv::Mat raw(seen.size(), CV_16UC1);
        for (int y = 0; y < seen.rows; ++y)
            for (int x = 0; x < seen.cols; ++x) {
                const double kelvin = 273.15 + m_info.ambient_c + seen.at<float>(y, x) + offset_k +
                                      1e-3 * m_info.netd_mk * m_random.normal();
                raw.at<std::uint16_t>(y, x) =
                    static_cast<std::uint16_t>(std::clamp(std::lround(100 * kelvin), 0L, 65535L));
            }
        for (const cv::Point p : dead)
            raw.at<std::uint16_t>(p) = static_cast<std::uint16_t>(27000 + m_random.below(4000));
        return raw;
    }

    void writeSupply() {
        // A supply that is asked thirty times a second, on a clock of its own.
        const double volts = 0.05 + 3 * m_random.uniform();
        double lag = 0;
        for (double t = -0.5; t < m_seconds + 0.5; t += m_random.uniform(0.025, 0.045)) {
            SupplySample s;
            s.time_s = t + m_clockAhead_s;
            double all = 0;
            for (const Body& body : m_bodies)
                all += body.share;
            const double p = watts(t) * std::max(1.0, all);
            s.output = p > 0;
            s.setVolts = volts;
            s.setAmps = 1.2 * m_watts / volts;
            s.volts = s.output ? volts * (1 + 0.002 * m_random.normal()) : 0;
            s.amps = s.output ? p / volts * (1 + 0.003 * m_random.normal()) : 0;
            m_scene.recording.supply.push_back(s);
            lag += s.amps;
        }
    }

    struct Visit {
        double when_s, reach_s, height_k;
    };

    SceneKind m_kind;
    Random m_random;
    CameraInfo m_info;
    Scene m_scene;
    double m_mm = 0.5, m_seconds = 25, m_clockAhead_s = 0, m_blur_px = 0.8, m_watts = 0.01, m_heated_s = 0;
    double m_reflect_k = 0, m_phase = 0, m_areaReach_mm = 8;
    BoardPoint m_area;
    std::optional<LayeredPlate> m_plate;
    std::vector<Body> m_bodies;
    std::vector<std::pair<double, double>> m_pulses;
    std::vector<Visit> m_visits;
    std::vector<HandVisit> m_hands;
    cv::Mat m_emissivity, m_texture, m_pattern;
};

} // namespace

std::string_view wordOf(SceneKind kind) {
    constexpr std::string_view words[] = {"plain",   "hand",     "rework",  "manual", "shutter",
                                          "whisper", "handheld", "several", "path",   "far",
                                          "wide",    "nothing",  "cooling"};
    return words[static_cast<int>(kind)];
}

const std::vector<SceneKind>& allScenes() {
    static const std::vector<SceneKind> all = [] {
        std::vector<SceneKind> kinds;
        for (int i = 0; i <= static_cast<int>(SceneKind::Cooling); ++i)
            kinds.push_back(static_cast<SceneKind>(i));
        return kinds;
    }();
    return all;
}

Scene makeScene(SceneKind kind, std::uint64_t seed) {
    return Maker(kind, seed).make();
}

} // namespace ustor::testing
