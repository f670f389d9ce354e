#include "diagnosis/learnt.h"

#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace ustor {

double doubtIn_bits(const Belief& belief) {
    std::vector<double> odds;
    for (const Hypothesis& h : belief.hypotheses)
        odds.push_back(h.odds);
    return entropyBits(odds);
}

BeforeLift::BeforeLift(long liftedBy, PartIndex lifted, std::vector<Fact> until, const Belief& belief)
    : fact(liftedBy), part(lifted), facts(std::move(until)), doubt_bits(doubtIn_bits(belief)),
      cause(belief.cause) {}

Learnt learntSince(const BeforeLift& before, const Belief& now) {
    Learnt learnt{before.fact, before.doubt_bits - doubtIn_bits(now), {}};
    const auto size = [](const Learnt::Shift& s) { return std::fabs(s.after - s.before); };
    constexpr double worthTelling = 0.05;
    constexpr std::size_t most = 3;
    std::vector<Learnt::Shift> others;
    for (std::size_t p = 0; p < std::min(before.cause.size(), now.cause.size()); ++p) {
        const Learnt::Shift shift{static_cast<PartIndex>(p), before.cause[p], now.cause[p]};
        if (shift.part == before.part)
            learnt.shifts.push_back(shift);
        else if (size(shift) >= worthTelling)
            others.push_back(shift);
    }
    if (others.empty() && (learnt.shifts.empty() || size(learnt.shifts.front()) < worthTelling))
        return {before.fact, learnt.bits, {}};
    std::stable_sort(others.begin(), others.end(),
                     [&](const Learnt::Shift& a, const Learnt::Shift& b) { return size(a) > size(b); });
    for (std::size_t i = 0; i < others.size() && learnt.shifts.size() < most; ++i)
        learnt.shifts.push_back(others[i]);
    return learnt;
}

const Fact* newestLift(const std::vector<Fact>& facts) {
    const std::set<long> struck = struckFacts(facts);
    const auto found = std::find_if(facts.rbegin(), facts.rend(), [&](const Fact& fact) {
        return std::holds_alternative<Lifted>(fact.body) && !struck.contains(fact.id);
    });
    return found == facts.rend() ? nullptr : &*found;
}

} // namespace ustor
