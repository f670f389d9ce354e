#pragma once

#include "base/message.h"
#include "diagnosis/fact/arrival.h"
#include "diagnosis/fact/heating.h"
#include "diagnosis/fact/looking.h"
#include "diagnosis/fact/rework.h"

#include <optional>
#include <string_view>
#include <vector>

namespace ustor {

/// A value as files and command lines spell it, and as people read it.
template <class E> struct Word {
    E value;
    std::string_view word;
    Message label;
};

// All values of each vocabulary, the first of them the one to fall back on.
const std::vector<Word<Past>>& vocabulary(Past);
const std::vector<Word<Reaction>>& vocabulary(Reaction);
const std::vector<Word<LeadsOf>>& vocabulary(LeadsOf);
const std::vector<Word<HuntSchool>>& vocabulary(HuntSchool);
const std::vector<Word<Damage>>& vocabulary(Damage);
const std::vector<Word<BoardDamage>>& vocabulary(BoardDamage);
const std::vector<Word<Burst>>& vocabulary(Burst);
const std::vector<Word<CurrentCourse>>& vocabulary(CurrentCourse);
const std::vector<Word<HeatSense>>& vocabulary(HeatSense);
const std::vector<Word<Painted::Over>>& vocabulary(Painted::Over);
const std::vector<Word<CopperWork>>& vocabulary(CopperWork);

template <class E>
concept Spoken = requires(E value) {
    vocabulary(value);
};

template <Spoken E> const Word<E>& wordFor(E value) {
    const auto& all = vocabulary(value);
    for (const Word<E>& each : all)
        if (each.value == value) return each;
    return all.front();
}
template <Spoken E> std::string_view wordOf(E value) {
    return wordFor(value).word;
}
template <Spoken E> Message labelOf(E value) {
    return wordFor(value).label;
}
template <Spoken E> std::optional<E> fromWord(std::string_view word) {
    for (const Word<E>& each : vocabulary(E{}))
        if (each.word == word) return each.value;
    return std::nullopt;
}
/// "cracked, bulged, ...", for telling what may be said.
template <Spoken E> std::string wordsOf() {
    std::string all;
    for (const Word<E>& each : vocabulary(E{}))
        all += (all.empty() ? "" : ", ") + std::string(each.word);
    return all;
}

} // namespace ustor
