#include "standin/world.h"

#include <algorithm>
#include <cmath>

namespace ustor::standin {

World::World(const Board& board, const Setup& setup)
    : m_board(board), m_setup(setup), m_circuit(board, setup.fault, setup.seed),
      m_laminate(board.box(), board.thickness_mm, setup.copperLayers, setup.seed),
      m_bodies(board, m_laminate),
      m_camera(std::make_unique<CameraModel>(board, m_laminate, Side::Top, setup.seed)),
      m_random(setup.seed + 99) {}

void World::advance(double seconds) {
    m_time_s += seconds;
    if (supply.output && supply.longestOn_s > 0 && m_time_s - supply.onSince_s > supply.longestOn_s)
        setOutput(false);
    m_pending_s += seconds;
    const double dt = m_laminate.step_s(), current2 = m_amps * m_amps;
    while (m_pending_s >= dt) {
        m_pending_s -= dt;
        for (const auto& h : m_heat) {
            const double watts = h.wattsPerAmp2 * current2;
            if (h.part >= 0)
                m_bodies.addPower(h.part, h.at, watts, m_laminate);
            else
                m_laminate.addHeat(h.side == Side::Top ? BoardHeat::Top : BoardHeat::Bottom,
                                   m_laminate.cellAt(h.at), watts * dt);
            m_boardJoules += watts * dt;
        }
        m_bodies.exchange(m_laminate);
        m_laminate.step();
    }
}

void World::setOutput(bool on) {
    if ((on && supply.tripped) || (!on && supply.stuck)) return;
    if (on && !supply.output) supply.onSince_s = m_time_s;
    supply.output = on;
    settle();
}

void World::settle() {
    m_volts = m_amps = 0;
    m_limited = false;
    if (!supply.output) return;
    const bool wired = m_plus && m_minus && m_response.connected;
    const double ohms = wired ? m_setup.leadOhms + m_response.ohms : 1e12;
    m_amps = std::min(supply.volts / ohms, supply.amps);
    m_limited = supply.volts / ohms > supply.amps;
    m_volts = m_amps * ohms;
    if (!wired) m_volts = supply.volts;
    constexpr double trip = 1e-6;
    if (m_volts > supply.overVolts + trip || m_amps > supply.overAmps + trip) {
        supply.tripped = true;
        supply.output = false;
        m_volts = m_amps = 0;
    }
}

std::optional<PadRef> World::padFor(const std::string& place) const {
    if (const auto pad = m_board.findPad(place)) return pad; // of a lifted part the bare pad stays
    const NetIndex net = m_board.findNet(place);
    if (net < 0) return std::nullopt;
    const auto pads = m_board.padsOf(net);
    return pads.empty() ? std::nullopt : std::optional(pads.front());
}

void World::rewire() {
    m_heat.clear();
    m_response = {};
    if (m_plus && m_minus) {
        m_response = m_circuit.drive(*m_plus, *m_minus);
        m_heat = m_circuit.heatOf(m_response);
        // Picoamps through leakage are no heat; keep what matters for speed.
        double most = 0;
        for (const auto& h : m_heat)
            most = std::max(most, h.wattsPerAmp2);
        std::erase_if(m_heat, [most](const Circuit::Heat& h) { return h.wattsPerAmp2 < 1e-5 * most; });
    }
    settle();
}

bool World::attachLeads(const std::string& plus, const std::string& minus) {
    const auto a = padFor(plus), b = padFor(minus);
    if (!a || !b) return false;
    m_plus = a;
    m_minus = b;
    rewire();
    return true;
}

void World::detachLeads() {
    m_plus.reset();
    m_minus.reset();
    rewire();
}

bool World::touchProbes(const std::string& red, const std::string& black) {
    const auto a = padFor(red), b = padFor(black);
    if (!a || !b) return false;
    m_red = a;
    m_black = b;
    return true;
}

bool World::lift(const std::string& part) {
    if (m_board.findPart(part) < 0) return false;
    m_circuit.lift(part);
    rewire();
    return true;
}

bool World::refit(const std::string& part, bool newPart) {
    if (m_board.findPart(part) < 0) return false;
    if (newPart)
        m_circuit.replace(part);
    else
        m_circuit.refit(part);
    rewire();
    return true;
}

void World::turnBoard(Side side) {
    if (side != m_camera->side())
        m_camera = std::make_unique<CameraModel>(m_board, m_laminate, side, m_setup.seed);
}

std::optional<Reading> World::measure(MeterMode mode) {
    if (!m_red || !m_black) return std::nullopt;
    const auto noisy = [this](double value, double digit) {
        return std::round((value + 0.4 * digit * m_random.normal()) / digit) * digit;
    };
    if (mode == MeterMode::Volts) {
        constexpr double digit = 1e-4;
        const double difference = m_response.connected
                                      ? m_amps * (m_response.volts[m_circuit.nodeOf(*m_red)] -
                                                  m_response.volts[m_circuit.nodeOf(*m_black)])
                                      : 0;
        return Reading{mode, ReadingState::Value, noisy(difference, digit), digit};
    }
    const auto response = m_circuit.drive(*m_red, *m_black);
    constexpr double probeOhms = 0.05, overRange = 4e7;
    const double ohms = response.ohms + probeOhms;
    if (mode == MeterMode::Diode) {
        // One milliampere; silicon between rail and ground takes over at some half a volt.
        constexpr double testAmps = 1e-3, digit = 1e-3, junction = 0.47;
        const double volts =
            std::min(ohms * testAmps, junction + 0.02 * std::log10(std::max(1.0, ohms / 470)));
        if (!response.connected || ohms > 1e7) return Reading{mode, ReadingState::OverRange, 0, digit};
        return Reading{mode, ReadingState::Value, std::max(0.0, noisy(volts, digit)), digit};
    }
    const double digit = ohms < 400 ? 0.01 : ohms < 4e3 ? 1 : ohms < 4e5 ? 100 : 1e4;
    if (!response.connected || ohms > overRange) return Reading{mode, ReadingState::OverRange, 0, digit};
    return Reading{mode, ReadingState::Value, std::max(0.0, noisy(ohms, digit)), digit};
}

cv::Mat World::picture() {
    std::vector<float> surface;
    m_bodies.paint(m_camera->side(), m_laminate, surface);
    return m_camera->picture(surface, m_time_s);
}

} // namespace ustor::standin
