#include "app/main_window.h"

#include "app/alarm_page.h"
#include "app/align/align_page.h"
#include "app/cases_page.h"
#include "app/log_window.h"
#include "app/look.h"
#include "app/output_off.h"
#include "app/pages.h"
#include "app/plate/plate_view.h"
#include "app/sketch/sketch_page.h"
#include "app/strip.h"
#include "app/survey_panel.h"
#include "app/words.h"
#include "app/workbench.h"
#include "session/good_board.h"
#include "session/practice/demo_case.h"
#include "session/settling.h"
#include "store/case_archive.h"
#include "store/known_good_file.h"
#include "store/work_pace_file.h"

#include <QApplication>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QScreen>
#include <QShortcut>
#include <QVBoxLayout>
#include <algorithm>
#include <utility>

namespace ustor {

MainWindow::MainWindow(std::unique_ptr<Casebook> book, QWidget* parent)
    : QWidget(parent), m_book(std::move(book)), m_cases(new CasesPage(*m_book)), m_workbench(new Workbench),
      m_sketch(new SketchPage), m_align(new AlignPage), m_pages(new Pages), m_front(new Pages),
      m_alarm(new AlarmPage),
      m_settling(new Settling(
          programBeside("ustor-guard"),
          [this] { return m_workbench->bench() ? m_workbench->bench()->supply().guardPid() : 0; }, this)),
      m_off(new OutputOff), m_title(new QLabel), m_words(new QLabel), m_find(new QLineEdit) {
    setWindowTitle("Ustor");
    resize(QSize(1280, 800).boundedTo(screen()->availableSize()));
    layOut();
    addShortcuts();
    connect(m_cases, &CasesPage::openWanted, this, &MainWindow::openFolder);
    connect(m_cases, &CasesPage::newWanted, this, &MainWindow::openNew);
    connect(m_cases, &CasesPage::importWanted, this, &MainWindow::importFile);
    connect(m_cases, &CasesPage::demoWanted, this, [this] { openDemo(); });
    connect(m_cases, &CasesPage::sketchWanted, this, &MainWindow::openSketch);
    connect(m_sketch, &SketchPage::leaveWanted, this, &MainWindow::showCases);
    connect(m_sketch, &SketchPage::caseWanted, this,
            [this](const QString& board, const QString& title) { openNew({board}, title); });
    connect(m_align, &AlignPage::leaveWanted, this, &MainWindow::showCases);
    connect(m_align, &AlignPage::placed, this, [this](const QString& file, BoardPoint shift) {
        m_incoming.shifts[file.toStdString()] = shift;
        openPlaced();
    });
    connect(m_off, &OutputOff::clicked, this, &MainWindow::switchOff);
    connect(m_workbench, &Workbench::outputChanged, this, [this](const OutputShown& shown) {
        m_bench = shown;
        tellOutput();
    });
    constexpr int soon_ms = 1000;
    m_noteSoon.setSingleShot(true);
    m_noteSoon.setInterval(soon_ms);
    connect(&m_noteSoon, &QTimer::timeout, this, &MainWindow::noteInBook);
    connect(m_settling, &Settling::changed, this, &MainWindow::tellOutput);
    connect(m_alarm, &AlarmPage::leadsPulled, this, &MainWindow::noteLeadsPulled);
    connect(&m_workbench->survey(), &SurveyPanel::knownGoodInWanted, this, [this] { chooseKnownGood(true); });
    connect(&m_workbench->survey(), &SurveyPanel::knownGoodOutWanted, this,
            [this] { chooseKnownGood(false); });
    qApp->installEventFilter(this);
    showCases();
}

MainWindow::~MainWindow() {
    qApp->removeEventFilter(this);
    m_workbench->closeCase();
    m_workbench->disconnect(this); // it tells of its end while this one's parts go
}

void MainWindow::layOut() {
    m_title->setFont(Look::bold(Look::text()));
    // A long name of a case is cut where the window is small, and told in full by its tip.
    m_title->setMinimumWidth(80);
    m_title->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    m_find->setPlaceholderText(tr("find part or net (Ctrl+F)"));
    m_find->setMinimumWidth(100);
    m_find->setMaximumWidth(220);
    m_find->setObjectName("find");
    m_find->setAccessibleName(tr("Find a part or a net on the board"));
    const auto word = [this](const QString& text, auto slot) {
        auto* button = new QPushButton(text);
        button->setProperty("plain", true);
        button->setFont(Look::text());
        connect(button, &QPushButton::clicked, this, slot);
        m_caseWords << button;
        return button;
    };
    auto* top = new QHBoxLayout;
    top->setContentsMargins(14, 6, 14, 2);
    top->addWidget(word(tr("All cases"), [this] { showCases(); }));
    top->addSpacing(12);
    top->addWidget(m_title, 2);
    top->addWidget(word(tr("Undo"), [this] { m_workbench->undo(); }));
    top->addWidget(word(tr("Redo"), [this] { m_workbench->redo(); }));
    top->addWidget(word(tr("Turn over"), [this] { m_workbench->board().turnOver(); }));
    top->addWidget(word(tr("Whole board"), [this] { m_workbench->board().fit(); }));
    top->addWidget(word(tr("Report"), [this] { m_workbench->writeReport(); }));
    top->addWidget(word(tr("Export"), [this] { chooseExport(); }));
    top->addWidget(m_find, 1);
    m_caseWords << m_find;
    m_words->setFont(Look::small());
    m_words->setObjectName("words");
    m_words->setText(
        tr("Space: next move     R: type a reading     F: turn over     Ctrl+Z: undo     Esc: output off"));
    auto* log = new QPushButton(tr("Log"));
    log->setProperty("plain", true);
    log->setFont(Look::small());
    log->setObjectName("log");
    log->setToolTip(tr("What the program did, and what went wrong"));
    connect(log, &QPushButton::clicked, this, [this] {
        auto* shown = new LogWindow(this);
        shown->setAttribute(Qt::WA_DeleteOnClose);
        shown->open();
    });
    auto* foot = new QHBoxLayout;
    foot->setContentsMargins(10, 0, 10, 0);
    foot->addWidget(m_workbench->strip(), 1);
    foot->addWidget(m_off);
    m_pages->addWidget(m_cases);
    m_pages->addWidget(m_workbench);
    m_pages->addWidget(m_sketch);
    m_pages->addWidget(m_align);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(6, 6, 6, 6);
    column->setSpacing(2);
    column->addLayout(top);
    m_front->addWidget(m_pages);
    m_front->addWidget(m_alarm);
    column->addWidget(m_front, 1);
    column->addLayout(foot);
    m_words->setContentsMargins(18, 0, 10, 2);
    auto* last = new QHBoxLayout;
    last->setContentsMargins(0, 0, 10, 0);
    last->addWidget(m_words, 1);
    last->addWidget(log);
    column->addLayout(last);
    connect(m_find, &QLineEdit::returnPressed, this, [this] {
        const bool found = m_workbench->board().find(m_find->text());
        m_words->setText(
            found ? tr("%1 is marked on the board.").arg(m_find->text())
                  : tr("There is no part or net called \"%1\" on this board.").arg(m_find->text()));
    });
}

void MainWindow::addShortcuts() {
    const auto key = [this](const QKeySequence& keys, auto slot) {
        connect(new QShortcut(keys, this), &QShortcut::activated, this, [this, slot] {
            if (m_front->currentWidget() != m_alarm) slot();
        });
    };
    const auto sketching = [this] { return m_pages->currentWidget() == m_sketch; };
    key(QKeySequence::Undo, [this, sketching] { sketching() ? m_sketch->undo() : m_workbench->undo(); });
    key(QKeySequence::Redo, [this, sketching] { sketching() ? m_sketch->redo() : m_workbench->redo(); });
    for (int v = Workbench::BenchView; v <= Workbench::HeatMaps; ++v)
        key(QKeySequence(Qt::Key_F1 + v), [this, v] {
            if (m_workbench->session()) m_workbench->showView(static_cast<Workbench::View>(v));
        });
    key(QKeySequence::Find, [this] {
        m_find->setFocus();
        m_find->selectAll();
    });
}

bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() != QEvent::KeyPress && event->type() != QEvent::ShortcutOverride)
        return QWidget::eventFilter(watched, event);
    auto* key = static_cast<QKeyEvent*>(event);
    // Whatever has the focus, whatever dialog is open: Esc switches off, and then does what it does there.
    if (key->key() == Qt::Key_Escape) switchOff();
    if (m_front->currentWidget() == m_alarm) return QWidget::eventFilter(watched, event);
    // And a line of the workbench is left by it: one hand on the keys gets from typing back to the next move.
    if (key->key() == Qt::Key_Escape && event->type() == QEvent::KeyPress &&
        m_pages->currentWidget() == m_workbench && watched == QApplication::focusWidget() &&
        qobject_cast<QLineEdit*>(watched))
        m_workbench->board().setFocus();
    // A line with nothing of its own to take back leaves Ctrl+Z to the case.
    if (const auto* line = qobject_cast<QLineEdit*>(watched);
        line && event->type() == QEvent::ShortcutOverride && key->matches(QKeySequence::Undo) &&
        !line->isUndoAvailable()) {
        event->ignore();
        return true;
    }
    // No entry begins with a blank: in an empty line Space is still the next move.
    const auto* focused = qobject_cast<const QLineEdit*>(QApplication::focusWidget());
    const bool typing = focused && !(key->key() == Qt::Key_Space && focused->text().isEmpty());
    const bool ours = event->type() == QEvent::KeyPress && m_pages->currentWidget() == m_workbench &&
                      !typing && QApplication::activeModalWidget() == nullptr &&
                      key->modifiers() == Qt::NoModifier;
    // A foot pedal types keys: they work wherever the focus is, except where text or the camera's cross takes
    // them.
    const bool ownWindow =
        qobject_cast<QWidget*>(watched) && static_cast<QWidget*>(watched)->window() == this;
    if (ours && ownWindow && watched == QApplication::focusWidget()) {
        const bool crosshair = QApplication::focusWidget()->accessibleName() == tr("Camera picture");
        const bool button = qobject_cast<QPushButton*>(QApplication::focusWidget()) != nullptr;
        if (m_workbench->view() == Workbench::SurveyView) {
            if (key->key() == Qt::Key_S) return m_workbench->survey().skip(), true;
            if (key->key() == Qt::Key_B) return m_workbench->survey().back(), true;
        }
        if (key->key() == Qt::Key_Space && !crosshair && !button) return m_workbench->doNext(), true;
        if (key->key() == Qt::Key_R) return m_workbench->typeReading(), true;
        if (key->key() == Qt::Key_F) return m_workbench->board().turnOver(), true;
    }
    return QWidget::eventFilter(watched, event);
}

void MainWindow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), Look::current().paper);
    if (!m_off->shown().ember()) return;
    painter.setPen(QPen(Look::current().ember, 6));
    painter.drawRect(rect().adjusted(2, 2, -3, -3));
}

void MainWindow::closeEvent(QCloseEvent* event) {
    switchOff();
    noteInBook();
    m_workbench->closeCase();
    QWidget::closeEvent(event);
}

/// The open case's output, and any other that the ledger names. Where it may be on and nobody here can switch
/// it off, that is all there is to say and to do.
void MainWindow::tellOutput() {
    OutputShown shown = m_bench;
    if (!needsHands(shown.state) && needsHands(m_settling->state())) shown.state = m_settling->state();
    m_off->tell(shown);
    const bool alarm = needsHands(shown.state);
    if (alarm) {
        const QString which = needsHands(m_bench.state) && m_workbench->bench()
                                  ? m_workbench->bench()->address().supply.place()
                                  : text(m_settling->words());
        m_alarm->tell(
            shown.state == OutputState::Disobeys
                ? tr("The supply at %1 was told to switch off and still reads as on. It is told again "
                     "and again.")
                      .arg(which)
                : tr("The supply at %1 cannot be read. As soon as it answers it is switched off; until "
                     "it was read as off this stays here.")
                      .arg(which),
            shown.state == OutputState::Unknown);
    }
    if (alarm != (m_front->currentWidget() == m_alarm)) {
        m_front->setCurrentWidget(alarm ? static_cast<QWidget*>(m_alarm) : m_pages);
        if (alarm)
            m_off->setFocus();
        else if (m_pages->currentWidget() == m_workbench)
            m_workbench->board().setFocus();
    }
    for (QWidget* w : std::as_const(m_caseWords))
        w->setEnabled(!alarm);
    m_words->setVisible(!alarm); // its keys do nothing now
    update();
}

void MainWindow::switchOff() {
    m_workbench->switchOff();
    m_settling->switchOff();
}

/// A person's word, noted as such: nothing was read.
void MainWindow::noteLeadsPulled() {
    if (m_workbench->session())
        (void)m_workbench->session()->add(
            Noted{"the supply could not be reached; by a person's word its leads are off the board"});
    if (m_workbench->bench()) m_workbench->bench()->supply().leadsPulled();
    m_settling->leadsPulled();
    tellOutput();
}

/// A fact is on the disk before anything else; the list of cases may hear of it a moment later, of many at
/// once. Should the program end before, the list sees by itself that the case has grown.
void MainWindow::noteSoon() {
    if (!m_noteSoon.isActive()) m_noteSoon.start();
    if (const CaseSession* session = m_workbench->session(); session && session->takesFacts())
        keepWhatIsGood(*session);
}

void MainWindow::noteInBook() {
    m_noteSoon.stop();
    const CaseSession* session = m_workbench->session();
    if (!session || !session->takesFacts()) return;
    const CaseFolder& folder = session->folder();
    if (const auto noted = m_book->note({summaryOf(folder.path, folder.title, session->board().name,
                                                   session->facts(), folder.log->size())});
        !noted)
        m_cases->say(text(noted.error()));
    keepWhatIsGood(*session);
}

/// While it stays open, or closed, there is nothing to tell anew.
void MainWindow::keepWhatIsGood(const CaseSession& session) {
    const std::string stands = goodStandingOf(session), donor = donorOf(session);
    const std::string stood = std::exchange(m_goodOf, stands);
    if (stood == stands) return;
    // Who practises on a simulated bench lifts a part with a key; and an older case was timed when it was
    // closed.
    const bool times = !m_standIn && stood.starts_with(donor + " ");
    m_background.run<Outcome>(
        [book = m_book->folder(), good = goodOf(session), donor, times, timed = timedIn(session)] {
            const Outcome kept = keepKnownGood(book, good, donor);
            return kept && times ? keepPace(book, timed) : kept;
        },
        [this](const Outcome& kept) {
            if (!kept) m_words->setText(text(kept.error()));
        });
}

void MainWindow::showCases() {
    noteInBook();
    m_workbench->closeCase();
    m_standIn.reset();
    m_pages->setCurrentWidget(m_cases);
    m_title->clear();
    for (QWidget* w : std::as_const(m_caseWords))
        w->setVisible(false);
    m_words->setText(tr("Enter opens a case. Esc switches the output off, anywhere."));
    update();
}

void MainWindow::openCase(CaseFolder folder) {
    const QString title = text(folder.title);
    auto session = std::make_unique<CaseSession>(std::move(folder), Knowledge());
    connect(session.get(), &CaseSession::changed, this, &MainWindow::noteSoon, Qt::QueuedConnection);
    m_workbench->open(std::move(session));
    noteInBook();
    askForGood();
    m_title->setText(title);
    m_title->setToolTip(title);
    for (QWidget* w : std::as_const(m_caseWords))
        w->setVisible(true);
    m_words->setText(
        tr("Space: next move     R: type a reading     F: turn over     Ctrl+Z: undo     Esc: output off"));
    m_pages->setCurrentWidget(m_workbench);
    m_workbench->board().setFocus();
}

void MainWindow::openSketch(const QString& name) {
    m_sketch->open(m_book->folder() / "sketches" / fileNameFrom(name.toStdString()), name);
    for (QWidget* w : std::as_const(m_caseWords))
        w->setVisible(false);
    m_pages->setCurrentWidget(m_sketch);
    m_title->setText(tr("Sketch: %1").arg(name));
    m_title->setToolTip(m_title->text());
    m_words->setText(tr("Ctrl+Z: undo     Ctrl+Shift+Z: redo     Esc: output off"));
}

void MainWindow::openFolder(const QString& folder) {
    auto opened = CaseFolder::open(folder.toStdString());
    if (!opened) {
        // In another window, or not to be written: it can be looked at.
        const Message why = opened.error().message();
        opened = CaseFolder::openToRead(folder.toStdString());
        if (!opened) return m_cases->say(text(why));
        opened.value().warnings.push_back(
            say("Only to look at, nothing can be noted: {why}", {{"why", why}}));
        return openCase(std::move(opened.value()));
    }
    openCase(std::move(opened.value()));
    QString wrong;
    const BenchAddress bench = m_cases->typedBench(wrong);
    if (!wrong.isEmpty()) m_words->setText(wrong);
    if (bench.supply.known() || bench.meter.known() || bench.camera.known()) m_workbench->connectBench(bench);
}

void MainWindow::openNew(const QStringList& boardFiles, const QString& title) {
    m_incoming = {{}, title, {}};
    for (const QString& f : boardFiles)
        m_incoming.files.emplace_back(f.toStdString());
    openPlaced();
}

/// Reads what comes in, asks for each file that nothing places, and makes a case of it.
void MainWindow::openPlaced() {
    std::vector<UnplacedFile> unplaced;
    const auto board = readBoardFiles(m_incoming.files, m_incoming.shifts, &unplaced);
    if (!board) {
        showCases();
        return m_cases->say(tr("This board cannot be opened. %1").arg(text(board.error())));
    }
    if (!unplaced.empty() && askWhere(unplaced.front(), unplaced)) return;
    const std::string title = m_incoming.title.toStdString();
    auto made = CaseFolder::create(freeCaseFolder(m_book->folder(), title), title, board.value());
    if (!made) {
        showCases();
        return m_cases->say(text(made.error()));
    }
    const QString folder = text(made.value().path.string());
    made.value().log.reset(); // opened again the ordinary way
    openFolder(folder);
    if (!board.value().warnings.empty())
        m_words->setText(
            tr("%1 warnings while reading the board; the first: %2: %3")
                .arg(board.value().warnings.size())
                .arg(text(board.value().warnings.front().where), text(board.value().warnings.front().what)));
}

/// The board to click on is read without the files in question; false where there is none then.
bool MainWindow::askWhere(const UnplacedFile& file, const std::vector<UnplacedFile>& all) {
    std::vector<std::filesystem::path> rest;
    for (const auto& each : m_incoming.files)
        if (std::none_of(all.begin(), all.end(), [&](const auto& u) { return each.filename() == u.name; }))
            rest.push_back(each);
    const auto board = readBoardFiles(rest, m_incoming.shifts);
    if (!board) return false;
    m_align->ask(board.value(), file);
    for (QWidget* w : std::as_const(m_caseWords))
        w->setVisible(false);
    m_title->clear();
    m_words->setText(tr("Arrows: next place     Enter: choose it     Tab: other side     Esc: output off"));
    m_pages->setCurrentWidget(m_align);
    return true;
}

void MainWindow::importFile(const QString& file) {
    m_cases->say(tr("Unpacking %1 ...").arg(file));
    m_background.run<Result<std::filesystem::path>>(
        [this, from = file.toStdString(), book = m_book->folder(), file] {
            return importCase(from, book, progressOf(tr("Unpacking %1").arg(file)));
        },
        [this](const Result<std::filesystem::path>& folder) {
            if (!folder) return m_cases->say(text(folder.error()));
            m_cases->say({});
            // Who has opened another case meanwhile stays there.
            if (m_pages->currentWidget() == m_cases) openFolder(text(folder.value().string()));
        });
}

/// Whole percents, to the line of words and the page of cases.
Progress MainWindow::progressOf(const QString& what) {
    return [this, what, last = -1](double share) mutable {
        constexpr int percent = 100;
        const int now = static_cast<int>(percent * share);
        if (std::exchange(last, now) == now) return;
        m_background.tell([this, what, now] {
            const QString words = tr("%1: %2 %").arg(what).arg(now);
            m_words->setText(words);
            if (m_pages->currentWidget() == m_cases) m_cases->say(words);
        });
    };
}

void MainWindow::chooseExport() {
    if (!m_workbench->session()) return;
    const QString name = text(m_workbench->session()->folder().path.filename().string());
    const QString file = QFileDialog::getSaveFileName(this, tr("Export the case into one file"),
                                                      name + ".ustor-case", tr("Cases (*.ustor-case)"));
    if (!file.isEmpty()) exportTo(file);
}

void MainWindow::exportTo(const QString& file) {
    m_background.run<Outcome>(
        [this, folder = m_workbench->session()->folder().path, file] {
            return exportCase(folder, file.toStdString(), progressOf(tr("Exporting %1").arg(file)));
        },
        [this, file](const Outcome& written) {
            m_words->setText(written ? tr("Exported: %1").arg(file) : text(written.error()));
        });
}

void MainWindow::chooseKnownGood(bool in) {
    if (!m_workbench->session()) return;
    const QString kinds = tr("Lists of readings (*.csv)");
    const QString file =
        in ? QFileDialog::getOpenFileName(this, tr("Readings of good boards of this model"), {}, kinds)
           : QFileDialog::getSaveFileName(this, tr("Write the readings of good boards of this model"),
                                          text(m_workbench->session()->board().name) + " known good.csv",
                                          kinds);
    if (file.isEmpty()) return;
    in ? takeInKnownGood(file) : giveOutKnownGood(file);
}

void MainWindow::takeInKnownGood(const QString& file) {
    CaseSession* session = m_workbench->session();
    if (!session) return;
    std::vector<Message> warnings;
    const std::string model = session->board().name;
    const auto taken = importKnownGood(m_book->folder(), model, file.toStdString(), warnings);
    if (!taken) return m_words->setText(text(taken.error()));
    m_words->setText(tr("%1 readings of good boards taken in. %2")
                         .arg(taken.value())
                         .arg(warnings.empty() ? QString() : text(warnings.front())));
    askForGood();
}

/// What good boards of the open case's model read, behind whatever is still written of them.
void MainWindow::askForGood() {
    struct Good {
        KnownGoodSet set;
        WorkPace pace;
        std::vector<Message> warnings;
    };
    CaseSession* session = m_workbench->session();
    m_background.run<Good>(
        [book = m_book->folder(), model = session->board().name, donor = donorOf(*session)] {
            Good good;
            good.set = loadKnownGood(book, model, donor, good.warnings);
            good.pace = loadPace(book, donor, good.warnings);
            return good;
        },
        [this, asked = QPointer<CaseSession>(session)](const Good& good) {
            if (!asked || asked != m_workbench->session()) return;
            if (!good.warnings.empty()) m_words->setText(text(good.warnings.front()));
            const Knowledge& known = asked->knowledge();
            if (!(good.set.readings == known.knownGood.readings) || !(good.pace == known.pace))
                asked->setKnown(good.set, good.pace);
        });
}

void MainWindow::giveOutKnownGood(const QString& file) {
    if (!m_workbench->session()) return;
    const auto given =
        exportKnownGood(m_book->folder(), m_workbench->session()->board().name, file.toStdString());
    m_words->setText(given ? tr("%1 readings written: %2").arg(given.value()).arg(file)
                           : text(given.error()));
}

void MainWindow::openDemo(double speed) {
    const auto scenario = demoScenario();
    if (!scenario) return m_cases->say(text(scenario.error()));
    auto folder = makeDemoCase(scenario.value(), m_book->folder());
    if (!folder) return m_cases->say(text(folder.error()));
    openCase(std::move(folder.value()));
    m_standIn = std::make_unique<StandInProcess>();
    m_standIn->start(programBeside("ustor-standin"), scenario.value().standInArguments(speed),
                     [this](const Outcome& started) {
                         if (started) return m_workbench->connectBench(m_standIn->address());
                         m_words->setText(
                             tr("The simulated bench did not start: %1").arg(text(started.error())));
                     });
}

} // namespace ustor
