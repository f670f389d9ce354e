#pragma once

#include "board/board.h"
#include "standin/fault.h"

#include <Eigen/SparseCholesky>
#include <memory>
#include <set>
#include <string>
#include <vector>

namespace ustor::standin {

/// The board as a DC network of its pads: copper between pads of a net, links, loads, leakage, and the fault.
/// Linear, so one factorisation serves every reading until a part is lifted or refitted.
class Circuit {
  public:
    Circuit(const Board& board, const Fault& fault, std::uint64_t seed);

    void lift(const std::string& part);
    void refit(const std::string& part);
    void replace(const std::string& part); ///< a new part: the fault in it is gone
    bool isLifted(const std::string& part) const { return m_lifted.contains(part); }
    bool faultIsOn() const;

    /// Pad potentials in volts for one ampere from pad a to pad b. Grounds of one net hang together.
    struct Response {
        bool connected = false;
        double ohms = 0;           ///< between a and b
        std::vector<double> volts; ///< of each node, for one ampere, against b
    };
    Response drive(PadRef a, PadRef b) const;
    int nodeOf(PadRef pad) const;

    /// Where power turns into heat for one ampere through a response: W per A^2.
    struct Heat {
        PartIndex part = -1; ///< -1: copper
        BoardPoint at;
        Side side = Side::Top;
        double wattsPerAmp2 = 0;
    };
    std::vector<Heat> heatOf(const Response& response) const;

  private:
    struct Element {
        int a, b;
        double ohms;
        PartIndex part; ///< -1: copper
        bool fault;
    };
    void build(std::uint64_t seed);
    void addCopper();
    void addPart(PartIndex index, double spread);
    bool present(const Element& element) const;
    void factor() const;
    void heatAlong(const Element& copper, double watts, std::vector<Heat>& heat) const;

    Board m_board;
    Fault m_fault;
    std::set<std::string> m_lifted, m_replaced;
    std::vector<std::vector<int>> m_node; // part, pad -> node
    std::vector<BoardPoint> m_place;      // of each node
    std::vector<Side> m_side;
    std::vector<Element> m_elements;
    mutable bool m_factored = false;
    mutable Eigen::SparseMatrix<double> m_matrix;
    mutable std::unique_ptr<Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>>> m_solver;
};

} // namespace ustor::standin
