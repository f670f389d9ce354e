#include "session/camera_at.h"

#include "bench/stream_camera.h"
#include "bench/v4l2_camera.h"
#include "session/replay_camera.h"
#include "thermal/recording_reader.h"

#include <utility>

namespace ustor {

Result<std::unique_ptr<Camera>> cameraAt(const InstrumentAddress& address) {
    using Link = InstrumentAddress::Link;
    std::unique_ptr<Camera> camera;
    if (address.link == Link::Socket) {
        camera = std::make_unique<StreamCamera>(address.socket);
    } else if (address.link == Link::Video) {
        auto profile = profileFor(address.profile, InstrumentProfile::Kind::Camera);
        if (!profile) return profile.error();
        camera = std::make_unique<V4l2Camera>(address.device, profile.value());
    } else if (address.link == Link::Replay) {
        auto recording = readRecording(address.device.toStdString());
        if (!recording) return recording.error();
        if (recording.value().frames.empty())
            return Error{say("there is no frame in it"), address.device.toStdString(), {}};
        camera = std::make_unique<ReplayCamera>(std::move(recording.value()));
    } else {
        return Error{
            say("a camera is at HOST:PORT, v4l2:DEVICE or replay:FOLDER"), address.text().toStdString(), {}};
    }
    return camera;
}

} // namespace ustor
