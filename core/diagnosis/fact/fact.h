#pragma once

#include "base/message.h"
#include "diagnosis/fact/arrival.h"
#include "diagnosis/fact/heating.h"
#include "diagnosis/fact/looking.h"
#include "diagnosis/fact/measuring.h"
#include "diagnosis/fact/rework.h"
#include "diagnosis/fact/words.h"

#include <optional>
#include <set>
#include <string>
#include <variant>
#include <vector>

namespace ustor {

/// The knots of the trail, in the order of the work.
enum class Stage { Arrive, Look, Measure, Split, Inject, Judge, Lift, Refit, Prove };
std::string_view wordOf(Stage stage);
Message labelOf(Stage stage);

/// A caution that was shown before the first move of its kind, and met by a deliberate key.
struct CautionMet {
    std::string about; ///< "measure", "inject", "lift"
};
struct Noted {
    std::string text;
};
/// Takes a fact back without deleting it. Striking a strike brings the fact back.
struct Struck {
    long id = 0;
};
/// A kind of fact that this version does not know: kept as it stands, shown, not judged.
struct UnknownFact {
    std::string kind, json;
};

using FactBody =
    std::variant<Complaint, SourceShows, Seen, Uncovered, Unplugged, MillivoltTaken, ReadingTaken, RailChosen,
                 ClassCorrected, NominalSet, InjectionDone, HeatFound, Lifted, Refitted, PartMeasured, Closed,
                 Noted, Aligned, Painted, CautionMet, History, Negotiated, PowerTrace, LeadsMeasured,
                 FeeAgreed, SchoolChosen, BoardSeen, BurstSeen, DonorReading, BoardWarm, SupplyShows,
                 HeatSensed, CopperWorked, CameBack, Struck, UnknownFact>;

/// One thing that was done, seen or measured. Never changed, never deleted.
struct Fact {
    long id = 0;       ///< rises by one
    double time_s = 0; ///< seconds since 1970, UTC
    FactBody body;
};

Stage stageOf(const FactBody& body);
/// One line for the trail.
Message sentenceOf(const FactBody& body);

/// Facts that count: neither struck nor strikes.
std::vector<const Fact*> activeFacts(const std::vector<Fact>& facts);
/// The facts that are struck out, strikes among them: a strike counts when it is not struck by one that
/// counts.
std::set<long> struckFacts(const std::vector<Fact>& facts);
/// True when a strike of this fact counts.
bool isStruck(const std::vector<Fact>& facts, long id);
/// What undo would strike: the newest fact that counts. Nothing when there is none.
std::optional<long> undoTarget(const std::vector<Fact>& facts);
/// What redo would strike: the newest strike that counts, if no fact came after it. Nothing otherwise.
std::optional<long> redoTarget(const std::vector<Fact>& facts);

} // namespace ustor
