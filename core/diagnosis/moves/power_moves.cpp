#include "diagnosis/moves/planner.h"

#include "diagnosis/evidence/power_items.h"
#include "diagnosis/evidence/power_levels.h"
#include "rail/handy_place.h"

#include <algorithm>

namespace ustor {

void Planner::story() {
    if (m_state.complaint.empty()) {
        // First of all; once the hunt is on it waits.
        const bool begun = !m_state.sources.empty() || !m_state.readings.empty() || !m_state.heat.empty();
        add({MoveKind::NoteComplaint,
             "",
             say("Note what the customer says"),
             say("the story already moves the odds"),
             {},
             1,
             0.3,
             m_prospect.minutesNow(),
             {},
             begun ? 2 : 0});
    }
    if (!m_state.sources.empty() || !m_state.readings.empty() || !m_state.heat.empty()) return;
    NextMove move{MoveKind::ReadSource,
                  "",
                  say("Plug in through a limited source and read volts and amps"),
                  say("it narrows the fault before anything is opened"),
                  {},
                  1};
    move.turn = 0;
    std::vector<Given> outcomes(plugIns);
    for (const View& view : m_prospect.views()) {
        const PlugInShares shares = plugInShares(view.left, m_state, m_now, m.circuit, m.feed);
        double sum = 0;
        for (const double share : shares)
            sum += share;
        for (std::size_t i = 0; i < plugIns; ++i)
            outcomes[i].push_back(shares[i] / sum);
    }
    for (std::size_t i = 0; i < plugIns; ++i)
        move.minutesAfter += m_prospect.add(move.outcomes, labelOf(static_cast<PlugIn>(i)), outcomes[i]);
    move.gainBits = m_prospect.gainBits(outcomes);
    add(std::move(move));
}

void Planner::volts() {
    if (!mayPower()) return;
    // With the power on and the black lead in its place the next rail takes less than the first.
    constexpr double first_min = 1, next_min = 0.5;
    const bool isOn = !m_state.readings.empty() &&
                      m_state.readings.back().taken.reading.mode == MeterMode::Volts &&
                      m_state.readings.back().then == m_state.now;
    std::vector<NextMove> found;
    for (int rail = 0; rail < static_cast<int>(m.circuit.rails().size()); ++rail) {
        if (m.feed.stageOf(rail) == FeedStage::Unfed) continue;
        const bool read = std::any_of(m_readings[static_cast<std::size_t>(rail)].begin(),
                                      m_readings[static_cast<std::size_t>(rail)].end(), [&](const auto* r) {
                                          return asNow(*r) && r->taken.reading.mode == MeterMode::Volts;
                                      });
        if (read) continue;
        const NetIndex net = handyNet(rail);
        const std::string place = handyPlace(m_board, *m_state.netParts, net);
        NextMove move{MoveKind::ReadVolts,
                      place,
                      say("Read the volts of {net} at {place} with the power on",
                          {{"net", m_board.nets[net].name}, {"place", place}}),
                      say("which rails come up, and which is the first that is missing"),
                      say("a live board: one hand, a steady probe; a slip between pads can kill"),
                      isOn ? next_min : first_min};
        move.mode = MeterMode::Volts;
        Given present, absent;
        for (const View& view : m_prospect.views()) {
            const LevelShares shares = m.levels.next(net, view.left, m_now);
            present.push_back(shares.present);
            absent.push_back(1 - shares.present);
        }
        move.minutesAfter = m_prospect.add(move.outcomes, say("it is there"), present) +
                            m_prospect.add(move.outcomes, say("it is missing"), absent);
        move.gainBits = m_prospect.gainBits({present, absent});
        found.push_back(std::move(move));
    }
    offer(std::move(found), 4);
}

void Planner::powerAgain() {
    const bool powered = !m_state.sources.empty() && m_state.sources.back().then == m_state.now;
    if (powered || m_state.sources.empty() || !mayPower()) return;
    NextMove move{MoveKind::FirstPower,
                  "",
                  say("Put power on again with a current limit; watch the steps of the current"),
                  say("something was changed since: does it start?"),
                  say("stay below the working voltage"),
                  3};
    weigh(move, given([&](const View& view) {
              const PlugInShares shares = plugInShares(view.left, m_state, m_now, m.circuit, m.feed);
              return shares[static_cast<std::size_t>(PlugIn::Starts)];
          }),
          say("the board starts"), say("it does not start"));
    add(std::move(move));
}

} // namespace ustor
