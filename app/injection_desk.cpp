#include "app/injection_desk.h"

#include "app/flare_watch.h"
#include "app/hand_switching.h"
#include "app/heat_view.h"
#include "app/next_panel.h"
#include "app/plate/plate_view.h"
#include "app/words.h"
#include "base/quantity_text.h"
#include "session/begun_injection.h"
#include "session/certainty.h"
#include "session/landmarks.h"

namespace ustor {
InjectionDesk::InjectionDesk(NextPanel& next, HeatView& heat, PlateView& board, QObject* parent)
    : QObject(parent), m_next(next), m_heat(heat), m_board(board) {
    connect(&heat, &HeatView::asksFor, this,
            [this](const QString& part) { m_board.select(part.toStdString()); });
    connect(&heat, &HeatView::alignWanted, this, [this] {
        if (!m_session || running()) return;
        m_registration[m_spot.side == Side::Bottom].reset();
        if (!m_session->assessment().down.nets.empty()) prepare(m_spot.side, m_school);
    });
}

InjectionDesk::~InjectionDesk() = default;

QString InjectionDesk::open(CaseSession& session) {
    m_session = &session;
    connect(&session, &CaseSession::changed, this, &InjectionDesk::offerAlignment);
    // The board has been moved since: where the camera looks is asked for anew.
    m_registration = {};
    QString words;
    if (!session.takesFacts()) return words;
    const auto recovered = recoverBegun(session);
    if (recovered.cutOff > 0)
        words = tr("The program ended in the middle of an injection: see that the output is off. What its "
                   "recording holds was noted. ");
    else if (recovered.injections > 0)
        words = tr("The program ended before it had gone over an injection: that it was done is noted now; "
                   "what it shows stands under Heat. ");
    for (const auto& trouble : recovered.troubles)
        words += text(trouble) + " ";
    return words;
}

void InjectionDesk::setBench(BenchLink* bench, Hands* hands) {
    m_bench = bench;
    m_hands = hands;
}

void InjectionDesk::stop() {
    if (m_run) m_run->stop(StopCause::Person);
    if (m_byHand && m_byHand->waits()) {
        m_byHand.reset();
        m_next.endBusy();
    } else if (m_byHand) {
        m_byHand->stop();
    }
    if (m_watch && m_watch->waits()) {
        m_watch.reset();
        m_next.endBusy();
    } else if (m_watch) {
        m_watch->stop();
    }
}

void InjectionDesk::close() {
    stop();
    keepWhatWasDone();
    m_run.reset();
    m_byHand.reset();
    m_watch.reset();
    setBench(nullptr, nullptr);
    m_preparing = false;
    m_session = nullptr;
    m_heat.cancelLandmarks();
    m_mayAlignAgain = false;
    offerAlignment();
}

/// A closed case takes no injection.
void InjectionDesk::offerAlignment() {
    m_heat.offerAlignment(m_mayAlignAgain && m_session && !m_session->assessment().state.closed);
}

/// A case that is closed before its recording was gone over keeps at least what was done.
void InjectionDesk::keepWhatWasDone() {
    if (!m_session) return;
    if (m_run && m_run->goesOver()) (void)keep(m_run->soFar());
    if (m_byHand && m_byHand->run().goesOver()) (void)keep(m_byHand->run().soFar());
}

/// The run's facts; once they are in the case, what was noted before is not needed any more.
Outcome InjectionDesk::keep(const InjectionOutcome& outcome) {
    auto added = noteInjection(*m_session, outcome, m_spot, m_recordingFolder);
    if (added) forgetBegun(m_recordingFolder);
    return added;
}

void InjectionDesk::prepare(Side side, School school) {
    if (m_preparing || running()) return;
    if (!m_session->takesFacts()) return emit said(tr("This case is open only to be looked at."));
    if (!m_bench || !m_bench->camera().isConnected())
        return emit said(tr("An injection needs a camera: connect a bench on the page of cases."));
    if (m_bench->address().supply.known() && !m_bench->supply().isConnected())
        return emit said(tr("The supply is not connected: nothing was switched on."));
    m_school = school;
    if (m_session->assessment().down.nets.empty()) return emit said(tr("No rail is known to be down."));
    m_spot = injectionSpot(*m_session, side);
    m_board.setSide(side);
    if (!m_hands) return alignOrInject();
    m_preparing = true;
    m_hands->send(Hands::boardTurned(side));
    m_hands->send(Hands::leadsOn(m_spot.plus, m_spot.minus), [this](const Result<QJsonObject>& clipped) {
        m_preparing = false;
        if (clipped) return alignOrInject();
        emit said(text(clipped.error()));
    });
}

void InjectionDesk::alignOrInject() {
    align(tr("Plus lead on %1, minus on %2.").arg(text(m_spot.plus), text(m_spot.minus)),
          [this] { inject(); });
}

void InjectionDesk::watch(Side side) {
    if (m_preparing || running()) return;
    if (!m_session->takesFacts()) return emit said(tr("This case is open only to be looked at."));
    if (!m_bench || !m_bench->camera().isConnected())
        return emit said(
            tr("A watch needs a camera: connect a bench on the page of cases, or note by hand what "
               "became warm (\"sensed\")."));
    m_spot = {"", "", side};
    m_board.setSide(side);
    if (m_hands) m_hands->send(Hands::boardTurned(side));
    align({}, [this] { beginWatch(); });
}

void InjectionDesk::beginWatch() {
    FlareRun::Settings settings;
    settings.recordingFolder = m_recordingFolder = m_session->folder().nextRecording();
    settings.side = m_spot.side;
    settings.registration = m_registration[m_spot.side == Side::Bottom];
    settings.boardThickness_mm = m_session->board().thickness_mm;
    m_watch = std::make_unique<FlareWatch>(*m_bench, settings, m_next);
    connect(m_watch.get(), &FlareWatch::refused, this, &InjectionDesk::said);
    connect(m_watch.get(), &FlareWatch::finished, this, &InjectionDesk::finishWatch);
    m_watch->prepare();
}

void InjectionDesk::finishWatch(const FlareRun::End& end) {
    showLive(end.heat);
    const auto noted = noteWatch(*m_session, end, m_spot.side, m_recordingFolder);
    m_next.endBusy();
    QString words = tr("Switch the board's power off.");
    if (!noted)
        words = text(noted.error());
    else if (!noted.value())
        words += " " + tr("It was too short to tell anything: nothing was noted.");
    for (const Message& note : end.heat.located.notes)
        words += " " + text(note) + ".";
    if (end.recordingError) words += " " + text(end.recordingError->text());
    emit said(words);
}

void InjectionDesk::align(const QString& words, const std::function<void()>& then) {
    const Side side = m_spot.side;
    if (m_registration[side == Side::Bottom]) return then();
    const auto parts = partsToAsk(m_session->board(), side);
    m_next.showBusy(tr("Show where the camera looks"),
                    tr("Click the middle of %1 in the camera picture, one after the other. %2")
                        .arg(text(namesOf(parts)), words));
    m_heat.askLandmarks(parts, [this, then](const std::vector<Landmark>& landmarks) {
        const auto made = Registration::fromLandmarks(landmarks, m_spot.side);
        if (!made) {
            m_next.endBusy();
            emit said(text(made.error()));
            return;
        }
        m_registration[m_spot.side == Side::Bottom] = made.value();
        keepRegistration(made.value());
        then();
    });
}

bool InjectionDesk::running() const {
    return (m_run && m_run->running()) || (m_byHand && m_byHand->running()) ||
           (m_watch && m_watch->running());
}

void InjectionDesk::inject() {
    m_mayAlignAgain = false;
    offerAlignment();
    if (!m_bench->address().supply.known()) return injectByHand();
    const auto settings =
        settingsFor(*m_session, *m_bench, m_spot.side, m_registration[m_spot.side == Side::Bottom], m_school);
    m_recordingFolder = settings.recordingFolder;
    const auto& first = settings.plan.steps.front();
    m_run = std::make_unique<InjectionRun>(*m_bench, settings);
    connect(m_run.get(), &InjectionRun::live, this, [this](const LiveHeat& heat) {
        showLive(heat);
        if (!m_run || !m_run->running()) return;
        const auto& step = m_run->plan().steps[m_run->step()];
        QString found = heat.located.sources.empty()
                            ? tr("nothing certain yet")
                            : tr("%1: %2 sigma")
                                  .arg(text(labelOf(heat.located.verdict)))
                                  .arg(heat.located.sources.front().spot.snr, 0, 'f', 0);
        if (const auto left_s = secondsToCertain(heat); left_s && *left_s > 0)
            found += tr(", certain in about %1 s").arg(*left_s, 0, 'f', 0);
        m_next.showBusy(
            tr("Injecting %1 into %2").arg(text(quantityText(step.amps.value, "A")), text(m_spot.plus)),
            tr("%1 s so far, %2 % of the plan; %3. Esc stops.")
                .arg(heat.seconds, 0, 'f', 0)
                .arg(100 * m_run->progress(), 0, 'f', 0)
                .arg(found));
    });
    connect(m_run.get(), &InjectionRun::ended, this, [this] {
        noteEnded(m_recordingFolder, m_run->soFar().cause);
        m_next.showBusy(tr("Off was asked for"), tr("What was recorded is gone over as a whole."));
    });
    connect(m_run.get(), &InjectionRun::finished, this, &InjectionDesk::finishInjection);
    auto started = noteBegun(settings.plan, m_spot, m_recordingFolder, false, *m_session);
    if (started) started = m_run->start();
    if (!started) {
        forgetBegun(m_recordingFolder);
        m_next.endBusy();
        emit said(text(started.error()));
        return;
    }
    emit outputMayDiffer();
    const auto& bound = settings.plan.limits.voltBounds.front();
    m_next.showBusy(
        tr("Injecting %1 into %2").arg(text(quantityText(first.amps.value, "A")), text(m_spot.plus)),
        tr("At most %1; never above %2 because %3. Esc stops.")
            .arg(text(quantityText(settings.plan.steps.back().volts.value, "V")),
                 text(quantityText(bound.value, "V")), text(bound.reason)));
}

void InjectionDesk::injectByHand() {
    const auto settings = byHandSettingsFor(*m_session, *m_bench, m_spot.side,
                                            m_registration[m_spot.side == Side::Bottom], m_school);
    m_recordingFolder = settings.injection.recordingFolder;
    m_byHand = std::make_unique<HandSwitching>(*m_bench, settings, m_next);
    connect(m_byHand.get(), &HandSwitching::live, this, &InjectionDesk::showLive);
    connect(m_byHand.get(), &HandSwitching::began, this, [this, plan = settings.injection.plan] {
        if (const auto noted = noteBegun(plan, m_spot, m_recordingFolder, true, *m_session); !noted)
            emit said(text(noted.error()));
        emit outputMayDiffer();
    });
    connect(&m_byHand->run(), &MetronomeRun::ended, this,
            [this] { noteEnded(m_recordingFolder, m_byHand->run().soFar().cause); });
    connect(m_byHand.get(), &HandSwitching::refused, this, &InjectionDesk::said);
    connect(m_byHand.get(), &HandSwitching::finished, this, &InjectionDesk::finishInjection);
    m_byHand->prepare(text(m_spot.plus), text(m_spot.minus));
}

void InjectionDesk::showLive(const LiveHeat& heat) {
    m_board.setHeat(heat, m_registration[m_spot.side == Side::Bottom]);
    std::vector<PixelPoint> spots;
    for (const auto& s : heat.located.sources)
        spots.push_back(s.spot.at);
    m_heat.setSpots(spots);
    emit live(heat, m_spot.side);
}

void InjectionDesk::finishInjection(const InjectionOutcome& outcome) {
    m_mayAlignAgain = true;
    offerAlignment();
    emit outputMayDiffer();
    // The facts first: then what comes next is laid out once, not twice.
    const auto added = keep(outcome);
    m_next.endBusy();
    QString words = !added           ? text(added.error())
                    : outcome.byHand ? tr("Switch the output OFF now, if it is still on.")
                                     : text(sentenceOf(outcome.cause));
    if (added && !outcome.byHand) {
        if (!outcome.why.empty()) words += " (" + text(outcome.why) + ")";
        words += m_bench && m_bench->outputState() == OutputState::Off
                     ? tr(" The output was read as off.")
                     : tr(" The output was not read as off yet.");
    }
    if (noCurrentFlowed(outcome))
        words += tr(" No current flowed: look at the clips, then inject again. Nothing was noted of heat.");
    if (outcome.byHand && outcome.cause == StopCause::TooWarm) words += tr(" A spot became too warm.");
    if (outcome.byHand && outcome.cause == StopCause::CameraLost) words += tr(" The camera sent no picture.");
    if (outcome.recordingError) words += " " + text(outcome.recordingError->text());
    emit said(words);
}

void InjectionDesk::keepRegistration(const Registration& made) {
    if (const auto noted = noteAlignment(*m_session, made); !noted)
        return emit said(
            tr("The alignment holds for now but could not be noted: %1").arg(text(noted.error())));
    constexpr double fair_mm = 1;
    emit said(tr("Camera aligned: the landmarks agree to %1 mm.%2")
                  .arg(made.residual_mm(), 0, 'f', 2)
                  .arg(made.residual_mm() > fair_mm ? tr(" That is coarse: align again if you can.") : ""));
}

} // namespace ustor
