#include "app/cases_page.h"

#include "app/case_list.h"
#include "app/look.h"
#include "app/words.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <utility>

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
        line(bold, look.ink, index.data(CaseList::StatusRole).toString(), Qt::AlignRight);
        room.setTop(room.top() + QFontMetrics(bold).height() + 1);
        line(Look::small(), look.faint, index.data(CaseList::BoardRole).toString(), Qt::AlignLeft);
        room.setTop(room.top() + QFontMetrics(Look::small()).height() + 3);
        line(Look::text(), look.ink, index.data(CaseList::ComplaintRole).toString(), Qt::AlignLeft);
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
      m_list(new QListView), m_found(new CaseList(this)), m_said(new QLabel), m_empty(new QLabel),
      m_reading(new QLabel) {
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
    m_list->setModel(m_found);
    m_list->setUniformItemSizes(true); // of ten thousand none is measured that is not seen
    m_reading->setFont(Look::small());
    m_reading->setObjectName("casesReading");
    m_reading->hide();
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
    column->addWidget(m_reading);
    column->addWidget(m_list, 1);
    column->addWidget(benchTitle);
    column->addLayout(bench);

    connect(m_search, &QLineEdit::textChanged, this, &CasesPage::refill);
    connect(m_list, &QListView::activated, this,
            [this](const QModelIndex& row) { emit openWanted(row.data(CaseList::FolderRole).toString()); });
    connect(fresh, &QPushButton::clicked, this, &CasesPage::chooseFiles);
    connect(taken, &QPushButton::clicked, this, &CasesPage::chooseCase);
    connect(demo, &QPushButton::clicked, this, &CasesPage::demoWanted);
}

CasesPage::~CasesPage() {
    m_stop = true;
}

void CasesPage::showEvent(QShowEvent*) {
    if (!m_book.trouble().empty()) say(text(m_book.trouble()));
    refill();
    readFolders();
}

/// What lies in the folder and is not in the index, or has changed since, is read in the background and shown
/// as it comes.
void CasesPage::readFolders() {
    if (m_reads) return;
    const auto known = m_book.known();
    if (!known) return say(text(known.error()));
    m_reads = true;
    m_taken = 0;
    m_background.run<std::vector<std::filesystem::path>>(
        [this, folder = m_book.folder(), before = known.value()] {
            constexpr std::size_t together = 200;
            std::vector<CaseSummary> fresh;
            const auto give = [this, &fresh] {
                m_background.tell([this, all = std::exchange(fresh, {})] { take(all); });
            };
            auto gone = scanCases(
                folder, before,
                [&](CaseSummary summary) {
                    fresh.push_back(std::move(summary));
                    if (fresh.size() == together) give();
                },
                [this] { return !m_stop; });
            give();
            return gone;
        },
        [this](const std::vector<std::filesystem::path>& gone) {
            m_reads = false;
            m_reading->hide();
            if (const auto dropped = m_book.drop(gone); !dropped) say(text(dropped.error()));
            if (m_taken > 0 || !gone.empty()) refill();
        });
}

void CasesPage::take(const std::vector<CaseSummary>& fresh) {
    if (fresh.empty()) return;
    if (const auto noted = m_book.note(fresh); !noted) say(text(noted.error()));
    m_taken += static_cast<int>(fresh.size());
    m_reading->setText(tr("Cases are read that are new here: %1 so far.").arg(m_taken));
    m_reading->show();
    constexpr int often_ms = 1000;
    if (!m_sinceFilled.isValid() || m_sinceFilled.elapsed() > often_ms) refill();
}

void CasesPage::refill() {
    auto found = m_book.find(m_search->text().toStdString());
    if (!found) return say(text(found.error()));
    const bool none = found.value().empty(), searched = !m_search->text().isEmpty();
    const QString chosen = m_list->currentIndex().data(CaseList::FolderRole).toString();
    m_found->show(std::move(found.value()));
    m_sinceFilled.start();
    for (int row = 0; !chosen.isEmpty() && row < m_found->rowCount(); ++row)
        if (const auto at = m_found->index(row); at.data(CaseList::FolderRole) == chosen) {
            m_list->setCurrentIndex(at);
            break;
        }
    m_empty->setVisible(none && !searched);
    if (none && searched)
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
            wrong = text(parsed.error());
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
