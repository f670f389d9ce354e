#include "rail/copper_picture.h"

#include "rail/copper.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace ustor {
namespace {

/// Current density from the slope of the potential: j = -grad V / R_square.
void addFlow(CopperPicture& picture, const CopperLayer& layer) {
    const double square = sheetResistance(layer.thickness_mm * 1e-3).value;
    const int every = std::max(1, static_cast<int>(std::lround(1.5 / picture.step_mm)));
    const auto volts = [&](int x, int y) {
        return picture.volts[static_cast<std::size_t>(y) * picture.columns + x];
    };
    for (int y = every; y + 1 < picture.rows; y += every)
        for (int x = every; x + 1 < picture.columns; x += every) {
            const double dx = volts(x + 1, y) - volts(x - 1, y), dy = volts(x, y + 1) - volts(x, y - 1);
            if (!std::isfinite(dx) || !std::isfinite(dy) || !std::isfinite(volts(x, y))) continue;
            const double scale = -1 / (2 * picture.step_mm * square);
            picture.flow.push_back({{picture.low.x_mm + (x + 0.5) * picture.step_mm,
                                     picture.low.y_mm + (y + 0.5) * picture.step_mm},
                                    {dx * scale, dy * scale}});
        }
}

} // namespace

Result<std::vector<CopperPicture>> copperPictures(const Board& board, const Stretch& stretch, PadRef inject,
                                                  PartIndex drain, Amps current, int mostCells) {
    CopperNetworkSettings settings;
    settings.mostCells = mostCells;
    const auto made = copperNetwork(board, stretch, settings);
    if (!made) return made.error();
    const CopperNetwork& copper = made.value();
    if (!copper.fromCopper)
        return Error{
            say("no file gives this rail's copper: there is nothing to draw"), nameOf(board, stretch), {}};
    const int feed = copper.nodeOf(inject);
    if (feed < 0) return Error{say("the place of injection is not on this rail"), board.placeOf(inject), {}};
    const auto grounded = copper.network.grounded(feed);
    if (!grounded) return grounded.error();
    std::vector<int> drains;
    for (int i = 0; i < static_cast<int>(board.parts[drain].pads.size()); ++i)
        if (const int node = copper.nodeOf({drain, i}); node >= 0 && grounded.value().reaches(node))
            drains.push_back(node);
    if (drains.empty()) return Error{say("no copper leads to this part"), board.parts[drain].designator, {}};
    std::vector<double> amps(static_cast<std::size_t>(copper.network.nodes()), 0.0);
    for (const int node : drains)
        amps[static_cast<std::size_t>(node)] = -current.value / static_cast<double>(drains.size());
    const auto solved = grounded.value().solve(amps);
    if (!solved) return solved.error();
    const std::vector<double>& volts = solved.value();
    const double lowest = *std::min_element(volts.begin(), volts.end());
    std::vector<CopperPicture> pictures;
    for (std::size_t i = 0; i < copper.layers.size(); ++i) {
        const CopperCells& cells = copper.layers[i];
        CopperPicture picture;
        picture.step_mm = cells.cell_mm();
        const BoardPoint first = cells.middle(0, 0);
        picture.low = {first.x_mm - picture.step_mm / 2, first.y_mm - picture.step_mm / 2};
        picture.columns = cells.columns();
        picture.rows = cells.rows();
        picture.volts.assign(static_cast<std::size_t>(picture.columns) * picture.rows,
                             std::numeric_limits<float>::quiet_NaN());
        for (int y = 0; y < picture.rows; ++y)
            for (int x = 0; x < picture.columns; ++x)
                if (const int node = cells.number(x, y); node >= 0 && grounded.value().reaches(node))
                    picture.volts[static_cast<std::size_t>(y) * picture.columns + x] =
                        static_cast<float>(volts[static_cast<std::size_t>(node)] - lowest);
        addFlow(picture, board.copper[i]);
        pictures.push_back(std::move(picture));
    }
    return pictures;
}

} // namespace ustor
