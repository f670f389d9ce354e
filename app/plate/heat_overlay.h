#pragma once

#include "session/heat_worker.h"
#include "thermal/registration.h"

#include <QImage>
#include <QTransform>
#include <optional>

class QPainter;

namespace ustor {

/// The camera's heat as it lies on the board, with an ellipse of doubt around each source and its scale.
class HeatOverlay {
  public:
    /// Where the camera's place is not known nothing is drawn.
    void set(const LiveHeat& heat, const std::optional<Registration>& registration);
    void clear();
    bool liesOn(Side side) const {
        return !m_picture.isNull() && m_registration && m_registration->side() == side;
    }
    /// `toView`: board millimetres to the widget's points; `room`: the widget.
    void paint(QPainter& painter, const QTransform& toView, const QRect& room);
    void paintScale(QPainter& painter, const QRect& room) const;

  private:
    void lay(const QTransform& toView, const QRect& room);
    QRect warmPart() const;

    LiveHeat m_heat;
    std::optional<Registration> m_registration;
    QImage m_picture; ///< in the camera's pixels
    double m_top = 0;
    QImage m_layer; ///< as it lies for `m_laidFor` in `m_laidIn`, where there is any
    QPoint m_layerAt;
    QTransform m_laidFor;
    QRect m_laidIn;
};

} // namespace ustor
