#include "diagnosis/fact/entry.h"

#include "base/quantity_text.h"
#include "diagnosis/fact/fact_json.h"

#include <algorithm>
#include <functional>

namespace ustor {
namespace {

using Words = std::vector<std::string>;

Words split(const std::string& text, const char* at = " \t") {
    Words words;
    for (std::size_t from = 0; from < text.size();) {
        const std::size_t begin = text.find_first_not_of(at, from);
        if (begin == std::string::npos) break;
        const std::size_t end = std::min(text.find_first_of(at, begin), text.size());
        words.push_back(text.substr(begin, end - begin));
        from = end;
    }
    return words;
}

std::string rest(const Words& words, std::size_t from) {
    std::string all;
    for (std::size_t i = from; i < words.size(); ++i)
        all += (all.empty() ? "" : " ") + words[i];
    return all;
}

/// How many words from there on are the name of a net, which may have blanks in it; 0 where none begins
/// there.
std::size_t netIn(const Board& board, const Words& words, std::size_t from) {
    constexpr std::size_t longest = 8;
    std::string name;
    std::size_t found = 0;
    for (std::size_t n = 1; n <= longest && from + n <= words.size(); ++n) {
        name += (n > 1 ? " " : "") + words[from + n - 1];
        if (board.findNet(name) >= 0) found = n;
    }
    return found;
}

struct Wrong {
    Message what;
};

/// An entry while it is read.
struct Typed {
    const Board& board;
    const Entry& entry;
    Words words = split(entry.value);

    /// The words that name the rail at the beginning; one where the board has none of that name.
    std::size_t railWords() const { return std::max<std::size_t>(1, netIn(board, words, 0)); }
    std::string rail() const {
        return rest({words.begin(), words.begin() + static_cast<std::ptrdiff_t>(railWords())}, 0);
    }
    std::string place(std::size_t i = 0) const {
        return i < entry.places.size() ? entry.places[i] : std::string();
    }
    /// The part of a place: a pad's own.
    std::string part() const {
        const std::string at = place();
        return board.findPart(at) >= 0 ? at : at.substr(0, at.rfind('.'));
    }
    std::optional<double> number(std::size_t i) const {
        return i < words.size() ? quantityFromText(words[i]) : std::nullopt;
    }
    double need(std::size_t i, const Message& what) const {
        if (const auto value = number(i)) return *value;
        throw Wrong{what};
    }
    template <Spoken E> E word(std::size_t i) const {
        if (i < words.size())
            if (const auto known = fromWord<E>(words[i])) return *known;
        throw Wrong{say("one of these words is needed: {words}", {{"words", wordsOf<E>()}})};
    }
    std::string after(std::size_t from) const { return rest(words, from); }
};

/// "63 reversed powered": the reading, and how it was taken.
struct TypedReading {
    Reading reading;
    bool reversed = false, powered = false;
};
TypedReading readingOf(const Typed& typed, MeterMode mode, std::size_t from) {
    TypedReading taken;
    std::string value;
    for (std::size_t i = from; i < typed.words.size(); ++i) {
        const std::string& word = typed.words[i];
        if (word == "reversed")
            taken.reversed = true;
        else if (word == "powered")
            taken.powered = true;
        else
            value += (value.empty() ? "" : " ") + word;
    }
    const auto reading = readingFromText(value, mode);
    if (!reading)
        throw Wrong{say("\"{text}\" is not a reading. Examples: 0.004, 4m, 63, 1k2, OL.",
                        {{"text", typed.entry.value}})};
    taken.reading = *reading;
    return taken;
}

template <MeterMode mode> FactBody reading(const Typed& t) {
    const TypedReading taken = readingOf(t, mode, 0);
    return ReadingTaken{t.place(), t.place(1), taken.reading, taken.reversed, taken.powered};
}

MeterMode modeAt(const Typed& t, std::size_t i) {
    if (i < t.words.size())
        if (const auto mode = meterModeFromWord(t.words[i])) return *mode;
    throw Wrong{say("first the mode is needed: ohms, diode, beep or volts")};
}

FactBody donor(const Typed& t) {
    const TypedReading taken = readingOf(t, modeAt(t, 0), 1);
    return DonorReading{t.place(), taken.reading, taken.reversed};
}

FactBody seen(const Typed& t) {
    if (t.entry.value.empty())
        throw Wrong{say("What was seen? One of: {words}.", {{"words", wordsOf<Damage>()}})};
    if (const auto damage = fromWord<Damage>(t.entry.value)) return Seen{t.part(), *damage, ""};
    // "cracked at the left end": the word, and more about it.
    for (const Word<Damage>& each : vocabulary(Damage{}))
        if (t.entry.value.starts_with(std::string(each.word) + " "))
            return Seen{t.part(), each.value, t.entry.value.substr(each.word.size() + 1)};
    return Seen{t.part(), Damage::None, t.entry.value};
}

FactBody plugIn(const Typed& t) {
    const auto volts = t.number(0), amps = t.number(1);
    auto reaction = t.words.size() > 2 ? fromWord<Reaction>(t.words[2]) : std::optional(Reaction::NotSaid);
    if (t.words.size() > 2 && t.words[2] == "nothing") reaction = Reaction::None;
    if (!volts || !amps || !reaction)
        throw Wrong{say("Two numbers are needed: volts, then amps, as in \"5 0.02\"; then, if you like, what "
                        "happens: none, starts, dies, pulses or shuts-off.")};
    return SourceShows{*volts, *amps, t.after(3), *reaction};
}

FactBody trace(const Typed& t) {
    PowerTrace power;
    for (const std::string& moment : split(t.entry.value, ";")) {
        const Words cells = split(moment);
        if (cells.empty()) continue;
        const auto at = cells.size() == 3 ? quantityFromText(cells[0]) : std::nullopt;
        const auto volts = at ? quantityFromText(cells[1]) : std::nullopt;
        const auto amps = at ? quantityFromText(cells[2]) : std::nullopt;
        if (!at || !volts || !amps)
            throw Wrong{say("\"{text}\" is no moment: seconds, volts and amps are needed, and a semicolon "
                            "between moments, as in \"0 20 0.07; 1 20 0.2; 2 20 0.6\"",
                            {{"text", moment}})};
        power.moments.push_back({*at, *volts, *amps});
    }
    return power;
}

FactBody negotiated(const Typed& t) {
    const Message what = say("two numbers are needed: volts asked for and volts got, as in \"20 5\"; then "
                             "\"turned\" if the plug is the other way round");
    if (t.words.size() > 2 && t.words[2] != "turned") throw Wrong{what};
    return Negotiated{t.place().empty() ? std::string() : t.part(), t.words.size() > 2, t.need(0, what),
                      t.need(1, what)};
}

FactBody leads(const Typed& t) {
    return LeadsMeasured{t.word<LeadsOf>(0), t.need(1, say("the ohms of the leads are needed, as in \"meter "
                                                           "0.2\""))};
}

FactBody fee(const Typed& t) {
    const Message what = say("three sums are needed: for the repair, for the look without one, and what an "
                             "hour is worth, as in \"120 0 60\"");
    return FeeAgreed{t.need(0, what), t.need(1, what), t.need(2, what)};
}

FactBody warmth(const Typed& t) {
    if (t.entry.value == "warm") return BoardWarm{true};
    if (t.entry.value == "cool") return BoardWarm{false};
    throw Wrong{say("one of these words is needed: warm, cool")};
}

FactBody sensed(const Typed& t) {
    const HeatSense by = t.word<HeatSense>(0);
    const std::string net = t.after(1);
    return HeatSensed{by, t.place().empty() ? std::string() : t.part(), net};
}

FactBody supplyShows(const Typed& t) {
    const Message what =
        say("volts and amps of the supply are needed, as in \"1 2.4\"; then, if you like, how "
            "the current went: steady, rises, falls or drops");
    const double volts = t.need(0, what), amps = t.need(1, what);
    return SupplyShows{t.place(), volts, amps,
                       t.words.size() > 2 ? t.word<CurrentCourse>(2) : CurrentCourse::Steady};
}

FactBody copper(const Typed& t) {
    return CopperWorked{t.word<CopperWork>(0), t.place(), t.place(1)};
}

/// What a good part of the class reads at least, off the board (common practice).
bool readsShorted(PartClass partClass, const Reading& reading) {
    if (reading.state == ReadingState::OverRange) return false;
    constexpr double diode_v = 0.05, capacitor_ohms = 100, other_ohms = 5;
    if (reading.mode == MeterMode::Diode) return reading.value < diode_v;
    const bool capacitor = partClass == PartClass::CeramicCapacitor || partClass == PartClass::PolarCapacitor;
    return reading.value < (capacitor ? capacitor_ohms : other_ohms);
}

FactBody partMeasured(const Typed& t) {
    PartMeasured measured{t.part()};
    const std::string verdict = t.words.empty() ? std::string() : t.words.front();
    if (verdict == "shorted" || verdict == "open" || verdict == "fine") {
        measured.shorted = verdict == "shorted";
        measured.open = verdict == "open";
        return measured;
    }
    const PartIndex p = t.board.findPart(measured.part);
    const auto mode = t.words.empty() ? std::nullopt : meterModeFromWord(verdict);
    if (!mode || p < 0)
        throw Wrong{
            say("what the part reads is needed: shorted, open, fine, or a reading as in \"ohms 0.4\"")};
    measured.reading = readingOf(t, *mode, 1).reading;
    const Part& part = t.board.parts[static_cast<std::size_t>(p)];
    const bool conducts = part.partClass == PartClass::Fuse || part.partClass == PartClass::Inductor ||
                          part.partClass == PartClass::Ferrite || part.partClass == PartClass::SenseResistor;
    measured.shorted = !conducts && readsShorted(part.partClass, *measured.reading);
    measured.open = conducts && measured.reading->state == ReadingState::OverRange;
    return measured;
}

FactBody injection(const Typed& t) {
    const Message what = say("the rail, then volts and amps as set are needed, as in \"+5V 1 2\"; the places "
                             "are those of plus and minus");
    if (t.words.size() < 3) throw Wrong{what};
    InjectionDone done;
    const std::size_t next = t.railWords();
    done.net = t.rail();
    done.plus = t.place();
    done.minus = t.place(1);
    done.volts = t.need(next, what);
    done.amps = t.need(next + 1, what);
    if (t.words.size() > next + 2) done.seconds = t.need(next + 2, what);
    done.byHand = true;
    return done;
}

FactBody heat(const Typed& t) {
    const Message what =
        say("the rail, the side and what was seen are needed: none, spread, point or far side, the "
            "last two with a place in millimetres, as in \"+5V top none\" or \"+5V top point 31.5 "
            "12\"");
    if (t.words.size() < 3) throw Wrong{what};
    HeatFound found;
    std::size_t next = t.railWords();
    if (t.words.size() < next + 2) throw Wrong{what};
    found.net = t.rail();
    const std::string& side = t.words[next++];
    if (side != "top" && side != "bottom") throw Wrong{what};
    found.side = side == "bottom" ? Side::Bottom : Side::Top;
    std::string verdict = t.words[next++];
    if (verdict == "far" && next < t.words.size()) verdict += " " + t.words[next++];
    const auto known = heatVerdictFromWord(verdict);
    if (!known) throw Wrong{what};
    found.verdict = *known;
    if (found.verdict == HeatVerdict::Point || found.verdict == HeatVerdict::FarSide) {
        constexpr double sigma_mm = 1, clear = 20; // as far as somebody reads it off a picture
        found.spots.push_back({{t.need(next, what), t.need(next + 1, what)}, sigma_mm, clear, 0, 0});
    }
    return found;
}

FactBody millivolts(const Typed& t) {
    const Message what =
        say("volts and amps are needed, as in \"0.0021 1\"; the places are the pad, plus and "
            "minus of the supply, and the black lead if it moved");
    return MillivoltTaken{t.place(), t.place(3), t.need(0, what), 0, t.need(1, what), t.place(1), t.place(2)};
}

FactBody closed(const Typed& t) {
    const std::string end = t.words.empty() ? std::string() : t.words[0];
    if (end != "fixed" && end != "not-fixed")
        throw Wrong{say("one of these words is needed: fixed, not-fixed")};
    return Closed{end == "fixed", t.place().empty() ? std::string() : t.part(), t.after(1)};
}

FactBody classOf(const Typed& t) {
    const auto partClass = partClassFromWord(t.entry.value);
    if (!partClass)
        throw Wrong{say("\"{text}\" is no class of parts; as in \"mosfet\"", {{"text", t.entry.value}})};
    return ClassCorrected{t.part(), *partClass};
}

FactBody plain(const Typed& t) {
    const std::size_t begin = t.entry.value.find('{');
    if (begin == std::string::npos) throw Wrong{say("a fact as JSON begins with a brace")};
    // Number and time are given when it is noted.
    const auto read = factFromJson("{\"id\":1,\"time\":0," + t.entry.value.substr(begin + 1));
    if (!read) throw Wrong{read.error().what};
    if (const auto* unknown = std::get_if<UnknownFact>(&read.value().body))
        throw Wrong{say("this version knows no such fact of kind \"{kind}\"", {{"kind", unknown->kind}})};
    return read.value().body;
}

std::string needText(const Typed& t, const Message& what) {
    if (t.entry.value.empty()) throw Wrong{what};
    return t.entry.value;
}

using Maker = std::function<FactBody(const Typed&)>;
struct Known {
    EntryKind kind;
    Maker make;
};

const std::vector<Known>& known() {
    static const std::vector<Known> all{
        {{"ohms", say("ohms"), 1, 2, "4m, 63, OL, 1k2"}, reading<MeterMode::Ohms>},
        {{"diode", say("diode"), 1, 2, "0.45, OL"}, reading<MeterMode::Diode>},
        {{"beep", say("beep"), 1, 2, "12, OL"}, reading<MeterMode::Beep>},
        {{"volts", say("volts"), 1, 2, "3.31"}, reading<MeterMode::Volts>},
        {{"seen", say("seen"), 0, 1, "cracked, burnt, looks fine ..."}, seen},
        {{"plug-in", say("plug-in V A"), 0, 0, "5 0.02 dies"}, plugIn},
        {{"complaint", say("complaint"), 0, 0, "what the customer says"},
         [](const Typed& t) { return Complaint{needText(t, say("The complaint is empty."))}; }},
        {{"note", say("note"), 0, 0, "what happened"},
         [](const Typed& t) { return Noted{needText(t, say("The note is empty."))}; }},
        {{"history", say("history"), 0, 0, "liquid, drop, other-shop ..."},
         [](const Typed& t) {
             return History{t.word<Past>(0), t.after(1)};
         }},
        {{"negotiation", say("negotiation"), 0, 1, "20 5 turned"}, negotiated},
        {{"trace", say("power-up trace"), 0, 0, "0 20 0.07; 1 20 0.6"}, trace},
        {{"board", say("damage of the board"), 1, 1, "burnt-laminate, lifted-pad ..."},
         [](const Typed& t) {
             return BoardSeen{t.word<BoardDamage>(0), t.place(), t.after(1)};
         }},
        {{"burst", say("spark, smoke, pop"), 1, 1, "spark, smoke, pop"},
         [](const Typed& t) {
             return BurstSeen{t.word<Burst>(0), t.place()};
         }},
        {{"sensed", say("warmth without the camera"), 0, 1, "alcohol, frost, finger, flare, idle ... +5V"},
         sensed},
        {{"supply", say("supply shows V A"), 1, 1, "1 2.4 steady"}, supplyShows},
        {{"leads", say("leads alone"), 0, 0, "meter 0.2"}, leads},
        {{"warmth", say("board warm or cool"), 0, 0, "warm, cool"}, warmth},
        {{"donor", say("a good board reads"), 1, 1, "ohms 480"}, donor},
        {{"part", say("part off the board"), 1, 1, "ohms 0.4, shorted, open, fine"}, partMeasured},
        {{"copper", say("copper and solder"), 1, 2, "bridge-opened, trace-cut, wire, pad-mended"}, copper},
        {{"again", say("fails again"), 0, 1, "after a minute", false},
         [](const Typed& t) {
             return CameBack{t.place().empty() ? std::string() : t.part(), t.entry.value};
         }},
        {{"fee", say("what the job pays"), 0, 0, "120 0 60"}, fee},
        {{"first", say("what comes first"), 0, 0, "cheapest, capacitors, chips, eyes, heat, split"},
         [](const Typed& t) { return SchoolChosen{t.word<HuntSchool>(0)}; }},
        {{"lifted", say("lifted"), 1, 1, "", false}, [](const Typed& t) { return Lifted{t.part()}; }},
        {{"refitted", say("put back"), 1, 1, "", false},
         [](const Typed& t) {
             return Refitted{t.part(), false, t.entry.value};
         }},
        {{"replaced", say("replaced"), 1, 1, "", false},
         [](const Typed& t) {
             return Refitted{t.part(), true, t.entry.value};
         }},
        {{"unplugged", say("unplugged"), 1, 1, "", false},
         [](const Typed& t) {
             return Unplugged{t.part(), false};
         }},
        {{"plugged", say("plugged in again"), 1, 1, "", false},
         [](const Typed& t) {
             return Unplugged{t.part(), true};
         }},
        {{"uncovered", say("uncovered"), 0, 0, "foam, shields"},
         [](const Typed& t) { return Uncovered{needText(t, say("what was taken off is needed"))}; }},
        {{"rail", say("the hunt is about"), 1, 1, "", false},
         [](const Typed& t) { return RailChosen{t.place()}; }},
        {{"class", say("class of a part"), 1, 1, "mosfet"}, classOf},
        {{"nominal", say("working voltage"), 1, 1, "3.3"},
         [](const Typed& t) {
             return NominalSet{t.place(), t.need(0, say("the working voltage is needed, as in \"3.3\""))};
         }},
        {{"injection", say("injected by hand"), 1, 2, "+5V 1 2"}, injection},
        {{"heat", say("seen by the camera"), 0, 0, "+5V top point 31.5 12"}, heat},
        {{"millivolts", say("millivolts along the copper"), 1, 4, "0.0021 1"}, millivolts},
        {{"caution", say("caution met"), 0, 0, "measure, inject, lift"},
         [](const Typed& t) {
             return CautionMet{needText(t, say("which caution? measure, inject or lift"))};
         }},
        {{"closed", say("closed"), 0, 1, "fixed, not-fixed"}, closed},
        {{"json", say("as JSON"), 0, 0, "{...}"}, plain},
    };
    return all;
}

} // namespace

const std::vector<EntryKind>& entryKinds() {
    static const std::vector<EntryKind> kinds = [] {
        std::vector<EntryKind> all;
        for (const Known& each : known())
            all.push_back(each.kind);
        return all;
    }();
    return kinds;
}

const EntryKind* entryKind(std::string_view word) {
    for (const EntryKind& each : entryKinds())
        if (each.word == word) return &each;
    return nullptr;
}

Entry entryOf(const Board& board, const std::string& kind, const std::vector<std::string>& words) {
    Entry entry{kind, {}, {}};
    const EntryKind* known = entryKind(kind);
    const auto most = static_cast<std::size_t>(known ? known->mostPlaces : 0);
    const auto least = static_cast<std::size_t>(known ? known->leastPlaces : 0);
    std::size_t next = 0;
    const auto isPlace = [&board](const std::string& word) {
        return board.findPad(word) || board.findPart(word) >= 0 || board.findNet(word) >= 0;
    };
    const std::size_t left = known && known->needsValue ? 1 : 0; // for the value
    const auto mayBePlace = [&](const std::string& word) {
        return next + left < words.size() && isPlace(word) && !quantityFromText(word);
    };
    // A place that has to be there is one even where the board does not have it: that is told then.
    while (next < words.size() && entry.places.size() < most) {
        const std::size_t ofNet = netIn(board, words, next);
        if (ofNet > 1 && next + ofNet + left <= words.size()) {
            entry.places.push_back(rest({words.begin() + static_cast<std::ptrdiff_t>(next),
                                         words.begin() + static_cast<std::ptrdiff_t>(next + ofNet)},
                                        0));
            next += ofNet;
        } else if (entry.places.size() < least || mayBePlace(words[next])) {
            entry.places.push_back(words[next++]);
        } else {
            break;
        }
    }
    entry.value = rest(words, next);
    return entry;
}

Result<FactBody> factFromEntry(const Board& board, const Entry& entry) {
    for (const Known& each : known()) {
        if (each.kind.word != entry.word) continue;
        if (static_cast<int>(entry.places.size()) < each.kind.leastPlaces)
            return Error{say("Where? Type a place such as C12.1, or click a pad."), "", {}};
        if (static_cast<int>(entry.places.size()) > each.kind.mostPlaces)
            return Error{each.kind.mostPlaces == 2
                             ? say("One place, or two for what is from one to the other: \"Q1.2 Q1.5\".")
                         : each.kind.mostPlaces == 0 ? say("No place belongs to this kind of entry.")
                                                     : say("Too many places for this kind of entry."),
                         "",
                         {}};
        try {
            return each.make(Typed{board, entry});
        } catch (const Wrong& wrong) {
            return Error{wrong.what, "", {}};
        }
    }
    std::string words;
    for (const EntryKind& each : entryKinds())
        words += (words.empty() ? "" : ", ") + std::string(each.word);
    return Error{say("there is no kind of fact \"{kind}\"; there are: {words}",
                     {{"kind", entry.word}, {"words", words}}),
                 "",
                 {}};
}

} // namespace ustor
