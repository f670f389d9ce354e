#include "session/replay_camera.h"
#include "support/recordings.h"
#include "support/wait.h"
#include "unit/session/test_session.h"

#include <QTest>
#include <algorithm>

using namespace ustor;
using testing::waitUntil;

void TestReplay::aRecordingIsPlayedAsItCame() {
    testing::RenderSettings settings;
    settings.seconds = 1;
    settings.width = 24;
    settings.height = 16;
    const Recording recording = testing::render({}, settings);
    ReplayCamera camera(recording, 5);
    std::vector<double> times;
    std::vector<std::uint16_t> first;
    bool ended = false;
    connect(&camera, &Camera::frame, this, [&](const CameraFrame& f) {
        if (times.empty()) first = f.centikelvin;
        times.push_back(f.time_s);
    });
    connect(&camera, &Camera::lost, this, [&] { ended = true; });
    camera.start();
    QVERIFY(waitUntil([&] { return ended; }));
    QCOMPARE(times.size(), recording.frames.size());
    const cv::Mat& sent = recording.frames.front().centikelvin;
    QVERIFY(std::equal(first.begin(), first.end(), sent.begin<std::uint16_t>(), sent.end<std::uint16_t>()));
    QVERIFY(std::is_sorted(times.begin(), times.end()));
}
