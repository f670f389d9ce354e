#include "diagnosis/case_fold.h"

#include <algorithm>
#include <utility>

namespace ustor {
namespace {

/// How long a board is warm after hot air: readings drift on it (common practice).
constexpr double warmFor_s = 300;

/// One fact and what it changes.
struct Step {
    CaseState& state;
    std::optional<double>& hotAir_s;
    std::shared_ptr<const PartsOff>& then;
    bool& kindsChanged;
    long fact;
    double now_s;

    const std::shared_ptr<const PartsOff>& stands() const {
        if (!then) then = std::make_shared<PartsOff>(PartsOff{state.off(), state.generation, state.mounting});
        return then;
    }
    void operator()(const Complaint& f) const { state.complaint = f.text; }
    void operator()(const SourceShows& f) const { state.sources.push_back({fact, f, stands()}); }
    void operator()(const Seen& f) const {
        state.seen[f.part] = f; // without a part: the whole board was looked over
    }
    void operator()(const ReadingTaken& f) const {
        const bool warm = hotAir_s && now_s - *hotAir_s < warmFor_s;
        state.readings.push_back({fact,
                                  netOfPlace(state.board, f.place),
                                  f,
                                  stands(),
                                  warm,
                                  {},
                                  f.against.empty() ? -1 : netOfPlace(state.board, f.against)});
    }
    void operator()(const Uncovered& f) const { state.uncovered.insert(f.what); }
    void operator()(const Unplugged& f) const {
        if (f.back)
            state.unplugged.erase(f.part);
        else
            state.unplugged.insert(f.part);
        then.reset();
    }
    void operator()(const MillivoltTaken& f) const { state.millivolts.emplace_back(fact, f); }
    void operator()(const RailChosen& f) const { state.chosenRail = state.board.findNet(f.net); }
    void operator()(const ClassCorrected& f) const {
        const PartIndex part = state.board.findPart(f.part);
        if (part < 0) return;
        state.board.parts[part].partClass = f.partClass;
        state.board.parts[part].classByUser = true;
        kindsChanged = true;
        ++state.kinds;
    }
    void operator()(const NominalSet& f) const {
        const NetIndex net = state.board.findNet(f.net);
        if (net < 0 || f.volts <= 0) return;
        state.board.nets[net].nominal = Volts(f.volts);
        state.board.nets[net].nominalByUser = true;
        kindsChanged = true;
        ++state.kinds;
    }
    void operator()(const InjectionDone& f) const { state.injections.emplace_back(fact, f); }
    void operator()(const HeatFound& f) const {
        (f.fromStills ? state.stills : state.heat).push_back({fact, f, stands()});
    }
    void operator()(const Lifted& f) const {
        hotAir_s = now_s;
        state.lifted.insert(f.part);
        state.replaced.erase(f.part);
        then.reset();
    }
    void operator()(const Refitted& f) const {
        hotAir_s = now_s;
        state.lifted.erase(f.part);
        ++state.mounting[f.part];
        if (f.replaced) {
            state.replaced.insert(f.part);
            ++state.generation[f.part];
        }
        then.reset();
    }
    void operator()(const PartMeasured& f) const { state.measuredShorted[f.part] = f.shorted; }
    void operator()(const Closed& f) const { state.closed = f; }
    void operator()(const Noted&) const {}
    void operator()(const Aligned& f) const { state.alignments[fact] = f; }
    void operator()(const Painted& f) const { state.painted.emplace_back(fact, f); }
    void operator()(const CautionMet& f) const { state.cautionsMet.insert(f.about); }
    void operator()(const Struck&) const {}
    void operator()(const UnknownFact&) const {}
};

} // namespace

CaseFold::CaseFold(CaseState& into, const Board& board, const KnownGoodSet& knownGood)
    : m_state(into), m_board(board), m_knownGood(knownGood) {
    begin();
}

void CaseFold::begin() {
    m_judge.reset();
    auto parts = m_state.netParts ? m_state.netParts : std::make_shared<const NetParts>(m_board);
    const long kinds = m_state.kinds;
    m_state = {};
    m_state.kinds = kinds + 1;
    m_state.board = m_board;
    m_state.netParts = std::move(parts);
    m_taken = 0;
    m_lastId = 0;
    m_hotAir_s.reset();
    m_then.reset();
}

void CaseFold::fold(const Fact& fact) {
    std::visit(Step{m_state, m_hotAir_s, m_then, m_kindsChanged, fact.id, fact.time_s}, fact.body);
}

void CaseFold::take(const std::vector<Fact>& facts) {
    const bool goesOn = m_taken <= facts.size() && (m_taken == 0 || facts[m_taken - 1].id == m_lastId);
    const bool reachesBack =
        std::any_of(facts.begin() + static_cast<std::ptrdiff_t>(goesOn ? m_taken : 0), facts.end(),
                    [](const Fact& f) { return std::holds_alternative<Struck>(f.body); });
    if (!goesOn || reachesBack) {
        begin();
        for (const Fact* fact : activeFacts(facts))
            fold(*fact);
    } else {
        for (std::size_t i = m_taken; i < facts.size(); ++i)
            fold(facts[i]);
    }
    m_taken = facts.size();
    m_lastId = facts.empty() ? 0 : facts.back().id;
    if (!m_judge || std::exchange(m_kindsChanged, false)) return judgeAnew();
    m_judge->judgeNew();
}

void CaseFold::judgeAnew() {
    m_kindsChanged = false;
    m_judge.emplace(m_state, m_knownGood);
    m_judge->judgeNew();
}

CaseState caseState(const Board& board, const std::vector<Fact>& facts, const KnownGoodSet& knownGood) {
    CaseState state;
    CaseFold(state, board, knownGood).take(facts);
    return state;
}

CaseState caseState(const Board& board, const std::vector<Fact>& facts) {
    return caseState(board, facts, KnownGoodSet{});
}

} // namespace ustor
