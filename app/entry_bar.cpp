#include "app/entry_bar.h"

#include "app/look.h"
#include "app/words.h"
#include "base/quantity_text.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace ustor {
EntryBar::EntryBar(QWidget* parent)
    : QWidget(parent), m_place(new QLineEdit), m_value(new QLineEdit), m_kind(new QComboBox),
      m_said(new QLabel) {
    m_place->setPlaceholderText(tr("place, as C12.1"));
    m_place->setToolTip(tr("One place reads against ground; two, as \"Q1.2 Q1.5\", from one to the other."));
    m_place->setFixedWidth(120);
    m_place->setObjectName("entryPlace");
    m_place->setAccessibleName(tr("Place of the reading"));
    for (const EntryKind& each : entryKinds())
        m_kind->addItem(ustor::text(each.label), QString::fromUtf8(each.word.data(), each.word.size()));
    m_kind->setObjectName("entryKind");
    m_kind->setAccessibleName(tr("Kind of entry"));
    m_value->setPlaceholderText(tr("4m, 63, OL, 1k2"));
    m_value->setMinimumWidth(100);
    m_value->setMaximumWidth(170);
    m_kind->setMinimumContentsLength(12); // the list itself shows all of each
    m_kind->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_value->setObjectName("entryValue");
    m_value->setAccessibleName(tr("Value"));
    m_said->setWordWrap(true);
    m_said->setObjectName("entrySaid");
    m_said->setFont(Look::small());
    // Room for two lines from the start: the board above must not move under the eye.
    m_said->setMinimumHeight(2 * QFontMetrics(Look::small()).lineSpacing());
    m_said->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    auto* take = new QPushButton(tr("Note it"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 2, 8, 2);
    column->setSpacing(2);
    auto* row = new QHBoxLayout;
    column->addLayout(row);
    column->addWidget(m_said);
    for (QWidget* w : {static_cast<QWidget*>(m_place), static_cast<QWidget*>(m_kind),
                       static_cast<QWidget*>(m_value), static_cast<QWidget*>(take)})
        row->addWidget(w);
    row->addStretch(1);
    connect(m_value, &QLineEdit::returnPressed, this, &EntryBar::take);
    connect(take, &QPushButton::clicked, this, &EntryBar::take);
    connect(m_kind, &QComboBox::currentIndexChanged, this, [this](int kind) {
        const EntryKind& about = entryKinds()[static_cast<std::size_t>(kind)];
        m_value->setPlaceholderText(QString::fromStdString(about.example));
        m_place->setEnabled(about.mostPlaces > 0);
    });
}

void EntryBar::setPlace(const QString& place) {
    m_place->setText(place);
}
QString EntryBar::place() const {
    return m_place->text().trimmed();
}

const EntryKind& EntryBar::kind() const {
    return entryKinds()[static_cast<std::size_t>(std::max(0, m_kind->currentIndex()))];
}

MeterMode EntryBar::mode() const {
    return meterModeFromWord(kind().word).value_or(MeterMode::Ohms);
}

void EntryBar::startTyping() {
    m_value->setFocus();
    m_value->selectAll();
}

void EntryBar::setKind(const char* kind) {
    m_kind->setCurrentIndex(m_kind->findData(QString(kind)));
}

void EntryBar::startTyping(const char* kind) {
    setKind(kind);
    startTyping();
}

void EntryBar::say(const QString& words) {
    m_said->setText(words);
}

Result<FactBody> EntryBar::parse() const {
    static const Board none;
    const Board& board = m_board ? *m_board : none;
    Entry entry{std::string(kind().word), {}, m_value->text().trimmed().toStdString()};
    const std::string whole = place().toStdString();
    if (kind().mostPlaces > 0) {
        // A net's name may hold a blank.
        if (board.findNet(whole) >= 0)
            entry.places = {whole};
        else
            for (const QString& word : place().simplified().split(' ', Qt::SkipEmptyParts))
                entry.places.push_back(word.toStdString());
    }
    return factFromEntry(board, entry);
}

void EntryBar::take() {
    const auto body = parse();
    if (!body) {
        say(ustor::text(body.error().what));
        return startTyping();
    }
    m_value->setText({}); // without its history: an old number must not come back
    // What is said once is said: the next entry is a reading again.
    constexpr int readings = 5; // and what was seen
    if (m_kind->currentIndex() >= readings) m_kind->setCurrentIndex(0);
    emit noted(body.value());
}

} // namespace ustor
