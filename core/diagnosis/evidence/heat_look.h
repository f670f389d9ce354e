#pragma once

#include "diagnosis/fact/case_state.h"
#include "diagnosis/hypothesis/fault.h"

#include <map>
#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace ustor {

/// One look at the board while a current flows into a rail, and all that it is judged by. Heat goes where the
/// current goes (Joule's law): into the short of the rail; through a punched switch on into what lies behind
/// it, shared out by their ohms; through a body diode back into a short before it, which warms the switch;
/// into the rail's own chips where it reads low by itself.
class HeatLook {
  public:
    HeatLook(const CaseState& state, const BoardCircuit& circuit, const CaseState::TakenHeat& heat);

    /// Natural logarithm of how likely the look is with these faults, up to a constant that all share.
    double logLikelihood(std::span<const Fault> faults) const;

  private:
    using Parts = std::vector<const Part*>;
    struct BodyDiode {
        PartIndex part = -1;
        int to = -1; ///< rail
    };
    bool reaches(const Fault& fault) const;
    double densityAt(const Part& part) const;
    double seenAt(PartIndex part) const;
    double chipsOf(int rail, double warm) const;
    double ofFault(const Fault& fault, std::span<const Fault> faults) const;
    double ofBreakdown(const Fault& fault) const;
    double besideOwnLoad(const Fault& fault) const;
    double behind(const Fault& through, std::span<const Fault> faults) const;
    /// Of a short before a switch whose body diode leads to it; nothing where none does.
    std::optional<double> before(const Fault& fault) const;
    double readOhms(int rail) const;
    double warmsByItself(int rail) const;
    void findLinks();
    void findBodyDiodes();
    void findMostCarried();

    const CaseState& m_state;
    const Board& m_board;
    const BoardCircuit& m_circuit;
    HeatFound m_found;
    long m_fact = 0;
    std::shared_ptr<const PartsOff> m_then;
    std::optional<double> m_volts; ///< put on
    int m_rail = -1;               ///< that was injected into; -1: not said
    Parts m_links;
    std::vector<BodyDiode> m_bodyDiodes; ///< that lead away from the rail
    /// By part that was lifted since: how much of the current it can have carried, for the rail read nearly
    /// the same without it.
    std::map<PartIndex, double> m_mostCarried;
    double m_area_mm2 = 1;
    double m_without =
        0; ///< nothing that is wrong had power: from nowhere, or from chips that take their current
};

} // namespace ustor
