#include "diagnosis/fact/words.h"

namespace ustor {

const std::vector<Word<Past>>& vocabulary(Past) {
    static const std::vector<Word<Past>> all{
        {Past::NoStory, "no-story", say("no story")},
        {Past::Liquid, "liquid", say("liquid was on it")},
        {Past::Heat, "heat", say("it got hot")},
        {Past::Drop, "drop", say("it was dropped")},
        {Past::OtherShop, "other-shop", say("others have worked on it")},
        {Past::Charging, "charging", say("it died while it was charged")},
        {Past::WrongSource, "wrong-source", say("a wrong or turned source was on it")}};
    return all;
}

const std::vector<Word<Reaction>>& vocabulary(Reaction) {
    static const std::vector<Word<Reaction>> all{
        {Reaction::NotSaid, "not-said", {}},
        {Reaction::None, "none", say("no reaction")},
        {Reaction::Starts, "starts", say("the board starts")},
        {Reaction::StartsAndDies, "dies", say("it starts and dies")},
        {Reaction::Pulses, "pulses", say("it comes and goes on a steady beat")},
        {Reaction::ShutsOff, "shuts-off", say("the source shuts itself off")}};
    return all;
}

const std::vector<Word<LeadsOf>>& vocabulary(LeadsOf) {
    static const std::vector<Word<LeadsOf>> all{{LeadsOf::Meter, "meter", say("the meter's leads")},
                                                {LeadsOf::Supply, "supply", say("the supply's leads")}};
    return all;
}

const std::vector<Word<HuntSchool>>& vocabulary(HuntSchool) {
    static const std::vector<Word<HuntSchool>> all{
        {HuntSchool::Cheapest, "cheapest", say("what is expected to cost least")},
        {HuntSchool::Capacitors, "capacitors", say("capacitors")},
        {HuntSchool::Chips, "chips", say("chips and switches")},
        {HuntSchool::Eyes, "eyes", say("looking over")},
        {HuntSchool::Heat, "heat", say("current and heat")},
        {HuntSchool::Split, "split", say("splitting the rail")}};
    return all;
}

const std::vector<Word<Damage>>& vocabulary(Damage) {
    static const std::vector<Word<Damage>> all{{Damage::None, "looks fine", say("looks fine")},
                                               {Damage::Cracked, "cracked", say("cracked")},
                                               {Damage::Bulged, "bulged", say("bulged")},
                                               {Damage::Discoloured, "discoloured", say("discoloured")},
                                               {Damage::Burnt, "burnt", say("burnt")},
                                               {Damage::Hole, "hole", say("hole")},
                                               {Damage::Corroded, "corroded", say("corroded")},
                                               {Damage::Missing, "missing", say("missing")},
                                               {Damage::Bent, "bent", say("bent")},
                                               {Damage::Askew, "askew", say("askew")}};
    return all;
}

const std::vector<Word<BoardDamage>>& vocabulary(BoardDamage) {
    static const std::vector<Word<BoardDamage>> all{
        {BoardDamage::BurntLaminate, "burnt-laminate", say("the laminate is burnt")},
        {BoardDamage::LiftedPad, "lifted-pad", say("a pad is lifted")},
        {BoardDamage::Corrosion, "corrosion", say("corroded between the parts")},
        {BoardDamage::BrokenTrace, "broken-trace", say("a trace is broken")},
        {BoardDamage::SolderBridge, "solder-bridge", say("solder bridges two pads")},
        {BoardDamage::Dirt, "dirt", say("flux, dust or dried liquid lies there")}};
    return all;
}

const std::vector<Word<Burst>>& vocabulary(Burst) {
    static const std::vector<Word<Burst>> all{{Burst::Spark, "spark", say("sparks")},
                                              {Burst::Smoke, "smoke", say("smokes")},
                                              {Burst::Pop, "pop", say("pops")}};
    return all;
}

const std::vector<Word<CurrentCourse>>& vocabulary(CurrentCourse) {
    static const std::vector<Word<CurrentCourse>> all{
        {CurrentCourse::Steady, "steady", say("the current is steady")},
        {CurrentCourse::Rises, "rises", say("the current rises")},
        {CurrentCourse::Falls, "falls", say("the current falls slowly")},
        {CurrentCourse::Drops, "drops", say("the current dropped at once")}};
    return all;
}

const std::vector<Word<HeatSense>>& vocabulary(HeatSense) {
    static const std::vector<Word<HeatSense>> all{
        {HeatSense::Alcohol, "alcohol", say("alcohol dries first over it")},
        {HeatSense::Frost, "frost", say("frost clears first over it")},
        {HeatSense::Finger, "finger", say("warm to the finger")},
        {HeatSense::Picture, "picture", say("warm in a thermal picture")},
        {HeatSense::Flare, "flare", say("flares warm with each try of a converter")},
        {HeatSense::Idle, "idle", say("hot while the board does nothing")}};
    return all;
}

const std::vector<Word<Painted::Over>>& vocabulary(Painted::Over) {
    static const std::vector<Word<Painted::Over>> all{
        {Painted::Over::Top, "top", labelOf(Side::Top)},
        {Painted::Over::Bottom, "bottom", labelOf(Side::Bottom)},
        {Painted::Over::Stills, "stills", say("stills")}};
    return all;
}

const std::vector<Word<CopperWork>>& vocabulary(CopperWork) {
    static const std::vector<Word<CopperWork>> all{
        {CopperWork::BridgeOpened, "bridge-opened", say("what bridged was taken away")},
        {CopperWork::TraceCut, "trace-cut", say("trace cut")},
        {CopperWork::WireRun, "wire", say("wire run")},
        {CopperWork::PadMended, "pad-mended", say("pad or trace mended")}};
    return all;
}

} // namespace ustor
