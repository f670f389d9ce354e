#pragma once

#include "thermal/locate.h"
#include "thermal/recording_writer.h"
#include "thermal/repair.h"

#include <deque>
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
    int skipped = 0; ///< that came and were left out, because the machine was busy
};

/// The warmest spot of a frame.
struct Warmest {
    double rise_k = 0;    ///< above the start
    double surface_c = 0; ///< of a surface that radiates like solder mask and mould compound
};

/// All that is known of the heat at one moment, apart from the stream: it can be thought about in a thread of
/// its own while frames go on coming.
struct HeatSoFar {
    StepResponse response;
    RepairedFrames frames; ///< all so far; none where they would take too much memory
    SwitchedBy told;
    std::vector<SupplySample> supply; ///< as told, or as the beats would have it
    std::optional<Registration> registration;
    double thickness_mm = 1.6, seconds = 0, warmest_k = 0;

    /// The answer so far, from the running sums; what passes through the picture is left out while the frames
    /// are kept.
    LiveHeat look() const;
    /// The answer for good: as for a recording, with clocks brought together and switching by hand made out.
    LiveHeat lookWhole() const;
};

/// What takes the stream of a running injection, for a thread of its own: writes the recording, repairs
/// frames, keeps the response. No Qt, no clock: frames and samples come in, what is known is asked for.
class HeatWorker {
  public:
    HeatWorker(const CameraInfo& info, std::optional<Registration> registration, double boardThickness_mm);

    /// Starts writing to a folder; without it nothing is recorded.
    Outcome record(const std::filesystem::path& folder);
    void add(const SupplySample& sample);
    /// Where the supply tells nothing: a person was asked to switch it. Until the end the hand counts as
    /// following a usual moment later.
    void add(const Beat& beat);
    /// Frames wait until the supply has told what it delivered at their time. Returns what the newest
    /// repaired frame shows, when one was worked on.
    std::optional<Warmest> add(const ThermalFrame& frame);
    /// Works off what still waits, with the last power known.
    void finish();
    HeatSoFar soFar() const;
    std::optional<Error> writeError() const { return m_writeError; }
    double meanWatts() const; ///< 0 where the supply tells nothing

  private:
    template <typename T> void write(const T& what);
    std::optional<Warmest> workOff(bool all);
    void keep(double time_s, const cv::Mat& kelvin);

    CameraInfo m_info;
    std::optional<Registration> m_registration;
    double m_thickness_mm;
    std::unique_ptr<RecordingWriter> m_writer;
    std::optional<Error> m_writeError;
    std::vector<SupplySample> m_supply;
    std::vector<Beat> m_beats;
    std::deque<ThermalFrame> m_waiting;
    StreamRepair m_repair;
    StepResponse m_response;
    RepairedFrames m_frames;
    bool m_keeps = true;
    double m_first_s = 0, m_last_s = 0, m_warmest_k = 0;
};

} // namespace ustor
