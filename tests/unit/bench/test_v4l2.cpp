#include "bench/v4l2_camera.h"
#include "support/wait.h"
#include "unit/bench/test_bench.h"

#include <QTest>
#include <QtEndian>
#include <array>
#include <cerrno>
#include <cstring>
#include <linux/videodev2.h>
#include <sys/eventfd.h>
#include <unistd.h>

using namespace ustor;
using testing::waitUntil;

namespace {

/// What a camera's driver does, as the V4L2 documentation tells it: formats, sizes, buffers, a queue.
struct Driver {
    struct Format {
        __u32 pixels;
        std::vector<std::pair<unsigned, unsigned>> sizes;
    };
    std::vector<Format> formats;
    unsigned width = 0, height = 0, stride = 0;
    int ready = -1, opened = 0;
    bool streaming = false, gone = false;
    std::array<std::vector<std::uint16_t>, 4> memory;
    std::vector<unsigned> queued;
    double time_s = 100;

    /// A picture comes: all pixels of one count but the first.
    void picture(std::uint16_t first, std::uint16_t rest, bool whole = true) {
        if (queued.empty()) return;
        auto& pixels = memory[queued.front()];
        std::fill(pixels.begin(), pixels.end(), rest);
        pixels[0] = first;
        cut = !whole;
        const std::uint64_t one = 1;
        static_cast<void>(!::write(ready, &one, sizeof one));
    }
    bool cut = false;
};

class FakeSystem : public V4l2System {
  public:
    explicit FakeSystem(Driver& driver) : m_driver(driver) {}
    int open(const char* path) override {
        if (m_driver.gone || std::strcmp(path, "/dev/video7") != 0) return errno = ENOENT, -1;
        ++m_driver.opened;
        m_driver.queued.clear();
        return m_driver.ready = ::eventfd(0, EFD_NONBLOCK);
    }
    void close(int file) override {
        ::close(file);
        m_driver.ready = -1;
    }
    void* map(int, std::size_t, long offset) override {
        return m_driver.memory[static_cast<std::size_t>(offset)].data();
    }
    void unmap(void*, std::size_t) override {}
    int control(int, unsigned long request, void* argument) override {
        if (m_driver.gone) return errno = ENODEV, -1;
        switch (request) {
        case VIDIOC_QUERYCAP:
            static_cast<v4l2_capability*>(argument)->capabilities =
                V4L2_CAP_VIDEO_CAPTURE | V4L2_CAP_STREAMING;
            return 0;
        case VIDIOC_ENUM_FMT: {
            auto& format = *static_cast<v4l2_fmtdesc*>(argument);
            if (format.index >= m_driver.formats.size()) return errno = EINVAL, -1;
            format.pixelformat = m_driver.formats[format.index].pixels;
            return 0;
        }
        case VIDIOC_ENUM_FRAMESIZES:
            return size(*static_cast<v4l2_frmsizeenum*>(argument));
        case VIDIOC_S_FMT: {
            auto& pix = static_cast<v4l2_format*>(argument)->fmt.pix;
            m_driver.width = pix.width;
            m_driver.height = pix.height;
            pix.bytesperline = m_driver.stride = 2 * pix.width + 32; // lines are padded
            return 0;
        }
        case VIDIOC_G_PARM: {
            auto& time = static_cast<v4l2_streamparm*>(argument)->parm.capture.timeperframe;
            time.numerator = 1;
            time.denominator = 9;
            return 0;
        }
        case VIDIOC_REQBUFS:
            for (auto& pixels : m_driver.memory)
                pixels.assign(static_cast<std::size_t>(m_driver.stride) / 2 * m_driver.height, 0);
            static_cast<v4l2_requestbuffers*>(argument)->count = 4;
            return 0;
        case VIDIOC_QUERYBUF: {
            auto& buffer = *static_cast<v4l2_buffer*>(argument);
            buffer.length = m_driver.stride * m_driver.height;
            buffer.m.offset = buffer.index;
            return 0;
        }
        case VIDIOC_QBUF:
            m_driver.queued.push_back(static_cast<v4l2_buffer*>(argument)->index);
            return 0;
        case VIDIOC_DQBUF:
            return give(*static_cast<v4l2_buffer*>(argument));
        case VIDIOC_STREAMON:
        case VIDIOC_STREAMOFF:
            m_driver.streaming = request == VIDIOC_STREAMON;
            return 0;
        default:
            return errno = ENOTTY, -1;
        }
    }

  private:
    int size(v4l2_frmsizeenum& size) const {
        for (const auto& format : m_driver.formats)
            if (format.pixels == size.pixel_format && size.index < format.sizes.size()) {
                size.type = V4L2_FRMSIZE_TYPE_DISCRETE;
                size.discrete = {format.sizes[size.index].first, format.sizes[size.index].second};
                return 0;
            }
        return errno = EINVAL, -1;
    }
    int give(v4l2_buffer& buffer) {
        std::uint64_t pictures = 0;
        if (::read(m_driver.ready, &pictures, sizeof pictures) < 0 || m_driver.queued.empty())
            return errno = EAGAIN, -1;
        buffer.index = m_driver.queued.front();
        m_driver.queued.erase(m_driver.queued.begin());
        buffer.bytesused = m_driver.cut ? 100 : m_driver.stride * m_driver.height;
        buffer.flags = 0;
        m_driver.time_s += 0.125;
        buffer.timestamp.tv_sec = static_cast<long>(m_driver.time_s);
        buffer.timestamp.tv_usec = static_cast<long>(1e6 * (m_driver.time_s - std::floor(m_driver.time_s)));
        return 0;
    }
    Driver& m_driver;
};

struct Watched {
    V4l2Camera camera;
    std::vector<CameraFrame> frames;
    QString lost;
    Watched(Driver& driver, const InstrumentProfile& profile, const QString& path = "/dev/video7")
        : camera(path, profile, std::make_unique<FakeSystem>(driver)) {
        QObject::connect(&camera, &Camera::frame, &camera,
                         [this](const CameraFrame& f) { frames.push_back(f); });
        QObject::connect(&camera, &Camera::lost, &camera,
                         [this](const Message& why) { lost = QString::fromStdString(why.text()); });
        camera.start();
    }
};

InstrumentProfile cameraProfile() {
    InstrumentProfile profile;
    profile.kind = InstrumentProfile::Kind::Camera;
    return profile;
}

Driver greyDriver() {
    Driver driver;
    driver.formats = {{V4L2_PIX_FMT_YUYV, {{160, 120}}}, {V4L2_PIX_FMT_Y16, {{160, 122}, {80, 60}}}};
    return driver;
}

} // namespace

void TestV4l2::sixteenBitGreyIsChosenAmongItsFormats() {
    Driver driver = greyDriver();
    Watched w(driver, cameraProfile());
    QVERIFY(w.camera.isConnected());
    QCOMPARE(w.camera.offers(), (QStringList{"YUYV 160x120", "Y16 160x122", "Y16 80x60"}));
    QCOMPARE(w.camera.info().width, 160);
    QCOMPARE(w.camera.info().frameRate_hz, 9.0); // what the driver says
    driver.picture(29816, 29815);
    QVERIFY(waitUntil([&] { return w.frames.size() == 1; }));
    driver.picture(29900, 29815);
    QVERIFY(waitUntil([&] { return w.frames.size() == 2; }));
    QCOMPARE(QSize(w.frames[0].width, w.frames[0].height), QSize(160, 122));
    QCOMPARE(w.frames[1].centikelvin[0 * w.frames[1].width + 0], std::uint16_t(29900));
    QCOMPARE(w.frames[0].centikelvin[121 * w.frames[0].width + 159], std::uint16_t(29815));
    QCOMPARE(w.frames[0].time_s, 100.125);          // the kernel's time of capture
    QCOMPARE(driver.queued.size(), std::size_t(4)); // every buffer goes back
}

void TestV4l2::profileScalesAndCrops() {
    Driver driver = greyDriver();
    InstrumentProfile profile = cameraProfile();
    profile.width = 160;
    profile.height = 122;
    profile.crop = {0, 0, 160, 120};
    profile.kelvinPerCount = 1.0 / 64;
    profile.frameRate_hz = 25;
    Watched w(driver, profile);
    QCOMPARE(w.camera.info().height, 120);
    QCOMPARE(w.camera.info().frameRate_hz, 25.0);
    driver.picture(64 * 300, 64 * 298 + 32);
    QVERIFY(waitUntil([&] { return w.frames.size() == 1; }));
    QCOMPARE(QSize(w.frames[0].width, w.frames[0].height), QSize(160, 120));
    QCOMPARE(w.frames[0].centikelvin[0 * w.frames[0].width + 0], std::uint16_t(30000));
    QCOMPARE(w.frames[0].centikelvin[5 * w.frames[0].width + 5], std::uint16_t(29850));
}

void TestV4l2::bytesInTheOtherOrder() {
    Driver driver;
    driver.formats = {{V4L2_PIX_FMT_Y16_BE, {{32, 24}}}};
    Watched w(driver, cameraProfile());
    driver.picture(qToBigEndian<quint16>(29816), qToBigEndian<quint16>(29815));
    QVERIFY(waitUntil([&] { return w.frames.size() == 1; }));
    QCOMPARE(w.frames[0].centikelvin[0 * w.frames[0].width + 0], std::uint16_t(29816));
}

void TestV4l2::whatIsNoThermalCamera() {
    Driver colour;
    colour.formats = {{V4L2_PIX_FMT_YUYV, {{640, 480}}}};
    Watched w(colour, cameraProfile());
    QVERIFY2(w.lost.contains("no 16-bit grey") && w.lost.contains("YUYV 640x480"), qPrintable(w.lost));
    QVERIFY(!w.camera.isConnected());
    Driver grey = greyDriver();
    Watched absent(grey, cameraProfile(), "/dev/video9");
    QVERIFY2(absent.lost.contains("/dev/video9"), qPrintable(absent.lost));
    InstrumentProfile wide = cameraProfile();
    wide.crop = {0, 0, 161, 120};
    Watched outside(grey, wide);
    QVERIFY2(outside.lost.contains("reaches beyond"), qPrintable(outside.lost));
}

void TestV4l2::tornPicturesAreLeftOut() {
    Driver driver = greyDriver();
    Watched w(driver, cameraProfile());
    driver.picture(1, 1, false);
    QTest::qWait(50);
    driver.picture(29816, 29815);
    QVERIFY(waitUntil([&] { return w.frames.size() == 1; }));
    QCOMPARE(w.frames[0].centikelvin[0 * w.frames[0].width + 0], std::uint16_t(29816));
}

void TestV4l2::pulledAndPluggedIn() {
    Driver driver = greyDriver();
    Watched w(driver, cameraProfile());
    driver.gone = true;
    driver.picture(29816, 29815); // wakes whoever waits
    QVERIFY(waitUntil([&] { return !w.lost.isEmpty(); }));
    QVERIFY(!w.camera.isConnected());
    driver.gone = false;
    QVERIFY(waitUntil([&] { return w.camera.isConnected(); }));
    QVERIFY(driver.opened >= 2);
    driver.picture(29816, 29815);
    QVERIFY(waitUntil([&] { return w.frames.size() == 1; }));
}

void TestV4l2::silenceIsTold() {
    Driver driver = greyDriver();
    Watched w(driver, cameraProfile());
    QVERIFY(waitUntil([&] { return w.lost.contains("no picture"); }));
}
