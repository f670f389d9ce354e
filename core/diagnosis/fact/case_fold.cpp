#include "diagnosis/fact/case_fold.h"

#include "base/quantity_text.h"
#include "diagnosis/fact/power_course.h"
#include "rail/near_far.h"

#include <algorithm>
#include <utility>

namespace ustor {
namespace {

/// How long a board is warm after hot air: readings drift on it (common practice).
constexpr double warmFor_s = 300;

} // namespace

/// One fact and what it changes.
struct CaseFold::Step {
    CaseFold& fold;
    CaseState& state;
    std::optional<double>& hotAir_s;
    std::shared_ptr<const PartsOff>& then;
    bool& kindsChanged;
    long fact;
    double now_s;

    std::shared_ptr<const PartsOff> stands() const { return fold.stands(); }
    void operator()(const Complaint& f) const { state.complaint = f.text; }
    void operator()(const SourceShows& f) const { state.sources.push_back({fact, f, stands()}); }
    void operator()(const Seen& f) const {
        state.seen[f.part] = f; // without a part: the whole board was looked over
    }
    void operator()(const PowerTrace& f) const { state.sources.push_back({fact, shownBy(f), stands()}); }
    void operator()(const History& f) const { state.histories.emplace_back(fact, f); }
    void operator()(const Negotiated& f) const { state.negotiations.push_back({fact, f, stands()}); }
    void operator()(const LeadsMeasured& f) const { state.leads_ohm[f.leads] = f.ohms; }
    void operator()(const FeeAgreed& f) const { state.fee = f; }
    void operator()(const SchoolChosen& f) const { state.first = f.first; }
    void operator()(const BoardSeen& f) const { state.boardSeen.push_back({fact, f, stands()}); }
    void operator()(const BurstSeen& f) const { state.bursts.push_back({fact, f, stands()}); }
    void operator()(const BoardWarm& f) const {
        hotAir_s.reset();
        if (f.warm) hotAir_s = now_s;
    }
    void operator()(const DonorReading& f) const {
        state.donors.push_back({f.place, f.reading, f.reversed, {}});
        kindsChanged = true;
    }
    void operator()(const HeatSensed& f) const { state.sensed.push_back({fact, f, stands()}); }
    void operator()(const CopperWorked& f) const { work(f); }
    void operator()(const CameBack& f) const {
        state.cameBack.push_back({fact, f, stands()});
        state.closed.reset();
    }
    /// Volts over amps less the leads are ohms, as long as the volts leave chips asleep; above, too much for
    /// chips is still a witness, until the rail or what hangs on it works.
    void operator()(const SupplyShows& f) const {
        if (f.course == CurrentCourse::Drops) state.droppedAt = fact;
        constexpr double asleep_v = 1.35, least_a = 1e-3;
        if (f.volts > asleep_v) {
            constexpr double works = 0.9, converters_v = 3.5; // those that hang on it begin to run
            const NetIndex net = netOfPlace(state.board, *state.netParts, f.place);
            const auto nominal = net >= 0 ? state.board.nets[net].nominal : std::nullopt;
            if (f.volts < converters_v && (!nominal || f.volts < works * nominal->value))
                return state.raised.push_back({fact, f, stands()});
            return aside(say("{volts} and {amps} at {place} are no resistance: at such a voltage chips take "
                             "a current of their own",
                             {{"volts", quantityText(f.volts, "V")},
                              {"amps", quantityText(f.amps, "A")},
                              {"place", f.place}}));
        }
        const auto leads = state.leads_ohm.find(LeadsOf::Supply);
        const double less_ohm =
            leads == state.leads_ohm.end() ? usualLeads().front().resistance.value : leads->second;
        Reading ohms{MeterMode::Ohms, ReadingState::OverRange, 0, less_ohm};
        if (f.amps > least_a) {
            ohms.state = ReadingState::Value;
            ohms.value = std::max(0.0, f.volts / f.amps - less_ohm);
        }
        read({f.place, "", ohms}, true);
    }
    void operator()(const ReadingTaken& f) const {
        if (f.powered && f.reading.mode != MeterMode::Volts)
            return aside(say("the reading at {place} was taken with the power on and counts for nothing: "
                             "switch off, then read it again",
                             {{"place", f.place}}));
        ReadingTaken taken = f;
        const auto leads = state.leads_ohm.find(LeadsOf::Meter);
        const bool ohms = f.reading.mode == MeterMode::Ohms || f.reading.mode == MeterMode::Beep;
        if (leads != state.leads_ohm.end() && ohms && f.reading.state == ReadingState::Value)
            taken.reading.value = std::max(0.0, taken.reading.value - leads->second);
        read(taken, false);
    }
    void read(const ReadingTaken& f, bool bySupply) const {
        const bool warm = hotAir_s && now_s - *hotAir_s < warmFor_s;
        if (!bySupply) state.droppedAt.reset(); // somebody has read since
        state.readings.push_back(
            {fact,
             netOfPlace(state.board, *state.netParts, f.place),
             f,
             stands(),
             warm,
             {},
             f.against.empty() ? -1 : netOfPlace(state.board, *state.netParts, f.against),
             bySupply});
        const NetIndex net = state.readings.back().net;
        if (net >= 0 && state.cut.contains(state.board.nets[net].name)) {
            state.readings.pop_back();
            aside(say("the reading at {place} counts for nothing: a trace of {net} is cut, and which side "
                      "this is on is not known",
                      {{"place", f.place}, {"net", state.board.nets[net].name}}));
        }
    }
    void aside(Message why) const { state.setAside.emplace_back(fact, std::move(why)); }
    /// The parts of a place: a pad's own, the part itself, none for a net.
    std::string partOf(const std::string& place) const {
        if (place.empty() || state.board.findNet(place) >= 0) return {};
        const std::string part = place.substr(0, place.rfind('.'));
        return state.board.findPart(place) >= 0 ? place : part;
    }
    void work(const CopperWorked& f) const {
        const NetIndex net = netOfPlace(state.board, f.place);
        const NetIndex to = f.to.empty() ? -1 : netOfPlace(state.board, f.to);
        const auto named = [&](NetIndex each) { return state.board.nets[each].name; };
        switch (f.work) {
        case CopperWork::BridgeOpened:
            for (const NetIndex each : {net, to})
                if (each >= 0) ++state.cleaned[named(each)];
            break;
        case CopperWork::TraceCut:
            if (net >= 0) state.cut.insert(named(net));
            break;
        case CopperWork::WireRun:
            if (net >= 0 && to >= 0 && net != to)
                aside(say("a wire joins {from} to {to}: Ustor does not follow it, and judges both nets as if "
                          "it were not there",
                          {{"from", named(net)}, {"to", named(to)}}));
            if (net >= 0 && net == to) state.cut.erase(named(net));
            [[fallthrough]];
        case CopperWork::PadMended:
            for (const std::string& place : {f.place, f.to})
                if (const std::string part = partOf(place); !part.empty()) ++state.mended[part];
            break;
        }
        then.reset();
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
    void operator()(const PartMeasured& f) const { state.measured[f.part] = f; }
    void operator()(const Closed& f) const { state.closed = f; }
    void operator()(const Noted&) const {}
    void operator()(const Aligned& f) const { state.alignments[fact] = f; }
    void operator()(const Painted& f) const { state.painted.emplace_back(fact, f); }
    void operator()(const CautionMet& f) const { state.cautionsMet.insert(f.about); }
    void operator()(const Struck&) const {}
    void operator()(const UnknownFact&) const {}
};

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
    m_state.knownGood = m_knownGood;
    m_taken = 0;
    m_lastId = 0;
    m_hotAir_s.reset();
    m_then.reset();
    m_stands.clear();
    m_state.now = stands();
}

/// Two moments at which the board stood alike share how it stood.
std::shared_ptr<const PartsOff> CaseFold::stands() {
    if (!m_then)
        m_then =
            *m_stands
                 .insert(std::make_shared<const PartsOff>(PartsOff{
                     m_state.off(), m_state.generation, m_state.mounting, m_state.cleaned, m_state.mended}))
                 .first;
    return m_then;
}

void CaseFold::fold(const Fact& fact) {
    std::visit(Step{*this, m_state, m_hotAir_s, m_then, m_kindsChanged, fact.id, fact.time_s}, fact.body);
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
    m_state.now = stands();
    m_taken = facts.size();
    m_lastId = facts.empty() ? 0 : facts.back().id;
    if (!m_judge || std::exchange(m_kindsChanged, false)) return judgeAnew();
    m_judge->judgeNew();
}

void CaseFold::judgeAnew() {
    m_kindsChanged = false;
    m_state.knownGood = m_knownGood;
    auto& known = m_state.knownGood.readings;
    known.insert(known.end(), m_state.donors.begin(), m_state.donors.end());
    m_judge.emplace(m_state, m_state.knownGood);
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
