#include "diagnosis/assess.h"

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
        rails.push_back({net, r->ruling, r->fact, textOf(r->taken.reading)});
    return rails;
}

/// Every rail that ever read down: the chosen one, then the shorts, then the partial ones, in the order of
/// reading.
std::vector<NetIndex> everDown(const CaseState& state) {
    std::vector<NetIndex> nets;
    const auto add = [&nets](NetIndex net) {
        if (std::find(nets.begin(), nets.end(), net) == nets.end()) nets.push_back(net);
    };
    if (state.chosenRail >= 0) add(state.chosenRail);
    for (const RailState which : {RailState::Short, RailState::Partial})
        for (const auto& r : state.readings)
            if (r.net >= 0 && r.taken.against.empty() && !state.board.nets[r.net].ground &&
                r.ruling.state == which)
                add(r.net);
    return nets;
}

/// The rail that the hunt is about: the first that is still down. Where all have healed, the first of them:
/// its repair is what is left to do.
NetIndex downNet(const CaseState& state, const LinkState& links) {
    const auto nets = everDown(state);
    for (const NetIndex net : nets) {
        const StretchReading newest =
            newestReading(state, stretchOf(state.board, *state.netParts, net, links));
        const bool worked = !state.off().empty() || !state.replaced.empty();
        if (!worked || newest.ruling.state != RailState::Healthy) return net;
    }
    return nets.empty() ? -1 : nets.front();
}

/// Proven: the newest part lifted before the first healthy reading that followed a short.
std::string provenCulprit(const CaseState& state, const Stretch& stretch) {
    bool wasDown = false;
    std::shared_ptr<const PartsOff> before;
    for (const auto& r : state.readings) {
        if (!stretch.holds(r.net) || !r.taken.against.empty()) continue;
        const auto& ruling = r.ruling;
        if (ruling.state == RailState::Short || ruling.state == RailState::Partial) {
            wasDown = true;
            before = r.then;
        } else if (wasDown && ruling.state == RailState::Healthy) {
            std::vector<std::string> since;
            std::set_difference(r.then->off.begin(), r.then->off.end(), before->off.begin(),
                                before->off.end(), std::back_inserter(since));
            if (since.size() == 1) return since.front();
        }
    }
    return {};
}

/// Lifted links split the stretch; a switch across which nearly nothing was read joins it like a link.
LinkState linksOf(const CaseState& state) {
    const Board& board = state.board;
    LinkState links;
    for (const std::string& name : state.lifted)
        if (const PartIndex p = board.findPart(name); p >= 0 && isLink(board.parts[p]))
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
            if (!isSwitch || !board.touches(p, r.against)) continue;
            // The newest reading counts.
            if (reading.value < linkOhms)
                links.closedSwitches.insert(part.designator);
            else
                links.closedSwitches.erase(part.designator);
        }
    }
    return links;
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

} // namespace

Assessor::Assessor(const Board& board, Knowledge knowledge)
    : m_knowledge(std::move(knowledge)), m_fold(m_assessment.state, board, m_knowledge.knownGood) {
    conclude();
}

void Assessor::take(const std::vector<Fact>& facts) {
    m_fold.take(facts);
    conclude();
}

void Assessor::setKnownGood(KnownGoodSet known) {
    m_knowledge.knownGood = std::move(known);
    m_fold.judgeAnew();
    conclude();
}

/// All that follows from the state.
void Assessor::conclude() {
    Assessment a;
    a.state = std::move(m_assessment.state);
    a.rails = judgeRails(a.state);
    a.links = linksOf(a.state);
    if (const NetIndex net = downNet(a.state, a.links); net >= 0) {
        choosePiece(a, net);
        a.downRuling = newestReading(a.state, a.down).ruling;
        readAlong(a, m_memory);
        a.suspects = rankSuspects(a.state, a.down, a.along);
        a.culprit = provenCulprit(a.state, a.down);
        a.splits = splitChoices(a.state, a.down, a.links, a.suspects);
        a.unplug = unplugChoices(a.state, a.down, a.suspects);
    }
    constexpr double nearlyCertain = 0.6;
    if (!a.culprit.empty())
        a.together = replaceTogether(a.state.board, a.culprit);
    else if (!a.suspects.empty() && a.suspects.front().part >= 0 && a.suspects.front().odds > nearlyCertain)
        a.together = replaceTogether(a.state.board, a.state.board.parts[a.suspects.front().part].designator);
    a.next = nextMoves({a.state, a.down, a.suspects, a.splits, a.unplug, a.along});
    m_assessment = std::move(a);
}

Assessment assess(const Board& board, const std::vector<Fact>& facts, const Knowledge& knowledge) {
    Assessor assessor(board, knowledge);
    assessor.take(facts);
    return assessor.assessment();
}

} // namespace ustor
