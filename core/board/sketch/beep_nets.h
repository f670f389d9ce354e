#pragma once

#include "board/sketch/sketch.h"

#include <optional>

namespace ustor {

/// A "no" between pads that other answers join: the answers that clash.
struct BeepClash {
    std::size_t denied = 0;           ///< index of the beep that says no
    std::vector<std::size_t> joining; ///< indices of the shortest chain of beeps that says yes
};

/// A beep worth trying, and what it would settle.
struct BeepProposal {
    std::string a, b;
    double chance = 0;  ///< that it beeps
    double settles = 0; ///< bits that its answer tells, a little more for nets of many pads
};

/// Nets as the answers of the continuity test join them.
class BeepNets {
  public:
    explicit BeepNets(const Sketch& sketch);

    bool joined(const std::string& a, const std::string& b) const;
    /// The name a person gave to one of its pads; else that of its first pad.
    std::string nameOf(const std::string& place) const;
    const std::vector<BeepClash>& clashes() const { return m_clashes; }

    /// The beeps that settle most, best first. How likely two nets are one: capacitors side by side share a
    /// rail, one of their ends is on ground, ends of one part are not joined (common practice).
    std::vector<BeepProposal> proposals(std::size_t most) const;

  private:
    struct Node {
        std::string place;
        std::size_t stamp = 0;
        BoardPoint at;
        bool twoEnded = false, capacitor = false;
    };
    std::optional<std::size_t> find(const std::string& place) const;
    std::size_t root(std::size_t node) const;
    void join();
    void findClashes();
    double chanceOf(std::size_t a, std::size_t b) const;

    const Sketch& m_sketch;
    std::vector<Node> m_nodes;
    std::map<std::string, std::size_t> m_byPlace;
    std::vector<std::size_t> m_root;
    std::vector<std::pair<std::size_t, std::size_t>> m_denied; ///< roots that a "no" parts
    std::vector<BeepClash> m_clashes;
    std::optional<std::size_t> m_ground; ///< root of the net that is ground
};

} // namespace ustor
