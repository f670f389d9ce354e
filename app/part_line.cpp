#include "app/part_line.h"

#include "app/look.h"
#include "app/words.h"
#include "base/quantity_text.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>

namespace ustor {
namespace {

NetIndex firstRail(const Board& board, const Part& part) {
    for (const Pad& pad : part.pads)
        if (pad.net >= 0 && !board.nets[pad.net].ground) return pad.net;
    return -1;
}

} // namespace

PartLine::PartLine(QWidget* parent)
    : QWidget(parent), m_name(new QLabel), m_netName(new QLabel), m_class(new QPushButton),
      m_volts(new QLineEdit) {
    m_name->setFont(Look::bold(Look::text()));
    m_netName->setFont(Look::small());
    auto* kinds = new QMenu(m_class);
    for (int c = 0; c <= static_cast<int>(PartClass::Other); ++c) {
        const auto kind = static_cast<PartClass>(c);
        connect(kinds->addAction(text(labelOf(kind))), &QAction::triggered, this, [this, kind] {
            emit noted(ClassCorrected{m_part, kind});
        });
    }
    m_class->setMenu(kinds);
    m_class->setFont(Look::small());
    m_class->setObjectName("partClass");
    m_class->setAccessibleName(tr("Kind of the marked part"));
    m_volts->setFixedWidth(90);
    m_volts->setObjectName("workingVolts");
    m_volts->setAccessibleName(tr("Working voltage of the net"));
    m_volts->setPlaceholderText(tr("volts, as 3.3"));
    m_hunt = word(tr("Hunt on this rail"), "huntHere", &PartLine::chooseRail);
    m_lift = word(tr("It is lifted"), "liftMarked", &PartLine::lift);
    m_putBack = word(tr("Put back"), "putBackMarked", &PartLine::putBack);
    m_fitNew = word(tr("New one fitted"), "fitNewMarked", &PartLine::fitNew);
    m_aloneShorted = word(tr("Alone: shorted"), "aloneShorted", &PartLine::aloneShorted);
    m_aloneFine = word(tr("Alone: fine"), "aloneFine", &PartLine::aloneFine);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(8, 0, 8, 0);
    row->setSizeConstraint(QLayout::SetNoConstraint); // a long name must not widen the window
    for (QWidget* w :
         {static_cast<QWidget*>(m_name), static_cast<QWidget*>(m_class), static_cast<QWidget*>(m_netName),
          static_cast<QWidget*>(m_volts), static_cast<QWidget*>(m_hunt), static_cast<QWidget*>(m_lift),
          static_cast<QWidget*>(m_putBack), static_cast<QWidget*>(m_fitNew),
          static_cast<QWidget*>(m_aloneShorted), static_cast<QWidget*>(m_aloneFine)})
        row->addWidget(w);
    row->addStretch(1);
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    setFixedHeight(32);
    connect(m_volts, &QLineEdit::returnPressed, this, &PartLine::noteVolts);
    fill();
}

QPushButton* PartLine::word(const QString& words, const char* name, FactBody (PartLine::*fact)() const) {
    auto* button = new QPushButton(words);
    button->setProperty("plain", true);
    button->setFont(Look::small());
    button->setObjectName(name);
    connect(button, &QPushButton::clicked, this, [this, fact] { emit noted((this->*fact)()); });
    return button;
}

void PartLine::show(const Assessment* assessment) {
    m_assessment = assessment;
    if (!assessment) {
        m_part.clear();
        m_net = -1;
    }
    fill();
}

void PartLine::showPart(const QString& designator) {
    const PartIndex p = board() ? board()->findPart(designator.toStdString()) : -1;
    m_part = p >= 0 ? board()->parts[p].designator : std::string();
    m_net = p >= 0 ? firstRail(*board(), board()->parts[p]) : -1;
    fill();
}

void PartLine::showPlace(const QString& place) {
    showPart(place.section('.', 0, 0));
    if (const auto pad = board() ? board()->findPad(place.toStdString()) : std::nullopt)
        m_net = board()->pad(*pad).net;
    fill();
}

void PartLine::showNet(const QString& net) {
    m_part.clear();
    m_net = board() ? board()->findNet(net.toStdString()) : -1;
    fill();
}

void PartLine::fill() {
    const PartIndex p = board() ? board()->findPart(m_part) : -1;
    const bool part = p >= 0, off = part && m_assessment->state.lifted.contains(m_part);
    setVisible(part || m_net >= 0);
    m_name->setVisible(part);
    m_class->setVisible(part && !off);
    m_lift->setVisible(part && !off && !m_assessment->state.closed);
    for (QPushButton* w : {m_putBack, m_fitNew, m_aloneShorted, m_aloneFine})
        w->setVisible(off);
    if (part) {
        m_name->setText(off ? tr("%1 is off the board").arg(text(m_part)) : text(m_part));
        m_class->setText(text(labelOf(board()->parts[p].partClass)));
    }
    const bool net = m_net >= 0 && !off, rail = net && !board()->nets[m_net].ground;
    m_netName->setVisible(net);
    m_volts->setVisible(rail);
    m_hunt->setVisible(rail && !m_assessment->down.holds(m_net));
    if (!net) return;
    const Net& shown = board()->nets[m_net];
    m_netName->setText(text(shown.name) + (shown.ground          ? tr(" (ground)")
                                           : shown.nominalByUser ? tr(" works at")
                                           : shown.nominal       ? tr(" works at (guessed)")
                                                                 : tr(" works at (not known)")));
    m_volts->setText(shown.nominal ? text(quantityText(shown.nominal->value, "V")) : QString());
}

void PartLine::noteVolts() {
    const auto volts = quantityFromText(m_volts->text().toStdString());
    constexpr double most = 1000; // mains and primary sides are out of scope
    if (!volts || *volts <= 0 || *volts > most)
        return emit said(
            tr("\"%1\" is not a working voltage. Examples: 3.3, 1V05, 800m.").arg(m_volts->text()));
    emit noted(NominalSet{board()->nets[m_net].name, *volts});
}

FactBody PartLine::chooseRail() const {
    return RailChosen{board()->nets[m_net].name};
}
FactBody PartLine::lift() const {
    return Lifted{m_part};
}
FactBody PartLine::putBack() const {
    return Refitted{m_part, false, ""};
}
FactBody PartLine::fitNew() const {
    return Refitted{m_part, true, ""};
}
FactBody PartLine::aloneShorted() const {
    return PartMeasured{m_part, true};
}
FactBody PartLine::aloneFine() const {
    return PartMeasured{m_part, false};
}

} // namespace ustor
