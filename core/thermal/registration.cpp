#include "thermal/registration.h"

#include <cmath>
#include <nlohmann/json.hpp>
#include <opencv2/calib3d.hpp>

namespace ustor {
namespace {

BoardPoint through(const std::array<double, 9>& h, double x, double y) {
    const double w = h[6] * x + h[7] * y + h[8];
    return {(h[0] * x + h[1] * y + h[2]) / w, (h[3] * x + h[4] * y + h[5]) / w};
}

/// The smaller of the two spreads of the places, against the larger: less than a click tells on a board.
bool alongALine(const std::vector<Landmark>& landmarks) {
    double x = 0, y = 0, xx = 0, xy = 0, yy = 0;
    const auto n = static_cast<double>(landmarks.size());
    for (const Landmark& l : landmarks) {
        x += l.board.x_mm / n;
        y += l.board.y_mm / n;
    }
    for (const Landmark& l : landmarks) {
        xx += (l.board.x_mm - x) * (l.board.x_mm - x);
        xy += (l.board.x_mm - x) * (l.board.y_mm - y);
        yy += (l.board.y_mm - y) * (l.board.y_mm - y);
    }
    const double middle = (xx + yy) / 2, apart = std::hypot((xx - yy) / 2, xy);
    constexpr double least = 0.05;
    return !std::isfinite(middle) || middle - apart <= least * least * (middle + apart);
}

} // namespace

Result<Registration> Registration::fromLandmarks(const std::vector<Landmark>& landmarks, Side side) {
    if (landmarks.size() < 4)
        return Error{say("four landmarks are needed, {count} given", {{"count", landmarks.size()}}),
                     "registration",
                     {}};
    if (alongALine(landmarks))
        return Error{say("the landmarks lie on a line or on one spot"), "registration",
                     say("choose four far apart")};
    std::vector<cv::Point2d> board, image;
    for (const Landmark& l : landmarks) {
        board.emplace_back(l.board.x_mm, l.board.y_mm);
        image.emplace_back(l.image.x_px, l.image.y_px);
    }
    const cv::Mat h = cv::findHomography(board, image, 0);
    const double determinant = h.empty() ? 0 : cv::determinant(h);
    if (h.empty() || !std::isfinite(determinant) || std::fabs(determinant) < 1e-9)
        return Error{say("the landmarks lie on a line or on one spot"), "registration",
                     say("choose four far apart")};
    const cv::Mat back = h.inv();
    Registration r;
    std::copy(h.begin<double>(), h.end<double>(), r.m_toImage.begin());
    std::copy(back.begin<double>(), back.end<double>(), r.m_toBoard.begin());
    r.m_side = side;
    r.m_landmarks = landmarks;
    const int turns = r.turns();
    if (std::abs(turns) != static_cast<int>(landmarks.size()))
        return Error{say("two of the landmarks look swapped: the board would be folded"), "registration",
                     say("click them again, check which is which")};
    // Board millimetres rise to the top, rows of a picture to the bottom: seen from the top the turn is
    // negative.
    if ((turns < 0) != (side == Side::Top))
        return Error{say("the picture is mirrored for the {side} side", {{"side", labelOf(side)}}),
                     "registration",
                     say("see which side faces the camera, and that the camera itself mirrors nothing")};
    double sum = 0;
    for (const Landmark& l : landmarks) {
        const double miss = distance_mm(r.toBoard(l.image), l.board);
        sum += miss * miss;
    }
    r.m_residual_mm = std::sqrt(sum / static_cast<double>(landmarks.size()));
    if (!std::isfinite(r.m_residual_mm) || r.m_residual_mm > 5)
        return Error{say("the landmarks do not fit a flat board (they miss by more than 5 mm)"),
                     "registration", say("check which is which")};
    return r;
}

/// A flat board in front of a camera is never folded: at every landmark the map turns the same way.
int Registration::turns() const {
    int turns = 0;
    for (const Landmark& l : m_landmarks) {
        constexpr double step_mm = 1e-3;
        const PixelPoint at = toImage(l.board), right = toImage({l.board.x_mm + step_mm, l.board.y_mm}),
                         up = toImage({l.board.x_mm, l.board.y_mm + step_mm});
        const double area =
            (right.x_px - at.x_px) * (up.y_px - at.y_px) - (right.y_px - at.y_px) * (up.x_px - at.x_px);
        turns += area > 0 ? 1 : -1;
    }
    return turns;
}

PixelPoint Registration::toImage(BoardPoint p) const {
    const BoardPoint q = through(m_toImage, p.x_mm, p.y_mm);
    return {q.x_mm, q.y_mm};
}

BoardPoint Registration::toBoard(PixelPoint p) const {
    return through(m_toBoard, p.x_px, p.y_px);
}

double Registration::pixelsPerMm(BoardPoint at) const {
    const PixelPoint here = toImage(at), right = toImage({at.x_mm + 1, at.y_mm}),
                     up = toImage({at.x_mm, at.y_mm + 1});
    return (distance_px(here, right) + distance_px(here, up)) / 2;
}

double Registration::sigma_mm() const {
    constexpr double click_px = 0.5; // a careful click, common practice
    const double click_mm = click_px / pixelsPerMm(m_landmarks.front().board);
    return m_landmarks.size() > 4 ? std::max(m_residual_mm, 0.3 * click_mm) : click_mm;
}

std::string registrationToJson(const Registration& registration) {
    nlohmann::ordered_json j{{"format", "ustor-registration/1"}, {"side", wordOf(registration.side())}};
    j["landmarks"] = nlohmann::ordered_json::array();
    for (const Landmark& l : registration.landmarks())
        j["landmarks"].push_back(
            {{"board_mm", {l.board.x_mm, l.board.y_mm}}, {"image_px", {l.image.x_px, l.image.y_px}}});
    return j.dump(1) + "\n";
}

Result<Registration> registrationFromJson(std::string_view text, std::string_view fileName) {
    const std::string file(fileName);
    try {
        const auto j = nlohmann::json::parse(text);
        if (j.at("format") != "ustor-registration/1")
            return Error{say("not a registration"), file, say("nothing was read")};
        std::vector<Landmark> landmarks;
        for (const auto& l : j.at("landmarks"))
            landmarks.push_back(
                {{l.at("board_mm").at(0).get<double>(), l.at("board_mm").at(1).get<double>()},
                 {l.at("image_px").at(0).get<double>(), l.at("image_px").at(1).get<double>()}});
        auto made = Registration::fromLandmarks(
            landmarks, j.value("side", std::string("top")) == "bottom" ? Side::Bottom : Side::Top);
        if (!made) return Error{made.error().what, file, made.error().kept};
        return made;
    } catch (const nlohmann::json::exception& fault) {
        return Error{say("cannot be read as a registration: {fault}", {{"fault", fault.what()}}), file,
                     say("nothing was read")};
    }
}

} // namespace ustor
