#pragma once

#include "base/result.h"
#include "thermal/recording.h"

#include <filesystem>
#include <fstream>
#include <memory>

struct tiff;

namespace ustor {

/// Writes a recording folder while it happens: what was added before a crash can be read back. Cameras whose
/// pictures would outgrow the four gigabytes of a plain TIFF within twenty minutes get a BigTIFF.
class RecordingWriter {
  public:
    /// Makes the folder and its header. Error when it cannot be written; an existing recording is never
    /// overwritten.
    static Result<std::unique_ptr<RecordingWriter>> create(const std::filesystem::path& folder,
                                                           const CameraInfo& info);
    ~RecordingWriter();
    RecordingWriter(const RecordingWriter&) = delete;
    RecordingWriter& operator=(const RecordingWriter&) = delete;

    Outcome add(const ThermalFrame& frame);
    Outcome add(const SupplySample& sample);
    Outcome add(const Beat& beat);
    std::filesystem::path folder() const { return m_folder; }
    int frames() const { return m_frames; }

  private:
    RecordingWriter(std::filesystem::path folder, CameraInfo info);
    Error writeFault(const char* file) const;

    std::filesystem::path m_folder;
    CameraInfo m_info;
    tiff* m_tiff = nullptr;
    std::ofstream m_times, m_supply, m_beats; ///< the last is made with the first beat
    int m_frames = 0;
};

} // namespace ustor
