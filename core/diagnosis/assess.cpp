#include "diagnosis/assess.h"

#include "base/quantity_text.h"
#include "diagnosis/evidence/along_items.h"
#include "diagnosis/evidence/heat_items.h"
#include "diagnosis/evidence/part_evidence.h"
#include "diagnosis/evidence/power_items.h"
#include "diagnosis/evidence/power_levels.h"
#include "diagnosis/evidence/sense_items.h"
#include "diagnosis/evidence/story_items.h"
#include "diagnosis/evidence/supply_items.h"
#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/hypothesis/words.h"
#include "diagnosis/moves/prospect.h"
#include "diagnosis/work_time.h"

#include <algorithm>
#include <map>

namespace ustor {
namespace {

std::vector<RailJudgement> judgeRails(const CaseState& state) {
    std::map<NetIndex, const CaseState::TakenReading*> newest;
    for (const auto& r : state.readings)
        if (r.net >= 0 && r.taken.against.empty() && !state.board.nets[r.net].ground) newest[r.net] = &r;
    std::vector<RailJudgement> rails;
    for (const auto& [net, r] : newest)
        rails.push_back({net, r->ruling, r->fact, textOf(r->taken.reading), 0, {}});
    return rails;
}

/// Which fault shorts each rail, if one does, as it was read.
void explainRails(Assessment& a, const BoardCircuit& circuit) {
    for (RailJudgement& rail : a.rails) {
        const auto read = std::find_if(a.state.readings.begin(), a.state.readings.end(),
                                       [&](const auto& r) { return r.fact == rail.fact; });
        if (read == a.state.readings.end()) continue;
        const int index = circuit.railOf(rail.net);
        if (index < 0) continue;
        const Hypothesis* likeliest = nullptr;
        for (const Hypothesis& h : a.belief.hypotheses) {
            const bool shorts = std::any_of(h.causes.begin(), h.causes.end(), [&](const Fault& fault) {
                return fault.conducts() &&
                       (circuit.railOf(fault.a) == index || circuit.railOf(fault.b) == index) &&
                       isOn(a.state.board, *read->then, fault);
            });
            if (!shorts) continue;
            rail.shorted += h.odds;
            if (!likeliest) likeliest = &h;
        }
        constexpr double likely = 0.1;
        if (likeliest && rail.shorted > likely)
            rail.explainedBy = sentenceOf(a.state.board, likeliest->causes);
    }
}

/// The net that the hunt is about: of all rails that were read the one that is likeliest shorted as the board
/// stands now; where none is any more, the one whose fault is off the board: its repair is what is left to
/// do. A person's choice goes before all of them. -1 where nothing that was read speaks for a short: a rail
/// never read is one to measure, not one to hunt on.
NetIndex downNet(const CaseState& state, const Belief& belief, const BoardCircuit& circuit) {
    if (state.chosenRail >= 0) return state.chosenRail;
    std::set<int> read;
    for (const auto& r : state.readings)
        read.insert(circuit.railOf(r.net));
    const PartsOff& now = *state.now;
    struct Down {
        double odds = 0, before = 0; ///< now, and before any fact
        NetIndex net = -1;           ///< of the likeliest
    };
    std::map<int, Down> on, gone;
    for (const Hypothesis& h : belief.hypotheses)
        for (const Fault& fault : h.causes)
            for (const NetIndex net : {fault.a, fault.b}) {
                const int rail = circuit.railOf(net);
                if (!fault.conducts() || rail < 0 || !read.contains(rail)) continue;
                Down& down = (isOn(state.board, now, fault) ? on : gone)[rail];
                down.odds += h.odds;
                down.before += h.prior;
                if (down.net < 0) down.net = net;
            }
    constexpr double spokenFor = 1.5;
    const auto likeliest = [](const std::map<int, Down>& rails, double times) {
        Down best;
        for (const auto& [rail, down] : rails) {
            // The facts have to speak for it: a rail with many parts is likely before any of them.
            const bool spoken =
                times <= 0 || down.odds * (1 - down.before) > times * down.before * (1 - down.odds);
            if (down.odds > best.odds && spoken) best = down;
        }
        return best;
    };
    constexpr double likely = 0.25;
    const Down stays = likeliest(on, spokenFor), went = likeliest(gone, 0);
    if (stays.odds < likely && went.odds < likely) return -1;
    return stays.odds >= likely ? stays.net : went.net;
}

/// Proven: the likeliest cause is off the board, and what reads its rail since says that the short went with
/// it.
std::string provenCulprit(const CaseState& state, const Stretch& stretch, const Belief& belief,
                          double stillShorted) {
    constexpr double sure = 0.85;
    if (stillShorted > 1 - sure || belief.hypotheses.empty()) return {};
    const PartsOff& now = *state.now;
    for (const Hypothesis& h : belief.hypotheses)
        for (const Fault& fault : h.causes) {
            if (fault.part < 0 || !fault.conducts() || isOn(state.board, now, fault)) continue;
            if (belief.cause[static_cast<std::size_t>(fault.part)] < sure) continue;
            if (stretch.holds(fault.a) || stretch.holds(fault.b))
                return state.board.parts[fault.part].designator;
        }
    return {};
}

/// Lifted links split the stretch; a switch across which nearly nothing was read joins it like a link.
LinkState linksOf(const CaseState& state) {
    const Board& board = state.board;
    LinkState links;
    for (const std::string& name : state.lifted)
        if (const PartIndex p = partNamed(state, name); p >= 0 && isLink(board.parts[p]))
            links.lifted.insert(name);
    for (const auto& r : state.readings) {
        const Reading& reading = r.taken.reading;
        constexpr double linkOhms =
            0.25; // as for links; the meter's leads are taken off before (common practice)
        const bool ohms = reading.mode == MeterMode::Ohms || reading.mode == MeterMode::Beep;
        if (r.net < 0 || r.against < 0 || !ohms || reading.state != ReadingState::Value) continue;
        for (const PartIndex p : state.netParts->on(r.net)) {
            const Part& part = board.parts[p];
            const bool isSwitch = part.partClass == PartClass::Mosfet || part.partClass == PartClass::Switch;
            if (!isSwitch || !board.touches(p, r.against) || state.lifted.contains(part.designator)) continue;
            // The newest reading counts.
            if (reading.value < linkOhms)
                links.closedSwitches.insert(part.designator);
            else
                links.closedSwitches.erase(part.designator);
        }
    }
    return links;
}

/// A link that is all but surely open parts the stretch like one that is off: no current that is put in
/// before it reaches what lies behind.
void addOpenLinks(Assessment& a) {
    constexpr double surely = 0.8;
    std::map<PartIndex, double> open;
    for (const Hypothesis& h : a.belief.hypotheses)
        for (const Fault& fault : h.causes)
            if (fault.kind == FaultKind::Open && fault.part >= 0 && isOn(a.state.board, *a.state.now, fault))
                open[fault.part] += h.odds;
    for (const auto& [p, odds] : open)
        if (odds > surely && isLink(a.state.board.parts[p]))
            a.links.lifted.insert(a.state.board.parts[p].designator);
}

/// Lifted links leave pieces of a rail: the hunt goes on where the short stayed, and the others are free.
void choosePiece(Assessment& a, NetIndex net) {
    const Board& board = a.state.board;
    const NetParts& parts = *a.state.netParts;
    a.down = stretchOf(board, parts, net, a.links);
    const Stretch whole = stretchOf(board, parts, net, {{}, a.links.closedSwitches});
    if (whole.nets == a.down.nets) return;
    RailPieces rail = railPieces(a.state, whole, a.links);
    const std::size_t suspected = rail.suspected();
    for (std::size_t i = 0; i < rail.pieces.size(); ++i)
        if (i != suspected && rail.states[i] == RailState::Healthy) a.cleared.push_back(rail.pieces[i]);
    a.down = std::move(rail.pieces[suspected]);
}

void readAlong(Assessment& a, MillivoltMemory& memory) {
    const auto series = newestSeries(a.state, a.down);
    if (!series) return;
    auto found = memory.locate(a.state.board, a.down, *series);
    if (found)
        a.along = AlongTheCopper{std::move(found.value()), series->newestFact};
    else
        a.alongTrouble = found.error().message();
}

/// How the job pays: as was agreed for the case, else as the shop works.
Fee feeOf(const CaseState& state, const Knowledge& knowledge) {
    if (!state.fee) return knowledge.fee;
    return {state.fee->whenFixed, state.fee->whenNot, state.fee->hourly};
}

/// What counts for nothing, with what to do.
std::vector<SetAside> setAside(const CaseState& state, const BoardCircuit& circuit,
                               const std::vector<ReadingsLeftOut>& leftOut) {
    std::vector<SetAside> all;
    for (const ReadingsLeftOut& left : leftOut)
        all.push_back(
            {left.fact,
             sayCount("{rail} was read so often that one reading between the first and the newest counts "
                      "no more",
                      "{rail} was read so often that {n} readings between the first and the newest count "
                      "no more",
                      left.readings,
                      {{"rail", state.board.nets[circuit.rails()[left.rail].nets.front()].name}})});
    for (const auto& r : state.readings)
        if (r.net >= 0 && !state.board.nets[r.net].ground && circuit.railOf(r.net) < 0)
            all.push_back({r.fact, say("the reading at {place} counts for nothing: as far as the board tells "
                                       "its net carries no power; set its working voltage if it does",
                                       {{"place", r.taken.place}})});
    for (const auto& [fact, why] : state.setAside)
        all.push_back({fact, why});
    if (state.droppedAt)
        all.push_back(
            {*state.droppedAt,
             say("the current dropped at once: something opened, or a clip fell off. Look, and read "
                 "the rail again before any more current")});
    return all;
}

/// A hunt that stands still is said to stand still.
void sayWhetherTheHourHelped(Assessment& a, double before_bits) {
    const double now_bits = doubtIn_bits(a.belief);
    a.hourBits = before_bits - now_bits;
    constexpr double little_bits = 0.2, settled_bits = 1;
    if (*a.hourBits > little_bits || now_bits < settled_bits || !a.culprit.empty()) return;
    a.setAside.push_back(
        {0, say("the last hour of work has left the doubt as large as it was ({bits}): ask something else, "
                "let another pair of eyes look, or stop",
                {{"bits", quantityText(now_bits, "bit")}})});
}

} // namespace

Assessor::Assessor(const Board& board, Knowledge knowledge)
    : m_board(board), m_knowledge(std::move(knowledge)),
      m_fold(m_assessment.state, board, m_knowledge.knownGood) {
    conclude();
}

Assessor::Assessor(const Assessor& other, const std::vector<Fact>& facts)
    : m_board(other.m_board), m_knowledge(other.m_knowledge),
      m_fold(m_assessment.state, other.m_board, m_knowledge.knownGood), m_model(other.m_model) {
    m_fold.take(facts);
    believe();
}

void Assessor::take(const std::vector<Fact>& facts) {
    lookBack(facts);
    lookBackAnHour(facts);
    m_taken = facts.size();
    m_fold.take(facts);
    conclude();
}

void Assessor::lookBack(const std::vector<Fact>& facts) {
    const Fact* lift = newestLift(facts);
    if (!lift) return m_before.reset();
    const auto before = static_cast<std::size_t>(lift - facts.data());
    const auto from = facts.begin() + static_cast<std::ptrdiff_t>(std::min(m_taken, facts.size()));
    const bool reachesBack = facts.size() < m_taken || std::any_of(from, facts.end(), [](const Fact& fact) {
                                 return std::holds_alternative<Struck>(fact.body);
                             });
    if (!reachesBack && m_before && m_before->fact == lift->id) return;
    const PartIndex part = m_board.findPart(std::get<Lifted>(lift->body).part);
    std::vector<Fact> until(facts.begin(), facts.begin() + static_cast<std::ptrdiff_t>(before));
    if (!reachesBack && before >= m_taken) {
        if (before > m_taken) {
            m_fold.take(until);
            believe();
        }
        m_before.emplace(lift->id, part, std::move(until), m_assessment.belief);
        return;
    }
    // As the case would have been without what is struck out now.
    const std::set<long> struck = struckFacts(facts);
    std::erase_if(until, [&](const Fact& fact) {
        return std::holds_alternative<Struck>(fact.body) || struck.contains(fact.id);
    });
    const Belief belief = judged(until);
    m_before.emplace(lift->id, part, std::move(until), belief);
}

void Assessor::lookBackAnHour(const std::vector<Fact>& facts) {
    // In steps, so that the same moment serves for many facts.
    constexpr double hour_min = 60, step_min = 20;
    const WorkTime work(facts);
    m_worked_min = work.minutes();
    const double until_min = step_min * std::floor((m_worked_min - hour_min) / step_min);
    if (until_min < 0 || facts.size() < m_taken) m_hourAgo.reset();
    if (until_min < 0) return;
    std::set<long> struck = struckFacts(facts);
    const std::size_t count = work.factsAfter(until_min);
    if (m_hourAgo && m_hourAgo->count == count && m_hourAgo->struck == struck) return;
    std::vector<Fact> until(facts.begin(), facts.begin() + static_cast<std::ptrdiff_t>(count));
    std::erase_if(until, [&](const Fact& fact) {
        return std::holds_alternative<Struck>(fact.body) || struck.contains(fact.id);
    });
    const double doubt_bits = doubtIn_bits(judged(until));
    m_hourAgo = HourAgo{count, std::move(struck), std::move(until), doubt_bits};
}

Belief Assessor::judged(const std::vector<Fact>& facts) const {
    return Assessor(*this, facts).m_assessment.belief;
}

void Assessor::setKnown(KnownGoodSet known, const WorkPace& pace) {
    m_knowledge.pace = pace;
    m_knowledge.knownGood = std::move(known);
    m_fold.judgeAnew();
    m_goodReadings = -1;
    if (m_before) {
        const BeforeLift old = std::move(*m_before);
        m_before.emplace(old.fact, old.part, old.facts, judged(old.facts));
    }
    if (m_hourAgo) m_hourAgo->doubt_bits = doubtIn_bits(judged(m_hourAgo->facts));
    conclude();
}

void Assessor::weighAll(const std::vector<EvidenceItem>& items) {
    const CaseState& state = m_assessment.state;
    const auto candidates = candidatesOf(state, m_model->circuit, m_model->feed);
    m_assessment.belief = weighBesideFound(state, candidates, *m_readings, items, m_model->companions);
    m_assessment.stillShorted = stillShorted(state, m_assessment.belief);
}

void Assessor::believe() {
    CaseState kept = std::move(m_assessment.state);
    m_assessment = {};
    Assessment& a = m_assessment;
    a.state = std::move(kept);
    if (m_kinds != a.state.kinds || !m_model) {
        // A model of this board is of what it was before the correction; one that another case lent is whole.
        const bool lent = m_model && &m_model->board != &a.state.board;
        if (!lent || !m_model->serves(a.state.board))
            m_model = std::make_shared<BoardModel>(a.state.board, *a.state.netParts);
        m_readings = std::make_unique<ReadingEvidence>(*m_model);
        m_goodReadings = -1;
        m_kinds = a.state.kinds;
    }
    const BoardCircuit& circuit = m_model->circuit;
    if (const auto good = static_cast<long>(a.state.knownGood.readings.size()); good != m_goodReadings) {
        m_readings->setKnownGood(a.state.knownGood);
        m_goodReadings = good;
    }
    a.rails = judgeRails(a.state);
    a.links = linksOf(a.state);
    std::vector<ReadingsLeftOut> leftOut;
    m_readings->setGroups(readingGroups(a.state, circuit, &leftOut));
    a.setAside = setAside(a.state, circuit, leftOut);
    m_levels = std::make_shared<const PowerLevels>(a.state, circuit, m_model->feed);
    std::vector<EvidenceItem> items = seenEvidence(a.state, circuit, m_model->feed);
    for (auto& more : {measuredEvidence(a.state), storyEvidence(a.state), negotiationEvidence(a.state),
                       cameBackEvidence(a.state), sensedEvidence(a.state, circuit), burstEvidence(a.state),
                       boardSeenEvidence(a.state, circuit), supplyEvidence(a.state, circuit),
                       heatEvidence(a.state, circuit), sourceEvidence(a.state, circuit, m_model->feed),
                       PowerLevels::evidence(m_levels)})
        items.insert(items.end(), more.begin(), more.end());
    weighAll(items);
    explainRails(a, circuit);
    addOpenLinks(a);
    if (const NetIndex net = downNet(a.state, a.belief, circuit); net >= 0) {
        choosePiece(a, net);
        a.downRuling = newestReading(a.state, a.down).ruling;
        readAlong(a, m_memory);
        if (a.along) {
            items.push_back(alongEvidence(*a.along));
            weighAll(items);
        }
    }
}

void Assessor::conclude() {
    believe();
    Assessment& a = m_assessment;
    if (!a.down.nets.empty()) {
        a.suspects = suspectsOf(a.state, a.down, a.belief);
        a.culprit = provenCulprit(a.state, a.down, a.belief, a.stillShorted);
        a.splits = splitChoices(a.state, a.down, a.links, a.suspects);
        a.unplug = unplugChoices(a.state, a.down, a.suspects);
    }
    constexpr double nearlyCertain = 0.6;
    if (!a.state.cameBack.empty() && a.state.board.findPart(a.state.cameBack.back().body.part) >= 0)
        a.together = replaceTogether(a.state.board, a.state.cameBack.back().body.part);
    else if (a.culprit.empty() && !a.belief.found.empty() && a.belief.found.back().part >= 0)
        a.together = replaceTogether(
            a.state.board,
            a.state.board.parts[static_cast<std::size_t>(a.belief.found.back().part)].designator);
    else if (!a.culprit.empty())
        a.together = replaceTogether(a.state.board, a.culprit);
    else if (!a.suspects.empty() && a.suspects.front().part >= 0 && a.suspects.front().odds > nearlyCertain)
        a.together = replaceTogether(a.state.board, a.state.board.parts[a.suspects.front().part].designator);
    if (m_before) a.learnt = learntSince(*m_before, a.belief);
    a.worked_min = m_worked_min;
    if (m_hourAgo) sayWhetherTheHourHelped(a, m_hourAgo->doubt_bits);
    a.minutesLeft = Prospect(a.state, a.belief, m_knowledge.pace).minutesNow();
    a.next = nextMoves({a.state, m_model->circuit, m_model->feed, *m_levels, a.belief, a.down, a.stillShorted,
                        a.suspects, a.splits, a.unplug, a.together, a.along, m_knowledge.tools,
                        feeOf(a.state, m_knowledge), m_knowledge.pace, a.worked_min});
}

Assessment assess(const Board& board, const std::vector<Fact>& facts, const Knowledge& knowledge) {
    Assessor assessor(board, knowledge);
    assessor.take(facts);
    return assessor.assessment();
}

} // namespace ustor
