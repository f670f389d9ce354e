#pragma once

#include "base/message.h"
#include "base/units.h"

#include <string>
#include <vector>

namespace ustor {

/// A pair of leads between source and board: both ways, with the contacts at their ends.
struct UsualLeads {
    Message name;
    Ohms resistance;
};

/// Usual leads: copper both ways by gauge and length (ASTM B258, IEC 60028) and what clips, plugs and
/// contacts add (common practice: 5 to 15 mOhm a contact).
const std::vector<UsualLeads>& usualLeads();

/// What the first plug-in into a source in current limit tells about the distance of the short.
struct NearFar {
    enum class Verdict {
        NotLimited,  ///< the source was not in its limit: no hard short on its way
        AtConnector, ///< what is left is the connector's neighbourhood
        Behind,      ///< copper, switches or links lie between
        LeadsAlone,  ///< less than the leads themselves: their resistance is not what was said, or they touch
    };
    Verdict verdict = Verdict::NotLimited;
    Ohms loop;  ///< V / I
    Ohms board; ///< loop without the leads, not below zero
    Ohms doubt; ///< one deviation of `board`: the meter's digits and the leads' spread
    Message sentence;
};

/// What a source was set to that shows so much: the lowest fixed supply of USB Power Delivery (5, 9, 15, 20
/// V) not below it, with a tenth to spare; what it shows, above all of them.
Volts ratedFor(Volts shown);

/// Loop resistance V / I less the leads. `rated` is what the source was set to: above half of it there is no
/// hard short.
NearFar nearOrFar(Volts shown, Amps flowing, Volts rated, Ohms leads);

} // namespace ustor
