#include "session/survey_work.h"

#include <algorithm>
#include <cmath>

namespace ustor {

SurveyWork::SurveyWork(CaseSession& session, Settings settings)
    : m_session(session), m_settings(std::move(settings)),
      m_stops(surveyWay(session.assessment().state.board, m_settings.rails, m_settings.first)),
      m_facts(m_stops.size(), 0), m_skipped(m_stops.size(), false), m_steady(m_settings.steady) {}

SurveyWork::Result SurveyWork::at(std::size_t stop) const {
    Result result;
    result.place = m_stops[stop].place;
    result.skipped = m_skipped[stop];
    for (const auto& taken : m_session.assessment().state.readings)
        if (taken.fact == m_facts[stop] && taken.fact > 0) {
            result.fact = taken.fact;
            result.reading = taken.taken.reading;
            result.ruling = taken.ruling;
        }
    return result;
}

std::optional<SurveyWork::Result> SurveyWork::watch(const Reading& reading) {
    if (!m_reads || finished() || reading.mode != m_settings.mode) return std::nullopt;
    if (!m_left) {
        m_left = reading.state != m_last.state || std::fabs(reading.value - m_last.value) > jitter(reading);
        if (!m_left) return std::nullopt;
    }
    const auto steady = m_steady.add(reading);
    if (!steady) return std::nullopt;
    auto taken = take(*steady);
    return taken ? std::optional(taken.value()) : std::nullopt;
}

/// How far a reading may wander while the probes stay where they are: a share of it, some digits of the
/// meter, and near nothing what pressing harder changes (common practice).
double SurveyWork::jitter(const Reading& reading) const {
    constexpr double digits = 10, contact_ohms = 0.2, contact_v = 0.01;
    const bool volts = reading.mode == MeterMode::Volts || reading.mode == MeterMode::Diode;
    return std::max({2 * m_settings.steady.share * std::fabs(m_last.value), digits * reading.resolution,
                     volts ? contact_v : contact_ohms});
}

void SurveyWork::read(bool on) {
    m_reads = on && !finished() && !m_session.assessment().state.closed && m_session.takesFacts();
    m_steady.restart();
}

Result<SurveyWork::Result> SurveyWork::take(const Reading& reading) {
    if (finished()) return Error{say("the walk is at its end"), "", say("nothing was noted")};
    if (m_session.assessment().state.closed)
        return Error{say("this case is closed"), "", say("nothing was noted; undo opens it again")};
    const std::size_t here = m_current;
    const auto added = m_session.add(ReadingTaken{m_stops[here].place, "", reading, m_settings.reversed});
    if (!added) return added.error();
    m_facts[here] = added.value().id;
    m_last = reading;
    m_left = false;
    m_skipped[here] = false;
    const Result result = at(here);
    const bool warm = std::any_of(m_session.assessment().state.readings.begin(),
                                  m_session.assessment().state.readings.end(), [&](const auto& taken) {
                                      return taken.fact == result.fact && taken.warm &&
                                             taken.ruling.state == RailState::Unknown;
                                  });
    if (warm) {
        // Asked again when the board has cooled: at the end of the walk.
        m_stops.push_back(m_stops[here]);
        m_facts.push_back(0);
        m_skipped.push_back(false);
    }
    onward();
    return result;
}

void SurveyWork::onward() {
    m_steady.restart();
    ++m_current;
    if (finished()) m_reads = false;
}

void SurveyWork::skip() {
    if (finished()) return;
    m_skipped[m_current] = true;
    onward();
}

void SurveyWork::back() {
    m_steady.restart();
    if (m_current > 0) --m_current;
}

void SurveyWork::goTo(std::size_t stop) {
    m_steady.restart();
    m_current = std::min(stop, m_stops.size());
}

} // namespace ustor
