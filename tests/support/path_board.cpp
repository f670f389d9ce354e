#include "support/path_board.h"

namespace ustor::testing {

namespace {

/// Rows of a picture go down, board millimetres up.
BoardPoint placeUnder(const Scene& scene, PixelPoint at) {
    return {at.x_px * scene.mmPerPixel, -at.y_px * scene.mmPerPixel};
}

} // namespace

Board boardWithBeads(const Scene& scene) {
    Board board;
    board.nets.push_back({"RAIL", false, Volts(3.3), false});
    int number = 0;
    for (const PixelPoint at : scene.inPath) {
        const auto feed = static_cast<NetIndex>(board.nets.size());
        board.nets.push_back({"FEED" + std::to_string(++number), false, {}, false});
        Part bead;
        bead.designator = "FB" + std::to_string(number);
        bead.partClass = PartClass::Ferrite;
        bead.centre = placeUnder(scene, at);
        bead.width_mm = 2;
        bead.height_mm = 1.2;
        bead.pads = {{"1", {bead.centre.x_mm - 1, bead.centre.y_mm}, feed},
                     {"2", {bead.centre.x_mm + 1, bead.centre.y_mm}, 0}};
        board.parts.push_back(bead);
    }
    return board;
}

Registration straightOver(const Scene& scene) {
    std::vector<Landmark> landmarks;
    for (const PixelPoint p : {PixelPoint{10, 10}, {100, 10}, {100, 90}, {10, 90}})
        landmarks.push_back({placeUnder(scene, p), p});
    return Registration::fromLandmarks(landmarks, Side::Top).value();
}

} // namespace ustor::testing
