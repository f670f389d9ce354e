#include "app/suspect_list.h"

#include "app/look.h"
#include "app/words.h"

#include <QKeyEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace ustor {
namespace {
constexpr int rowHeight = 34, barHeight = 30, mostRows = 7;
}

SuspectList::SuspectList(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Suspects"));
}

void SuspectList::show(const Assessment* assessment) {
    m_assessment = assessment;
    QString words;
    for (const Row& row : rows())
        words += nameOf(*row.suspect) + QString(" %1 %; ").arg(std::lround(100 * row.suspect->odds));
    setAccessibleDescription(words);
    updateGeometry();
    update();
}

void SuspectList::choose(const std::string& part) {
    m_chosen = text(part);
    updateGeometry();
    update();
}

QString SuspectList::nameOf(const Suspect& suspect) const {
    return suspect.part < 0 ? tr("something else")
                            : text(m_assessment->state.board.parts[suspect.part].designator);
}

std::vector<SuspectList::Row> SuspectList::rows() const {
    std::vector<Row> list;
    if (!m_assessment) return list;
    int top = 0, shown = 0;
    for (const Suspect& s : m_assessment->suspects) {
        const bool open = nameOf(s) == m_chosen;
        if (shown >= mostRows && !open) continue;
        ++shown;
        const int height = rowHeight + (open ? static_cast<int>(s.evidence.size()) * barHeight + 4 : 0);
        list.push_back({&s, top, height});
        top += height;
    }
    return list;
}

QSize SuspectList::sizeHint() const {
    const auto list = rows();
    return {260, list.empty() ? 40 : list.back().top + list.back().height + 4};
}

void SuspectList::paintRow(QPainter& painter, const Row& row) {
    const Look& look = Look::current();
    const Suspect& s = *row.suspect;
    const double middle = row.top + rowHeight / 2.0;
    painter.setPen(QPen(s.cleared ? look.faint : look.ink, 1 + 5 * s.odds));
    painter.setBrush(Qt::NoBrush);
    painter.drawEllipse(QPointF(18, middle), 9, 9);
    if (s.cleared)
        painter.drawPolyline(QPolygonF()
                             << QPointF(14, middle) << QPointF(17, middle + 4) << QPointF(23, middle - 4));
    painter.setPen(s.cleared ? look.faint : look.ink);
    painter.setFont(Look::bold(Look::text()));
    painter.drawText(QRectF(40, row.top, 120, rowHeight), Qt::AlignVCenter, nameOf(s));
    const QString odds = s.odds > 0.995    ? QStringLiteral("> 99 %")
                         : s.odds < 0.0995 ? QString("%1 %").arg(100 * s.odds, 0, 'f', 1)
                                           : QString("%1 %").arg(std::lround(100 * s.odds));
    painter.drawText(QRectF(width() - 90, row.top, 82, rowHeight), Qt::AlignVCenter | Qt::AlignRight, odds);
    painter.setFont(Look::small());
    painter.setPen(look.faint);
    const QString kind =
        s.part < 0 ? QString() : text(labelOf(m_assessment->state.board.parts[s.part].partClass));
    const int nameWidth = QFontMetrics(Look::bold(Look::text())).horizontalAdvance(nameOf(s));
    painter.drawText(QRectF(48 + nameWidth, row.top, width() - 140 - nameWidth, rowHeight), Qt::AlignVCenter,
                     s.cleared ? tr("cleared") : kind);
    if (nameOf(s) != m_chosen) return;

    double most = 1;
    for (const Weight& e : s.evidence)
        most = std::max(most, std::fabs(e.weight));
    double y = row.top + rowHeight;
    const double axis = 40 + (width() - 60) / 2.0, reach = (width() - 60) / 2.0;
    for (const Weight& e : s.evidence) {
        painter.setPen(look.ink);
        painter.setFont(Look::small());
        const QString words = painter.fontMetrics().elidedText(text(e.what), Qt::ElideRight, width() - 50);
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
            m_chosen = m_chosen == nameOf(*row.suspect) ? QString() : nameOf(*row.suspect);
            updateGeometry();
            update();
            if (!m_chosen.isEmpty()) emit chosen(m_chosen);
            return;
        }
}

void SuspectList::keyPressEvent(QKeyEvent* event) {
    const auto list = rows();
    if (list.empty() || (event->key() != Qt::Key_Down && event->key() != Qt::Key_Up))
        return QWidget::keyPressEvent(event);
    auto at = std::find_if(list.begin(), list.end(),
                           [this](const Row& row) { return nameOf(*row.suspect) == m_chosen; });
    if (at == list.end())
        at = list.begin();
    else if (event->key() == Qt::Key_Down && at + 1 != list.end())
        ++at;
    else if (event->key() == Qt::Key_Up && at != list.begin())
        --at;
    m_chosen = nameOf(*at->suspect);
    updateGeometry();
    update();
    emit chosen(m_chosen);
}

} // namespace ustor
