#pragma once

#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/moves/cost_to_repair.h"
#include "diagnosis/moves/next_moves.h"

#include <functional>
#include <map>
#include <set>

namespace ustor {

/// "12 %", "more than 99 %".
Message percent(double p);

/// Below that a rail reads low, whatever the mode (common practice: a beep, a tenth of a volt).
constexpr double low_ohms = 30, low_v = 0.1;
/// Nothing of a reading with the power on.
std::optional<bool> readsLow(const Reading& reading);

/// Finds the moves that the state of a case allows and weighs them; each kind of move is in a file of its
/// own.
class Planner {
  public:
    using View = Prospect::View;
    using Given = std::vector<double>;

    explicit Planner(const Standing& standing);
    std::vector<NextMove> moves();

  private:
    // What all moves use (planner.cpp)

    /// Of the rails that the hunt is about, which may be several that a switch joins, the likeliest.
    void chooseRail();
    /// What tells less than it costs stands behind all else, and is never the first.
    void add(NextMove move);
    /// At the pace of the shop; parts are priced where they are lifted.
    void price(NextMove& move) const;
    Given given(const std::function<double(const View&)>& likelihood) const;
    /// Two outcomes, one the contrary of the other.
    void weigh(NextMove& move, const Given& yes, const Message& ifSo, const Message& ifNot,
               PartIndex off = -1, double putBack_min = 0) const;
    /// The best of them: nobody looks further down the list.
    void offer(std::vector<NextMove> found, std::size_t most);
    /// The net that a person would call the rail: where its handy place lies.
    std::string railName() const;
    /// Nothing on the rail of the reading was taken off, put back or replaced since.
    bool asNow(const CaseState::TakenReading& r) const;
    bool stoodAsNow(const CaseState::TakenReading& r, int rail) const;
    /// A rail as it is offered to be measured: its net with the most parts.
    NetIndex handyNet(int rail) const;
    MeterMode newestMode(int rail) const;
    /// How likely the rail reads low with what is left on it but for one part.
    double lowShare(int rail, const View& view, PartIndex without = -1) const;
    /// That the first reading of a rail says "short": of one that is low by nature only next to nothing does.
    double saysShort(int rail, const View& view) const;
    bool lowByNature(int rail) const { return m_ownLow[static_cast<std::size_t>(rail)] > 0.5; }
    /// What the rail takes by itself is as low as what was read of it together with a short.
    double staysAsLow(int rail, double read_ohms) const;
    /// The rail by itself: what it was read at counts where this view has nothing else to explain it.
    double ownLow(int rail, const View& view) const;
    /// A pad of the part on that net that a person can name: no other net answers to it.
    std::string padOn(const Part& of, NetIndex net) const;
    /// How likely the one rail is shorted that is likeliest so.
    double worstRail() const;
    /// With a limited current, where no rail is all but sure to be shorted; a capacitor that is off for the
    /// look may stay off for minutes.
    bool mayPower() const;
    const Part& part(PartIndex p) const { return m_board.parts[static_cast<std::size_t>(p)]; }
    bool shorts(const Fault& fault, int rail) const {
        return fault.conducts() && (m.circuit.railOf(fault.a) == rail || m.circuit.railOf(fault.b) == rail);
    }

    bool breaksDown(const Fault& fault, int rail) const {
        return fault.kind == FaultKind::Breakdown && m.circuit.railOf(fault.a) == rail;
    }

    // What a person wants to begin with (chosen_school.cpp)

    bool chosenFirst(const Part& part) const;
    bool isOfChosenSchool(const NextMove& move) const;
    /// Of what is left to weigh the best move of the chosen school comes first, with what that costs. What
    /// has to come before all stays there.
    void putSchoolFirst();

    // With the power on (power_moves.cpp)

    void story();
    /// With power on, on the way of the power.
    void volts();
    /// What was replaced is tried, where nothing is likely to be shorted.
    void powerAgain();

    // Readings without power (reading_moves.cpp)

    /// Something is off or new on the rail of the hunt, and nobody has read it since.
    void afterWork();
    /// Rails not read yet as the board stands, and those whose one reading another mode would confirm.
    void measureRails();
    NextMove readingOf(int rail) const;
    void weighReading(NextMove& move, int rail, const Given& low, bool everRead) const;
    /// Without power, as the board stands.
    bool isRead(int rail) const;
    /// Its reading stands no later than in that turn.
    void readFirst(int rail, int turn);
    static bool onNet(const View& view, NetIndex net);
    /// Half a minute from pad to pad: a link that may be open, a switch that may be punched through.
    void across();

    // What narrows the hunt (narrowing_moves.cpp)

    void lookOver();
    /// What can be unplugged goes first; then the link that halves the doubt for the least work.
    void split();
    bool readWithout(const std::string& name) const;
    /// The first connector that the input reaches is taken for the power jack; on a board with only one
    /// nobody knows, until a source was plugged in.
    bool bringsPower(PartIndex plug) const;
    void unplug();
    /// Only once somebody has begun to read along the copper: the current is held then.
    void readAlong();

    // Heat (heat_moves.cpp)

    bool looked(Side side) const;
    /// Has current through it when this rail is injected into.
    const Fault* warmed(const View& view) const;
    void weighHeat(NextMove& move, Side side, double works) const;
    Side sideToFace() const;
    void inject();
    /// Where the board tries to start again and again: what is shorted becomes warm with each try.
    void watchFlares();
    /// Of the rails that read free without power the one where something most likely breaks down; -1 where it
    /// is not worth a look.
    int railThatBreaksDown() const;
    /// Where no rail is down.
    void injectUnderVoltage();
    /// Offers an injection at a raised voltage, that shows the fault so often if it faces the camera.
    void climb(const std::string& place, Side side, double works, Message sentence, Message reason);
    /// Every look at the heat of this rail ended without any, all of them near one volt.
    bool nothingSeen() const;

    // Parts (part_moves.cpp)

    struct Blamed {
        PartIndex part;
        double shorts = 0, other = 0; ///< as a short; as open, dead, or shorted only under voltage
        double breakdown = 0;         ///< of `other`: the last
        double all() const { return shorts + other; }
    };
    /// Parts on the board that are to blame, most promising per minute first.
    std::vector<Blamed> blamed() const;
    /// What promises little for its minutes comes after the questions, what promises less than it costs
    /// never.
    int turnOf(const Blamed& b) const;
    /// The rail that the part shorts where it is to blame: the one of the hunt, where it is on that.
    int railShortedBy(PartIndex p) const;
    void lifts();
    /// Open or dead parts show themselves only when a good one stands in their place.
    void replacements();
    /// What is off is measured by itself, where that may show more than what the rail has shown without it.
    void measureParts();
    /// What is off goes back: the guilty one new, with its set, the others themselves.
    void refit();

    // Ends (end_moves.cpp)

    /// Fixed is what was proven: rails that were down read again, rails never read accounted for, first power
    /// as it should be.
    void prove();
    /// Rails that were down were read as often since, and none that may be down was never read; what is
    /// missing is added.
    bool railsProven(int readings);
    /// What was done so far took about so long: by its moves, for facts are often told afterwards.
    double minutesSpent() const;
    /// The work so far stays within what the job pays, or something is likely now. What was spent does not
    /// count for a cause that is in sight; for one that is not, it tells that the cause is none of those
    /// thought of (judgement).
    bool paidOff() const;
    /// Stop is a move with a worth.
    void stop();
    NextMove* railToAskFirst();
    double repairable() const {
        return m_prospect.oddsOf([](const View& view) { return view.repairable; });
    }
    double shortedNow() const { return m.stillShorted; }

    const Standing& m;
    const CaseState& m_state;
    const Board& m_board;
    const PartsOff& m_now;
    mutable std::map<std::pair<const PartsOff*, int>, bool> m_asNow; ///< by how the board stood, and rail
    Prospect m_prospect;
    int m_hunted = -1;            ///< rail
    bool m_unread = false;        ///< a rail that may be down was not read yet as the board stands
    std::set<int> m_power;        ///< rails that carry power
    std::vector<double> m_ownLow; ///< by rail: that it reads low by itself
    std::vector<std::vector<const CaseState::TakenReading*>> m_readings; ///< by rail, in order
    std::vector<NextMove> m_moves;
};

} // namespace ustor
