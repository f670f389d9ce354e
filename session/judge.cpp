#include "session/judge.h"

#include <utility>

namespace ustor {

Judge::Judge(const Board& board, Knowledge knowledge, const std::vector<Fact>& facts)
    : m_knowledge(knowledge), m_assessor(board, std::move(knowledge)) {
    take(facts);
}

bool Judge::take(const std::vector<Fact>& facts) {
    const auto before = static_cast<std::ptrdiff_t>(std::exchange(m_count, facts.size()));
    if (m_shown) {
        m_waiting.insert(m_waiting.end(), facts.begin() + before, facts.end());
        begin();
        return false;
    }
    m_assessor.take(facts);
    // By what is known beforehand, not by how long it took: the same case is judged the same way on every
    // machine. Who is told now looks at what no thread will touch.
    constexpr std::size_t manyFacts = 1000, manyParts = 3000;
    if (m_count > manyFacts || m_assessor.assessment().state.board.parts.size() > manyParts) {
        m_facts = facts;
        m_shown = std::make_shared<const Assessment>(m_assessor.assessment());
    }
    return true;
}

bool Judge::setKnown(KnownGoodSet known, const WorkPace& pace) {
    m_knowledge.knownGood = known;
    m_knowledge.pace = pace;
    if (!m_shown) {
        m_assessor.setKnown(std::move(known), pace);
        return true;
    }
    m_known = {std::move(known), pace};
    begin();
    return false;
}

/// What comes while work is under way is begun at its end.
void Judge::begin() {
    if (m_underWay) return;
    m_underWay = true;
    m_background.run<Shown>(
        [this, fresh = std::exchange(m_waiting, {}), known = std::exchange(m_known, std::nullopt)] {
            m_facts.insert(m_facts.end(), fresh.begin(), fresh.end());
            if (known) m_assessor.setKnown(known->good, known->pace);
            if (!fresh.empty()) m_assessor.take(m_facts);
            return std::make_shared<const Assessment>(m_assessor.assessment());
        },
        [this](const Shown& shown) { end(shown); });
}

void Judge::end(const Shown& shown) {
    // Who shows the last one looks at it until it is told of the next.
    const Shown last = std::exchange(m_shown, shown);
    m_underWay = false;
    if (!m_waiting.empty() || m_known) begin();
    emit judged();
}

} // namespace ustor
