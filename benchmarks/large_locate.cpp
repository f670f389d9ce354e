#include "base/random.h"
#include "benchmarks.h"
#include "session/bench_link.h"
#include "thermal/recording_writer.h"

#include <QElapsedTimer>
#include <QProcess>
#include <QTemporaryDir>
#include <cmath>
#include <cstdio>
#include <sys/resource.h>

namespace ustor {
namespace {

constexpr int width = 640, height = 512, different = 16;
constexpr double rate_hz = 60, noise_ck = 5;
const cv::Point source(417, 203);

/// Pulses of a second: a spot of some pixels that warms by a tenth of a kelvin with the first-order lag of a
/// small part.
bool write(const std::filesystem::path& folder, double seconds) {
    Random random(5);
    std::vector<cv::Mat> noises;
    for (int i = 0; i < different; ++i) {
        cv::Mat noise(height, width, CV_32F);
        for (auto& pixel : cv::Mat_<float>(noise))
            pixel = static_cast<float>(noise_ck * random.normal());
        noises.push_back(noise);
    }
    cv::Mat spot = cv::Mat::zeros(height, width, CV_32F);
    constexpr double reach_px = 3;
    for (int y = -12; y <= 12; ++y)
        for (int x = -12; x <= 12; ++x)
            spot.at<float>(source + cv::Point(x, y)) =
                static_cast<float>(std::exp(-(x * x + y * y) / (2 * reach_px * reach_px)));
    CameraInfo info;
    info.width = width;
    info.height = height;
    info.frameRate_hz = rate_hz;
    auto writer = RecordingWriter::create(folder, info);
    if (!writer) return false;
    double warmth = 0;
    for (int i = 0; i < static_cast<int>(seconds * rate_hz); ++i) {
        const double time_s = i / rate_hz;
        const bool on = std::fmod(time_s, 2) >= 1;
        constexpr double lag_s = 0.4, peak_ck = 10;
        warmth += ((on ? peak_ck : 0) - warmth) / (lag_s * rate_hz);
        // The order of the noises never comes again within the recording.
        const std::size_t which = static_cast<std::size_t>(random.uniform() * different);
        cv::Mat picture;
        cv::Mat(29800 + noises[which] + warmth * spot).convertTo(picture, CV_16U);
        if (!writer.value()->add(ThermalFrame{time_s, picture})) return false;
        if (!writer.value()->add(SupplySample{time_s, on, 1, 0.1, on ? 0.03 : 0, on ? 0.1 : 0})) return false;
    }
    return true;
}

} // namespace

/// A minute of 640 x 512 at 60 Hz (2.4 gigabytes as it came), located by the command line: time, and the most
/// memory that its process took, as the system counts it.
void benchLargeLocate() {
    const QTemporaryDir folder;
    const QString recording = folder.filePath("large");
    constexpr double seconds = 60;
    if (!write(recording.toStdString(), seconds))
        return std::printf("Large recording: no place to write\n\n"), void();
    rusage before{}, after{};
    getrusage(RUSAGE_CHILDREN, &before);
    QElapsedTimer clock;
    clock.start();
    QProcess locate;
    locate.start(programBeside("ustor-cli"), {"thermal", "locate", recording});
    locate.waitForFinished(-1);
    getrusage(RUSAGE_CHILDREN, &after);
    const QByteArray said = locate.readAllStandardOutput();
    std::printf(
        "Locating %.0f s of 640x512 at 60 Hz: %.1f s, at most %.0f MB (wanted: 600); hidden at %d, %d:\n",
        seconds, static_cast<double>(clock.elapsed()) * 1e-3, static_cast<double>(after.ru_maxrss) / 1024.0,
        source.x, source.y);
    if (after.ru_maxrss == before.ru_maxrss)
        std::printf("  (another child took as much before: not this one's)\n");
    for (const QByteArray& line : said.split('\n'))
        if (!line.isEmpty()) std::printf("  %s\n", line.constData());
    std::printf("\n");
}

} // namespace ustor
