#include "app/still_desk.h"

#include "app/heat_view.h"
#include "app/next_panel.h"
#include "app/plate/plate_view.h"
#include "app/words.h"
#include "session/still_file.h"

#include <utility>

namespace ustor {

StillDesk::StillDesk(NextPanel& next, HeatView& heat, PlateView& board, QObject* parent)
    : QObject(parent), m_next(next), m_heat(heat), m_board(board) {}

void StillDesk::place(const CaseSession& session, const std::filesystem::path& still, const cv::Mat& celsius,
                      Side side) {
    m_still = still;
    m_side = side;
    m_board.setSide(side);
    m_heat.showStill(celsius);
    const auto parts = partsToAsk(session.board(), side);
    m_next.ask(
        tr("Show where the still was taken"),
        tr("Click the middle of %1 in the still, one after the other; the board shows which one is meant.")
            .arg(text(namesOf(parts))),
        tr("Leave it"), [this] { leave(); });
    m_heat.askLandmarks(parts, [this](const std::vector<Landmark>& landmarks) { take(landmarks); });
}

void StillDesk::take(const std::vector<Landmark>& landmarks) {
    const std::filesystem::path still = m_still;
    leave();
    const auto made = Registration::fromLandmarks(landmarks, m_side);
    if (!made) return emit said(text(made.error()));
    if (const auto kept = keepPlace(still, made.value()); !kept) return emit said(text(kept.error()));
    emit said(tr("Still placed: the landmarks agree to %1 mm.").arg(made.value().residual_mm(), 0, 'f', 2));
    emit placed();
}

void StillDesk::leave() {
    if (std::exchange(m_still, {}).empty()) return;
    m_heat.cancelLandmarks();
    m_heat.endStill();
    m_next.endBusy();
}

} // namespace ustor
