#include "app/heat/repair_list.h"

#include "app/look.h"
#include "app/words.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QLabel>

namespace ustor {
namespace {

QString wordsOf(Repair repair) {
    switch (repair) {
    case Repair::Frozen:
        return RepairList::tr("frozen pictures left out");
    case Repair::Motion:
        return RepairList::tr("camera's motion taken back");
    case Repair::Common:
        return RepairList::tr("jumps and drift taken out");
    case Repair::Passing:
        return RepairList::tr("hands and tools left out");
    case Repair::Clocks:
        return RepairList::tr("clocks brought together");
    case Repair::Bending:
        return RepairList::tr("hot-air heat bends the ground");
    case Repair::Restless:
        return RepairList::tr("restless places count less");
    case Repair::Mirrors:
        return RepairList::tr("what mirrors show taken out");
    }
    return {};
}

} // namespace

RepairList::RepairList(QWidget* parent) : QWidget(parent) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(2);
    auto* heading = new QLabel(tr("Mended; untick to see what it does"));
    heading->setFont(Look::bold(Look::small()));
    grid->addWidget(heading, 0, 0, 1, 2);
    constexpr int rows = 4;
    for (const Repair repair : allRepairs()) {
        auto* box = new QCheckBox(wordsOf(repair));
        box->setFont(Look::small());
        box->setChecked(true);
        box->setObjectName(text(wordOf(repair)));
        connect(box, &QCheckBox::toggled, this, &RepairList::changed);
        const int at = static_cast<int>(m_boxes.size());
        grid->addWidget(box, 1 + at % rows, at / rows);
        m_boxes << box;
    }
}

LeftOut RepairList::leftOut() const {
    LeftOut out;
    for (qsizetype i = 0; i < m_boxes.size(); ++i)
        if (!m_boxes[i]->isChecked()) out.insert(allRepairs()[static_cast<std::size_t>(i)]);
    return out;
}

void RepairList::tell(const std::vector<RepairNote>& done) {
    for (QCheckBox* box : std::as_const(m_boxes)) {
        box->setFont(Look::small());
        box->setToolTip(tr("found nothing to do"));
        for (const RepairNote& note : done)
            if (box->objectName() == text(wordOf(note.repair))) {
                box->setFont(Look::bold(Look::small()));
                box->setToolTip(text(note.said));
            }
    }
}

} // namespace ustor
