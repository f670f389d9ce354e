#include "app/align/align_page.h"

#include "app/align/align_canvas.h"
#include "app/look.h"
#include "app/words.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace ustor {

AlignPage::AlignPage(QWidget* parent)
    : QWidget(parent), m_title(new QLabel), m_fileName(new QLabel), m_said(new QLabel),
      m_fileCanvas(new AlignCanvas(tr("The file"))), m_boardCanvas(new AlignCanvas(tr("The board"))),
      m_take(new QPushButton(tr("Take it so"))) {
    layOut();
    connect(m_fileCanvas, &AlignCanvas::placeChosen, this, &AlignPage::takeFrom);
    connect(m_boardCanvas, &AlignCanvas::placeChosen, this, &AlignPage::takeTo);
    connect(m_take, &QPushButton::clicked, this, [this] {
        if (m_placing) emit placed(text(m_file.name), m_placing->shift);
    });
}

void AlignPage::layOut() {
    m_title->setFont(Look::bold(Look::large()));
    m_said->setWordWrap(true);
    m_said->setObjectName("alignSaid");
    m_take->setObjectName("alignTake");
    auto* again = new QPushButton(tr("Click again"));
    auto* asItIs = new QPushButton(tr("Leave it where it lies"));
    asItIs->setObjectName("alignLeave");
    auto* back = new QPushButton(tr("Back to the cases"));
    connect(again, &QPushButton::clicked, this, &AlignPage::again);
    connect(asItIs, &QPushButton::clicked, this, [this] { emit placed(text(m_file.name), BoardPoint{}); });
    connect(back, &QPushButton::clicked, this, &AlignPage::leaveWanted);
    auto* boardName = new QLabel(tr("2  The board: where does that belong? Crosses show the file as placed"));
    for (QLabel* label : {m_fileName, boardName})
        label->setFont(Look::bold(Look::text()));
    auto* left = new QVBoxLayout;
    left->addWidget(m_fileName);
    left->addWidget(m_fileCanvas, 1);
    auto* right = new QVBoxLayout;
    right->addWidget(boardName);
    right->addWidget(m_boardCanvas, 1);
    auto* both = new QHBoxLayout;
    both->setSpacing(16);
    both->addLayout(left, 1);
    both->addLayout(right, 1);
    auto* words = new QHBoxLayout;
    words->addWidget(m_said, 1);
    words->addWidget(m_take);
    words->addWidget(again);
    words->addWidget(asItIs);
    words->addWidget(back);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(24, 12, 24, 12);
    column->addWidget(m_title);
    column->addLayout(both, 1);
    column->addLayout(words);
}

void AlignPage::ask(const Board& board, const UnplacedFile& file) {
    m_board = board;
    m_file = file;
    const QString name = text(file.name);
    m_title->setText(tr("Nothing tells where %1 lies on the board").arg(name));
    m_fileName->setText(tr("1  %1: click a pad or hole that you recognise").arg(name));
    m_fileCanvas->show({}, file.copper, file.places);
    // By its places alone: copper below them would hide what is to be clicked.
    m_boardCanvas->show(board.outline, {}, placesOn(board));
    again();
}

void AlignPage::again() {
    m_from.reset();
    m_placing.reset();
    m_fileCanvas->setChosen({});
    m_boardCanvas->setChosen({});
    m_boardCanvas->setOverlay({}, {});
    m_take->setEnabled(false);
    m_fileCanvas->setFocus();
    m_said->setText(tr("It comes from another origin. Two clicks place it: one here, one on the board."));
}

void AlignPage::takeFrom(BoardPoint place) {
    again();
    m_from = place;
    m_fileCanvas->setChosen(place);
    m_boardCanvas->setFocus();
    m_said->setText(tr("Now click the same place on the board."));
}

void AlignPage::takeTo(BoardPoint place) {
    if (!m_from) {
        m_said->setText(tr("First a place of the file, on the left; then where it belongs, here."));
        return;
    }
    m_placing = placedBy(m_file, *m_from, m_board, place);
    m_boardCanvas->setChosen(place);
    const BoardPoint shift = m_placing->shift;
    const auto moved = [shift](BoardPoint p) { return BoardPoint{p.x_mm + shift.x_mm, p.y_mm + shift.y_mm}; };
    auto places = m_file.places;
    std::transform(places.begin(), places.end(), places.begin(), moved);
    auto copper = m_file.copper;
    for (CopperPiece& piece : copper) {
        std::transform(piece.outline.begin(), piece.outline.end(), piece.outline.begin(), moved);
        for (auto& hole : piece.holes)
            std::transform(hole.begin(), hole.end(), hole.begin(), moved);
    }
    m_boardCanvas->setOverlay(std::move(places), std::move(copper));
    const auto all = static_cast<int>(m_file.places.size());
    m_said->setText(tr("Moved by %1, %2 mm: %3 of its %4 places lie on pads or vias. %5")
                        .arg(shift.x_mm, 0, 'f', 2)
                        .arg(shift.y_mm, 0, 'f', 2)
                        .arg(m_placing->onPads)
                        .arg(all)
                        .arg(m_placing->onPads > 1
                                 ? tr("Look whether it fits before you take it.")
                                 : tr("That is the clicked one at most: look closely, or click again.")));
    m_take->setEnabled(true);
    m_take->setFocus();
}

} // namespace ustor
