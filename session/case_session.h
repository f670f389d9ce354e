#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/judge.h"
#include "store/case_folder.h"

#include <functional>

namespace ustor {

/// One open case: takes facts, keeps them safe, and knows at any moment what follows from them.
class CaseSession : public QObject {
    Q_OBJECT
  public:
    CaseSession(CaseFolder folder, Knowledge knowledge, QObject* parent = nullptr);

    /// Writes the fact; the assessment follows, of a large case a little later (`changed`). On failure
    /// nothing changes.
    Result<Fact> add(const FactBody& body);
    /// Several that belong together: each is written on its own, the assessment follows once. Stops at the
    /// first that fails; those before it stand.
    Outcome add(const std::vector<FactBody>& bodies);
    Outcome undo();
    Outcome redo();
    /// Strikes a fact out, or brings it back when it is struck.
    Outcome toggleStruck(long id);
    /// The number that the next fact gets.
    long nextNumber() const { return m_folder.log->nextNumber(); }
    /// False for a case that was opened only to be looked at.
    bool takesFacts() const { return m_folder.log->takesFacts(); }
    bool canUndo() const { return undoTarget(facts()).has_value(); }
    bool canRedo() const { return redoTarget(facts()).has_value(); }

    /// What other cases tell about such boards, and of the pace of the shop, has changed: all is judged anew.
    void setKnown(KnownGoodSet known, const WorkPace& pace);

    /// What follows from the facts that were judged last. Stays until `changed` has been dealt with.
    const Assessment& assessment() const { return m_judge.assessment(); }
    /// Facts are noted whose assessment has not come yet.
    bool isJudging() const { return m_judge.isUnderWay(); }
    const Knowledge& knowledge() const { return m_judge.knowledge(); }
    const std::vector<Fact>& facts() const { return m_folder.log->facts(); }
    const Board& board() const { return m_folder.board; }
    const CaseFolder& folder() const { return m_folder; }
    /// What the assessment would be without a fact, for showing what it did: to be called once, in any
    /// thread.
    std::function<Assessment()> without(long id) const;

  signals:
    void changed(); ///< facts or knowledge, and the assessment
    void factAdded(const ustor::Fact& fact);
    void judging(); ///< facts stand, their assessment follows

  private:
    CaseFolder m_folder;
    Judge m_judge;
};

} // namespace ustor
