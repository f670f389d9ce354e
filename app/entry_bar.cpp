#include "app/entry_bar.h"

#include "app/look.h"
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
    m_kind->addItems({tr("ohms"), tr("diode"), tr("beep"), tr("volts"), tr("seen"), tr("plug-in V A"),
                      tr("complaint"), tr("note")});
    m_kind->setObjectName("entryKind");
    m_kind->setAccessibleName(tr("Kind of entry"));
    m_value->setPlaceholderText(tr("4m, 63, OL, 1k2"));
    m_value->setFixedWidth(170);
    m_value->setObjectName("entryValue");
    m_value->setAccessibleName(tr("Value"));
    m_said->setWordWrap(true);
    m_said->setObjectName("entrySaid");
    m_said->setFont(Look::small());
    auto* take = new QPushButton(tr("Note it"));
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(8, 2, 8, 2);
    for (QWidget* w : {static_cast<QWidget*>(m_place), static_cast<QWidget*>(m_kind),
                       static_cast<QWidget*>(m_value), static_cast<QWidget*>(take)})
        row->addWidget(w);
    row->addWidget(m_said, 1);
    connect(m_value, &QLineEdit::returnPressed, this, &EntryBar::take);
    connect(take, &QPushButton::clicked, this, &EntryBar::take);
    connect(m_kind, &QComboBox::currentIndexChanged, this, [this](int kind) {
        m_value->setPlaceholderText(kind == SeenKind        ? tr("cracked, burnt, looks fine ...")
                                    : kind == SourceKind    ? tr("5 0.02")
                                    : kind == ComplaintKind ? tr("what the customer says")
                                    : kind == NoteKind      ? tr("what happened")
                                                            : tr("4m, 63, OL, 1k2"));
        m_place->setEnabled(kind < SourceKind);
    });
}

void EntryBar::setPlace(const QString& place) {
    m_place->setText(place);
}
QString EntryBar::place() const {
    return m_place->text().trimmed();
}

MeterMode EntryBar::mode() const {
    switch (m_kind->currentIndex()) {
    case DiodeKind:
        return MeterMode::Diode;
    case BeepKind:
        return MeterMode::Beep;
    case VoltsKind:
        return MeterMode::Volts;
    default:
        return MeterMode::Ohms;
    }
}

void EntryBar::startTyping() {
    m_value->setFocus();
    m_value->selectAll();
}

void EntryBar::startTyping(Kind kind) {
    m_kind->setCurrentIndex(kind);
    startTyping();
}

void EntryBar::say(const QString& words) {
    m_said->setText(words);
}

std::optional<FactBody> EntryBar::parse(QString& wrong) const {
    const std::string value = m_value->text().trimmed().toStdString(), where = place().toStdString();
    switch (m_kind->currentIndex()) {
    case SeenKind: {
        const QString part = place().section('.', 0, 0);
        const auto damage = damageFromWord(value);
        if (damage) return Seen{part.toStdString(), *damage, ""};
        if (value.empty())
            return wrong = tr("What was seen? One of: looks fine, cracked, bulged, discoloured, burnt, hole, "
                              "corroded, missing."),
                   std::nullopt;
        return Seen{part.toStdString(), Damage::None, value};
    }
    case SourceKind: {
        const QStringList words = m_value->text().simplified().split(' ');
        const bool enough = words.size() == 2 || words.size() == 3;
        const auto volts = enough ? quantityFromText(words[0].toStdString()) : std::nullopt;
        const auto amps = enough ? quantityFromText(words[1].toStdString()) : std::nullopt;
        const auto reaction =
            words.size() == 3 ? reactionFromWord(words[2].toStdString()) : std::optional(Reaction::NotSaid);
        if (volts && amps && reaction) return SourceShows{*volts, *amps, "", *reaction};
        return wrong = tr("Two numbers are needed: volts, then amps, as in \"5 0.02\"; then, if you like, "
                          "what happens: none, starts, dies, pulses or shuts-off."),
               std::nullopt;
    }
    case ComplaintKind:
        if (!value.empty()) return Complaint{value};
        return wrong = tr("The complaint is empty."), std::nullopt;
    case NoteKind:
        if (!value.empty()) return Noted{value};
        return wrong = tr("The note is empty."), std::nullopt;
    default:
        break;
    }
    if (where.empty())
        return wrong = tr("Where was it measured? Type a place such as C12.1, or click a pad."), std::nullopt;
    const QStringList places = place().simplified().split(' ');
    if (places.size() > 2)
        return wrong = tr("One place, or two for a reading from one to the other: \"Q1.2 Q1.5\"."),
               std::nullopt;
    if (const auto reading = readingFromText(value, mode()))
        return ReadingTaken{places[0].toStdString(),
                            places.size() == 2 ? places[1].toStdString() : std::string(), *reading};
    return wrong = tr("\"%1\" is not a reading. Examples: 0.004, 4m, 63, 1k2, OL.").arg(m_value->text()),
           std::nullopt;
}

void EntryBar::take() {
    QString wrong;
    const auto body = parse(wrong);
    if (!body) {
        say(wrong);
        return startTyping();
    }
    m_value->setText({}); // without its history: an old number must not come back
    // What is said once is said: the next entry is a reading again.
    if (m_kind->currentIndex() >= SourceKind) m_kind->setCurrentIndex(OhmsKind);
    emit noted(*body);
}

} // namespace ustor
