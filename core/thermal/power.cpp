#include "thermal/power.h"

#include <algorithm>

namespace ustor {

double deliveredPower_w(const std::vector<SupplySample>& supply, double time_s, double offset_s) {
    const double t = time_s + offset_s;
    const auto after = std::upper_bound(supply.begin(), supply.end(), t,
                                        [](double at, const SupplySample& s) { return at < s.time_s; });
    if (after == supply.begin() || after == supply.end())
        return after == supply.end() && !supply.empty() && supply.back().time_s == t ? supply.back().watts()
                                                                                     : 0;
    const auto before = after - 1;
    const double span = after->time_s - before->time_s;
    const double share = span > 0 ? (t - before->time_s) / span : 0;
    return before->watts() * (1 - share) + after->watts() * share;
}

std::vector<double> switchOns(const std::vector<SupplySample>& supply) {
    double most = 0;
    for (const auto& s : supply)
        most = std::max(most, s.watts());
    std::vector<double> times;
    for (std::size_t i = 1; i < supply.size(); ++i)
        if (supply[i - 1].watts() < 0.1 * most && supply[i].watts() >= 0.1 * most)
            times.push_back((supply[i - 1].time_s + supply[i].time_s) / 2);
    return times;
}

double meanOnPower_w(const std::vector<SupplySample>& supply) {
    double sum = 0;
    int count = 0;
    for (const auto& s : supply)
        if (s.watts() > 0) {
            sum += s.watts();
            ++count;
        }
    return count ? sum / count : 0;
}

} // namespace ustor
