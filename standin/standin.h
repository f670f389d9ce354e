#pragma once

#include "standin/camera_server.h"
#include "standin/control_server.h"
#include "standin/meter_server.h"
#include "standin/supply_server.h"

#include <QElapsedTimer>
#include <QTimer>

namespace ustor::standin {

/// The whole stand-in: a world, its four sockets, and a clock that lets its time run with the wall's, times a
/// speed. Where the machine cannot keep up, its time falls behind, and it goes on answering.
class StandIn : public QObject {
    Q_OBJECT
  public:
    /// `speed` is the highest; the machine may hold less, see `ready`. `patience` is passed on to whoever
    /// connects: how many times longer than usual this bench may be silent.
    StandIn(const Board& board, const Setup& setup, double speed, double patience, QObject* parent = nullptr);
    bool listen();
    /// Supply and meter answer on serial lines as well.
    bool listenOnSerial();
    /// The line that is printed when it is ready.
    QJsonObject ready() const;

  private:
    void catchUp();
    void tick();
    QJsonObject control(const QJsonObject& request);

    World m_world;
    double m_speed, m_patience, m_wall_s = 0, m_nextFrame_s = 0;
    QString m_supplySerial, m_meterSerial;
    QElapsedTimer m_clock;
    QTimer m_timer;
    SupplyServer m_supply;
    MeterServer m_meter;
    CameraServer m_camera;
    ControlServer m_control;
};

} // namespace ustor::standin
