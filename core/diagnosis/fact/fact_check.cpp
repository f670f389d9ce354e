#include "diagnosis/fact/fact_check.h"
#include "base/input_bounds.h"

#include "base/quantity_text.h"
#include "diagnosis/fact/case_state.h"

#include <cmath>

namespace ustor {
namespace {

/// The first complaint counts.
struct Check {
    const Board& board;
    std::optional<Message> why = {};

    void complain(Message what) {
        if (!why) why = std::move(what);
    }
    void part(const std::string& name, bool mayBeEmpty = false) {
        if (name.empty() ? !mayBeEmpty : board.findPart(name) < 0)
            complain(name.empty() ? say("no part is named")
                                  : say("there is no part {name} on this board", {{"name", name}}));
    }
    void net(const std::string& name) {
        if (board.findNet(name) < 0) complain(say("there is no net {name} on this board", {{"name", name}}));
    }
    /// A pad, a part, or a net.
    void place(const std::string& name, bool mayBeEmpty = false) {
        if (name.empty()) {
            if (!mayBeEmpty) complain(say("no place is named"));
        } else if (!board.findPad(name) && board.findPart(name) < 0 && board.findNet(name) < 0) {
            complain(say("there is no place {name} on this board (a pad as C12.1, a part, or a net)",
                         {{"name", name}}));
        }
    }
    /// Two that are to lie apart.
    void apart(const std::string& one, const std::string& other) {
        if (!one.empty() && one == other)
            complain(say("both ends are at {place}: it goes from one place to another", {{"place", one}}));
    }
    void number(double value, double low, double high, const char* unit) {
        if (!std::isfinite(value))
            complain(say("the value is not a number"));
        else if (value < low || value > high)
            complain(say("{value} is no value of a bench like this: {low} to {high}",
                         {{"value", quantityText(value, unit)},
                          {"low", quantityText(low, unit)},
                          {"high", quantityText(high, unit)}}));
    }
    void volts(double value) { number(value, -bounds::volts, bounds::volts, "V"); }
    void amps(double value) { number(value, 0, bounds::amps, "A"); }

    void operator()(const Complaint&) {}
    void operator()(const SourceShows& f) {
        volts(f.volts);
        number(f.amps, -bounds::amps, bounds::amps, "A");
    }
    void operator()(const Seen& f) { part(f.part, true); }
    void operator()(const Uncovered&) {}
    void operator()(const Unplugged& f) { part(f.part); }
    void operator()(const MillivoltTaken& f) {
        place(f.place);
        place(f.black, true);
        apart(f.place, f.black);
        place(f.plus);
        place(f.minus, true);
        apart(f.plus, f.minus);
        volts(f.volts);
        number(f.amps, 0, bounds::amps, "A");
        if (f.amps <= 0) complain(say("millivolts without a current tell nothing"));
        number(f.resolution, 0, bounds::volts, "V");
    }
    void operator()(const ReadingTaken& f) {
        place(f.place);
        place(f.against, true);
        apart(f.place, f.against);
        const Reading& r = f.reading;
        number(r.resolution, 0, bounds::ohms, "");
        if (r.state != ReadingState::Value) return;
        // A meter whose zero has drifted reads a little below.
        constexpr double drift = -1;
        if (r.mode == MeterMode::Volts || r.mode == MeterMode::Diode)
            volts(r.value);
        else
            number(r.value, drift, bounds::ohms, "Ω");
    }
    void operator()(const DonorReading& f) { (*this)(ReadingTaken{f.place, "", f.reading, f.reversed}); }
    void operator()(const BoardWarm&) {}
    void operator()(const History&) {}
    void operator()(const Negotiated& f) {
        part(f.port, true);
        volts(f.asked_v);
        volts(f.got_v);
    }
    void operator()(const PowerTrace& f) {
        if (f.moments.empty()) complain(say("power put on without a moment"));
        double last_s = 0;
        for (const PowerTrace::Moment& m : f.moments) {
            number(m.at_s, 0, bounds::seconds, "s");
            if (m.at_s < last_s) complain(say("the moments go back in time"));
            last_s = m.at_s;
            volts(m.volts);
            number(m.amps, -bounds::amps, bounds::amps, "A");
        }
    }
    void operator()(const LeadsMeasured& f) {
        constexpr double most = 20; // beyond it they are broken
        number(f.ohms, 0, most, "Ω");
    }
    void operator()(const FeeAgreed& f) {
        constexpr double most = 1e9;
        for (const double sum : {f.whenFixed, f.whenNot, f.hourly})
            number(sum, 0, most, "");
    }
    void operator()(const SchoolChosen&) {}
    void operator()(const BoardSeen& f) { place(f.place); }
    void operator()(const BurstSeen& f) { place(f.place); }
    void operator()(const SupplyShows& f) {
        place(f.place);
        number(f.volts, 0, bounds::volts, "V");
        amps(f.amps);
    }
    void operator()(const HeatSensed& f) {
        part(f.part, true);
        if (!f.net.empty()) net(f.net);
    }
    void operator()(const CopperWorked& f) {
        place(f.place);
        place(f.to, f.work != CopperWork::WireRun);
        apart(f.place, f.to);
    }
    void operator()(const CameBack& f) { part(f.part, true); }
    void operator()(const RailChosen& f) { net(f.net); }
    void operator()(const ClassCorrected& f) { part(f.part); }
    void operator()(const NominalSet& f) {
        net(f.net);
        volts(f.volts);
    }
    void operator()(const InjectionDone& f) {
        place(f.plus);
        place(f.minus, true);
        apart(f.plus, f.minus);
        number(f.volts, 0, bounds::volts, "V");
        amps(f.amps);
        number(f.deliveredWatts, 0, bounds::watts, "W");
        number(f.seconds, 0, bounds::seconds, "s");
    }
    void operator()(const HeatFound& f) {
        constexpr double clear = 1e9;
        using bounds::place_mm;
        for (const HeatSpot& s : f.spots)
            for (const double value : {s.at.x_mm, s.at.y_mm, s.sigma_mm, s.snr, s.power_mw, s.delay_s})
                if (!std::isfinite(value) || std::abs(s.at.x_mm) > place_mm ||
                    std::abs(s.at.y_mm) > place_mm || std::abs(s.snr) > clear)
                    complain(say("a spot of the finding lies nowhere"));
    }
    void operator()(const Lifted& f) { part(f.part); }
    void operator()(const Refitted& f) { part(f.part); }
    void operator()(const PartMeasured& f) { part(f.part); }
    void operator()(const Closed&) {}
    void operator()(const Noted&) {}
    void operator()(const Aligned& f) {
        if (f.registration.empty()) complain(say("an alignment without landmarks"));
        number(f.residual_mm, 0, bounds::place_mm, "mm");
    }
    void operator()(const Painted& f) {
        using bounds::stroke_px;
        for (const double pixel : {f.from.x_px, f.from.y_px, f.to.x_px, f.to.y_px})
            number(pixel, -stroke_px, stroke_px, "pixels");
        number(f.radius_px, 0, stroke_px, "pixels");
        if (f.surface.empty()) complain(say("a stroke of no surface"));
    }
    void operator()(const CautionMet&) {}
    void operator()(const Struck&) {}
    void operator()(const UnknownFact&) {}
};

} // namespace

std::optional<Message> whyNotTaken(const Board& board, const FactBody& body) {
    Check check{board};
    std::visit(check, body);
    return check.why;
}

} // namespace ustor
