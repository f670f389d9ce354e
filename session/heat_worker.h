#pragma once

#include "thermal/locate.h"
#include "thermal/recording_writer.h"
#include "thermal/repair.h"

#include <deque>
#include <functional>
#include <memory>
#include <optional>

namespace ustor {

/// What is shown while an injection runs, and at its end.
struct LiveHeat {
    LocateResult located;
    cv::Mat rise_k_per_w; ///< response map at the shown instant, CV_32FC1
    double sigma_k_per_w = 0;
    double seconds = 0;   ///< of data so far
    double warmest_k = 0; ///< largest rise of a spot now
    int frames = 0;
};

/// All that is known of the heat at one moment, apart from the stream: it can be thought about in a thread of
/// its own while frames go on coming.
struct HeatSoFar {
    StepResponse response;
    double meanWatts = 0;
    std::optional<Registration> registration;
    double thickness_mm = 1.6, seconds = 0, warmest_k = 0;
    std::vector<RepairNote> repairs;
    std::vector<std::string> undone;
    LiveHeat look() const;
};

/// What takes the stream of a running injection, for a thread of its own: writes the recording, repairs
/// frames, keeps the response. No Qt, no clock: frames and samples come in, what is known is asked for.
class HeatWorker {
  public:
    HeatWorker(const RecordingInfo& info, std::optional<Registration> registration, double boardThickness_mm);

    /// Starts writing to a folder; without it nothing is recorded.
    Outcome record(const std::filesystem::path& folder);
    void add(const SupplySample& sample);
    /// Frames wait until the supply has told what it delivered at their time. Returns the newest repaired
    /// frame's warmest spot in kelvin above the start, when one was worked on.
    std::optional<double> add(const ThermalFrame& frame);
    /// Works off what still waits, with the last power known.
    void finish();
    HeatSoFar soFar() const;
    std::optional<Error> writeError() const { return m_writeError; }
    double meanWatts() const;

  private:
    std::optional<double> workOff(bool all);

    RecordingInfo m_info;
    std::optional<Registration> m_registration;
    double m_thickness_mm;
    std::unique_ptr<RecordingWriter> m_writer;
    std::optional<Error> m_writeError;
    std::vector<SupplySample> m_supply;
    std::deque<ThermalFrame> m_waiting;
    StreamRepair m_repair;
    StepResponse m_response;
    double m_first_s = 0, m_last_s = 0, m_warmest_k = 0;
};

} // namespace ustor
