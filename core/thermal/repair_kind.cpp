#include "thermal/repair_kind.h"

#include <utility>

namespace ustor {
namespace {

constexpr std::pair<Repair, std::string_view> words[] = {
    {Repair::Frozen, "frozen"},     {Repair::Motion, "motion"},  {Repair::Common, "common"},
    {Repair::Passing, "passing"},   {Repair::Clocks, "clocks"},  {Repair::Bending, "bending"},
    {Repair::Restless, "restless"}, {Repair::Mirrors, "mirrors"}};

} // namespace

std::string_view wordOf(Repair repair) {
    for (const auto& [one, word] : words)
        if (one == repair) return word;
    return {};
}

std::optional<Repair> repairFromWord(std::string_view word) {
    for (const auto& [one, own] : words)
        if (own == word) return one;
    return std::nullopt;
}

const std::vector<Repair>& allRepairs() {
    static const std::vector<Repair> all = [] {
        std::vector<Repair> list;
        for (const auto& [one, word] : words)
            list.push_back(one);
        return list;
    }();
    return all;
}

} // namespace ustor
