#include "app/trail_panel.h"

#include "app/look.h"
#include "app/words.h"

#include <QHash>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QResizeEvent>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <cmath>

namespace ustor {
namespace {

enum Role { Id = Qt::UserRole, StageWord, StruckOut };

/// Draws one knot of the thread.
class Knot : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;

    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        constexpr int least = 60;
        const auto* list = qobject_cast<const QAbstractItemView*>(option.widget);
        const int width =
            std::max(least, list ? list->viewport()->width() - leftOfWords - rightOfWords : 200);
        const QString words = index.data().toString();
        // All rows are asked again and again, and what they say seldom changes.
        if (width != m_width || m_heights.size() > mostKept) m_heights.clear();
        m_width = width;
        auto known = m_heights.find(words);
        if (known == m_heights.end())
            known =
                m_heights.insert(words, QFontMetrics(Look::text())
                                            .boundingRect(QRect(0, 0, width, 1000), Qt::TextWordWrap, words)
                                            .height());
        return {width, *known + QFontMetrics(Look::small()).height() + 12};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Look& look = Look::current();
        const bool struck = index.data(StruckOut).toBool(), chosen = option.state & QStyle::State_Selected;
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        const double x = option.rect.left() + 12, y = option.rect.top() + 12;
        painter->setPen(QPen(look.ink, 1.4));
        painter->drawLine(QPointF(x, option.rect.top()), QPointF(x, option.rect.bottom() + 1));
        painter->setBrush(chosen ? look.ink : look.paper);
        painter->drawEllipse(QPointF(x, y), chosen ? 6 : 4.5, chosen ? 6 : 4.5);
        QRect room = option.rect.adjusted(leftOfWords, 3, -rightOfWords, -2);
        painter->setFont(chosen ? Look::bold(Look::small()) : Look::small());
        painter->setPen(look.faint);
        painter->drawText(room, Qt::AlignLeft | Qt::AlignTop, index.data(StageWord).toString());
        room.setTop(room.top() + painter->fontMetrics().height() + 1);
        QFont font = Look::text(); // of the chosen too: bold words would need other room
        font.setStrikeOut(struck);
        painter->setFont(font);
        painter->setPen(struck ? look.faint : look.ink);
        painter->drawText(room, Qt::TextWordWrap | Qt::AlignLeft | Qt::AlignTop, index.data().toString());
        painter->restore();
    }

  private:
    static constexpr int mostKept = 2000, leftOfWords = 28, rightOfWords = 6;
    mutable int m_width = 0;
    mutable QHash<QString, int> m_heights; ///< of the words at that width
};

/// Rows that are made at once.
constexpr std::size_t together = 300;

QString firstSuspects(const Assessment& a) {
    QString words;
    int shown = 0;
    for (const Suspect& s : a.suspects) {
        constexpr int most = 3;
        if (s.part < 0 || shown++ >= most) continue;
        words += (words.isEmpty() ? "" : ", ") + QString("%1 %2 %")
                                                     .arg(text(a.state.board.parts[s.part].designator))
                                                     .arg(std::lround(100 * s.odds));
    }
    return words.isEmpty() ? QObject::tr("no suspects") : words;
}

} // namespace

TrailPanel::TrailPanel(QWidget* parent)
    : QWidget(parent), m_list(new QListWidget), m_effect(new QLabel),
      m_strike(new QPushButton(tr("Strike out"))) {
    auto* title = new QLabel(tr("Trail"));
    title->setFont(Look::bold(Look::text()));
    m_list->setItemDelegate(new Knot(m_list));
    m_list->setResizeMode(QListView::Adjust);
    m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_list->setAccessibleName(tr("Trail of facts"));
    m_effect->setWordWrap(true);
    m_effect->setFont(Look::small());
    m_strike->setObjectName("strike");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 4, 8);
    column->addWidget(title);
    column->addWidget(m_list, 1);
    column->addWidget(m_effect);
    column->addWidget(m_strike);
    m_strike->hide();
    connect(m_list, &QListWidget::itemSelectionChanged, this, &TrailPanel::explain);
    connect(m_strike, &QPushButton::clicked, this, [this] {
        if (auto* item = m_list->currentItem()) emit strikeWanted(item->data(Id).toLongLong());
    });
}

void TrailPanel::show(CaseSession* session) {
    m_session = session;
    if (session) {
        connect(session, &CaseSession::changed, this, &TrailPanel::fill);
        connect(session, &CaseSession::judging, this, &TrailPanel::fill);
    }
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    m_taken = session ? session->facts().size() : 0;
    m_earlier = m_taken;
    m_most = 2 * together;
    if (m_earlier > 0) showEarlier();
    fill();
}

void TrailPanel::fill() {
    const QSignalBlocker quiet(m_list);
    m_list->setCurrentItem(nullptr);
    m_list->clearSelection();
    m_effect->clear();
    m_strike->hide();
    if (m_session) {
        append();
        trim();
        markStruck();
    }
    m_list->scrollToBottom();
}

/// Rows that stand stay as they are: a long trail is not made anew for each fact.
void TrailPanel::append() {
    const auto& facts = m_session->facts();
    for (; m_taken < facts.size(); ++m_taken)
        if (!std::holds_alternative<Struck>(facts[m_taken].body)) m_list->addItem(rowFor(facts[m_taken]));
}

/// The first row of a trail that has more stands for all before: how many they are.
void TrailPanel::showEarlier() {
    const auto& facts = m_session->facts();
    if (m_list->count() > 0 && m_list->item(0)->data(Id).toLongLong() == 0) delete m_list->takeItem(0);
    std::vector<const Fact*> brought;
    while (m_earlier > 0 && brought.size() < together)
        if (const Fact& fact = facts[--m_earlier]; !std::holds_alternative<Struck>(fact.body))
            brought.push_back(&fact);
    for (const Fact* fact : brought)
        m_list->insertItem(0, rowFor(*fact));
    if (m_earlier > 0) {
        auto* more = new QListWidgetItem(tr("%1 earlier facts: choose this line to see them").arg(m_earlier));
        more->setData(Id, 0LL);
        m_list->insertItem(0, more);
    }
}

/// Of very many rows the first go again.
void TrailPanel::trim() {
    if (static_cast<std::size_t>(m_list->count()) <= m_most + together) return;
    const auto& facts = m_session->facts();
    m_list->clear();
    m_earlier = m_taken = facts.size();
    showEarlier();
}

QListWidgetItem* TrailPanel::rowFor(const Fact& fact) const {
    auto* item = new QListWidgetItem(text(sentenceOn(m_session->board(), fact.body)));
    item->setData(Id, static_cast<qlonglong>(fact.id));
    item->setData(StageWord, text(labelOf(stageOf(fact.body))));
    return item;
}

void TrailPanel::markStruck() {
    const auto struck = struckFacts(m_session->facts());
    for (int row = 0; row < m_list->count(); ++row) {
        QListWidgetItem* item = m_list->item(row);
        const bool out = struck.contains(item->data(Id).toLongLong());
        if (item->data(StruckOut).toBool() != out) item->setData(StruckOut, out);
    }
}

void TrailPanel::explain() {
    const auto* item = m_list->currentItem();
    if (item && m_session && item->data(Id).toLongLong() == 0) {
        const QSignalBlocker quiet(m_list);
        const int before = m_list->count();
        m_most += together; // whoever looks back is not brought to the newest by the next fact
        showEarlier();
        markStruck();
        m_list->setCurrentRow(m_list->count() - before);
        item = m_list->currentItem();
    }
    m_strike->setVisible(item != nullptr);
    if (!item || !m_session) return m_effect->clear();
    const bool struck = item->data(StruckOut).toBool();
    m_strike->setText(struck ? tr("Bring back") : tr("Strike out"));
    const long id = item->data(Id).toLongLong();
    if (struck) return m_effect->setText(tr("Struck out: it does not count."));
    const QString with = tr("With it: %1").arg(firstSuspects(m_session->assessment()));
    m_effect->setText(with);
    const int asked = ++m_asked;
    m_background.run<QString>([without = m_session->without(id)] { return firstSuspects(without()); },
                              [this, asked, with](const QString& without) {
                                  m_answered = asked;
                                  if (asked == m_asked && m_list->currentItem())
                                      m_effect->setText(tr("%1\nWithout: %2").arg(with, without));
                              });
}

void TrailPanel::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    // Words break anew at another width, once the list has it.
    if (event->size().width() != event->oldSize().width())
        QMetaObject::invokeMethod(
            m_list, [list = m_list] { list->doItemsLayout(); }, Qt::QueuedConnection);
}

} // namespace ustor
