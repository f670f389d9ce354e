#pragma once

#include "diagnosis/belief/belief.h"
#include "diagnosis/fact/case_state.h"

#include <vector>

namespace ustor {

struct Trial;

/// What a move may show, and what is left to do then.
struct MoveOutcome {
    Message what;
    double odds = 0;
    double minutesAfter = 0; ///< expected cost to repair, once it has shown
    double repairable = 0;   ///< that a person with hot air can repair it, once it has shown
};

/// The belief as it bears on what is still to be done: for each hypothesis what of it is on the board as it
/// stands, and the expected minutes under any reweighing of them. State, belief and pace must outlive it.
class Prospect {
  public:
    Prospect(const CaseState& state, const Belief& belief, const WorkPace& pace);

    struct View {
        double odds = 0;
        std::vector<Fault> left;      ///< faults that are on the board as it stands
        std::vector<PartIndex> parts; ///< theirs, each once
        bool repairable = true;       ///< no processor, no laminate, nothing unknown
        bool listed = false;          ///< each of them can be taken off by hand
        double minutes = 0;           ///< to find out what else it is, where it is not listed
    };
    /// Likeliest first; the tail that matters to nothing is cut off, the rest adds up to one.
    const std::vector<View>& views() const { return m_views; }

    /// Expected minutes to repair if each view had `given` times its odds: times the sum of them, so that
    /// outcomes of a move add up. `off`: a part that is taken off as well. What is mended costs nothing more.
    /// Either by trying part after part, by falling odds per minute, or by asking first, where that costs
    /// less and `hopeful` says that there is something left to ask.
    double weightedMinutes(const std::vector<double>& given, PartIndex off = -1, bool hopeful = true) const;
    double minutesNow() const { return m_now; }
    /// Trying part after part, without any further question.
    double minutesByLifting() const { return m_liftingOnly; }
    /// Adds an outcome of which each view foresees so much; returns what it adds to the expected minutes.
    /// `off` is a part that is off then; putting back what came off is due after any outcome.
    double add(std::vector<MoveOutcome>& outcomes, const Message& what, const std::vector<double>& given,
               PartIndex off = -1, double putBack_min = 0) const;
    /// Fall of the doubt in bits when one of several outcomes shows, each given by view.
    double gainBits(const std::vector<std::vector<double>>& outcomes) const;
    /// Sum of the odds of those for which it holds.
    template <class Holds> double oddsOf(Holds holds) const {
        double sum = 0;
        for (const View& view : m_views)
            if (holds(view)) sum += view.odds;
        return sum;
    }

  private:
    static double hopefulMinutes(const std::vector<Trial>& trials, double open, double otherwise);

    const Board& m_board;
    const WorkPace& m_pace;
    std::vector<View> m_views;
    double m_now = 0, m_liftingOnly = 0;
};

} // namespace ustor
