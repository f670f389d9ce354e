#include "app/cases_page.h"

#include "app/look.h"

#include <QDateTime>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

namespace ustor {
namespace {

QLineEdit* addressLine(const char* key, const QString& name, const QString& tip) {
    auto* line = new QLineEdit(QSettings().value(QString("bench/") + key).toString());
    line->setPlaceholderText(name);
    line->setToolTip(tip);
    line->setAccessibleName(name);
    QObject::connect(line, &QLineEdit::editingFinished, line,
                     [line, key] { QSettings().setValue(QString("bench/") + key, line->text()); });
    return line;
}

QString instrumentTip() {
    return QObject::tr("HOST:PORT, serial:DEVICE@BAUD or usbtmc:DEVICE, then ; profile=FILE ; channel=N");
}

enum Role { FolderRole = Qt::UserRole, StatusRole, BoardRole, ComplaintRole };

/// One case: its title and how it stands in bold, the board and the time, what the customer said.
class CaseRow : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;

    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {300, 2 * QFontMetrics(Look::text()).height() + QFontMetrics(Look::small()).height() + 20};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Look& look = Look::current();
        painter->save();
        painter->setPen(QPen(option.state & QStyle::State_Selected ? look.ink : look.hair,
                             option.state & QStyle::State_Selected ? 2 : 1));
        painter->setBrush(look.plate);
        painter->drawRect(option.rect.adjusted(1, 1, -2, -2));
        QRect room = option.rect.adjusted(14, 8, -14, -6);
        const auto line = [&](const QFont& font, const QColor& colour, const QString& words, int flags) {
            painter->setFont(font);
            painter->setPen(colour);
            painter->drawText(room, flags | Qt::AlignTop,
                              painter->fontMetrics().elidedText(words, Qt::ElideRight, room.width()));
        };
        const QFont bold = Look::bold(Look::text());
        line(bold, look.ink, index.data().toString(), Qt::AlignLeft);
        line(bold, look.ink, index.data(StatusRole).toString(), Qt::AlignRight);
        room.setTop(room.top() + QFontMetrics(bold).height() + 1);
        line(Look::small(), look.faint, index.data(BoardRole).toString(), Qt::AlignLeft);
        room.setTop(room.top() + QFontMetrics(Look::small()).height() + 3);
        line(Look::text(), look.ink, index.data(ComplaintRole).toString(), Qt::AlignLeft);
        painter->restore();
    }
};

} // namespace

CasesPage::CasesPage(Casebook& book, QWidget* parent)
    : QWidget(parent), m_book(book), m_search(new QLineEdit), m_sketchName(new QLineEdit),
      m_supply(addressLine("supply", tr("supply"), instrumentTip())),
      m_meter(addressLine("meter", tr("meter"), instrumentTip())),
      m_camera(addressLine("camera", tr("camera"),
                           tr("HOST:PORT, v4l2:DEVICE or replay:FOLDER, then ; profile=FILE"))),
      m_list(new QListWidget), m_said(new QLabel), m_empty(new QLabel) {
    setAcceptDrops(true);
    auto* title = new QLabel(tr("Cases"));
    title->setFont(Look::bold(Look::large()));
    m_search->setPlaceholderText(tr("search: board, complaint, part, what was done"));
    m_search->setObjectName("caseSearch");
    m_search->setAccessibleName(tr("Search the casebook"));
    m_list->setObjectName("caseList");
    m_list->setAccessibleName(tr("Cases"));
    m_list->setSpacing(3);
    m_list->setItemDelegate(new CaseRow(m_list));
    m_empty->setWordWrap(true);
    m_empty->setText(tr("No case here yet.\n\nDrop a board's files on this window (a netlist or a pin list, "
                        "a centroid list, Gerber layers and drills, or a board.json) or an exported case, or "
                        "choose them with the "
                        "buttons above. Without any file, type the model and sketch it from photos. "
                        "The demo opens an invented chart plotter with a hidden short on a simulated bench: "
                        "it can be played to its end in five minutes."));
    m_said->setWordWrap(true);
    m_said->setObjectName("casesSaid");
    auto* fresh = new QPushButton(tr("New case from board files ..."));
    fresh->setObjectName("newCase");
    auto* taken = new QPushButton(tr("Import a case ..."));
    taken->setObjectName("importCase");
    auto* demo = new QPushButton(tr("Open the demo"));
    demo->setObjectName("openDemo");
    m_sketchName->setPlaceholderText(tr("model of the board"));
    m_sketchName->setMinimumWidth(220);
    m_sketchName->setObjectName("sketchModel");
    m_sketchName->setAccessibleName(tr("Model of a board to sketch from photos"));
    auto* sketch = new QPushButton(tr("No files: sketch it from photos"));
    sketch->setObjectName("newSketch");
    const auto askSketch = [this] {
        if (m_sketchName->text().trimmed().isEmpty()) {
            m_sketchName->setFocus();
            return say(tr("Which model is it? The sketch is kept under that name, and opened again by it."));
        }
        emit sketchWanted(m_sketchName->text().trimmed());
    };
    connect(sketch, &QPushButton::clicked, this, askSketch);
    connect(m_sketchName, &QLineEdit::returnPressed, this, askSketch);
    auto* sketchRow = new QHBoxLayout;
    sketchRow->addStretch(1);
    sketchRow->addWidget(m_sketchName);
    sketchRow->addWidget(sketch);
    auto* benchTitle =
        new QLabel(tr("Bench for the next case: HOST:PORT, serial:DEVICE@BAUD, usbtmc:DEVICE, v4l2:DEVICE or "
                      "replay:FOLDER; empty where a person types or switches"));
    benchTitle->setFont(Look::small());

    auto* top = new QHBoxLayout;
    top->addWidget(title);
    top->addSpacing(24);
    top->addWidget(m_search, 1);
    top->addSpacing(24);
    top->addWidget(fresh);
    top->addWidget(taken);
    top->addWidget(demo);
    auto* bench = new QHBoxLayout;
    for (QLineEdit* line : {m_supply, m_meter, m_camera})
        bench->addWidget(line);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(24, 18, 24, 12);
    column->addLayout(top);
    column->addLayout(sketchRow);
    column->addWidget(m_said);
    column->addWidget(m_empty);
    column->addWidget(m_list, 1);
    column->addWidget(benchTitle);
    column->addLayout(bench);

    connect(m_search, &QLineEdit::textChanged, this, &CasesPage::refill);
    connect(m_list, &QListWidget::itemActivated, this,
            [this](QListWidgetItem* item) { emit openWanted(item->data(FolderRole).toString()); });
    connect(fresh, &QPushButton::clicked, this, &CasesPage::chooseFiles);
    connect(taken, &QPushButton::clicked, this, &CasesPage::chooseCase);
    connect(demo, &QPushButton::clicked, this, &CasesPage::demoWanted);
}

void CasesPage::showEvent(QShowEvent*) {
    if (const auto refreshed = m_book.refresh(); !refreshed)
        say(QString::fromStdString(refreshed.error().text()));
    else if (!m_book.trouble().empty())
        say(QString::fromStdString(m_book.trouble()));
    refill();
}

void CasesPage::refill() {
    m_list->clear();
    const auto found = m_book.find(m_search->text().toStdString());
    if (!found) return say(QString::fromStdString(found.error().text()));
    for (const CaseEntry& entry : found.value()) {
        const QString when = QDateTime::fromMSecsSinceEpoch(static_cast<qint64>(entry.changed_s * 1000))
                                 .toString("d MMM yyyy, HH:mm");
        auto* item = new QListWidgetItem(QString::fromStdString(entry.title));
        item->setData(FolderRole, QString::fromStdString(entry.folder.string()));
        item->setData(StatusRole, QString::fromStdString(
                                      entry.status + (entry.culprit.empty() ? "" : ": " + entry.culprit)));
        item->setData(BoardRole, QString::fromStdString(entry.board) + ", " + when);
        item->setData(ComplaintRole, QString::fromStdString(entry.complaint));
        item->setData(Qt::AccessibleTextRole, item->text() + ", " + item->data(StatusRole).toString() + ", " +
                                                  item->data(BoardRole).toString() + ", " +
                                                  item->data(ComplaintRole).toString());
        m_list->addItem(item);
    }
    m_empty->setVisible(found.value().empty() && m_search->text().isEmpty());
    if (found.value().empty() && !m_search->text().isEmpty())
        say(tr("Nothing found for \"%1\".").arg(m_search->text()));
    else if (m_said->text().startsWith(tr("Nothing found")))
        say({});
}

void CasesPage::say(const QString& words) {
    m_said->setText(words);
}

BenchAddress CasesPage::typedBench(QString& wrong) const {
    BenchAddress bench;
    const auto read = [&wrong](const QLineEdit* line, InstrumentAddress& address) {
        if (line->text().trimmed().isEmpty()) return;
        const auto parsed = instrumentFromText(line->text());
        if (parsed)
            address = parsed.value();
        else
            wrong = QString::fromStdString(parsed.error().text());
    };
    read(m_supply, bench.supply);
    read(m_meter, bench.meter);
    read(m_camera, bench.camera);
    return bench;
}

void CasesPage::chooseFiles() {
    bringIn(QFileDialog::getOpenFileNames(this, tr("Files of one board")));
}

void CasesPage::chooseCase() {
    bringIn({QFileDialog::getOpenFileName(this, tr("A case that was exported"), {},
                                          tr("Cases (*.ustor-case);;All files (*)"))});
}

/// Files of one board make a new case; each packed case is taken in.
void CasesPage::bringIn(const QStringList& files) {
    QStringList board;
    for (const QString& file : files)
        if (file.endsWith(".ustor-case", Qt::CaseInsensitive))
            emit importWanted(file);
        else if (!file.isEmpty())
            board << file;
    if (!board.isEmpty()) emit newWanted(board, QFileInfo(board.first()).baseName());
}

void CasesPage::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void CasesPage::dropEvent(QDropEvent* event) {
    QStringList files;
    for (const QUrl& url : event->mimeData()->urls())
        if (url.isLocalFile()) files << url.toLocalFile();
    bringIn(files);
}

} // namespace ustor
