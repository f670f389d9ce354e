#include "session/bench_link.h"

#include "bench/clock.h"
#include "bench/stream_camera.h"
#include "session/camera_at.h"
#include "session/log.h"

#include <QCoreApplication>
#include <algorithm>

namespace ustor {

QString programBeside(const QString& name) {
    return QCoreApplication::applicationDirPath() + "/" + name;
}

BenchLink::BenchLink(const QString& guardProgram, QObject* parent)
    : QObject(parent), m_supply(guardProgram), m_camera(std::make_unique<StreamCamera>(SocketAddress())) {
    connect(&m_supply, &Supply::telemetry, this, [this](SupplySample s) {
        s.time_s *= m_address.speed;
        m_last = s;
        emit sample(s);
    });
    connect(&m_supply, &Supply::lost, this, [this](const Message& why) {
        m_last.reset();
        tell(say("Supply: {why}", {{"why", why}}));
        emit stateChanged();
    });
    connect(&m_supply, &Supply::refused, this, [this](const Message& why) {
        tell(say("Supply refused: {why}", {{"why", why}}));
    });
    connect(&m_supply, &GuardedSupply::switchedOffByGuard, this, [this](GuardCause, const Message& why) {
        tell(say("The guard asked for off: {why}", {{"why", why}}));
    });
    connect(&m_supply, &GuardedSupply::outputStateChanged, this, [this] {
        Log::note(needsHands(outputState()) ? Log::Level::Fault : Log::Level::Info,
                  QString("output: %1").arg(wordOf(outputState())));
        emit stateChanged();
    });
    connect(&m_meter, &Meter::lost, this, [this](const Message& why) {
        tell(say("Meter: {why}", {{"why", why}}));
        emit stateChanged();
    });
    connect(&m_supply, &Supply::connected, this, &BenchLink::stateChanged);
    connect(&m_meter, &Meter::connected, this, &BenchLink::stateChanged);
}

void BenchLink::tell(const Message& what) {
    Log::note(Log::Level::Warning, Log::withoutPlaces(QString::fromStdString(what.text())));
    emit trouble(what);
}

void BenchLink::open(const BenchAddress& address) {
    m_address = address;
    m_cameraClock = ClockMatch(address.speed);
    m_open = true;
    if (address.supply.known()) {
        const auto profile = profileFor(address.supply.profile, InstrumentProfile::Kind::Supply);
        if (profile)
            m_supply.open(address.supply, {std::clamp(static_cast<int>(40 / address.speed), 4, 100),
                                           address.patience, address.control.known()});
        else
            tell(say("Supply: {why}", {{"why", profile.error().message()}}));
    }
    if (address.meter.known()) {
        const auto profile = profileFor(address.meter.profile, InstrumentProfile::Kind::Meter);
        if (profile)
            m_meter.open(address.meter, profile.value(), address.patience);
        else
            tell(say("Meter: {why}", {{"why", profile.error().message()}}));
    }
    if (address.camera.known()) openCamera();
}

void BenchLink::openCamera() {
    auto made = cameraAt(m_address.camera);
    if (!made) {
        tell(say("Camera: {why}", {{"why", made.error().message()}}));
        return;
    }
    m_camera = std::move(made.value());
    connect(m_camera.get(), &Camera::frame, this, [this](const CameraFrame& f, double arrival_s) {
        // A camera that repeats a picture is as good as silent.
        if (f.time_s == m_lastStamp_s) return;
        m_lastStamp_s = f.time_s;
        ThermalFrame own = thermalFrame(f);
        own.time_s = m_cameraClock.toHost(f.time_s, arrival_s * m_address.speed);
        emit frame(own);
    });
    connect(m_camera.get(), &Camera::skipped, this, &BenchLink::framesSkipped);
    connect(m_camera.get(), &Camera::lost, this, [this](const Message& why) {
        m_cameraClock = ClockMatch(m_address.speed);
        tell(say("Camera: {why}", {{"why", why}}));
        emit cameraLost(why);
        emit stateChanged();
    });
    connect(m_camera.get(), &Camera::connected, this, &BenchLink::stateChanged);
    m_camera->start();
}

double BenchLink::benchSeconds() const {
    return hostSeconds() * m_address.speed;
}

} // namespace ustor
