#pragma once

#include "thermal/surface_strokes.h"

#include <array>
#include <filesystem>

namespace ustor {

/// The surfaces that were painted over a case's pictures, kept in its folder ("surfaces-top.json" and so on).
/// Each camera has its own pixels.
class PaintedSurfaces {
  public:
    enum Over { Top, Bottom, Stills };
    /// Reads those of a case; returns what could not be read. An empty folder has none.
    std::vector<Error> open(const std::filesystem::path& folder);
    const std::vector<SurfaceStroke>& strokes(Over over) const { return m_strokes[over]; }
    /// Error when it holds for now but could not be saved.
    Outcome add(Over over, const SurfaceStroke& stroke);
    Outcome takeBack(Over over); ///< the last one, if there is one

  private:
    std::filesystem::path fileOf(Over over) const;
    Outcome save(Over over) const;

    std::filesystem::path m_folder;
    std::array<std::vector<SurfaceStroke>, 3> m_strokes;
};

} // namespace ustor
