#include "diagnosis/moves/next_moves.h"

#include "diagnosis/moves/planner.h"

namespace ustor {

std::string_view wordOf(CaseEnd end) {
    switch (end) {
    case CaseEnd::Open:
        return "open";
    case CaseEnd::Fixed:
        return "fixed";
    case CaseEnd::NotWorthIt:
        return "not-worth-it";
    case CaseEnd::NotRepairable:
        return "not-repairable";
    case CaseEnd::NoShort:
        return "no-short";
    }
    return "open";
}

std::vector<NextMove> nextMoves(const Standing& standing) {
    return Planner(standing).moves();
}

} // namespace ustor
