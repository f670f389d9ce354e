#include "thermal/recording_writer.h"

#include "base/number_text.h"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <tiffio.h>

namespace ustor {

RecordingWriter::RecordingWriter(std::filesystem::path folder, CameraInfo info)
    : m_folder(std::move(folder)), m_info(info) {}

RecordingWriter::~RecordingWriter() {
    if (m_tiff) TIFFClose(m_tiff);
}

Error RecordingWriter::writeFault(const char* file) const {
    return Error{say("cannot be written (disk full, or no permission)"), (m_folder / file).string(),
                 say("{frames} frames before it are kept", {{"frames", m_frames}})};
}

Result<std::unique_ptr<RecordingWriter>> RecordingWriter::create(const std::filesystem::path& folder,
                                                                 const CameraInfo& info) {
    std::error_code fault;
    if (std::filesystem::exists(folder / "recording.json", fault))
        return Error{say("holds a recording already"), folder.string(), say("it is unchanged")};
    std::filesystem::create_directories(folder, fault);
    std::unique_ptr<RecordingWriter> writer(new RecordingWriter(folder, info));
    std::ofstream header(folder / "recording.json");
    header << nlohmann::ordered_json{{"format", "ustor-recording/1"}, {"width", info.width},
                                     {"height", info.height},         {"frame_rate_hz", info.frameRate_hz},
                                     {"unit", "centikelvin"},         {"camera", {{"netd_mk", info.netd_mk}}},
                                     {"ambient_c", info.ambient_c},   {"side", wordOf(info.side)}}
                  .dump(1)
           << "\n";
    header.flush();
    writer->m_times.open(folder / "frames.csv");
    writer->m_times << "frame,time_s\n" << std::flush;
    writer->m_supply.open(folder / "supply.csv");
    writer->m_supply << "time_s,output,set_volts,set_amps,volts,amps\n" << std::flush;
    constexpr double plainBytes = 4e9, longest_s = 1200, bytesPerPixel = 2;
    const double bytes =
        bytesPerPixel * info.width * info.height * std::max(1.0, info.frameRate_hz) * longest_s;
    writer->m_tiff = TIFFOpen((folder / "frames.tiff").c_str(), bytes < plainBytes ? "w" : "w8");
    if (!header || !writer->m_times || !writer->m_supply || !writer->m_tiff)
        return writer->writeFault("recording.json");
    return writer;
}

Outcome RecordingWriter::add(const ThermalFrame& frame) {
    const cv::Mat& picture = frame.centikelvin;
    USTOR_CHECK(picture.type() == CV_16UC1 && picture.cols == m_info.width && picture.rows == m_info.height,
                "a frame of another size");
    TIFFSetField(m_tiff, TIFFTAG_IMAGEWIDTH, m_info.width);
    TIFFSetField(m_tiff, TIFFTAG_IMAGELENGTH, m_info.height);
    TIFFSetField(m_tiff, TIFFTAG_BITSPERSAMPLE, 16);
    TIFFSetField(m_tiff, TIFFTAG_SAMPLESPERPIXEL, 1);
    TIFFSetField(m_tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_MINISBLACK);
    TIFFSetField(m_tiff, TIFFTAG_COMPRESSION, COMPRESSION_NONE);
    TIFFSetField(m_tiff, TIFFTAG_ROWSPERSTRIP, m_info.height);
    const cv::Mat whole = picture.isContinuous() ? picture : picture.clone();
    if (TIFFWriteEncodedStrip(m_tiff, 0, whole.data,
                              static_cast<tmsize_t>(whole.total() * whole.elemSize())) < 0)
        return writeFault("frames.tiff");
    if (TIFFWriteDirectory(m_tiff) != 1) return writeFault("frames.tiff");
    m_times << m_frames << ',' << textOfNumber(frame.time_s) << '\n' << std::flush;
    if (!m_times) return writeFault("frames.csv");
    ++m_frames;
    return Done{};
}

Outcome RecordingWriter::add(const SupplySample& s) {
    m_supply << textOfNumber(s.time_s) << ',' << (s.output ? 1 : 0) << ',' << textOfNumber(s.setVolts) << ','
             << textOfNumber(s.setAmps) << ',' << textOfNumber(s.volts) << ',' << textOfNumber(s.amps) << '\n'
             << std::flush;
    if (!m_supply) return writeFault("supply.csv");
    return Done{};
}

Outcome RecordingWriter::add(const Beat& beat) {
    if (!m_beats.is_open()) {
        m_beats.open(m_folder / "beats.csv");
        m_beats << "time_s,on\n";
    }
    m_beats << textOfNumber(beat.time_s) << ',' << (beat.on ? 1 : 0) << '\n' << std::flush;
    if (!m_beats) return writeFault("beats.csv");
    return Done{};
}

} // namespace ustor
