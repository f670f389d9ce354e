#pragma once

#include "base/message.h"
#include "rail/copper_network.h"

#include <memory>
#include <optional>
#include <vector>

namespace ustor {

/// Volts read at a pad while the current flows. The red lead may touch the rail or, where the ground's copper
/// is known, ground.
struct MillivoltReading {
    PadRef at;
    double volts = 0;
    std::optional<PadRef> black = {}; ///< where the black lead was; nothing: at its fixed place
};

/// How it is measured.
struct MillivoltSetup {
    PadRef inject;                    ///< where the current enters
    std::optional<PadRef> minus = {}; ///< where it leaves, on ground
    Amps current;
    Volts resolution = Volts(1e-4); ///< one digit of the meter
    Volts contact = Volts(5e-6);    ///< what a contact adds, by thermal voltage and touch (one deviation)
};

/// The copper that the current runs through.
struct MillivoltModel {
    std::vector<CopperNetwork> rail;     ///< one where it is known, else one for each guess
    std::optional<CopperNetwork> ground; ///< where its copper is known
    bool fromCopper() const { return rail.front().fromCopper; }
};

/// Rail and ground of a board as networks. Error as of `copperNetwork`.
Result<MillivoltModel> millivoltModel(const Board& board, const Stretch& stretch,
                                      const CopperNetworkSettings& settings = {});

struct PlaceOdds {
    PartIndex part = -1;
    double odds = 0;
};

struct MillivoltFinding {
    std::vector<PlaceOdds> candidates; ///< most likely first; they sum to one
    bool tells = false;                ///< the readings so far, or one more, can part the candidates
    std::optional<PadRef> readNext;    ///< where one more reading is worth most
    double gain_bits = 0;              ///< what it is expected to tell
    std::vector<Message> notes;
};

/// Where on a stretch the short sits, from readings along the copper while a known current flows to it.
/// Each candidate s drains the current: V_p = c - k I K(p, s) with K the inverse of the Laplacian that is
/// grounded at the place of injection, c unknown (the short's own drop and the ground's), k the copper's true
/// sheet resistance over the assumed one; on ground V_g = c_g + k I T(g, s) with T that of the ground
/// network, grounded at minus, and c_g what the black lead's place adds. c, c_g, k and what each region of
/// the board may be off by itself (first order: dV_p = -sum over its edges of r i_s i_p, with i the currents
/// of s and of the probe's adjoint) are integrated out; what is left is the likelihood of s. Where the copper
/// is guessed, the likelihoods of all guesses are averaged. The next pad is the one with the largest expected
/// gain. Uniform prior over the parts that could short the stretch.
class MillivoltLocator {
  public:
    /// Solves the networks once for all candidates. Board and model must outlive the locator. Error when the
    /// current does not enter on the stretch, or nothing on it could short it.
    static Result<MillivoltLocator> create(const Board& board, const Stretch& stretch,
                                           const MillivoltModel& model, const MillivoltSetup& setup);
    /// Error when a reading lies beside the rail, or on a ground whose copper is not known.
    Result<MillivoltFinding> locate(const std::vector<MillivoltReading>& readings) const;

  private:
    class Solved;
    explicit MillivoltLocator(std::shared_ptr<const Solved> solved) : m_solved(std::move(solved)) {}
    std::shared_ptr<const Solved> m_solved;
};

} // namespace ustor
