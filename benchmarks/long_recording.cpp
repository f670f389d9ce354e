#include "base/random.h"
#include "benchmarks.h"
#include "session/heat_worker.h"

#include <QElapsedTimer>
#include <QFile>
#include <QTemporaryDir>
#include <algorithm>
#include <cstdio>
#include <fstream>
#include <tiffio.h>
#include <unistd.h>

namespace ustor {
namespace {

double residentMegabytes() {
    std::ifstream file("/proc/self/statm");
    long whole = 0, resident = 0;
    file >> whole >> resident;
    return static_cast<double>(resident) * static_cast<double>(sysconf(_SC_PAGESIZE)) / 1e6;
}

/// Pages that an independent reader counts.
int pagesIn(const QString& file) {
    TIFF* tiff = TIFFOpen(file.toLocal8Bit().constData(), "r");
    if (!tiff) return 0;
    int pages = 0;
    do
        ++pages;
    while (TIFFReadDirectory(tiff));
    TIFFClose(tiff);
    return pages;
}

} // namespace

/// Ten minutes of 640 x 512 at 30 Hz as an injection takes them, as fast as they are taken: frames that came
/// and frames on the disk, time against the stream's own, memory on the way.
void benchLongRecording() {
    constexpr int width = 640, height = 512, different = 16, minutes = 10;
    constexpr double rate_hz = 30, sample_s = 0.04;
    Random random(4);
    std::vector<cv::Mat> pictures;
    for (int i = 0; i < different; ++i) {
        cv::Mat raw(height, width, CV_16UC1);
        for (auto& pixel : cv::Mat_<std::uint16_t>(raw))
            pixel = static_cast<std::uint16_t>(29800 + 5 * random.normal());
        pictures.push_back(raw);
    }
    const QTemporaryDir folder;
    CameraInfo info;
    info.width = width;
    info.height = height;
    info.frameRate_hz = rate_hz;
    HeatWorker worker(info, {}, 1.6);
    if (!worker.record(folder.filePath("r").toStdString())) {
        std::printf("Long recording: no place to write\n\n");
        return;
    }
    const int frames = static_cast<int>(minutes * 60 * rate_hz);
    double told_s = 0, slowest_ms = 0, afterOne = 0, most = 0;
    QElapsedTimer clock, one;
    clock.start();
    for (int i = 0; i < frames; ++i) {
        const double time_s = i / rate_hz;
        for (; told_s <= time_s + sample_s; told_s += sample_s) {
            const bool on = std::fmod(told_s, 2) >= 1;
            worker.add(SupplySample{told_s, on, 1, 0.1, on ? 0.03 : 0, on ? 0.1 : 0});
        }
        one.start();
        worker.add(ThermalFrame{time_s, pictures[static_cast<std::size_t>(i % different)]});
        slowest_ms = std::max(slowest_ms, static_cast<double>(one.nsecsElapsed()) * 1e-6);
        if (i == static_cast<int>(60 * rate_hz)) afterOne = residentMegabytes();
        most = std::max(most, i % 100 == 0 ? residentMegabytes() : 0);
    }
    worker.finish();
    const double took_s = static_cast<double>(clock.elapsed()) * 1e-3;
    const auto trouble = worker.writeError();
    std::printf("Recording of %d minutes of 640x512 at 30 Hz: %d of %d frames on the disk (%.1f GB)%s%s; "
                "taken in %.0f "
                "s, one frame at worst %.0f ms; memory %.0f MB after a minute, %.0f MB at most\n\n",
                minutes, pagesIn(folder.filePath("r/frames.tiff")), frames,
                static_cast<double>(QFile(folder.filePath("r/frames.tiff")).size()) * 1e-9,
                trouble ? ", " : "", trouble ? trouble->text().c_str() : "", took_s, slowest_ms, afterOne,
                most);
}

} // namespace ustor
