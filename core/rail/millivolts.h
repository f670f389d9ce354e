#pragma once

#include "rail/copper_network.h"

#include <memory>
#include <optional>
#include <vector>

namespace ustor {

/// Volts read at a pad while the current flows, against one fixed point of ground.
struct MillivoltReading {
    PadRef at;
    double volts = 0;
};

/// How it is measured.
struct MillivoltSetup {
    PadRef inject; ///< where the current enters
    Amps current;
    Volts resolution = Volts(1e-4); ///< one digit of the meter
    Volts contact = Volts(5e-6);    ///< what a contact adds, by thermal voltage and touch (one deviation)
};

struct PlaceOdds {
    PartIndex part = -1;
    double odds = 0;
};

struct MillivoltFinding {
    std::vector<PlaceOdds> candidates; ///< most likely first; they sum to one
    bool tells = false;                ///< the readings so far, or one more, can part the candidates
    std::optional<PadRef> readNext;    ///< where one more reading is worth most
    double gain_bits = 0;              ///< what it is expected to tell
    std::vector<std::string> notes;
};

/// Where on a stretch the short sits, from readings along the copper while a known current flows to it.
/// Each candidate s drains the current: V_p = c - k I K(p, s) with K the inverse of the Laplacian that is
/// grounded at the place of injection, c unknown (the short's own drop and the ground's), k the copper's true
/// sheet resistance over the assumed one. c and k are integrated out; what is left is the likelihood of s.
/// The next pad is the one with the largest expected gain. Uniform prior over the parts that could short the
/// stretch.
class MillivoltLocator {
  public:
    /// Solves the network once for all candidates. The board and the network must outlive the locator. Error
    /// when the current does not enter on the stretch, or nothing on it could short it.
    static Result<MillivoltLocator> create(const Board& board, const Stretch& stretch,
                                           const CopperNetwork& copper, const MillivoltSetup& setup);
    /// Error when a reading lies beside the stretch.
    Result<MillivoltFinding> locate(const std::vector<MillivoltReading>& readings) const;

  private:
    class Solved;
    explicit MillivoltLocator(std::shared_ptr<const Solved> solved) : m_solved(std::move(solved)) {}
    std::shared_ptr<const Solved> m_solved;
};

} // namespace ustor
