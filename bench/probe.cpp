#include "bench/probe.h"

#include "base/units.h"

#include "base/number_text.h"
#include "bench/guard_protocol.h"
#include "bench/scpi_connection.h"

#include <QElapsedTimer>
#include <QEventLoop>
#include <QTimer>
#include <algorithm>
#include <cmath>
#include <functional>
#include <tuple>
#include <utility>

namespace ustor {
namespace {

constexpr int patience_ms = 5000;

/// Runs the event loop until told, or for so long.
bool waitFor(int milliseconds, const std::function<void(std::function<void()>)>& begin) {
    QEventLoop loop;
    bool done = false;
    QTimer::singleShot(milliseconds, &loop, [&loop] { loop.quit(); });
    const auto finish = [&loop, &done] {
        done = true;
        loop.quit();
    };
    begin(finish);
    if (!done) loop.exec();
    return done;
}

/// One conversation, written down.
class Conversation {
  public:
    Conversation(const InstrumentAddress& address, const InstrumentProfile& profile) {
        QObject::connect(&m_connection, &ScpiConnection::lost, &m_connection,
                         [this](const Message& why) { m_lost = why; });
        ProbeStep step{say("reached"), {}, {}, false, 0};
        QElapsedTimer clock;
        clock.start();
        m_connection.setTimeout(profile.kind == InstrumentProfile::Kind::Meter ? profile.answer_ms
                                                                               : GuardTiming::answer_ms);
        step.fine = waitFor(patience_ms, [&](const std::function<void()>& finish) {
            QObject::connect(&m_connection, &ScpiConnection::opened, &m_connection, finish,
                             Qt::SingleShotConnection);
            m_connection.open(address, profile);
        });
        step.took_ms = static_cast<int>(clock.elapsed());
        step.answer = step.fine ? verbatim(address.place()) : m_lost;
        steps.push_back(step);
    }

    bool reached() const { return steps.front().fine; }

    void tell(const Message& what, const QString& command) {
        if (command.isEmpty()) return;
        m_connection.tell(command);
        steps.push_back({what, command, {}, true, 0});
    }

    /// `fits`: whether the answer is one that this question may have.
    bool ask(const Message& what, const QString& command, const std::function<bool(const QString&)>& fits) {
        ProbeStep step{what, command, {}, false, 0};
        if (command.isEmpty()) return true; // the profile says that it has none
        QElapsedTimer clock;
        clock.start();
        const bool answered = waitFor(patience_ms, [&](const std::function<void()>& finish) {
            m_connection.query(command, [&step, &fits, finish](const Result<QString>& r) {
                step.answer = r ? verbatim(r.value()) : r.error().message();
                step.fine = r.ok() && fits(r.value());
                finish();
            });
        });
        if (!answered) step.answer = say("no answer");
        step.took_ms = static_cast<int>(clock.elapsed());
        steps.push_back(step);
        return step.fine;
    }

    std::vector<ProbeStep> steps;

  private:
    Message m_lost = say("nobody answered");
    ScpiConnection m_connection;
};

bool isNumber(const QString& text) {
    return numberFromText(text.toStdString()).has_value();
}

std::function<bool(const QString&)> nearTo(double wanted) {
    return [wanted](const QString& text) {
        constexpr double share = 0.01, step = 0.01;
        const auto value = numberFromText(text.toStdString());
        return value && std::abs(*value - wanted) <= share * wanted + step;
    };
}

bool isNoError(const QString& text) {
    return text.startsWith("0") || text.startsWith("+0");
}

} // namespace

std::vector<ProbeStep> probeSupply(const InstrumentAddress& address, const InstrumentProfile& profile) {
    Conversation with(address, profile);
    if (!with.reached()) return with.steps;
    const auto filled = [&](QString command, double value = 0) {
        const QString number = QString::number(value, 'f', 4);
        return command.replace("{channel}", QString::number(address.channel))
            .replace("{volts}", number)
            .replace("{amps}", number);
    };
    constexpr double trip_v = 1.0, volts = 0.5, amps = 0.05;
    with.tell(say("channel chosen"), filled(profile.select));
    with.tell(say("output off"), filled(profile.off));
    with.tell(say("errors cleared"), profile.clear);
    if (!with.ask(say("who is there"), profile.identity, [](const QString& a) { return !a.isEmpty(); }))
        return with.steps;
    with.ask(say("no error yet"), profile.error, isNoError);
    with.ask(say("output is off"), filled(profile.askOutput),
             [&](const QString& a) { return profile.offWords.contains(a); });
    const std::vector<std::tuple<Message, QString, QString, double>> settings{
        {say("trip voltage"), profile.setTrip, profile.askTrip, trip_v},
        {say("current limit"), profile.setAmps, profile.askAmps, amps},
        {say("voltage"), profile.setVolts, profile.askVolts, volts}};
    for (const auto& [what, set, ask, value] : settings) {
        if (set.isEmpty()) continue;
        with.tell(say("{setting} set", {{"setting", what}}), filled(set, value));
        with.ask(say("{setting} taken", {{"setting", what}}), profile.error, isNoError);
        with.ask(say("{setting} reads back", {{"setting", what}}), filled(ask, value), nearTo(value));
    }
    with.ask(say("volts are read"), filled(profile.readVolts), isNumber);
    with.ask(say("amps are read"), filled(profile.readAmps), isNumber);
    if (!profile.error.isEmpty()) {
        // An error queue that takes anything checks nothing.
        with.tell(say("a command that is none"), "USTOR:NONSENSE 1");
        with.ask(say("is refused"), profile.error, [](const QString& a) { return !isNoError(a); });
    }
    with.ask(say("output is still off"), filled(profile.askOutput),
             [&](const QString& a) { return profile.offWords.contains(a); });
    return with.steps;
}

std::vector<ProbeStep> probeMeter(const InstrumentAddress& address, const InstrumentProfile& profile) {
    Conversation with(address, profile);
    if (!with.reached()) return with.steps;
    if (!with.ask(say("who is there"), profile.identity, [](const QString& a) { return !a.isEmpty(); }))
        return with.steps;
    with.ask(say("ohms are read"), profile.readOhms, isNumber);
    with.ask(say("diode mode is read"), profile.readDiode, isNumber);
    with.ask(say("beeper is read"), profile.readBeep, isNumber);
    with.ask(say("volts are read"), profile.readDcVolts, isNumber);
    return with.steps;
}

std::vector<ProbeStep> probeCamera(Camera& camera, double seconds) {
    std::vector<ProbeStep> steps;
    Message lost;
    std::vector<double> stamps_s;
    std::vector<int> middle_ck;
    QObject::connect(&camera, &Camera::lost, &camera, [&lost](const Message& why) { lost = why; });
    QObject::connect(&camera, &Camera::frame, &camera, [&](const CameraFrame& f, double) {
        stamps_s.push_back(f.time_s);
        middle_ck.push_back(f.centikelvin[static_cast<std::size_t>(f.height / 2 * f.width + f.width / 2)]);
    });
    QElapsedTimer clock;
    clock.start();
    const bool reached = waitFor(patience_ms, [&](const std::function<void()>& finish) {
        QObject::connect(&camera, &Camera::connected, &camera, finish, Qt::SingleShotConnection);
        QObject::connect(&camera, &Camera::lost, &camera, finish, Qt::SingleShotConnection);
        camera.start();
    });
    const int took_ms = static_cast<int>(clock.elapsed());
    if (!reached || !camera.isConnected()) {
        steps.push_back({say("reached"), {}, lost.empty() ? say("nobody answered") : lost, false, took_ms});
        return steps;
    }
    const CameraInfo& info = camera.info();
    steps.push_back({say("reached"),
                     {},
                     say("{width} x {height} pixels, {rate} Hz said, {netd} mK said",
                         {{"width", info.width},
                          {"height", info.height},
                          {"rate", QString::number(info.frameRate_hz)},
                          {"netd", QString::number(info.netd_mk)}}),
                     true,
                     took_ms});
    // Nothing ends this wait but its time.
    waitFor(static_cast<int>(1000 * seconds), [](const std::function<void()>&) {});
    const int frames = static_cast<int>(stamps_s.size());
    const double span_s = frames > 1 ? stamps_s.back() - stamps_s.front() : 0;
    steps.push_back({say("pictures come"),
                     {},
                     span_s > 0 ? say("{frames} in {span} s: {rate} Hz",
                                      {{"frames", frames},
                                       {"span", QString::number(span_s, 'f', 2)},
                                       {"rate", QString::number((frames - 1) / span_s, 'f', 1)}})
                                : joined({verbatim(QString::number(frames)), lost}, " "),
                     span_s > 0,
                     static_cast<int>(1000 * seconds)});
    if (span_s <= 0) return steps;
    const auto forward = std::adjacent_find(stamps_s.begin(), stamps_s.end(), std::greater_equal<>());
    steps.push_back({say("their times rise"),
                     {},
                     forward == stamps_s.end() ? say("yes") : say("no"),
                     forward == stamps_s.end(),
                     0});
    constexpr double coldest_c = -40, hottest_c = 200;
    std::nth_element(middle_ck.begin(), middle_ck.begin() + frames / 2, middle_ck.end());
    const double middle_c = 0.01 * middle_ck[static_cast<std::size_t>(frames / 2)] - celsiusZero_k;
    steps.push_back({say("the middle reads a temperature"),
                     {},
                     verbatim(QString("%1 °C").arg(middle_c, 0, 'f', 1)),
                     middle_c > coldest_c && middle_c < hottest_c,
                     0});
    return steps;
}

} // namespace ustor
