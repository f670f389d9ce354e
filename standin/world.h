#pragma once

#include "base/measurement.h"
#include "base/random.h"
#include "standin/body_heat.h"
#include "standin/camera_model.h"
#include "standin/circuit.h"

#include <memory>
#include <optional>
#include <string>

namespace ustor::standin {

struct Setup {
    std::uint64_t seed = 1;
    Fault fault;
    double leadOhms = 0.06; ///< both leads with their clips
    int copperLayers = 4;
};

/// The whole bench as one consistent thing: board, leads, supply, meter probes, camera. Time moves only by
/// `advance`.
class World {
  public:
    World(const Board& board, const Setup& setup);

    void advance(double seconds);
    double time_s() const { return m_time_s; }

    // The supply's front: what was set, and what is.
    struct Supply {
        double volts = 0, amps = 0.1, overVolts = 31, overAmps = 5.5;
        bool output = false, tripped = false;
        bool stuck = false;     ///< its output does not go off, whatever it is told
        double longestOn_s = 0; ///< switches itself off after so long; 0: it has no such limit set
        double onSince_s = 0;
    };
    Supply supply;
    void setOutput(bool on);
    double terminalVolts() const { return m_volts; }
    double terminalAmps() const { return m_amps; }
    bool currentLimited() const { return m_limited; }
    /// To be called after anything about the supply was changed.
    void settle();

    // The hands.
    bool attachLeads(const std::string& plus, const std::string& minus);
    void detachLeads();
    bool touchProbes(const std::string& red, const std::string& black);
    void liftProbes() { m_red.reset(); }
    bool lift(const std::string& part);
    bool refit(const std::string& part, bool newPart);
    void turnBoard(Side side);
    Side facing() const { return m_camera->side(); }
    PixelPoint pixelOf(BoardPoint p) const { return m_camera->pixelOf(p); }
    const Fault& fault() const { return m_setup.fault; }

    /// What the meter sees between its probes; nothing when they hang in the air.
    std::optional<Reading> measure(MeterMode mode);

    cv::Mat picture();
    double storedJoules() const { return m_laminate.storedJoules() + m_bodies.storedJoules(); }
    double lostJoules() const { return m_laminate.lostJoules(); }
    double deliveredToBoardJoules() const { return m_boardJoules; }

  private:
    std::optional<PadRef> padFor(const std::string& place) const;
    void rewire();

    Board m_board;
    Setup m_setup;
    Circuit m_circuit;
    BoardHeat m_laminate;
    BodyHeat m_bodies;
    std::unique_ptr<CameraModel> m_camera;
    Random m_random;
    std::optional<PadRef> m_plus, m_minus, m_red, m_black;
    Circuit::Response m_response;
    std::vector<Circuit::Heat> m_heat;
    double m_time_s = 0, m_pending_s = 0, m_volts = 0, m_amps = 0, m_boardJoules = 0;
    bool m_limited = false;
};

} // namespace ustor::standin
