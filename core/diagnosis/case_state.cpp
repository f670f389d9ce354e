#include "diagnosis/case_state.h"

#include "diagnosis/reading_judge.h"

namespace ustor {

NetIndex netOfPlace(const Board& board, const std::string& place) {
    if (place.find('.') == std::string::npos) {
        if (const PartIndex part = board.findPart(place); part >= 0)
            for (const Pad& pad : board.parts[part].pads)
                if (pad.net >= 0 && !board.nets[pad.net].ground) return pad.net;
    } else if (const auto pad = board.findPad(place)) {
        return board.pad(*pad).net;
    }
    return board.findNet(place);
}

std::string sentenceOn(const Board& board, const FactBody& body) {
    std::string sentence = sentenceOf(body);
    if (const auto* taken = std::get_if<ReadingTaken>(&body))
        if (const NetIndex net = netOfPlace(board, taken->place);
            net >= 0 && board.nets[net].name != taken->place)
            sentence += " (" + board.nets[net].name + ")";
    return sentence;
}

namespace {

/// How long a board is warm after hot air: readings drift on it (common practice).
constexpr double warmFor_s = 300;

struct Folder {
    CaseState& state;
    long fact = 0;
    double now_s = 0;
    std::optional<double> hotAir_s = {}; ///< when a part was last lifted or refitted

    void operator()(const Complaint& f) { state.complaint = f.text; }
    void operator()(const SourceShows& f) { state.source = f; }
    void operator()(const Seen& f) {
        state.seen[f.part] = f; // without a part: the whole board was looked over
    }
    void operator()(const ReadingTaken& f) {
        const bool warm = hotAir_s && now_s - *hotAir_s < warmFor_s;
        state.readings.push_back(
            {fact, netOfPlace(state.board, f.place), f, state.off(), state.generation, warm, {}});
    }
    void operator()(const Uncovered& f) { state.uncovered.insert(f.what); }
    void operator()(const Unplugged& f) {
        if (f.back)
            state.unplugged.erase(f.part);
        else
            state.unplugged.insert(f.part);
    }
    void operator()(const MillivoltTaken& f) { state.millivolts.emplace_back(fact, f); }
    void operator()(const RailChosen& f) { state.chosenRail = state.board.findNet(f.net); }
    void operator()(const ClassCorrected& f) {
        if (const PartIndex part = state.board.findPart(f.part); part >= 0) {
            state.board.parts[part].partClass = f.partClass;
            state.board.parts[part].classByUser = true;
        }
    }
    void operator()(const NominalSet& f) {
        if (const NetIndex net = state.board.findNet(f.net); net >= 0 && f.volts > 0) {
            state.board.nets[net].nominal = Volts(f.volts);
            state.board.nets[net].nominalByUser = true;
        }
    }
    void operator()(const InjectionDone& f) { state.injections.emplace_back(fact, f); }
    void operator()(const HeatFound& f) { (f.fromStills ? state.stills : state.heat).emplace_back(fact, f); }
    void operator()(const Lifted& f) {
        hotAir_s = now_s;
        state.lifted.insert(f.part);
        state.replaced.erase(f.part);
    }
    void operator()(const Refitted& f) {
        hotAir_s = now_s;
        state.lifted.erase(f.part);
        if (f.replaced) {
            state.replaced.insert(f.part);
            ++state.generation[f.part];
        }
    }
    void operator()(const PartMeasured& f) { state.measuredShorted[f.part] = f.shorted; }
    void operator()(const Closed& f) { state.closed = f; }
    void operator()(const Noted&) {}
    void operator()(const Aligned& f) { state.alignments[fact] = f; }
    void operator()(const CautionMet& f) { state.cautionsMet.insert(f.about); }
    void operator()(const Struck&) {}
    void operator()(const UnknownFact&) {}
};

} // namespace

CaseState caseState(const Board& board, const std::vector<Fact>& facts) {
    return caseState(board, facts, KnownGoodSet{});
}

CaseState caseState(const Board& board, const std::vector<Fact>& facts, const KnownGoodSet& knownGood) {
    CaseState state;
    state.board = board;
    Folder folder{state};
    for (const Fact* fact : activeFacts(facts)) {
        folder.fact = fact->id;
        folder.now_s = fact->time_s;
        std::visit(folder, fact->body);
    }
    judgeReadings(state, knownGood);
    return state;
}

} // namespace ustor
