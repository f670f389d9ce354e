#include "board/plane/crossings.h"

#include <algorithm>

namespace ustor::plane {
namespace {

struct Edge {
    IntPoint a, b; ///< from left to right
    long long low = 0, high = 0;
};

/// Which side of an edge a point lies on: -1, 0 or 1.
int sideOf(const Edge& e, IntPoint p) {
    // Nanometres of a metre squared do not fit 64 bits; a bit of doubt at a touch changes no count that
    // matters.
    const auto turn = static_cast<double>(e.b.X - e.a.X) * static_cast<double>(p.Y - e.a.Y) -
                      static_cast<double>(e.b.Y - e.a.Y) * static_cast<double>(p.X - e.a.X);
    return turn > 0 ? 1 : turn < 0 ? -1 : 0;
}

bool cross(const Edge& e, const Edge& f) {
    return sideOf(e, f.a) * sideOf(e, f.b) < 0 && sideOf(f, e.a) * sideOf(f, e.b) < 0;
}

} // namespace

bool crossesItself(const Path& path, std::size_t more) {
    std::vector<Edge> edges;
    for (std::size_t i = 0; i < path.size(); ++i) {
        Edge e{path[i], path[(i + 1) % path.size()]};
        if (e.b.X < e.a.X) std::swap(e.a, e.b);
        e.low = std::min(e.a.Y, e.b.Y);
        e.high = std::max(e.a.Y, e.b.Y);
        edges.push_back(e);
    }
    std::sort(edges.begin(), edges.end(), [](const Edge& e, const Edge& f) { return e.a.X < f.a.X; });
    std::vector<const Edge*> open; // that reach to where the sweep is
    std::size_t found = 0;
    for (const Edge& e : edges) {
        std::erase_if(open, [&e](const Edge* o) { return o->b.X < e.a.X; });
        for (const Edge* o : open)
            if (o->low <= e.high && e.low <= o->high && cross(*o, e) && ++found > more) return true;
        open.push_back(&e);
    }
    return false;
}

} // namespace ustor::plane
