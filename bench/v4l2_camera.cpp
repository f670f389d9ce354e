#include "bench/v4l2_camera.h"

#include "bench/clock.h"

#include <QtEndian>
#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <limits>
#include <linux/videodev2.h>
#include <utility>

namespace ustor {
namespace {

QString reason() {
    return QString::fromLocal8Bit(std::strerror(errno));
}

QString fourLetters(__u32 format) {
    QString word;
    for (int shift = 0; shift < 32; shift += 8)
        word += QLatin1Char(static_cast<char>(format >> shift & 0x7f));
    return word.trimmed() + (format & v4l2_fourcc_be(0, 0, 0, 0) ? "-BE" : "");
}

template <class T> T blank() {
    T value;
    std::memset(&value, 0, sizeof value);
    return value;
}

} // namespace

V4l2Camera::V4l2Camera(QString device, InstrumentProfile profile, std::unique_ptr<V4l2System> system,
                       QObject* parent)
    : Camera(parent), m_device(std::move(device)), m_profile(std::move(profile)),
      m_system(std::move(system)) {
    constexpr int again_ms = 500, silence_ms = 2000;
    m_again.setSingleShot(true);
    m_again.setInterval(again_ms);
    m_silence.setSingleShot(true);
    m_silence.setInterval(silence_ms);
    connect(&m_again, &QTimer::timeout, this, &V4l2Camera::attempt);
    connect(&m_silence, &QTimer::timeout, this, [this] { end(say("no picture for two seconds")); });
}

V4l2Camera::~V4l2Camera() {
    release();
}

void V4l2Camera::start() {
    m_wanted = true;
    attempt();
}

void V4l2Camera::close() {
    m_wanted = false;
    m_again.stop();
    release();
}

bool V4l2Camera::call(unsigned long request, void* argument) const {
    return m_system->control(m_file, request, argument) >= 0;
}

void V4l2Camera::attempt() {
    if (m_file >= 0) return;
    if (const Message wrong = begin(); !wrong.empty()) return end(wrong);
    m_told = false;
    m_notifier = std::make_unique<QSocketNotifier>(m_file, QSocketNotifier::Read);
    connect(m_notifier.get(), &QSocketNotifier::activated, this, &V4l2Camera::take);
    m_silence.start();
    emit connected(m_info);
}

Message V4l2Camera::begin() {
    m_file = m_system->open(m_device.toLocal8Bit().constData());
    if (m_file < 0) return joined({verbatim(m_device), verbatim(reason())}, ": ");
    auto able = blank<v4l2_capability>();
    if (!call(VIDIOC_QUERYCAP, &able))
        return say("{device} is no video device: {reason}", {{"device", m_device}, {"reason", reason()}});
    const __u32 has = able.capabilities & V4L2_CAP_DEVICE_CAPS ? able.device_caps : able.capabilities;
    if (!(has & V4L2_CAP_VIDEO_CAPTURE) || !(has & V4L2_CAP_STREAMING))
        return say("{device} gives no stream of pictures", {{"device", m_device}});
    if (Message wrong = chooseFormat(); !wrong.empty()) return wrong;
    if (Message wrong = mapBuffers(); !wrong.empty()) return wrong;
    int type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
    return call(VIDIOC_STREAMON, &type) ? Message()
                                        : say("the stream does not start: {reason}", {{"reason", reason()}});
}

/// All formats with their sizes; a driver that names steps instead of sizes is told by its largest.
void V4l2Camera::listOffers() {
    m_offers.clear();
    auto format = blank<v4l2_fmtdesc>();
    format.type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
    for (; call(VIDIOC_ENUM_FMT, &format); ++format.index) {
        const QString word = fourLetters(format.pixelformat);
        auto size = blank<v4l2_frmsizeenum>();
        size.pixel_format = format.pixelformat;
        for (; call(VIDIOC_ENUM_FRAMESIZES, &size); ++size.index) {
            const bool fixed = size.type == V4L2_FRMSIZE_TYPE_DISCRETE;
            m_offers << QString("%1 %2x%3")
                            .arg(word)
                            .arg(fixed ? size.discrete.width : size.stepwise.max_width)
                            .arg(fixed ? size.discrete.height : size.stepwise.max_height);
            if (!fixed) break;
        }
        if (size.index == 0 && (m_offers.isEmpty() || !m_offers.last().startsWith(word))) m_offers << word;
    }
}

Message V4l2Camera::chooseFormat() {
    listOffers();
    const auto offered = [this](const char* word) {
        return std::find_if(m_offers.cbegin(), m_offers.cend(),
                            [word](const QString& o) { return o.split(' ').first() == word; });
    };
    const QString little = fourLetters(V4L2_PIX_FMT_Y16), big = fourLetters(V4L2_PIX_FMT_Y16_BE);
    auto found = offered(little.toLatin1().constData());
    m_bigEndian = found == m_offers.cend();
    if (m_bigEndian) found = offered(big.toLatin1().constData());
    if (found == m_offers.cend())
        return m_offers.isEmpty() ? say("{device} gives no 16-bit grey pictures (Y16), and names no others",
                                        {{"device", m_device}})
                                  : say("{device} gives no 16-bit grey pictures (Y16), only {offers}",
                                        {{"device", m_device}, {"offers", m_offers.join(", ")}});
    auto format = blank<v4l2_format>();
    format.type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
    const QStringList size = found->section(' ', 1).split('x');
    format.fmt.pix.width = m_profile.width > 0 ? m_profile.width : size.value(0).toUInt();
    format.fmt.pix.height = m_profile.height > 0 ? m_profile.height : size.value(1).toUInt();
    format.fmt.pix.pixelformat = m_bigEndian ? V4L2_PIX_FMT_Y16_BE : V4L2_PIX_FMT_Y16;
    format.fmt.pix.field = V4L2_FIELD_NONE;
    if (!call(VIDIOC_S_FMT, &format))
        return say("the picture's format was not taken: {reason}", {{"reason", reason()}});
    // A driver may give another size than was asked for.
    m_width = static_cast<int>(format.fmt.pix.width);
    m_height = static_cast<int>(format.fmt.pix.height);
    m_stride = std::max<std::size_t>(format.fmt.pix.bytesperline, 2UL * format.fmt.pix.width);
    if (m_profile.width > 0 && (m_width != m_profile.width || m_height != m_profile.height))
        return say("{device} gives {width} x {height} pixels, not {wantedWidth} x {wantedHeight} as its "
                   "profile asks",
                   {{"device", m_device},
                    {"width", m_width},
                    {"height", m_height},
                    {"wantedWidth", m_profile.width},
                    {"wantedHeight", m_profile.height}});
    m_crop = m_profile.crop.empty() ? PictureCrop{0, 0, m_width, m_height} : m_profile.crop;
    if (m_crop.x + m_crop.width > m_width || m_crop.y + m_crop.height > m_height)
        return say("the profile's crop reaches beyond {width} x {height} pixels",
                   {{"width", m_width}, {"height", m_height}});
    auto rate = blank<v4l2_streamparm>();
    rate.type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
    m_info.frameRate_hz = m_profile.frameRate_hz;
    if (m_info.frameRate_hz <= 0 && call(VIDIOC_G_PARM, &rate) &&
        rate.parm.capture.timeperframe.numerator > 0)
        m_info.frameRate_hz = static_cast<double>(rate.parm.capture.timeperframe.denominator) /
                              rate.parm.capture.timeperframe.numerator;
    m_info.width = m_crop.width;
    m_info.height = m_crop.height;
    m_info.netd_mk = m_profile.netd_mk;
    return {};
}

Message V4l2Camera::mapBuffers() {
    constexpr unsigned wanted = 4;
    auto request = blank<v4l2_requestbuffers>();
    request.count = wanted;
    request.type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
    request.memory = V4L2_MEMORY_MMAP;
    if (!call(VIDIOC_REQBUFS, &request) || request.count < 2)
        return say("the driver gives no buffers: {reason}", {{"reason", reason()}});
    for (unsigned i = 0; i < request.count; ++i) {
        auto buffer = blank<v4l2_buffer>();
        buffer.index = i;
        buffer.type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
        buffer.memory = V4L2_MEMORY_MMAP;
        if (!call(VIDIOC_QUERYBUF, &buffer))
            return say("the driver gives no buffers: {reason}", {{"reason", reason()}});
        void* const data = m_system->map(m_file, buffer.length, static_cast<long>(buffer.m.offset));
        if (!data) return say("a buffer cannot be read: {reason}", {{"reason", reason()}});
        m_buffers.push_back({data, buffer.length});
        if (!call(VIDIOC_QBUF, &buffer))
            return say("a buffer was not taken: {reason}", {{"reason", reason()}});
    }
    return {};
}

void V4l2Camera::take() {
    auto buffer = blank<v4l2_buffer>();
    buffer.type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
    buffer.memory = V4L2_MEMORY_MMAP;
    if (!call(VIDIOC_DQBUF, &buffer)) {
        if (errno != EAGAIN) end(say("the camera is gone: {reason}", {{"reason", reason()}}));
        return;
    }
    const double stamp_s =
        static_cast<double>(buffer.timestamp.tv_sec) + 1e-6 * static_cast<double>(buffer.timestamp.tv_usec);
    const bool whole = buffer.index < m_buffers.size() && !(buffer.flags & V4L2_BUF_FLAG_ERROR);
    if (whole) give(m_buffers[buffer.index].data, buffer.bytesused, stamp_s);
    // Whoever heard the frame may have closed the camera.
    if (m_file >= 0 && !call(VIDIOC_QBUF, &buffer))
        end(say("the camera is gone: {reason}", {{"reason", reason()}}));
}

void V4l2Camera::give(const void* data, std::size_t size, double stamp_s) {
    if (size < m_stride * static_cast<std::size_t>(m_height)) return; // a torn picture
    m_silence.start();
    CameraFrame next{stamp_s, m_crop.width, m_crop.height, {}};
    next.centikelvin.resize(static_cast<std::size_t>(m_crop.width) * m_crop.height);
    const auto* bytes = static_cast<const char*>(data);
    for (int row = 0; row < m_crop.height; ++row) {
        const char* from =
            bytes + m_stride * static_cast<std::size_t>(m_crop.y + row) + sizeof(quint16) * m_crop.x;
        quint16* to = next.centikelvin.data() + static_cast<std::size_t>(m_crop.width) * row;
        if (m_bigEndian)
            qFromBigEndian<quint16>(from, m_crop.width, to);
        else
            qFromLittleEndian<quint16>(from, m_crop.width, to);
    }
    constexpr double centi = 100, most = std::numeric_limits<std::uint16_t>::max();
    if (m_profile.kelvinPerCount != 1 / centi || m_profile.kelvinOffset != 0)
        for (std::uint16_t& pixel : next.centikelvin)
            pixel = static_cast<std::uint16_t>(std::lround(
                std::clamp(centi * (m_profile.kelvinOffset + m_profile.kelvinPerCount * pixel), 0.0, most)));
    emit frame(next, hostSeconds());
}

void V4l2Camera::end(const Message& why) {
    release();
    if (m_wanted) m_again.start();
    if (!std::exchange(m_told, true)) emit lost(why); // once, not at every attempt
}

void V4l2Camera::release() {
    m_silence.stop();
    if (m_notifier) {
        m_notifier->setEnabled(false);
        m_notifier.release()->deleteLater(); // it may be the one that calls
    }
    if (m_file < 0) return;
    int type = V4L2_BUF_TYPE_VIDEO_CAPTURE;
    call(VIDIOC_STREAMOFF, &type);
    for (const Buffer& buffer : m_buffers)
        m_system->unmap(buffer.data, buffer.length);
    m_buffers.clear();
    m_system->close(m_file);
    m_file = -1;
}

} // namespace ustor
