#include "bench/output_watch.h"

#include <algorithm>

namespace ustor {

const char* wordOf(OutputState state) {
    switch (state) {
    case OutputState::Unreached:
        return "unreached";
    case OutputState::Off:
        return "off";
    case OutputState::On:
        return "on";
    case OutputState::Unknown:
        return "unknown";
    case OutputState::Disobeys:
        return "disobeys";
    }
    return "unknown";
}

void OutputWatch::askOn(double time_s) {
    m_wanted = m_mayBeOn = true;
    m_onAsked_s = time_s;
    m_offAsked_s = -1;
}

void OutputWatch::askOff(double time_s) {
    m_wanted = false;
    if (m_offAsked_s < 0) m_offAsked_s = time_s; // asking again does not buy it more time
}

void OutputWatch::read(bool on, double time_s) {
    m_linked = true;
    m_read = on;
    m_read_s = std::max(m_read_s, time_s);
    if (on) {
        m_mayBeOn = true;
        // By a hand at its front panel, or an "off" that it did not hear: it is told at once.
        if (!m_wanted && m_offAsked_s < 0) m_offAsked_s = time_s;
    } else if (!m_wanted) {
        m_mayBeOn = false;
        m_offAsked_s = -1;
    }
}

void OutputWatch::lose(double time_s) {
    m_linked = false;
    askOff(time_s);
}

OutputState OutputWatch::state(double now_s) const {
    const bool fresh = m_linked && now_s - m_read_s <= m_patience.fresh_s;
    if (m_wanted && (fresh || now_s - m_onAsked_s <= m_patience.fresh_s)) return OutputState::On;
    if (!fresh) return m_mayBeOn ? OutputState::Unknown : OutputState::Unreached;
    if (!m_mayBeOn) return OutputState::Off;
    return m_read && m_offAsked_s >= 0 && m_read_s - m_offAsked_s > m_patience.obeys_s ? OutputState::Disobeys
                                                                                       : OutputState::On;
}

} // namespace ustor
