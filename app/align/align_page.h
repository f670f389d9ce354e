#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "board/gerber/placing_by_hand.h"

#include <optional>

class QLabel;
class QPushButton;

namespace ustor {

class AlignCanvas;

/// A layer or drill file of another origin that nothing tells: a place of it is clicked, then where that
/// belongs on the board.
class AlignPage : public QWidget {
    Q_OBJECT
  public:
    explicit AlignPage(QWidget* parent = nullptr);
    /// `board` is read without the file.
    void ask(const Board& board, const UnplacedFile& file);
    AlignCanvas& fileCanvas() const { return *m_fileCanvas; }
    AlignCanvas& boardCanvas() const { return *m_boardCanvas; }

  signals:
    void placed(const QString& file, ustor::BoardPoint shift); ///< no shift: left as it is
    void leaveWanted();

  private:
    void layOut();
    void takeFrom(BoardPoint place);
    void takeTo(BoardPoint place);
    void again();

    Board m_board;
    UnplacedFile m_file;
    std::optional<BoardPoint> m_from;
    std::optional<HandPlacing> m_placing;
    QLabel *m_title, *m_fileName, *m_said;
    AlignCanvas *m_fileCanvas, *m_boardCanvas;
    QPushButton* m_take;
};

} // namespace ustor
