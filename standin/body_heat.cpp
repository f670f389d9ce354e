#include "standin/body_heat.h"

#include <algorithm>
#include <cmath>

namespace ustor::standin {
namespace {

constexpr double lumpArea_mm2 = 30; // above this a part is no lump
constexpr double bodyCapacity_j_m3k = 2.8e6;

double heightOf(const Part& part) {
    const double small = std::min(part.width_mm, part.height_mm);
    return std::clamp(small, 0.3, 2.0);
}

} // namespace

BodyHeat::BodyHeat(const Board& board, const BoardHeat& laminate) : m_parts(board.parts) {
    for (const Part& part : board.parts) {
        Body body;
        body.layer = part.side == Side::Top ? BoardHeat::Top : BoardHeat::Bottom;
        const double area = part.width_mm * part.height_mm;
        const bool lump = area > 0 && area < lumpArea_mm2 && part.partClass != PartClass::Connector &&
                          part.partClass != PartClass::TestPoint;
        if (lump) {
            body.capacity_j_k = bodyCapacity_j_m3k * area * heightOf(part) * 1e-9;
            // Two solder joints and the air gap below: grows with the width of the ends.
            body.contact_w_k = 0.02 + 0.025 * std::sqrt(area);
            const bool turned = std::fabs(std::fmod(std::fabs(part.rotation_deg), 180.0) - 90) < 45;
            const double w = turned ? part.height_mm : part.width_mm,
                         h = turned ? part.width_mm : part.height_mm;
            constexpr int fine = 4;
            const double step = laminate.cell_mm() / fine;
            std::vector<std::pair<int, float>> cover;
            for (double y = part.centre.y_mm - h / 2 + step / 2; y < part.centre.y_mm + h / 2; y += step)
                for (double x = part.centre.x_mm - w / 2 + step / 2; x < part.centre.x_mm + w / 2;
                     x += step) {
                    const int cell = laminate.cellAt({x, y});
                    const auto known = std::find_if(cover.begin(), cover.end(),
                                                    [cell](const auto& c) { return c.first == cell; });
                    if (known == cover.end())
                        cover.emplace_back(cell, 1.0F / (fine * fine));
                    else
                        known->second += 1.0F / (fine * fine);
                }
            body.cover = std::move(cover);
            for (const auto& [cell, share] : body.cover)
                body.coverSum += static_cast<double>(share);
        }
        m_bodies.push_back(std::move(body));
    }
}

void BodyHeat::addPower(PartIndex index, BoardPoint at, double watts, BoardHeat& laminate) {
    Body& body = m_bodies[index];
    if (!body.cover.empty()) {
        body.inflow_w += watts;
        return;
    }
    // A die of about two millimetres around the place, in the face below the package.
    constexpr int reach = 1;
    const int centre = laminate.cellAt(at);
    constexpr double cells = (2 * reach + 1) * (2 * reach + 1);
    for (int dy = -reach; dy <= reach; ++dy)
        for (int dx = -reach; dx <= reach; ++dx) {
            const int x = std::clamp(centre % laminate.columns() + dx, 0, laminate.columns() - 1);
            const int y = std::clamp(centre / laminate.columns() + dy, 0, laminate.rows() - 1);
            laminate.addHeat(body.layer, y * laminate.columns() + x, watts * laminate.step_s() / cells);
        }
}

void BodyHeat::exchange(BoardHeat& laminate) {
    const double dt = laminate.step_s();
    for (Body& body : m_bodies) {
        if (body.cover.empty()) continue;
        const auto& cells = laminate.rise_k(body.layer);
        double below = 0;
        for (const auto& [cell, share] : body.cover)
            below += static_cast<double>(cells[cell]) * static_cast<double>(share);
        below /= body.coverSum;
        // The lump is stiff against the step, so it is taken exactly over the step with the board held still.
        const double tau = body.capacity_j_k / body.contact_w_k;
        const double rest = below + body.inflow_w / body.contact_w_k;
        const double after = rest + (body.rise_k - rest) * std::exp(-dt / tau);
        const double into = body.inflow_w * dt - body.capacity_j_k * (after - body.rise_k);
        body.rise_k = after;
        body.inflow_w = 0;
        for (const auto& [cell, share] : body.cover)
            laminate.addHeat(body.layer, cell, into * static_cast<double>(share) / body.coverSum);
    }
}

void BodyHeat::paint(Side side, const BoardHeat& laminate, std::vector<float>& surface) const {
    const auto layer = side == Side::Top ? BoardHeat::Top : BoardHeat::Bottom;
    surface = laminate.rise_k(layer);
    for (const Body& body : m_bodies) {
        if (body.layer != layer) continue;
        for (const auto& [cell, share] : body.cover) {
            const float covered = std::min(1.0F, share);
            surface[cell] += covered * (static_cast<float>(body.rise_k) - surface[cell]);
        }
    }
}

double BodyHeat::storedJoules() const {
    double joules = 0;
    for (const Body& body : m_bodies)
        joules += body.capacity_j_k * body.rise_k;
    return joules;
}

} // namespace ustor::standin
