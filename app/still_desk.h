#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/case_session.h"
#include "thermal/registration.h"

#include <opencv2/core.hpp>

namespace ustor {

class HeatView;
class NextPanel;
class PlateView;

/// Places a still picture on the board of the open case: the same landmarks as for a live camera, clicked in
/// the still, which stands where the camera's picture stands meanwhile.
class StillDesk : public QObject {
    Q_OBJECT
  public:
    StillDesk(NextPanel& next, HeatView& heat, PlateView& board, QObject* parent = nullptr);
    /// `celsius`: the still, CV_32FC1.
    void place(const CaseSession& session, const std::filesystem::path& still, const cv::Mat& celsius,
               Side side);
    bool placing() const { return !m_still.empty(); }
    /// Lets go of the still; nothing is kept of it.
    void leave();

  signals:
    void placed(); ///< kept beside the still
    void said(const QString& words);

  private:
    void take(const std::vector<Landmark>& landmarks);

    NextPanel& m_next;
    HeatView& m_heat;
    PlateView& m_board;
    std::filesystem::path m_still; ///< empty while none is placed
    Side m_side = Side::Top;
};

} // namespace ustor
