#include "board/ipcd356_writer.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <set>

namespace ustor {
namespace {

constexpr double unit_mm = 0.001;

long units(double mm) {
    return std::lround(mm / unit_mm);
}

std::string padded(std::string text, std::size_t width) {
    text.resize(width, ' ');
    return text;
}

template <class... Values> std::string formatted(const char* format, Values... values) {
    std::array<char, 64> buffer{};
    const int size = std::snprintf(buffer.data(), buffer.size(), format, values...);
    return {buffer.data(), static_cast<std::size_t>(size)};
}

class Writer {
  public:
    Writer(const Board& board, std::vector<Message>& lost) : m_board(board), m_lost(lost) {}

    std::string write() {
        m_out = "C  IPC-D-356A bare-board netlist\nP  JOB   " + m_board.name + "\nP  UNITS CUST 1\n";
        nameNets();
        for (const Part& part : m_board.parts)
            for (const Pad& pad : part.pads)
                record(part.designator, pad.pin, pad, false);
        for (const Via& via : m_board.vias) {
            Pad pad;
            pad.at = via.at;
            pad.net = via.net;
            pad.through = true;
            pad.hole_mm = via.hole_mm;
            record("VIA", "", pad, true);
        }
        outline();
        return m_out + "999\n";
    }

  private:
    static constexpr std::size_t netWidth = 14, partWidth = 6, pinWidth = 4;

    void nameNets() {
        std::set<std::string> taken;
        for (const Net& net : m_board.nets)
            taken.insert(net.name);
        int number = 0;
        for (const Net& net : m_board.nets) {
            // Blanks, and names that look like one of the short names, go through the table as well.
            const bool plain = net.name.size() <= netWidth && net.name.find(' ') == std::string::npos &&
                               !net.name.starts_with("NNAME");
            std::string name = net.name;
            if (!plain) {
                do
                    name = "NNAME" + std::to_string(++number);
                while (taken.contains(name));
                m_out += "P  " + padded(name, netWidth) + " " + net.name + "\n";
            }
            m_names.push_back(name);
        }
    }

    void lose(Message what) {
        if (std::find(m_lost.begin(), m_lost.end(), what) == m_lost.end()) m_lost.push_back(what);
    }

    void record(const std::string& part, const std::string& pin, const Pad& pad, bool via) {
        constexpr long most = 999999;
        const std::string place = part + (pin.empty() ? "" : "." + pin);
        const long x = units(pad.at.x_mm), y = units(pad.at.y_mm);
        if (std::labs(x) > most || std::labs(y) > most)
            return lose(say("{place} lies beyond a metre: left out", {{"place", place}}));
        if (part.size() > partWidth)
            lose(say("designator '{part}' is cut to six characters", {{"part", part}}));
        if (pin.size() > pinWidth) lose(say("pin '{place}' is cut to four characters", {{"place", place}}));
        // A size of more than four digits of a micrometre is told as the largest that fits.
        const auto size = [](double mm) { return std::clamp(units(mm), 0L, 9999L); };
        std::string line = pad.through ? "317" : "327";
        line += padded(pad.net < 0 ? "N/C" : m_names[pad.net], netWidth) + "   ";
        line += padded(part.substr(0, partWidth), partWidth) + (via ? " " : "-") +
                padded(pin.substr(0, pinWidth), pinWidth) + (via ? "M" : " ");
        line += pad.hole_mm > 0 ? formatted("D%04ldP", size(pad.hole_mm)) : std::string(6, ' ');
        line += pad.through ? "A00" : pad.side == Side::Top ? "A01" : "A02";
        line += formatted("X%+07ldY%+07ld", x, y);
        line += formatted("X%04ldY%04ldR000", size(pad.width_mm), size(pad.height_mm));
        m_out += line + (pad.through ? " S0" : pad.side == Side::Top ? " S1" : " S2") + "\n";
    }

    void outline() {
        if (m_board.outline.empty()) return;
        m_out += "389BOARD_EDGE";
        for (const BoardPoint p : m_board.outline)
            m_out += formatted(" X%+07ldY%+07ld", units(p.x_mm), units(p.y_mm));
        m_out += "\n";
    }

    const Board& m_board;
    std::vector<Message>& m_lost;
    std::vector<std::string> m_names;
    std::string m_out;
};

} // namespace

std::string writeIpcD356(const Board& board, std::vector<Message>& lost) {
    return Writer(board, lost).write();
}

} // namespace ustor
