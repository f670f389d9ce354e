#pragma once

#include <string>
#include <vector>

namespace ustor {

// What is told and seen before anything is opened.

struct Complaint {
    std::string text;
};
/// What happened to the board before it came.
enum class Past { NoStory, Liquid, Heat, Drop, OtherShop, Charging, WrongSource };
struct History {
    Past past = Past::NoStory;
    std::string text;
};
/// What the board or its source does when power is put on.
enum class Reaction { NotSaid, None, Starts, StartsAndDies, Pulses, ShutsOff };
/// Power put on through a limited source, at the first plug-in or later: what it shows, what the board does.
struct SourceShows {
    double volts = 0, amps = 0;
    std::string text;
    Reaction reaction = Reaction::NotSaid;
};
/// What a source that negotiates was asked for at a port, and what it gave.
struct Negotiated {
    std::string port;    ///< part; may be empty
    bool turned = false; ///< the plug the other way round
    double asked_v = 0, got_v = 0;
};
/// Volts and amps of a source from the moment that power was put on.
struct PowerTrace {
    struct Moment {
        double at_s = 0, volts = 0, amps = 0;
    };
    std::vector<Moment> moments; ///< in order of time
    std::string text;
};
/// What leads read when they touch each other.
enum class LeadsOf { Meter, Supply };
struct LeadsMeasured {
    LeadsOf leads = LeadsOf::Meter;
    double ohms = 0;
};
/// How the job pays: for a repair, for the look without one, and what an hour at the bench is worth.
struct FeeAgreed {
    double whenFixed = 0, whenNot = 0, hourly = 0;
};
/// What a person wants to begin with from here on, whatever costs least (common practice knows each of these
/// schools).
enum class HuntSchool { Cheapest, Capacitors, Chips, Eyes, Heat, Split };
struct SchoolChosen {
    HuntSchool first = HuntSchool::Cheapest;
};

} // namespace ustor
