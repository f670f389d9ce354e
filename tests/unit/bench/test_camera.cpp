#include "bench/stream_camera.h"
#include "support/fake_instrument.h"
#include "support/wait.h"
#include "unit/bench/test_bench.h"

#include <QTest>
#include <QtEndian>

using namespace ustor;
using testing::FakeInstrument;
using testing::waitUntil;

namespace {

const QByteArray header =
    "{\"format\":\"ustor-stream/1\",\"width\":16,\"height\":8,\"frame_rate_hz\":25,\"netd_mk\":50}\n";

QByteArray packet(quint16 value, double time_s, quint32 width = 16) {
    QByteArray p("UFRM");
    p.resize(20 + 16 * 8 * 2);
    qToLittleEndian<quint32>(width, p.data() + 4);
    qToLittleEndian<quint32>(8, p.data() + 8);
    qToLittleEndian<quint64>(static_cast<quint64>(time_s * 1e6), p.data() + 12);
    for (int i = 0; i < 16 * 8; ++i)
        qToLittleEndian<quint16>(value, p.data() + 20 + 2 * i);
    return p;
}

} // namespace

void TestCamera::framesInPieces() {
    FakeInstrument source;
    StreamCamera camera(source.address());
    std::vector<CameraFrame> frames;
    connect(&camera, &Camera::frame, this, [&](const CameraFrame& f) { frames.push_back(f); });
    camera.start();
    QVERIFY(waitUntil([&] { return source.connections == 1; }));
    // Header and three frames, handed over in odd pieces.
    const QByteArray all = header + packet(29815, 1.5) + packet(29816, 1.54) + packet(29817, 1.58);
    for (int i = 0; i < all.size(); i += 37) {
        source.send(all.mid(i, 37));
        QTest::qWait(1);
    }
    QVERIFY(waitUntil([&] { return frames.size() == 3; }));
    QCOMPARE(camera.info().netd_mk, 50.0);
    QCOMPARE(frames[1].centikelvin[3 * frames[1].width + 3], std::uint16_t(29816));
    QCOMPARE(frames[2].time_s, 1.58);
}

void TestCamera::streamsThatAreNone() {
    for (const QByteArray& wrong :
         {QByteArray("HTTP/1.1 400 Bad Request\n"), QByteArray(8192, 'x'),
          QByteArray("{\"format\":\"ustor-stream/1\",\"width\":-3,\"height\":8}\n"),
          QByteArray("{\"format\":\"ustor-stream/1\",\"width\":100000,\"height\":100000}\n"),
          QByteArray("{\"format\":\"ustor-stream/1\",\"width\":16,\"height\":8,\"frame_rate_hz\":-25}\n"),
          QByteArray("{\"format\":\"ustor-stream/1\",\"width\":16,\"height\":8,\"ambient_c\":1e9}\n")}) {
        FakeInstrument source;
        StreamCamera camera(source.address());
        camera.start();
        QVERIFY(waitUntil([&] { return source.connections == 1; }));
        source.send(wrong);
        QVERIFY(waitUntil([&] { return source.connections == 2; })); // cut, and tried again
        QVERIFY(!camera.isConnected());
    }
}

void TestCamera::streamThatLosesItsStep() {
    FakeInstrument source;
    StreamCamera camera(source.address());
    QString lost;
    int frames = 0;
    connect(&camera, &Camera::lost, this,
            [&](const Message& why) { lost = QString::fromStdString(why.text()); });
    connect(&camera, &Camera::frame, this, [&] { ++frames; });
    camera.start();
    QVERIFY(waitUntil([&] { return source.connections == 1; }));
    source.send(header + packet(29815, 1) + packet(29815, 1.1, 99));
    QVERIFY(waitUntil([&] { return !lost.isEmpty(); }));
    QCOMPARE(frames, 1);
    QVERIFY(waitUntil([&] { return source.connections == 2; }));
}

// Common practice of live pictures: whoever was busy wants to see what is, not what was. All that is left out
// is counted.
void TestCamera::whoCannotKeepUpSeesTheNewest() {
    FakeInstrument source;
    StreamCamera camera(source.address());
    std::vector<double> times;
    int skipped = 0;
    connect(&camera, &Camera::frame, this, [&](const CameraFrame& f) {
        if (times.empty()) QTest::qSleep(300); // the busy moment: all others arrive meanwhile
        times.push_back(f.time_s);
    });
    connect(&camera, &Camera::skipped, this, [&](int frames) { skipped += frames; });
    camera.start();
    QVERIFY(waitUntil([&] { return source.connections == 1; }));
    constexpr int sent = 200;
    QByteArray all = header;
    for (int i = 0; i < sent; ++i)
        all += packet(29815, i * 0.04);
    source.send(all);
    QVERIFY(waitUntil([&] { return static_cast<int>(times.size()) + skipped == sent; }));
    QVERIFY(skipped > 0);
    QVERIFY(std::is_sorted(times.begin(), times.end()));
    QCOMPARE(times.back(), (sent - 1) * 0.04); // the newest is there
}
