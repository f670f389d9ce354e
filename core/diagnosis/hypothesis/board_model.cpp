#include "diagnosis/hypothesis/board_model.h"

#include <algorithm>

namespace ustor {

BoardModel::BoardModel(const Board& itsBoard, const NetParts& parts)
    : board(itsBoard), circuit(board, parts), feed(board, circuit), companions(board, circuit, feed),
      siblings(board, parts) {
    for (int rail = 0; rail < static_cast<int>(circuit.rails().size()); ++rail)
        if (feed.stageOf(rail) == FeedStage::Input || feed.stageOf(rail) == FeedStage::Main)
            circuit.setFedByPlug(rail);
}

bool BoardModel::serves(const Board& other) const {
    return std::equal(board.parts.begin(), board.parts.end(), other.parts.begin(), other.parts.end(),
                      [](const Part& a, const Part& b) { return a.partClass == b.partClass; }) &&
           std::equal(board.nets.begin(), board.nets.end(), other.nets.begin(), other.nets.end(),
                      [](const Net& a, const Net& b) {
                          const bool known = a.nominal.has_value();
                          return a.ground == b.ground && known == b.nominal.has_value() &&
                                 (!known || a.nominal->value == b.nominal->value);
                      });
}

} // namespace ustor
