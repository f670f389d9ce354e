#include "diagnosis/fact/fact_json.h"

#include "base/json_number.h"

#include <charconv>
#include <nlohmann/json.hpp>

namespace ustor {
namespace {

using Json = nlohmann::ordered_json;

struct BadFact {
    Message what;
};

/// A word of a later version, inside a kind that is known: the fact is kept as it stands and not judged.
struct LaterWord {};

template <class T> T known(std::optional<T> value) {
    if (!value) throw LaterWord{};
    return *value;
}

StopCause causeFrom(const std::string& word) {
    return known(stopCauseFrom(word));
}

Json bodyJson(const Complaint& f) {
    return {{"kind", "complaint"}, {"text", f.text}};
}
Json bodyJson(const SourceShows& f) {
    Json j{{"kind", "source"}, {"volts", f.volts}, {"amps", f.amps}, {"text", f.text}};
    if (f.reaction != Reaction::NotSaid) j["reaction"] = wordOf(f.reaction);
    return j;
}
Json bodyJson(const Seen& f) {
    Json j{{"kind", "seen"}, {"part", f.part}, {"damage", wordOf(f.damage)}, {"text", f.text}};
    if (!f.photo.empty()) j["photo"] = f.photo;
    return j;
}
Json bodyJson(const Uncovered& f) {
    return {{"kind", "uncovered"}, {"what", f.what}};
}
Json bodyJson(const Unplugged& f) {
    return {{"kind", "unplugged"}, {"part", f.part}, {"back", f.back}};
}
Json bodyJson(const MillivoltTaken& f) {
    Json j{{"kind", "millivolts"}, {"place", f.place}, {"volts", f.volts}, {"resolution", f.resolution},
           {"amps", f.amps},       {"plus", f.plus},   {"minus", f.minus}};
    if (!f.black.empty()) j["black"] = f.black;
    return j;
}
void putReading(Json& j, const Reading& reading) {
    j["mode"] = wordOf(reading.mode);
    if (reading.state == ReadingState::OverRange)
        j["over_range"] = true;
    else
        j["value"] = reading.value;
    if (reading.resolution > 0) j["resolution"] = reading.resolution;
}
Json bodyJson(const ReadingTaken& f) {
    Json j{{"kind", "reading"}, {"place", f.place}};
    if (!f.against.empty()) j["against"] = f.against;
    putReading(j, f.reading);
    if (f.reversed) j["reversed"] = true;
    if (f.powered) j["powered"] = true;
    return j;
}
Json bodyJson(const DonorReading& f) {
    Json j{{"kind", "donor reading"}, {"place", f.place}};
    putReading(j, f.reading);
    if (f.reversed) j["reversed"] = true;
    return j;
}
Json bodyJson(const BoardWarm& f) {
    return {{"kind", "board warm"}, {"warm", f.warm}};
}
Json bodyJson(const History& f) {
    return {{"kind", "history"}, {"past", wordOf(f.past)}, {"text", f.text}};
}
Json bodyJson(const Negotiated& f) {
    Json j{{"kind", "negotiation"}, {"port", f.port}, {"asked_v", f.asked_v}, {"got_v", f.got_v}};
    if (f.turned) j["turned"] = true;
    return j;
}
Json bodyJson(const PowerTrace& f) {
    Json j{{"kind", "power trace"}, {"moments", Json::array()}, {"text", f.text}};
    for (const PowerTrace::Moment& m : f.moments)
        j["moments"].push_back({m.at_s, m.volts, m.amps});
    return j;
}
Json bodyJson(const LeadsMeasured& f) {
    return {{"kind", "leads"}, {"leads", wordOf(f.leads)}, {"ohms", f.ohms}};
}
Json bodyJson(const FeeAgreed& f) {
    return {{"kind", "fee"}, {"when_fixed", f.whenFixed}, {"when_not", f.whenNot}, {"hourly", f.hourly}};
}
Json bodyJson(const SchoolChosen& f) {
    return {{"kind", "school"}, {"first", wordOf(f.first)}};
}
Json bodyJson(const BoardSeen& f) {
    return {{"kind", "board seen"}, {"damage", wordOf(f.damage)}, {"place", f.place}, {"text", f.text}};
}
Json bodyJson(const BurstSeen& f) {
    return {{"kind", "burst"}, {"burst", wordOf(f.burst)}, {"place", f.place}};
}
Json bodyJson(const SupplyShows& f) {
    return {{"kind", "supply shows"},
            {"place", f.place},
            {"volts", f.volts},
            {"amps", f.amps},
            {"course", wordOf(f.course)}};
}
Json bodyJson(const HeatSensed& f) {
    Json j{{"kind", "heat sensed"}, {"by", wordOf(f.by)}, {"part", f.part}};
    if (!f.net.empty()) j["net"] = f.net;
    return j;
}
Json bodyJson(const CopperWorked& f) {
    Json j{{"kind", "copper"}, {"work", wordOf(f.work)}, {"place", f.place}};
    if (!f.to.empty()) j["to"] = f.to;
    return j;
}
Json bodyJson(const CameBack& f) {
    return {{"kind", "came back"}, {"part", f.part}, {"text", f.text}};
}
Json bodyJson(const RailChosen& f) {
    return {{"kind", "rail"}, {"net", f.net}};
}
Json bodyJson(const ClassCorrected& f) {
    return {{"kind", "class"}, {"part", f.part}, {"class", wordOf(f.partClass)}};
}
Json bodyJson(const NominalSet& f) {
    return {{"kind", "nominal"}, {"net", f.net}, {"volts", f.volts}};
}
Json bodyJson(const InjectionDone& f) {
    return {{"kind", "injection"},
            {"net", f.net},
            {"plus", f.plus},
            {"minus", f.minus},
            {"volts", f.volts},
            {"amps", f.amps},
            {"delivered_watts", f.deliveredWatts},
            {"seconds", f.seconds},
            {"recording", f.recording},
            {"cause", wordOf(f.cause)},
            {"by_hand", f.byHand}};
}
Json bodyJson(const HeatFound& f) {
    Json j{{"kind", "heat"},
           {"verdict", wordOf(f.verdict)},
           {"side", wordOf(f.side)},
           {"recording", f.recording}};
    if (f.fromStills) j["from_stills"] = true;
    if (!f.net.empty()) j["net"] = f.net;
    if (f.injection > 0) j["injection"] = f.injection;
    if (f.alignment > 0) j["alignment"] = f.alignment;
    j["spots"] = Json::array();
    for (const HeatSpot& s : f.spots)
        j["spots"].push_back({{"board_mm", {s.at.x_mm, s.at.y_mm}},
                              {"sigma_mm", s.sigma_mm},
                              {"snr", s.snr},
                              {"power_mw", s.power_mw},
                              {"delay_s", s.delay_s}});
    return j;
}
Json bodyJson(const Lifted& f) {
    return {{"kind", "lifted"}, {"part", f.part}};
}
Json bodyJson(const Refitted& f) {
    return {{"kind", "refitted"}, {"part", f.part}, {"replaced", f.replaced}, {"text", f.text}};
}
Json bodyJson(const PartMeasured& f) {
    Json j{{"kind", "part measured"}, {"part", f.part}, {"shorted", f.shorted}};
    if (f.open) j["open"] = true;
    if (f.reading) putReading(j, *f.reading);
    return j;
}
Json bodyJson(const Closed& f) {
    return {{"kind", "closed"}, {"fixed", f.fixed}, {"culprit", f.culprit}, {"text", f.text}};
}
Json bodyJson(const Noted& f) {
    return {{"kind", "note"}, {"text", f.text}};
}
Json bodyJson(const Aligned& f) {
    return {{"kind", "alignment"},
            {"side", wordOf(f.side)},
            {"residual_mm", f.residual_mm},
            {"registration", Json::parse(f.registration)}};
}
Json bodyJson(const Painted& f) {
    return {{"kind", "painted"},
            {"over", wordOf(f.over)},
            {"surface", f.surface},
            {"from_px", {f.from.x_px, f.from.y_px}},
            {"to_px", {f.to.x_px, f.to.y_px}},
            {"radius_px", f.radius_px}};
}
Json bodyJson(const CautionMet& f) {
    return {{"kind", "caution"}, {"about", f.about}};
}
Json bodyJson(const Struck& f) {
    return {{"kind", "strike"}, {"fact", f.id}};
}
Json bodyJson(const UnknownFact& f) {
    return Json::parse(f.json);
}

std::string text(const Json& j, const char* name) {
    return j.value(name, std::string());
}

template <Spoken E> E spoken(const Json& j, const char* name) {
    return known(fromWord<E>(j.at(name).get<std::string>()));
}

long idFrom(const Json& j) {
    const auto id = wholeNumber(j);
    if (!id) throw BadFact{say("the number of a fact is not a whole number")};
    return *id;
}

Reading readingFrom(const Json& j) {
    Reading reading;
    const auto word = j.at("mode").get<std::string>();
    reading.mode = known(meterModeFromWord(word));
    reading.state = j.value("over_range", false) ? ReadingState::OverRange : ReadingState::Value;
    if (reading.state == ReadingState::Value) reading.value = j.at("value").get<double>();
    reading.resolution = j.value("resolution", 0.0);
    return reading;
}

ReadingTaken takenFrom(const Json& j) {
    return {j.at("place").get<std::string>(), text(j, "against"), readingFrom(j), j.value("reversed", false),
            j.value("powered", false)};
}

PowerTrace traceFrom(const Json& j) {
    PowerTrace f;
    f.text = text(j, "text");
    for (const Json& m : j.at("moments"))
        f.moments.push_back({m.at(0).get<double>(), m.at(1).get<double>(), m.at(2).get<double>()});
    return f;
}

HeatFound heatFrom(const Json& j) {
    HeatFound f;
    const auto word = j.at("verdict").get<std::string>();
    f.verdict = known(heatVerdictFromWord(word));
    f.side = text(j, "side") == "bottom" ? Side::Bottom : Side::Top;
    f.recording = text(j, "recording");
    f.fromStills = j.value("from_stills", false);
    f.net = text(j, "net");
    f.injection = j.value("injection", 0L);
    f.alignment = j.value("alignment", 0L);
    for (const Json& s : j.at("spots")) {
        const auto& at = s.at("board_mm");
        f.spots.push_back({{at.at(0).get<double>(), at.at(1).get<double>()},
                           s.value("sigma_mm", 1.0),
                           s.value("snr", 0.0),
                           s.value("power_mw", 0.0),
                           s.value("delay_s", 0.0)});
    }
    if (f.spots.empty() && (f.verdict == HeatVerdict::Point || f.verdict == HeatVerdict::FarSide))
        throw BadFact{say("a point without a spot")};
    return f;
}

FactBody bodyFrom(const std::string& kind, const Json& j) {
    if (kind == "complaint") return Complaint{text(j, "text")};
    if (kind == "source")
        return SourceShows{j.at("volts").get<double>(), j.at("amps").get<double>(), text(j, "text"),
                           known(fromWord<Reaction>(j.value("reaction", "not-said")))};
    if (kind == "seen")
        return Seen{text(j, "part"), known(fromWord<Damage>(text(j, "damage"))), text(j, "text"),
                    text(j, "photo")};
    if (kind == "uncovered") return Uncovered{j.at("what").get<std::string>()};
    if (kind == "unplugged") return Unplugged{j.at("part").get<std::string>(), j.value("back", false)};
    if (kind == "millivolts")
        return MillivoltTaken{j.at("place").get<std::string>(),
                              text(j, "black"),
                              j.at("volts").get<double>(),
                              j.value("resolution", 0.0),
                              j.at("amps").get<double>(),
                              j.at("plus").get<std::string>(),
                              text(j, "minus")};
    if (kind == "reading") return takenFrom(j);
    if (kind == "donor reading")
        return DonorReading{j.at("place").get<std::string>(), readingFrom(j), j.value("reversed", false)};
    if (kind == "board warm") return BoardWarm{j.at("warm").get<bool>()};
    if (kind == "history") return History{spoken<Past>(j, "past"), text(j, "text")};
    if (kind == "negotiation")
        return Negotiated{text(j, "port"), j.value("turned", false), j.at("asked_v").get<double>(),
                          j.at("got_v").get<double>()};
    if (kind == "power trace") return traceFrom(j);
    if (kind == "leads") return LeadsMeasured{spoken<LeadsOf>(j, "leads"), j.at("ohms").get<double>()};
    if (kind == "fee")
        return FeeAgreed{j.at("when_fixed").get<double>(), j.value("when_not", 0.0),
                         j.at("hourly").get<double>()};
    if (kind == "school") return SchoolChosen{spoken<HuntSchool>(j, "first")};
    if (kind == "board seen")
        return BoardSeen{spoken<BoardDamage>(j, "damage"), text(j, "place"), text(j, "text")};
    if (kind == "burst") return BurstSeen{spoken<Burst>(j, "burst"), text(j, "place")};
    if (kind == "supply shows")
        return SupplyShows{j.at("place").get<std::string>(), j.at("volts").get<double>(),
                           j.at("amps").get<double>(),
                           known(fromWord<CurrentCourse>(j.value("course", "steady")))};
    if (kind == "heat sensed") return HeatSensed{spoken<HeatSense>(j, "by"), text(j, "part"), text(j, "net")};
    if (kind == "copper")
        return CopperWorked{spoken<CopperWork>(j, "work"), j.at("place").get<std::string>(), text(j, "to")};
    if (kind == "came back") return CameBack{text(j, "part"), text(j, "text")};
    if (kind == "rail") return RailChosen{j.at("net").get<std::string>()};
    if (kind == "class")
        return ClassCorrected{j.at("part").get<std::string>(), known(partClassFromWord(text(j, "class")))};
    if (kind == "nominal") return NominalSet{j.at("net").get<std::string>(), j.at("volts").get<double>()};
    if (kind == "injection")
        return InjectionDone{text(j, "net"),           text(j, "plus"),      text(j, "minus"),
                             j.value("volts", 0.0),    j.value("amps", 0.0), j.value("delivered_watts", 0.0),
                             j.value("seconds", 0.0),  text(j, "recording"), causeFrom(text(j, "cause")),
                             j.value("by_hand", false)};
    if (kind == "heat") return heatFrom(j);
    if (kind == "lifted") return Lifted{j.at("part").get<std::string>()};
    if (kind == "refitted")
        return Refitted{j.at("part").get<std::string>(), j.value("replaced", false), text(j, "text")};
    if (kind == "part measured")
        return PartMeasured{j.at("part").get<std::string>(), j.at("shorted").get<bool>(),
                            j.value("open", false),
                            j.contains("mode") ? std::optional(readingFrom(j)) : std::nullopt};
    if (kind == "closed") return Closed{j.value("fixed", false), text(j, "culprit"), text(j, "text")};
    if (kind == "note") return Noted{text(j, "text")};
    if (kind == "alignment")
        return Aligned{text(j, "side") == "bottom" ? Side::Bottom : Side::Top, j.value("residual_mm", 0.0),
                       j.at("registration").dump()};
    if (kind == "painted") {
        const auto pixel = [&j](const char* key) {
            return PixelPoint{j.at(key).at(0).get<double>(), j.at(key).at(1).get<double>()};
        };
        const std::string over = text(j, "over");
        return Painted{over == "stills"   ? Painted::Over::Stills
                       : over == "bottom" ? Painted::Over::Bottom
                                          : Painted::Over::Top,
                       j.at("surface").get<std::string>(), pixel("from_px"), pixel("to_px"),
                       j.at("radius_px").get<double>()};
    }
    if (kind == "caution") return CautionMet{j.at("about").get<std::string>()};
    if (kind == "strike") return Struck{idFrom(j.at("fact"))};
    return UnknownFact{kind, j.dump()};
}

} // namespace

std::string factToJson(const Fact& fact) {
    Json j{{"id", fact.id}, {"time", fact.time_s}};
    const Json body = std::visit([](const auto& b) { return bodyJson(b); }, fact.body);
    for (const auto& [key, value] : body.items())
        j[key] = value;
    return j.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::optional<long> idInJson(std::string_view line) {
    // Without exceptions: a damaged line may still begin with its number.
    const Json j = Json::parse(line, nullptr, false);
    if (j.is_object() && j.contains("id")) return wholeNumber(j["id"]);
    constexpr std::string_view start = "{\"id\":";
    if (!line.starts_with(start)) return std::nullopt;
    long id = 0;
    const auto read = std::from_chars(line.data() + start.size(), line.data() + line.size(), id);
    return read.ec == std::errc() ? std::optional(id) : std::nullopt;
}

Result<Fact> factFromJson(std::string_view line) {
    try {
        Json j = Json::parse(line);
        Fact fact;
        fact.id = idFrom(j.at("id"));
        fact.time_s = j.at("time").get<double>();
        const auto kind = j.at("kind").get<std::string>();
        try {
            fact.body = bodyFrom(kind, j);
        } catch (const LaterWord&) {
            fact.body = UnknownFact{kind, j.dump()};
        }
        return fact;
    } catch (const BadFact& bad) {
        return Error{bad.what, "", {}};
    } catch (const nlohmann::json::exception& fault) {
        return Error{say("not a fact: {fault}", {{"fault", fault.what()}}), "", {}};
    }
}

} // namespace ustor
