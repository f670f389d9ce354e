#include "app/next_panel.h"

#include "app/look.h"
#include "app/words.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <utility>

namespace ustor {
namespace {

constexpr int gap = 8;

/// Gives a widget no room instead of hiding it: each hidden widget that is shown again lays out the whole
/// window at once, a new height is laid out once for all.
void giveHeight(QWidget* widget, int height) {
    if (widget->height() == height && widget->minimumHeight() == height) return;
    widget->setFixedHeight(height);
}

/// Height of a label's wrapped words with the gap below them. The label's own answer leaves out margins for
/// rich text and is too high for plain text.
int heightOf(const QLabel& label, int room) {
    if (label.text().isEmpty()) return 0;
    QString words = label.text();
    // One word in bold is a little wider than it is measured.
    constexpr int boldWord = 12;
    if (words.startsWith("<b>")) room -= boldWord;
    words.remove("<b>").remove("</b>");
    return QFontMetrics(label.font())
               .boundingRect(QRect(0, 0, room, 2000), Qt::TextWordWrap, words)
               .height() +
           gap;
}

/// What the caution of a move is called among the facts; empty where it has none.
std::string cautionWord(MoveKind kind) {
    switch (kind) {
    case MoveKind::MeasureRail:
    case MoveKind::MeasureAcross:
        return "measure";
    case MoveKind::ReadVolts:
    case MoveKind::WatchFlares:
    case MoveKind::FirstPower:
        return "power";
    case MoveKind::Inject:
    case MoveKind::TurnOver:
        return "inject";
    case MoveKind::Lift:
    case MoveKind::Split:
        return "lift";
    default:
        return {};
    }
}

} // namespace

NextPanel::NextPanel(QWidget* parent)
    : QWidget(parent), m_sentence(new QLabel), m_reason(new QLabel), m_risk(new QLabel), m_cost(new QLabel),
      m_learnt(new QLabel), m_do(new QPushButton), m_way(new QPushButton) {
    auto* title = new QLabel(tr("Next"));
    title->setFont(Look::bold(Look::text()));
    QFont big = Look::text();
    big.setPointSize(13);
    m_sentence->setFont(big);
    m_sentence->setObjectName("nextSentence");
    m_learnt->setObjectName("learnt");
    for (QLabel* label : {m_sentence, m_reason, m_risk, m_cost, m_learnt}) {
        label->setWordWrap(true);
        label->setContentsMargins(0, 0, 0, gap);
        label->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    }
    for (QLabel* label : {m_reason, m_cost, m_learnt})
        label->setFont(Look::small());
    m_do->setObjectName("doNext");
    m_do->setMinimumHeight(40);
    title->setContentsMargins(0, 0, 0, gap);
    m_do->setFont(Look::bold(Look::text()));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 4);
    column->setSpacing(0);
    for (QWidget* w :
         {static_cast<QWidget*>(title), static_cast<QWidget*>(m_sentence), static_cast<QWidget*>(m_reason),
          static_cast<QWidget*>(m_risk), static_cast<QWidget*>(m_do), static_cast<QWidget*>(m_cost),
          static_cast<QWidget*>(m_learnt)})
        column->addWidget(w);
    column->insertSpacing(column->indexOf(m_cost), gap);
    m_way->setProperty("plain", true);
    m_way->setFont(Look::small());
    m_way->setObjectName("injectionWay");
    connect(m_way, &QPushButton::clicked, this, &NextPanel::nextWay);
    auto* others = new QVBoxLayout;
    others->setSpacing(0);
    others->addWidget(m_way, 0, Qt::AlignLeft);
    constexpr int shortest = 60; // what is longer than there is room for is elided
    m_way->setMinimumWidth(shortest);
    column->addLayout(others);
    for (std::size_t k = 0; k < mostOthers; ++k) {
        auto* other = m_others[k] = new QPushButton;
        other->setProperty("plain", true);
        other->setFont(Look::small());
        other->setMinimumWidth(shortest);
        connect(other, &QPushButton::clicked, this, [this, k] {
            m_index = m_otherMoves[k];
            fill();
        });
        others->addWidget(other, 0, Qt::AlignLeft);
    }
    column->addStretch(1);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    connect(m_do, &QPushButton::clicked, this, &NextPanel::press);
}

const NextMove* NextPanel::shown() const {
    return !m_assessment || m_index >= m_assessment->next.size() ? nullptr : &m_assessment->next[m_index];
}

QString NextPanel::verb(const NextMove& move) {
    const QString place = text(move.place);
    switch (move.kind) {
    case MoveKind::NoteComplaint:
        return tr("Type it");
    case MoveKind::ReadSource:
        return tr("Type volts and amps");
    case MoveKind::MeasureRail:
    case MoveKind::MeasureAfterLift:
    case MoveKind::ProveRail:
    case MoveKind::MeasureAcross:
    case MoveKind::ReadVolts:
        return tr("Take the reading");
    case MoveKind::WatchFlares:
        return tr("Watch");
    case MoveKind::MeasurePart:
        return tr("Type what it reads");
    case MoveKind::FirstPower:
        return tr("Type volts and amps");
    case MoveKind::PutBack:
        return tr("%1 is back").arg(place);
    case MoveKind::Unplug:
        return tr("%1 is unplugged").arg(place);
    case MoveKind::Split:
        return tr("%1 is lifted").arg(place);
    case MoveKind::ReadAlong:
        return tr("Read it");
    case MoveKind::LookOver:
        return tr("Looked, nothing seen");
    case MoveKind::Inject:
        return tr("Inject");
    case MoveKind::TurnOver:
        return tr("Turned, inject");
    case MoveKind::Lift:
        return tr("%1 is lifted").arg(place);
    case MoveKind::Replace:
        return tr("%1 is replaced").arg(place);
    case MoveKind::Close:
        return tr("Close the case");
    case MoveKind::Stop:
        return tr("Close as it is");
    }
    return tr("Done");
}

QString NextPanel::cautionFor(MoveKind kind) {
    switch (kind) {
    case MoveKind::ReadVolts:
    case MoveKind::WatchFlares:
    case MoveKind::FirstPower:
        return tr("Before power: every part is back or its pads are free, nothing conductive lies on the "
                  "board, the "
                  "limit is set. Probe a live board with one hand. Mains and primary sides are for qualified "
                  "people only; local rules and licensed practice come first.");
    case MoveKind::MeasureRail:
    case MoveKind::MeasureAcross:
        return tr("Before the first probe: disconnect adapter and battery, discharge the bulk capacitors, "
                  "wear an earthed strap. Mains and primary sides are for qualified people only.");
    case MoveKind::Inject:
    case MoveKind::TurnOver:
        return tr("Before the first injection: no cell attached, eye protection on (a shorted tantalum can "
                  "burst), no alcohol on or near the board, leads on solid points. Parts get hot: do not "
                  "touch. Local rules and licensed practice come first.");
    case MoveKind::Lift:
    case MoveKind::Split:
        return tr("Before hot air: extraction on, no alcohol near, plastic shielded. The board stays hot for "
                  "minutes.");
    default:
        return {};
    }
}

void NextPanel::await() {
    m_awaits = true;
    if (!m_busy) fill();
}

void NextPanel::show(const Assessment* assessment) {
    m_awaits = false;
    m_assessment = assessment;
    m_index = 0;
    m_cautionShown = false;
    const auto stays = std::exchange(m_stays, std::nullopt);
    if (m_busy) return;
    fill();
    if (stays) stayAt(*stays);
}

/// The move whose caution has just been met, though others may be better.
void NextPanel::stayAt(const NextMove& move) {
    for (std::size_t i = 0; m_assessment && i < m_assessment->next.size(); ++i) {
        const NextMove& each = m_assessment->next[i];
        if (each.kind != move.kind || each.place != move.place || each.side != move.side) continue;
        m_index = i;
        fill();
        m_school = move.school;
        return fillWay();
    }
}

void NextPanel::ask(const QString& what, const QString& detail, const QString& verb,
                    std::function<void()> then) {
    showBusy(what, detail);
    m_do->setText(verb);
    m_then = std::move(then);
}

void NextPanel::showBusy(const QString& what, const QString& detail) {
    m_busy = true;
    m_then = {};
    m_sentence->setText(what);
    m_reason->setText(detail);
    m_risk->clear();
    m_cost->clear();
    m_learnt->clear();
    m_do->setText(tr("Stop"));
    m_do->setVisible(true);
    fitHeights();
    offer(m_way, false);
    for (QPushButton* other : m_others)
        offer(other, false);
}

/// The schools of injecting, one after the other.
void NextPanel::nextWay() {
    m_school = m_school == School::Ladder       ? School::FullAtOnce
               : m_school == School::FullAtOnce ? School::Climb
                                                : School::Ladder;
    fillWay();
}

void NextPanel::fillWay() {
    const NextMove* move = shown();
    const bool injects = move && (move->kind == MoveKind::Inject || move->kind == MoveKind::TurnOver);
    m_way->setText(m_school == School::Ladder       ? tr("way: small steps of current")
                   : m_school == School::FullAtOnce ? tr("way: the whole current at once")
                                                    : tr("way: voltage raised by halves"));
    m_way->setToolTip(tr("Another way to inject; each is held to the same limits"));
    offer(m_way, injects && !m_busy);
}

void NextPanel::offer(QPushButton* other, bool on) {
    constexpr int height = 22;
    other->setEnabled(on); // the keyboard must not reach what has no room
    giveHeight(other, on ? height : 0);
}

void NextPanel::endBusy() {
    m_busy = false;
    m_then = {};
    fill();
}

void NextPanel::fill() {
    fillOthers();
    const NextMove* move = shown();
    m_school = move ? move->school : School::Ladder;
    fillWay();
    m_learnt->setText(learnt());
    m_do->setVisible(move != nullptr);
    if (!move) {
        const bool closed = m_assessment && m_assessment->state.closed;
        m_sentence->setText(closed ? tr("This case is closed.") : tr("Nothing more to suggest."));
        m_reason->setText(closed ? tr("The report can be written; undo opens it again.") : QString());
        m_risk->clear();
        m_cost->clear();
        return fitHeights();
    }
    m_sentence->setText(text(move->sentence));
    m_reason->setText(text(move->reason));
    const QString caution = cautionFor(move->kind);
    const bool gate =
        !caution.isEmpty() && !m_assessment->state.cautionsMet.contains(cautionWord(move->kind));
    m_risk->setText(gate                 ? "<b>" + tr("Caution.") + "</b> " + caution
                    : move->risk.empty() ? QString()
                                         : "<b>" + tr("Mind:") + "</b> " + text(move->risk));
    m_do->setText(m_awaits ? tr("One moment …") : gate ? tr("That is done, go on") : verb(*move));
    m_cautionShown = gate;
    m_cost->setText(
        (QStringList(tr("about %1 min; Space does it").arg(move->minutes, 0, 'g', 2)) + outcomesOf(*move))
            .join('\n'));
    fitHeights();
}

/// What it may show, likeliest first, with what is left to do then.
QStringList NextPanel::outcomesOf(const NextMove& move) {
    std::vector<MoveOutcome> outcomes = move.outcomes;
    std::stable_sort(outcomes.begin(), outcomes.end(),
                     [](const MoveOutcome& a, const MoveOutcome& b) { return a.odds > b.odds; });
    constexpr std::size_t most = 3;
    constexpr double worthTelling = 0.01;
    QStringList lines;
    for (std::size_t i = 0; i < std::min(most, outcomes.size()); ++i)
        if (outcomes[i].odds >= worthTelling)
            lines << tr("%1 %: %2; then about %3 min")
                         .arg(std::lround(100 * outcomes[i].odds))
                         .arg(text(outcomes[i].what))
                         .arg(std::lround(outcomes[i].minutesAfter));
    return lines;
}

/// What came out since a part came off, as long as the case is open.
QString NextPanel::learnt() const {
    if (!m_assessment || m_assessment->state.closed || m_assessment->learnt.shifts.empty()) return {};
    QStringList shifts;
    for (const Learnt::Shift& shift : m_assessment->learnt.shifts)
        shifts << tr("%1 from %2 to %3 %")
                      .arg(text(
                          m_assessment->state.board.parts[static_cast<std::size_t>(shift.part)].designator))
                      .arg(std::lround(100 * shift.before))
                      .arg(std::lround(100 * shift.after));
    return tr("Since it came off: %1").arg(shifts.join(", "));
}

void NextPanel::fillOthers() {
    std::size_t used = 0;
    for (std::size_t i = 0; m_assessment && i < m_assessment->next.size() && used < mostOthers; ++i) {
        if (i == m_index) continue;
        m_otherMoves[used] = i;
        m_others[used]->setText(QFontMetrics(Look::small())
                                    .elidedText(tr("or: %1").arg(text(m_assessment->next[i].sentence)),
                                                Qt::ElideRight, std::max(200, width() - 26)));
        offer(m_others[used++], true);
    }
    while (used < mostOthers)
        offer(m_others[used++], false);
}

void NextPanel::fitHeights() {
    // Wrapped labels do not tell a squeezed layout how tall they are.
    const int room = width() - 16;
    for (QLabel* label : {m_sentence, m_reason, m_risk, m_cost, m_learnt})
        giveHeight(label, heightOf(*label, room));
}

void NextPanel::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    fitHeights();
}

void NextPanel::press() {
    if (m_then) return std::exchange(m_then, {})();
    if (m_busy) return emit stopWanted();
    const NextMove* move = shown();
    if (!move || m_awaits) return;
    NextMove chosen(*move);
    chosen.school = m_school;
    if (!m_cautionShown) return emit wanted(chosen);
    m_stays = chosen;
    emit cautionMet(text(cautionWord(move->kind)));
}

} // namespace ustor
