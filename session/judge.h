#pragma once

#include "session/background.h" // first: Qt 6.4's moc cannot read <compare> before it

#include "diagnosis/assess.h"

#include <memory>
#include <optional>

namespace ustor {

/// Judges one case. A small one at once; a large one in a thread of its own, so that no fact waits for what
/// follows from those before it.
class Judge : public QObject {
    Q_OBJECT

  public:
    /// The board must outlive it. Returns when the facts are judged.
    Judge(const Board& board, Knowledge knowledge, const std::vector<Fact>& facts);

    /// All facts of the case. True where they are judged when this returns; else `judged` follows, once for
    /// all that came in between.
    bool take(const std::vector<Fact>& facts);
    /// What other cases tell has changed: as above.
    bool setKnown(KnownGoodSet known, const WorkPace& pace);
    bool isUnderWay() const { return m_underWay; }

    /// What follows from the facts that were judged last. Stays until the next `judged` has been dealt with.
    const Assessment& assessment() const { return m_shown ? *m_shown : m_assessor.assessment(); }
    const Knowledge& knowledge() const { return m_knowledge; }

  signals:
    void judged();

  private:
    using Shown = std::shared_ptr<const Assessment>;
    void begin();
    void end(const Shown& shown);

    Knowledge m_knowledge;
    Assessor m_assessor; ///< not to be touched while work is under way
    /// Of a large case: the facts that the thread knows, and those that it does not know yet.
    std::vector<Fact> m_facts, m_waiting;
    std::size_t m_count = 0; ///< of the facts that were taken
    struct Known {
        KnownGoodSet good;
        WorkPace pace;
    };
    std::optional<Known> m_known;
    Shown m_shown; ///< of a large case; none while all is judged at once
    bool m_underWay = false;
    Background m_background; ///< last: ends before what its work is about
};

} // namespace ustor
