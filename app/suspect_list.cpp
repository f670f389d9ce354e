#include "app/suspect_list.h"

#include "app/look.h"
#include "app/words.h"
#include "diagnosis/hypothesis/words.h"

#include <QKeyEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {
constexpr int rowHeight = 34, barHeight = 30, mostRows = 7;
constexpr double hardlyLikely = 0.01, likelierThanNot = 0.5;
} // namespace

SuspectList::SuspectList(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setSizePolicy(QSizePolicy::Preferred,
                  QSizePolicy::Minimum); // what does not fit is scrolled to, never cut
    setAccessibleName(tr("Suspects"));
}

void SuspectList::show(const Assessment* assessment) {
    m_assessment = assessment;
    QString words;
    for (const Row& row : rows())
        words += row.name + QString(" %1 %; ").arg(std::lround(100 * row.odds));
    setAccessibleDescription(words);
    updateGeometry();
    update();
}

void SuspectList::choose(const std::string& part) {
    m_chosen = text(part);
    updateGeometry();
    update();
}

void SuspectList::addSuspects(std::vector<Row>& list) const {
    int others = 0;
    double rest = 0;
    for (const Suspect& s : m_assessment->suspects) {
        const Board& board = m_assessment->state.board;
        const QString name = s.part < 0 ? tr("something else") : text(board.parts[s.part].designator);
        const bool guilty = s.off && !s.cleared && s.odds > likelierThanNot;
        const bool folded = s.odds < hardlyLikely || static_cast<int>(list.size()) >= mostRows;
        if (folded && !guilty && name != m_chosen) {
            ++others;
            rest += s.odds;
            continue;
        }
        Row row{name, s.part < 0 ? QString() : text(labelOf(board.parts[s.part].partClass)), s.odds,
                s.cleared, s.part >= 0};
        row.victim = s.part >= 0 && m_assessment->belief.isVictim(s.part);
        if (row.victim) row.kind = tr("victim");
        if (s.off) row.kind = guilty ? tr("off, guilty") : tr("off");
        if (s.cleared) row.kind = tr("cleared");
        row.evidence = &s.evidence;
        list.push_back(row);
    }
    if (others > 0) list.push_back({text(sayCount("one other", "{n} others together", others)), {}, rest});
}

void SuspectList::addHypotheses(std::vector<Row>& list) const {
    int others = 0;
    double rest = 0;
    for (const Hypothesis& h : m_assessment->belief.hypotheses) {
        const QString words = text(sentenceOf(m_assessment->state.board, h.causes));
        if ((h.odds < hardlyLikely || static_cast<int>(list.size()) >= mostRows) && words != m_chosen) {
            ++others;
            rest += h.odds;
            continue;
        }
        Row row{words, {}, h.odds};
        row.evidence = &h.weights;
        list.push_back(row);
    }
    if (others > 0) list.push_back({text(sayCount("one other", "{n} others together", others)), {}, rest});
}

std::vector<SuspectList::Row> SuspectList::rows() const {
    std::vector<Row> list;
    if (!m_assessment) return list;
    const CaseState& state = m_assessment->state;
    const bool begun = !state.sources.empty() || !state.readings.empty() || !state.complaint.empty();
    if (!m_assessment->suspects.empty())
        addSuspects(list);
    else if (begun)
        addHypotheses(list);
    int top = 0;
    for (Row& row : list) {
        const bool open = row.evidence && row.name == m_chosen;
        row.top = top;
        row.height = rowHeight + (open ? static_cast<int>(row.evidence->size()) * barHeight + 4 : 0);
        top += row.height;
    }
    return list;
}

QSize SuspectList::sizeHint() const {
    const auto list = rows();
    return {260, list.empty() ? 40 : list.back().top + list.back().height + 4};
}

void SuspectList::paintRow(QPainter& painter, const Row& row) {
    const Look& look = Look::current();
    const double middle = row.top + rowHeight / 2.0;
    painter.setPen(QPen(row.cleared || !row.evidence ? look.faint : look.ink, 1 + 5 * row.odds));
    painter.setBrush(Qt::NoBrush);
    // A victim is drawn with corners, a cause round.
    if (row.victim)
        painter.drawRect(QRectF(10, middle - 8, 16, 16));
    else if (row.evidence)
        painter.drawEllipse(QPointF(18, middle), 9, 9);
    if (row.cleared)
        painter.drawPolyline(QPolygonF()
                             << QPointF(14, middle) << QPointF(17, middle + 4) << QPointF(23, middle - 4));
    painter.setPen(row.cleared || !row.evidence ? look.faint : look.ink);
    // A name is short and bold; words take two small lines.
    const bool words = !row.part && row.evidence;
    painter.setFont(row.part ? Look::bold(Look::text()) : words ? Look::small() : Look::text());
    const QFontMetrics metrics = painter.fontMetrics();
    const int room = width() - 110;
    const int nameWidth = words ? room : std::min(room, metrics.horizontalAdvance(row.name) + 2);
    painter.drawText(QRectF(40, row.top, nameWidth, rowHeight),
                     Qt::AlignVCenter | (words ? Qt::TextWordWrap : 0), row.name);
    painter.setFont(row.part ? Look::bold(Look::text()) : Look::text());
    const QString odds = row.odds > 0.995    ? QStringLiteral("> 99 %")
                         : row.odds < 0.0995 ? QString("%1 %").arg(100 * row.odds, 0, 'f', 1)
                                             : QString("%1 %").arg(std::lround(100 * row.odds));
    painter.drawText(QRectF(width() - 90, row.top, 82, rowHeight), Qt::AlignVCenter | Qt::AlignRight, odds);
    painter.setFont(Look::small());
    painter.setPen(look.faint);
    painter.drawText(QRectF(48 + nameWidth, row.top, width() - 140 - nameWidth, rowHeight), Qt::AlignVCenter,
                     row.kind);
    if (row.evidence && row.name == m_chosen) paintEvidence(painter, row);
}

void SuspectList::paintEvidence(QPainter& painter, const Row& row) const {
    const Look& look = Look::current();
    double most = 1;
    for (const Weight& e : *row.evidence)
        most = std::max(most, std::fabs(e.weight));
    double y = row.top + rowHeight;
    const double axis = 40 + (width() - 60) / 2.0, reach = (width() - 60) / 2.0;
    for (const Weight& e : *row.evidence) {
        painter.setPen(look.ink);
        painter.setFont(Look::small());
        const QString words = painter.fontMetrics().elidedText(text(*e.what), Qt::ElideRight, width() - 50);
        painter.drawText(QRectF(40, y, width() - 48, 16), Qt::AlignVCenter, words);
        painter.drawLine(QPointF(axis, y + 16), QPointF(axis, y + 27));
        const double length = reach * e.weight / most;
        const QRectF bar(std::min(axis, axis + length), y + 18, std::max(1.0, std::fabs(length)), 7);
        // For pulls right and is filled, against pulls left and is open: told by form, not by colour.
        painter.setBrush(e.weight >= 0 ? QBrush(look.ink) : QBrush(Qt::NoBrush));
        painter.drawRect(bar);
        y += barHeight;
    }
}

void SuspectList::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const auto list = rows();
    if (list.empty()) {
        painter.setFont(Look::text());
        painter.setPen(Look::current().faint);
        painter.drawText(rect().adjusted(4, 4, -4, -4), Qt::TextWordWrap,
                         tr("Suspects show up once a rail reads as down."));
        return;
    }
    for (const Row& row : list)
        paintRow(painter, row);
    if (hasFocus()) {
        painter.setPen(QPen(Look::current().faint, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void SuspectList::mousePressEvent(QMouseEvent* event) {
    for (const Row& row : rows())
        if (event->position().y() >= row.top && event->position().y() < row.top + row.height) {
            if (!row.evidence) return;
            if (m_chosen != row.name) return open(row);
            m_chosen.clear();
            updateGeometry();
            return update();
        }
}

void SuspectList::open(const Row& row) {
    m_chosen = row.name;
    updateGeometry();
    update();
    for (const Row& now : rows())
        if (now.name == m_chosen) emit opened({0, now.top, width(), now.height});
    if (row.part) emit chosen(m_chosen);
}

void SuspectList::keyPressEvent(QKeyEvent* event) {
    auto list = rows();
    std::erase_if(list, [](const Row& row) { return !row.evidence; });
    if (list.empty() || (event->key() != Qt::Key_Down && event->key() != Qt::Key_Up))
        return QWidget::keyPressEvent(event);
    auto at = std::find_if(list.begin(), list.end(), [this](const Row& row) { return row.name == m_chosen; });
    if (at == list.end())
        at = list.begin();
    else if (event->key() == Qt::Key_Down && at + 1 != list.end())
        ++at;
    else if (event->key() == Qt::Key_Up && at != list.begin())
        --at;
    open(*at);
}

} // namespace ustor
