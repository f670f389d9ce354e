#include "app/along_panel.h"

#include "app/look.h"
#include "app/words.h"
#include "base/quantity_text.h"
#include "rail/handy_place.h"
#include "rail/near_far.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace ustor {
AlongPanel::AlongPanel(QWidget* parent)
    : QWidget(parent), m_where(new QLabel), m_about(new QLabel), m_near(new QLabel),
      m_amps(new QLineEdit("1")), m_plus(new QLineEdit), m_minus(new QLineEdit),
      m_digit(new QLineEdit("0.1m")), m_place(new QLineEdit), m_value(new QLineEdit), m_leads(new QComboBox),
      m_draw(new QPushButton(tr("Draw the current"))) {
    m_where->setFont(Look::bold(Look::large()));
    m_where->setObjectName("alongPlace");
    for (QLabel* label : {m_about, m_near}) {
        label->setFont(Look::small());
        label->setWordWrap(true);
        label->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    }
    m_about->setObjectName("alongAbout");
    m_near->setObjectName("nearFar");
    m_value->setObjectName("alongValue");
    m_value->setPlaceholderText(tr("volts, as 12.4m"));
    m_value->setAccessibleName(tr("Volts at this place"));
    m_place->setObjectName("alongRed");
    const std::pair<QLineEdit*, QString> lines[] = {{m_amps, tr("Current that flows, amps")},
                                                    {m_plus, tr("Where it enters")},
                                                    {m_minus, tr("Where it leaves, on ground")},
                                                    {m_digit, tr("One digit of the meter, volts")},
                                                    {m_place, tr("Where the red lead is")}};
    for (const auto& [line, name] : lines) {
        line->setAccessibleName(name);
        line->setToolTip(name);
        line->setFixedWidth(78);
    }
    for (const UsualLeads& leads : usualLeads())
        m_leads->addItem(text(leads.name), leads.resistance.value);
    m_leads->setFont(Look::small());
    m_leads->setAccessibleName(tr("Leads of the first plug-in"));
    m_leads->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_leads->setMinimumContentsLength(26);
    m_draw->setCheckable(true);
    m_draw->setObjectName("drawCopper");
    m_draw->setProperty("plain", true);
    m_draw->setFont(Look::small());
    layOut();
    connect(m_value, &QLineEdit::returnPressed, this, &AlongPanel::takeTyped);
    connect(m_draw, &QPushButton::toggled, this, &AlongPanel::drawWanted);
    connect(m_leads, &QComboBox::currentIndexChanged, this, &AlongPanel::showNearFar);
}

void AlongPanel::layOut() {
    const auto small = [](const QString& words) {
        auto* label = new QLabel(words);
        label->setFont(Look::small());
        return label;
    };
    auto* setup = new QHBoxLayout;
    setup->addWidget(small(tr("current (A)")));
    setup->addWidget(m_amps);
    setup->addWidget(small(tr("from")));
    setup->addWidget(m_plus);
    setup->addWidget(small(tr("to")));
    setup->addWidget(m_minus);
    setup->addWidget(small(tr("meter's digit (V)")));
    setup->addWidget(m_digit);
    setup->addWidget(m_draw);
    setup->addStretch(1);
    auto* entry = new QHBoxLayout;
    entry->addWidget(m_where);
    entry->addSpacing(16);
    entry->addWidget(small(tr("red on")));
    entry->addWidget(m_place);
    entry->addWidget(m_value);
    entry->addStretch(1);
    auto* nearRow = new QHBoxLayout;
    nearRow->addWidget(small(tr("near or far, plugged in with")));
    nearRow->addWidget(m_leads);
    nearRow->addWidget(m_near, 1);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 2, 10, 2);
    column->setSpacing(3);
    column->addLayout(entry);
    column->addWidget(m_about, 1);
    column->addLayout(setup);
    column->addLayout(nearRow);
}

void AlongPanel::open(CaseSession* session) {
    m_session = session;
    m_plus->clear();
    m_minus->clear();
    if (!session) return;
    connect(session, &CaseSession::changed, this, &AlongPanel::show);
    show();
}

/// Until somebody says otherwise: leads where a person can clip them.
void AlongPanel::suggestPlaces() {
    const Assessment& a = m_session->assessment();
    if (a.down.nets.empty()) return;
    const auto plus = a.state.board.findPad(m_plus->text().toStdString());
    if (!plus || !a.down.holds(a.state.board.pad(*plus).net))
        m_plus->setText(text(handyPlace(a.state.board, a.down)));
    if (m_minus->text().isEmpty()) m_minus->setText(text(groundPlace(a.state.board)));
}

void AlongPanel::show() {
    if (!m_session) return;
    suggestPlaces();
    showNearFar();
    const Assessment& a = m_session->assessment();
    if (a.down.nets.empty()) {
        m_where->setText(tr("No rail is down"));
        m_about->setText(tr("Read the rails first, or choose the one to hunt on."));
        return;
    }
    if (!a.along) {
        m_where->setText(m_plus->text());
        m_place->setText(m_plus->text());
        m_about->setText(a.alongTrouble.empty() ? tr("Hold a known current from the plus place to ground, at "
                                                     "most the rail's voltage; the black lead "
                                                     "stays on one ground pad away from the clip. The first "
                                                     "reading is where the current enters.")
                                                : text(a.alongTrouble));
        return emit placeWanted(m_plus->text());
    }
    const MillivoltFinding& found = a.along->finding;
    QString words;
    for (std::size_t i = 0; i < std::min<std::size_t>(3, found.candidates.size()); ++i)
        words += QString("%1%2 %3 %")
                     .arg(words.isEmpty() ? "" : ", ",
                          text(a.state.board.parts[found.candidates[i].part].designator))
                     .arg(100 * found.candidates[i].odds, 0, 'f', 0);
    for (const Message& note : found.notes)
        words += "; " + text(note);
    m_about->setText(tr("from these readings alone: %1").arg(words));
    const QString next = found.readNext ? text(a.state.board.placeOf(*found.readNext)) : QString();
    m_where->setText(next.isEmpty() ? tr("Nothing more to read") : next);
    m_place->setText(next);
    emit placeWanted(next);
}

void AlongPanel::showNearFar() {
    const SourceShows* source = m_session ? m_session->assessment().state.source() : nullptr;
    if (!source) return m_near->setText(tr("Note volts and amps of the first plug-in to see it."));
    if (source->amps <= 0)
        return m_near->setText(tr("No current flowed: nothing can be told of the distance."));
    const auto found = nearOrFar(Volts(source->volts), Amps(source->amps), ratedFor(Volts(source->volts)),
                                 Ohms(m_leads->currentData().toDouble()));
    m_near->setText(text(found.sentence));
}

std::string AlongPanel::place() const {
    return m_place->text().trimmed().toStdString();
}

void AlongPanel::setPlace(const QString& place) {
    m_place->setText(place);
}

bool AlongPanel::drawsCopper() const {
    return m_draw->isChecked();
}

std::optional<double> AlongPanel::amps() const {
    return quantityFromText(m_amps->text().toStdString());
}

std::string AlongPanel::plus() const {
    return m_plus->text().trimmed().toStdString();
}

void AlongPanel::takeTyped() {
    const auto volts = quantityFromText(m_value->text().toStdString()),
               digit = quantityFromText(m_digit->text().toStdString());
    if (!volts)
        return m_about->setText(
            tr("\"%1\" is not a voltage. Examples: 0.0124, 12.4m, 350u.").arg(m_value->text()));
    m_value->setText({}); // without its history: an old number must not come back
    take(*volts, digit.value_or(0));
}

void AlongPanel::take(double volts, double digit) {
    if (!m_session) return;
    const Board& board = m_session->board();
    const auto current = amps();
    const auto plusPad = board.findPad(plus()), red = board.findPad(place());
    const std::string minus = m_minus->text().trimmed().toStdString();
    if (!current || *current <= 0)
        return m_about->setText(tr("What current flows? A number in amps is needed."));
    if (!plusPad)
        return m_about->setText(
            tr("Where does the current enter? \"%1\" is no place on this board.").arg(m_plus->text()));
    if (!minus.empty() && !board.findPad(minus))
        return m_about->setText(tr("\"%1\" is no place on this board.").arg(m_minus->text()));
    if (!red)
        return m_about->setText(
            tr("Where is the red lead? \"%1\" is no place on this board.").arg(m_place->text()));
    emit noted(
        MillivoltTaken{board.placeOf(*red), "", volts, digit, *current, board.placeOf(*plusPad), minus});
}

} // namespace ustor
