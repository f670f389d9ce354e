#pragma once

#include "base/measurement.h"
#include "base/message.h"
#include "board/board.h"
#include "injection/stop_cause.h"
#include "thermal/heat_verdict.h"

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

/// What can be seen on a part; a small vocabulary so that it can be counted.
enum class Damage { None, Cracked, Bulged, Discoloured, Burnt, Hole, Corroded, Missing };
std::string_view wordOf(Damage damage);
Message labelOf(Damage damage);
std::optional<Damage> damageFromWord(std::string_view word);

struct Complaint {
    std::string text;
};
/// What the board or its source does when power is put on.
enum class Reaction { NotSaid, None, Starts, StartsAndDies, Pulses, ShutsOff };
std::string_view wordOf(Reaction reaction);
Message labelOf(Reaction reaction);
std::optional<Reaction> reactionFromWord(std::string_view word);

/// Power put on through a limited source, at the first plug-in or later: what it shows, what the board does.
struct SourceShows {
    double volts = 0, amps = 0;
    std::string text;
    Reaction reaction = Reaction::NotSaid;
};
/// What the eye found on a part; without a part: on the board as a whole.
struct Seen {
    std::string part;
    Damage damage = Damage::None;
    std::string text;
    std::string photo = {}; ///< file inside the case; empty without one
};
/// What hides parts from the eye was taken away: "foam", "shields".
struct Uncovered {
    std::string what;
};
/// A cable, card or board was unplugged from a connector, or plugged in again.
struct Unplugged {
    std::string part;
    bool back = false;
};
/// Volts along the copper while a held current flows from `plus` to `minus`.
struct MillivoltTaken {
    std::string place, black; ///< red and black lead; an empty black stays at its fixed ground
    double volts = 0, resolution = 0;
    double amps = 0;
    std::string plus, minus;
};
/// A meter reading at a place, against ground unless `against` names another.
struct ReadingTaken {
    std::string place;
    std::string against;
    Reading reading;
    bool reversed = false; ///< leads the other way round than usual: black on ground in diode test
};
/// The rail that the hunt is about.
struct RailChosen {
    std::string net;
};
struct ClassCorrected {
    std::string part;
    PartClass partClass = PartClass::Other;
};
struct NominalSet {
    std::string net;
    double volts = 0;
};
struct InjectionDone {
    std::string net, plus, minus;
    double volts = 0, amps = 0; ///< as set
    double deliveredWatts = 0, seconds = 0;
    std::string recording; ///< folder inside the case; empty when nothing was recorded
    StopCause cause = StopCause::None;
    bool byHand = false; ///< switched by a person: volts and amps as asked for, power not known
};
/// One spot of a heat finding, in board millimetres.
struct HeatSpot {
    BoardPoint at;
    double sigma_mm = 0, snr = 0, power_mw = 0, delay_s = 0;
};
struct HeatFound {
    HeatVerdict verdict = HeatVerdict::None;
    Side side = Side::Top; ///< that faced the camera
    std::vector<HeatSpot> spots;
    std::string recording; ///< or the still picture
    /// By two stills: warmer than before, which says less than following the power does.
    bool fromStills = false;
    // What it was computed from, so that it can be computed anew; with `recording`. Facts by number, 0 where
    // there is none.
    std::string net = {}; ///< that was injected into
    long injection = 0;   ///< InjectionDone
    long alignment = 0;   ///< Aligned
};
/// Where the camera looked, by places that a person showed in its picture.
struct Aligned {
    Side side = Side::Top;
    double residual_mm = 0;
    std::string registration; ///< "ustor-registration/1", as JSON
};
/// A stroke of the brush over a picture: what a surface is, where the board's data do not know it. In pixels
/// of the camera that looked; each of the three has its own.
struct Painted {
    enum class Over { Top, Bottom, Stills };
    Over over = Over::Top;
    std::string surface; ///< "bare metal" and so on
    PixelPoint from, to;
    double radius_px = 0;
};
std::string_view wordOf(Painted::Over over);
Message labelOf(Painted::Over over);
/// A caution that was shown before the first move of its kind, and met by a deliberate key.
struct CautionMet {
    std::string about; ///< "measure", "inject", "lift"
};
struct Lifted {
    std::string part;
};
struct Refitted {
    std::string part;
    bool replaced = false; ///< a new part, not the old one
    std::string text;
};
/// The part's own reading on the bench, off the board.
struct PartMeasured {
    std::string part;
    bool shorted = false;
};
struct Closed {
    bool fixed = false;
    std::string culprit, text;
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
                 Noted, Aligned, Painted, CautionMet, Struck, UnknownFact>;

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
