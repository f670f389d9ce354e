#include "diagnosis/work_pace.h"

#include "base/csv.h"
#include "base/number_text.h"
#include "diagnosis/knowledge.h"
#include "diagnosis/moves/cost_to_repair.h"
#include "diagnosis/work_time.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <set>

namespace ustor {
namespace {

constexpr std::array<std::string_view, workKinds.size()> words{"read", "look at heat", "lift small part",
                                                               "lift switch", "lift chip"};

struct Work {
    WorkKind kind;
    double usual_min;
};

std::optional<Work> workOf(const Board& board, const FactBody& body) {
    if (std::holds_alternative<ReadingTaken>(body)) return Work{WorkKind::Read, minutesToRead};
    if (std::holds_alternative<InjectionDone>(body)) return Work{WorkKind::LookAtHeat, minutesToLookAtHeat};
    if (const auto* lifted = std::get_if<Lifted>(&body))
        if (const PartIndex part = board.findPart(lifted->part); part >= 0) {
            const PartClass partClass = board.parts[part].partClass;
            return Work{liftingOf(partClass), Knowledge::minutesToLift(partClass)};
        }
    return std::nullopt;
}

} // namespace

std::string_view wordOf(WorkKind kind) {
    return words[static_cast<std::size_t>(kind)];
}

WorkKind liftingOf(PartClass partClass) {
    switch (partClass) {
    case PartClass::Mosfet:
        return WorkKind::LiftSwitch;
    case PartClass::Regulator:
    case PartClass::Ic:
    case PartClass::Processor:
    case PartClass::Connector:
        return WorkKind::LiftChip;
    default:
        return WorkKind::LiftSmall;
    }
}

void WorkPace::add(WorkKind kind, const Timed& timed) {
    const auto i = static_cast<std::size_t>(kind);
    m_timed[i].times += timed.times;
    m_timed[i].logSum += timed.logSum;
    m_factor[i] = std::exp(m_timed[i].logSum / (static_cast<double>(m_timed[i].times) + trustInCommon));
}

void WorkPace::add(const WorkPace& other) {
    for (const WorkKind kind : workKinds)
        add(kind, other.timed(kind));
}

bool WorkPace::empty() const {
    return std::all_of(m_timed.begin(), m_timed.end(), [](const Timed& t) { return t.times == 0; });
}

WorkPace paceOf(const Board& board, const std::vector<Fact>& facts) {
    // Nobody is eight times as quick as common practice: that was noted afterwards, several facts in a go.
    constexpr double quickest = 1.0 / 8;
    const std::set<long> struck = struckFacts(facts);
    WorkPace pace;
    for (std::size_t i = 1; i < facts.size(); ++i) {
        if (struck.contains(facts[i].id)) continue;
        const auto work = workOf(board, facts[i].body);
        const double taken_min = (facts[i].time_s - facts[i - 1].time_s) / 60;
        if (!work || taken_min > WorkTime::break_min || taken_min < quickest * work->usual_min) continue;
        pace.add(work->kind, {1, std::log(taken_min / work->usual_min)});
    }
    return pace;
}

Result<std::vector<CasePace>> readPace(std::string_view text, std::string_view fileName,
                                       std::vector<Message>& warnings) {
    const std::string file(fileName);
    const auto rows = csvRows(text, ',');
    if (rows.empty() ||
        rows.front().cells != std::vector<std::string>{"case", "work", "times", "against_usual"})
        return Error{say("the first row must be case,work,times,against_usual"), file + ":1",
                     say("nothing was read")};
    std::vector<CasePace> cases;
    for (auto row = rows.begin() + 1; row != rows.end(); ++row) {
        const auto cell = [&](std::size_t at) { return at < row->cells.size() ? row->cells[at] : ""; };
        const auto word = std::find(words.begin(), words.end(), cell(1));
        const auto times = integerFromText(cell(2));
        const auto ratio = numberFromText(cell(3));
        const bool sameCase = !cases.empty() && cases.back().caseName == cell(0);
        const auto kind = workKinds[static_cast<std::size_t>(word == words.end() ? 0 : word - words.begin())];
        const long before = sameCase ? cases.back().pace.timed(kind).times : 0;
        constexpr long mostTimes = 100'000;             // of one case
        constexpr double mostRatio = 1000 * (1 + 1e-9); // what was written at the bound is read
        if (cell(0).empty() || word == words.end() || !times || *times < 1 || *times > mostTimes - before ||
            !ratio || *ratio < 1 / mostRatio || *ratio > mostRatio) {
            warnings.push_back(say("{where}: not a pace of work, left out",
                                   {{"where", file + ":" + std::to_string(row->line)}}));
            continue;
        }
        if (!sameCase) cases.push_back({cell(0), {}});
        cases.back().pace.add(kind, {*times, static_cast<double>(*times) * std::log(*ratio)});
    }
    return cases;
}

std::string paceToCsv(const std::vector<CasePace>& cases) {
    std::string out = "case,work,times,against_usual\n";
    for (const CasePace& each : cases)
        for (const WorkKind kind : workKinds) {
            const auto& timed = each.pace.timed(kind);
            if (timed.times > 0)
                out += csvCell(each.caseName) + "," + std::string(wordOf(kind)) + "," +
                       std::to_string(timed.times) + "," +
                       textOfNumber(std::exp(timed.logSum / static_cast<double>(timed.times))) + "\n";
        }
    return out;
}

} // namespace ustor
