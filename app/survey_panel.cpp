#include "app/survey_panel.h"

#include "app/look.h"
#include "app/tone.h"
#include "app/words.h"
#include "base/quantity_text.h"
#include "rail/handy_place.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>

namespace ustor {
namespace {

QString rowOf(const Board& board, const SurveyStop& stop, const SurveyWork::Result& result) {
    const QString net = text(board.nets[stop.net].name);
    if (result.fact > 0)
        return QString("%1   %2   %3")
            .arg(net, text(textOf(result.reading)), text(labelOf(result.ruling.state)));
    return result.skipped ? QObject::tr("%1   skipped").arg(net) : net;
}

} // namespace

SurveyPanel::SurveyPanel(QWidget* parent)
    : QWidget(parent), m_where(new QLabel), m_about(new QLabel), m_reading(new QLabel), m_ruling(new QLabel),
      m_value(new QLineEdit), m_mode(new QComboBox), m_reversed(new QCheckBox(tr("leads turned round"))),
      m_tones(new QCheckBox(tr("tones"))), m_count(new QSpinBox), m_percent(new QSpinBox),
      m_list(new QListWidget), m_read(new QPushButton) {
    m_where->setFont(Look::bold(Look::large()));
    m_where->setObjectName("surveyPlace");
    m_reading->setFont(Look::large());
    m_reading->setObjectName("surveyReading");
    for (QLabel* label : {m_about, m_ruling}) {
        label->setFont(Look::small());
        label->setWordWrap(true);
        label->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    }
    m_ruling->setObjectName("surveyRuling");
    m_value->setObjectName("surveyValue");
    m_value->setPlaceholderText(tr("or type it: 4m, 63, OL"));
    m_value->setAccessibleName(tr("Reading at this place"));
    m_value->setFixedWidth(150);
    for (const MeterMode mode : {MeterMode::Ohms, MeterMode::Diode, MeterMode::Beep, MeterMode::Volts})
        m_mode->addItem(text(labelOf(mode)), static_cast<int>(mode));
    m_mode->setObjectName("surveyMode");
    m_mode->setAccessibleName(tr("Mode of the meter"));
    m_count->setRange(2, 20);
    m_count->setValue(SteadyRule{}.readings);
    m_count->setAccessibleName(tr("Readings in a row that must agree"));
    m_percent->setRange(1, 20);
    m_percent->setValue(static_cast<int>(100 * SteadyRule{}.share));
    m_percent->setSuffix(" %");
    m_percent->setAccessibleName(tr("How far they may differ"));
    m_list->setObjectName("surveyList");
    m_list->setAccessibleName(tr("Stops of the walk"));
    m_list->setFont(Look::small());
    layOut();
    connect(m_value, &QLineEdit::returnPressed, this, &SurveyPanel::take);
    connect(m_list, &QListWidget::itemActivated, this, [this](QListWidgetItem* item) {
        if (!m_work) return;
        m_work->goTo(static_cast<std::size_t>(m_list->row(item)));
        showStop();
    });
    for (QComboBox* box : {m_mode})
        connect(box, &QComboBox::currentIndexChanged, this, &SurveyPanel::begin);
    connect(m_reversed, &QCheckBox::toggled, this, &SurveyPanel::begin);
    for (QSpinBox* box : {m_count, m_percent})
        connect(box, &QSpinBox::valueChanged, this, &SurveyPanel::begin);
}

void SurveyPanel::layOut() {
    const auto word = [this](const QString& words, const char* name, void (SurveyPanel::*slot)()) {
        auto* button = new QPushButton(words);
        button->setProperty("plain", true);
        button->setFont(Look::small());
        button->setObjectName(name);
        connect(button, &QPushButton::clicked, this, slot);
        return button;
    };
    auto* entry = new QHBoxLayout;
    m_read->setObjectName("surveyRead");
    m_read->setCheckable(true);
    m_read->setFont(Look::small());
    connect(m_read, &QPushButton::clicked, this, [this](bool on) {
        if (m_work) m_work->read(on);
        tellReads();
        if (reads()) emit placeWanted(text(place()));
    });
    entry->addWidget(m_value);
    entry->addWidget(word(tr("Skip (S)"), "surveySkip", &SurveyPanel::skip));
    entry->addWidget(word(tr("Back (B)"), "surveyBack", &SurveyPanel::back));
    entry->addWidget(word(tr("From the start"), "surveyBegin", &SurveyPanel::begin));
    entry->addStretch(1);
    auto* good = new QLabel(tr("known good:"));
    good->setFont(Look::small());
    entry->addWidget(good);
    entry->addWidget(word(tr("take in"), "knownGoodIn", &SurveyPanel::knownGoodInWanted));
    entry->addWidget(word(tr("give out"), "knownGoodOut", &SurveyPanel::knownGoodOutWanted));
    auto* rule = new QHBoxLayout;
    auto* steady = new QLabel(tr("steady:"));
    auto* within = new QLabel(tr("in a row within"));
    for (QWidget* w :
         {static_cast<QWidget*>(m_mode), static_cast<QWidget*>(m_reversed), static_cast<QWidget*>(steady),
          static_cast<QWidget*>(m_count), static_cast<QWidget*>(within), static_cast<QWidget*>(m_percent),
          static_cast<QWidget*>(m_tones)}) {
        w->setFont(Look::small());
        rule->addWidget(w);
    }
    rule->addStretch(1);
    auto* numbers = new QHBoxLayout;
    numbers->addWidget(m_where);
    numbers->addSpacing(24);
    numbers->addWidget(m_reading, 1);
    numbers->addWidget(m_read); // beside the value: the line of entry has no room left for the list
    auto* left = new QVBoxLayout;
    left->setSpacing(2);
    left->addLayout(numbers);
    left->addWidget(m_about);
    left->addWidget(m_ruling, 1);
    left->addLayout(entry);
    left->addLayout(rule);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(10, 2, 10, 2);
    row->addLayout(left, 3);
    row->addWidget(m_list, 2);
}

void SurveyPanel::open(CaseSession* session) {
    m_session = session;
    m_work.reset();
    m_list->clear();
    if (!session) return;
    connect(session, &CaseSession::changed, this, [this] {
        if (m_work) fillList();
    });
}

MeterMode SurveyPanel::mode() const {
    return static_cast<MeterMode>(m_mode->currentData().toInt());
}

void SurveyPanel::begin() {
    if (!m_session) return;
    SurveyWork::Settings settings;
    settings.mode = mode();
    settings.reversed = m_reversed->isChecked();
    settings.steady.readings = m_count->value();
    settings.steady.share = m_percent->value() / 100.0;
    m_work = std::make_unique<SurveyWork>(*m_session, settings);
    m_reading->clear();
    m_ruling->setText(tr("Power off, battery out. Once told so, a reading that stands still is taken by "
                         "itself: %1 in a row "
                         "within %2 %.")
                          .arg(m_count->value())
                          .arg(m_percent->value()));
    showStop();
}

std::string SurveyPanel::place() const {
    return !m_work || m_work->finished() ? std::string() : m_work->stops()[m_work->current()].place;
}

void SurveyPanel::showStop() {
    fillList();
    tellReads();
    if (!m_work) return;
    if (m_work->finished()) {
        m_where->setText(tr("Walk done"));
        m_about->setText(
            tr("%1 places. Enter on a row of the list reads it again.").arg(m_work->stops().size()));
        return emit placeWanted({});
    }
    const SurveyStop& stop = m_work->stops()[m_work->current()];
    const Board& board = m_session->assessment().state.board;
    const Net& net = board.nets[stop.net];
    m_where->setText(text(stop.place));
    const QString lead =
        mode() == MeterMode::Diode
            ? (m_reversed->isChecked() ? tr("black on ground, red here") : tr("red on ground, black here"))
            : (m_reversed->isChecked() ? tr("red on ground, black here") : tr("black on ground, red here"));
    m_about->setText(tr("%1%2, %3 side, %4 of %5: %6 (ground at %7)")
                         .arg(text(net.name),
                              net.nominal ? ", " + text(quantityText(net.nominal->value, "V")) : QString(),
                              text(labelOf(stop.side)))
                         .arg(m_work->current() + 1)
                         .arg(m_work->stops().size())
                         .arg(lead, text(groundPlace(board))));
    m_list->setCurrentRow(static_cast<int>(m_work->current()));
    emit placeWanted(text(stop.place));
}

void SurveyPanel::fillList() {
    if (!m_work) return;
    const Board& board = m_session->assessment().state.board;
    for (std::size_t i = 0; i < m_work->stops().size(); ++i) {
        const int row = static_cast<int>(i);
        if (row == m_list->count()) m_list->addItem(QString());
        m_list->item(row)->setText(rowOf(board, m_work->stops()[i], m_work->at(i)));
        m_list->item(row)->setToolTip(text(m_work->at(i).ruling.rule));
    }
    while (m_list->count() > static_cast<int>(m_work->stops().size()))
        delete m_list->takeItem(m_list->count() - 1);
}

void SurveyPanel::tell(const SurveyWork::Result& result) {
    // With its own place: the next one stands beside it already.
    m_reading->setText(tr("%1: %2").arg(text(result.place), text(textOf(result.reading))));
    m_ruling->setText(tr("%1, says %2: %3")
                          .arg(text(labelOf(result.ruling.state)), text(labelOf(result.ruling.by)),
                               text(result.ruling.rule)));
    if (m_tones->isChecked()) playTone(toneHz(result.ruling.state));
    showStop();
}

void SurveyPanel::feed(const Reading& reading) {
    if (!m_work || m_work->finished()) return;
    if (const auto taken = m_work->watch(reading)) return tell(*taken);
    if (!m_work->reads()) return;
    m_reading->setText(tr("%1: %2   %3 of %4")
                           .arg(text(place()), text(textOf(reading)))
                           .arg(m_work->agreeing())
                           .arg(m_count->value()));
}

bool SurveyPanel::reads() const {
    return m_work && m_work->reads();
}

void SurveyPanel::tellReads() {
    m_read->setChecked(reads());
    m_read->setText(reads() ? tr("Reading by itself: stop") : tr("Read by itself"));
}

void SurveyPanel::lifted() {
    if (m_work) m_work->lifted();
}

void SurveyPanel::take() {
    if (!m_work) return;
    const auto reading = readingFromText(m_value->text().toStdString(), mode());
    if (!reading)
        return m_ruling->setText(
            tr("\"%1\" is not a reading. Examples: 0.004, 4m, 63, 1k2, OL.").arg(m_value->text()));
    const auto taken = m_work->take(*reading);
    m_value->setText({}); // without its history: an old number must not come back
    if (!taken) return emit said(text(taken.error()));
    tell(taken.value());
}

void SurveyPanel::skip() {
    if (!m_work) return;
    m_work->skip();
    showStop();
}

void SurveyPanel::back() {
    if (!m_work) return;
    m_work->back();
    showStop();
}

void SurveyPanel::typeValue() {
    m_value->setFocus();
    m_value->selectAll();
}

} // namespace ustor
