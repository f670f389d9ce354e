#include "session/case_session.h"

#include "diagnosis/fact/fact_check.h"
#include "session/log.h"

#include <QDateTime>
#include <utility>

namespace ustor {

CaseSession::CaseSession(CaseFolder folder, Knowledge knowledge, QObject* parent)
    : QObject(parent), m_folder(std::move(folder)), m_judge(m_folder.board, std::move(knowledge), facts()) {
    connect(&m_judge, &Judge::judged, this, &CaseSession::changed);
}

Result<Fact> CaseSession::add(const FactBody& body) {
    const auto added = add(std::vector<FactBody>{body});
    if (!added) return added.error();
    return facts().back();
}

Outcome CaseSession::add(const std::vector<FactBody>& bodies) {
    Outcome outcome = Done{};
    std::vector<Fact> added;
    for (const FactBody& body : bodies)
        if (const auto why = whyNotTaken(board(), body)) return Error{*why, "", say("nothing was noted")};
    for (const FactBody& body : bodies) {
        const double now_s = static_cast<double>(QDateTime::currentMSecsSinceEpoch()) * 1e-3;
        const auto fact = m_folder.log->append(body, now_s);
        if (!fact) {
            outcome = fact.error();
            Log::note(Log::Level::Fault,
                      "a fact was not taken: " + QString::fromStdString(fact.error().what.text()));
            break;
        }
        added.push_back(fact.value());
    }
    if (added.empty()) return outcome;
    const bool judged = m_judge.take(facts());
    for (const Fact& fact : added)
        emit factAdded(fact);
    if (judged)
        emit changed();
    else
        emit judging();
    return outcome;
}

void CaseSession::setKnown(KnownGoodSet known, const WorkPace& pace) {
    if (m_judge.setKnown(std::move(known), pace))
        emit changed();
    else
        emit judging();
}

Outcome CaseSession::undo() {
    const auto target = undoTarget(facts());
    if (!target) return Error{say("nothing to undo"), "", {}};
    const auto added = add(Struck{*target});
    return added ? Outcome(Done{}) : Outcome(added.error());
}

Outcome CaseSession::redo() {
    const auto target = redoTarget(facts());
    if (!target) return Error{say("nothing to redo"), "", {}};
    const auto added = add(Struck{*target});
    return added ? Outcome(Done{}) : Outcome(added.error());
}

Outcome CaseSession::toggleStruck(long id) {
    long target = id;
    if (isStruck(facts(), id))
        // The strike that holds it down is the newest one that counts.
        for (const Fact& fact : facts())
            if (const auto* strike = std::get_if<Struck>(&fact.body);
                strike && strike->id == id && !isStruck(facts(), fact.id))
                target = fact.id;
    const auto added = add(Struck{target});
    return added ? Outcome(Done{}) : Outcome(added.error());
}

std::function<Assessment()> CaseSession::without(long id) const {
    std::vector<Fact> others;
    for (const Fact& fact : facts())
        if (fact.id != id) others.push_back(fact);
    return [board = board(), others = std::move(others), knowledge = m_judge.knowledge()] {
        return assess(board, others, knowledge);
    };
}

} // namespace ustor
