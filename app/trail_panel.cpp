#include "app/trail_panel.h"

#include "app/look.h"

#include <QLabel>
#include <QPainter>
#include <QPushButton>
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
        const int width = std::max(120, option.widget ? option.widget->width() - 52 : 200);
        const QFontMetrics metrics(Look::text());
        const QRect text =
            metrics.boundingRect(QRect(0, 0, width, 1000), Qt::TextWordWrap, index.data().toString());
        return {width, text.height() + QFontMetrics(Look::small()).height() + 12};
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
        QRect room = option.rect.adjusted(28, 3, -6, -2);
        painter->setFont(Look::small());
        painter->setPen(look.faint);
        painter->drawText(room, Qt::AlignLeft | Qt::AlignTop, index.data(StageWord).toString());
        room.setTop(room.top() + painter->fontMetrics().height() + 1);
        QFont font = chosen ? Look::bold(Look::text()) : Look::text();
        font.setStrikeOut(struck);
        painter->setFont(font);
        painter->setPen(struck ? look.faint : look.ink);
        painter->drawText(room, Qt::TextWordWrap | Qt::AlignLeft | Qt::AlignTop, index.data().toString());
        painter->restore();
    }
};

QString firstSuspects(const Assessment& a) {
    QString text;
    int shown = 0;
    for (const Suspect& s : a.suspects) {
        constexpr int most = 3;
        if (s.part < 0 || shown++ >= most) continue;
        text += (text.isEmpty() ? "" : ", ") +
                QString("%1 %2 %")
                    .arg(QString::fromStdString(a.state.board.parts[s.part].designator))
                    .arg(std::lround(100 * s.odds));
    }
    return text.isEmpty() ? QObject::tr("no suspects") : text;
}

} // namespace

TrailPanel::TrailPanel(QWidget* parent)
    : QWidget(parent), m_list(new QListWidget), m_effect(new QLabel),
      m_strike(new QPushButton(tr("Strike out"))) {
    auto* title = new QLabel(tr("Trail"));
    title->setFont(Look::bold(Look::text()));
    m_list->setItemDelegate(new Knot(m_list));
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
    if (session) connect(session, &CaseSession::changed, this, &TrailPanel::fill);
    fill();
}

void TrailPanel::fill() {
    const QSignalBlocker quiet(m_list);
    m_list->setCurrentItem(nullptr);
    m_list->clearSelection();
    m_effect->clear();
    m_strike->hide();
    // Rows that say the same stay as they are: a long trail is not made anew for each fact.
    int row = 0;
    if (m_session)
        for (const Fact& fact : m_session->facts())
            if (!std::holds_alternative<Struck>(fact.body)) fillRow(row++, fact);
    while (m_list->count() > row)
        delete m_list->takeItem(row);
    m_list->scrollToBottom();
}

void TrailPanel::fillRow(int row, const Fact& fact) {
    if (row == m_list->count()) m_list->addItem(new QListWidgetItem);
    QListWidgetItem* item = m_list->item(row);
    const auto put = [&](int role, const QVariant& value) {
        if (item->data(role) != value) item->setData(role, value);
    };
    put(Qt::DisplayRole, QString::fromStdString(sentenceOn(m_session->board(), fact.body)));
    put(Id, static_cast<qlonglong>(fact.id));
    put(StageWord, QString::fromStdString(std::string(wordOf(stageOf(fact.body)))));
    put(StruckOut, isStruck(m_session->facts(), fact.id));
}

void TrailPanel::explain() {
    const auto* item = m_list->currentItem();
    m_strike->setVisible(item != nullptr);
    if (!item || !m_session) return m_effect->clear();
    const bool struck = item->data(StruckOut).toBool();
    m_strike->setText(struck ? tr("Bring back") : tr("Strike out"));
    const long id = item->data(Id).toLongLong();
    m_effect->setText(
        struck ? tr("Struck out: it does not count.")
               : tr("With it: %1\nWithout: %2")
                     .arg(firstSuspects(m_session->assessment()), firstSuspects(m_session->without(id))));
}

} // namespace ustor
