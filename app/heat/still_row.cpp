#include "app/heat/still_row.h"

#include "app/look.h"
#include "base/number_text.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>

namespace ustor {

StillRow::StillRow(QWidget* parent)
    : QWidget(parent), m_low(new QLineEdit), m_high(new QLineEdit), m_side(new QComboBox),
      m_place(new QPushButton), m_finding(new QPushButton(tr("Take it as a finding"))) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 8, 0);
    m_low->setPlaceholderText(tr("cold end, \u00b0C"));
    m_low->setAccessibleName(tr("Cold end of the scale bar, degrees Celsius"));
    m_low->setObjectName("coldEnd");
    m_high->setPlaceholderText(tr("hot end, \u00b0C"));
    m_high->setAccessibleName(tr("Hot end of the scale bar, degrees Celsius"));
    m_high->setObjectName("hotEnd");
    for (QLineEdit* end : {m_low, m_high}) {
        constexpr int wide = 110;
        end->setFixedWidth(wide);
        connect(end, &QLineEdit::returnPressed, this, &StillRow::takeScale);
    }
    m_side->addItems({tr("shows the top side"), tr("shows the bottom side")});
    m_side->setAccessibleName(tr("Side of the board in the still"));
    m_side->setObjectName("stillSide");
    m_place->setObjectName("placeStill");
    m_place->setToolTip(tr("Show where some parts are, as with a live camera"));
    m_finding->setObjectName("stillFinding");
    m_finding->setToolTip(tr("Two stills cannot tell what follows the current: a hand and hot-air heat look "
                             "the same. It counts less than an injection."));
    for (QPushButton* button : {m_place, m_finding})
        button->setProperty("plain", true);
    for (QWidget* widget :
         {static_cast<QWidget*>(m_low), static_cast<QWidget*>(m_high), static_cast<QWidget*>(m_side),
          static_cast<QWidget*>(m_place), static_cast<QWidget*>(m_finding)}) {
        widget->setFont(Look::small());
        row->addWidget(widget);
    }
    row->addStretch(1);
    connect(m_place, &QPushButton::clicked, this,
            [this] { emit placeWanted(m_side->currentIndex() == 1 ? Side::Bottom : Side::Top); });
    connect(m_finding, &QPushButton::clicked, this, &StillRow::findingWanted);
}

void StillRow::begin(bool asksScale, const std::optional<StillScale>& scale,
                     const std::optional<Registration>& place) {
    for (QLineEdit* end : {m_low, m_high})
        end->setVisible(asksScale);
    m_low->setText(scale ? QString::number(scale->low_c) : QString());
    m_high->setText(scale ? QString::number(scale->high_c) : QString());
    if (place) m_side->setCurrentIndex(place->side() == Side::Bottom);
    m_place->setText(place ? tr("Place it anew") : tr("Place it on the board"));
    offerFinding(false);
    if (asksScale && !scale) m_low->setFocus();
}

void StillRow::offerFinding(bool offered) {
    m_finding->setEnabled(offered);
}

void StillRow::takeScale() {
    const auto number = [](const QLineEdit* line) {
        return numberFromText(line->text().trimmed().replace(',', '.').toStdString());
    };
    const auto low = number(m_low), high = number(m_high);
    if (!low) return m_low->setFocus();
    if (!high) return m_high->setFocus();
    if (*high <= *low) return emit said(tr("The hot end must be warmer than the cold end."));
    emit scaleGiven({*low, *high});
}

} // namespace ustor
