#pragma once

#include "diagnosis/belief/belief.h"
#include "diagnosis/belief/items_by_part.h"

#include <algorithm>
#include <cmath>

namespace ustor {

/// A hypothesis while it is weighed.
struct Weighed {
    using Courses = std::vector<ReadingEvidence::SharedCourse>;
    std::vector<Fault> causes;
    double prior = 0;
    Courses read;   ///< on rails apart
    double log = 0; ///< prior, and all evidence against that of a sound board
};

inline double logPrior(double prior) {
    constexpr double least = 1e-300;
    return std::log(std::max(prior, least));
}

/// All hypotheses from their priors through each fact in its turn, likeliest first; with what each fact did
/// to the likeliest of them.
Belief follow(std::vector<Weighed> all, const ItemsByPart& items, const ReadingEvidence& readings);

} // namespace ustor
