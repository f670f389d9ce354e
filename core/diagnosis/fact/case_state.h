#pragma once

#include "base/message.h"
#include "diagnosis/fact/fact.h"
#include "diagnosis/known_good.h"
#include "diagnosis/rail_rules.h"
#include "rail/stretch.h"

#include <map>
#include <memory>
#include <set>

namespace ustor {

/// How the board stood at some moment.
struct PartsOff {
    std::set<std::string> off;             ///< lifted or unplugged
    std::map<std::string, int> generation; ///< of parts that had been replaced
    std::map<std::string, int> mounting;   ///< how often a part was put on again, itself or a new one
    std::map<std::string, int> cleaned;    ///< by net: how often something that bridged it was taken away
    std::map<std::string, int> mended;     ///< of parts: how often a pad, a joint or its trace was mended
    auto operator<=>(const PartsOff&) const = default;
};

/// Some fact that is judged by how the board stood.
template <class Body> struct AsItStood {
    long fact = 0;
    Body body;
    std::shared_ptr<const PartsOff> then;
};

/// What the facts that count add up to. Parts are named by designator as on the board.
struct CaseState {
    Board board;    ///< with corrected classes and voltages
    long kinds = 0; ///< rises when a class or a voltage is corrected, and when all is folded anew
    std::shared_ptr<const NetParts> netParts;
    std::string complaint;
    struct TakenSource {
        long fact = 0;
        SourceShows shows;
        std::shared_ptr<const PartsOff> then;
    };
    std::vector<TakenSource> sources; ///< each time that power was put on, in order
    /// The newest; null before the first plug-in.
    const SourceShows* source() const { return sources.empty() ? nullptr : &sources.back().shows; }
    std::vector<std::pair<long, History>> histories;
    std::vector<AsItStood<Negotiated>> negotiations;
    std::optional<FeeAgreed> fee;
    HuntSchool first = HuntSchool::Cheapest; ///< what a person wants to begin with
    std::map<LeadsOf, double> leads_ohm;     ///< where they were measured
    std::map<std::string, Seen> seen;
    std::vector<AsItStood<BoardSeen>> boardSeen;
    std::vector<AsItStood<BurstSeen>> bursts;
    std::vector<AsItStood<SupplyShows>> raised; ///< above the volts at which chips stay asleep
    struct TakenReading {
        long fact = 0;
        NetIndex net = -1; ///< -1 when the place is not on the board
        ReadingTaken taken;
        std::shared_ptr<const PartsOff> then; ///< shared by all that were taken of the board as it stood so
        bool warm = false;                    ///< taken soon after hot air
        RailRuling ruling;                    ///< Unknown for readings that are not against ground
        NetIndex against = -1;                ///< the net of the other lead, where it was not ground
        bool bySupply = false;                ///< volts over amps of an injection: chips take some of them
    };
    std::vector<TakenReading> readings;             ///< in order
    std::vector<std::pair<long, Message>> setAside; ///< what counts for nothing, and why
    std::vector<KnownReading> donors;               ///< noted in this case
    KnownGoodSet knownGood;                         ///< of the model, and the donors
    NetIndex chosenRail = -1;
    struct TakenHeat {
        long fact = 0;
        HeatFound found;
        std::shared_ptr<const PartsOff> then;
    };
    using HeatFindings = std::vector<TakenHeat>;
    HeatFindings heat;   ///< of injections, in order
    HeatFindings stills; ///< of two stills: no move is spared by them
    std::vector<std::pair<long, InjectionDone>> injections;
    std::vector<AsItStood<HeatSensed>> sensed;
    std::vector<AsItStood<CameBack>> cameBack;
    std::optional<long> droppedAt; ///< the current of an injection dropped at once: something opened
    std::set<std::string> cut;     ///< nets with a cut trace
    std::set<std::string> lifted;
    std::set<std::string> unplugged; ///< connectors whose cable or card is out
    std::set<std::string> uncovered; ///< "foam", "shields"
    std::vector<std::pair<long, MillivoltTaken>> millivolts;
    /// What is lifted or unplugged now.
    std::set<std::string> off() const {
        std::set<std::string> all = lifted;
        all.insert(unplugged.begin(), unplugged.end());
        return all;
    }
    std::shared_ptr<const PartsOff> now; ///< how the board stands
    std::set<std::string> replaced;
    /// How often a part was replaced: a new C13 is another part than the one that shorted. None: never.
    std::map<std::string, int> generation;
    std::map<std::string, int> mounting;           ///< how often a part was put on again, itself or a new one
    std::map<std::string, int> cleaned, mended;    ///< as in `PartsOff`
    std::map<std::string, PartMeasured> measured;  ///< off the board
    std::map<long, Aligned> alignments;            ///< by the number of their fact
    std::vector<std::pair<long, Painted>> painted; ///< in order: the later ones on top
    std::set<std::string> cautionsMet;
    std::optional<Closed> closed;
};

/// Folds the facts that count, in order, and judges the readings; all at once. See `CaseFold` for facts that
/// come one by one.
CaseState caseState(const Board& board, const std::vector<Fact>& facts, const KnownGoodSet& knownGood);
CaseState caseState(const Board& board, const std::vector<Fact>& facts);

/// The net that a place ("C12.1", "C12", or a net's name) stands for in readings against ground: the pad's
/// own, for a bare designator its first pad that is not on ground; -1 when there is none.
NetIndex netOfPlace(const Board& board, const std::string& place);
/// The same for whoever asks often.
NetIndex netOfPlace(const Board& board, const NetParts& parts, const std::string& place);

/// The part that a fact names; -1 where the board has none of that name.
PartIndex partNamed(const CaseState& state, const std::string& designator);

/// What the injection put on that a look at the heat belongs to; the last one before it where the look names
/// none. Nothing where there was none.
std::optional<double> injectedVolts(const CaseState& state, const CaseState::TakenHeat& heat);

/// The line for the trail with what this board adds: a reading names the net that it was taken on.
Message sentenceOn(const Board& board, const FactBody& body);

} // namespace ustor
