#include "app/log_window.h"
#include "app/look.h"
#include "app/main_window.h"
#include "app/next_panel.h"
#include "app/plate/plate_view.h"
#include "app/suspect_list.h"
#include "app/trail_panel.h"
#include "app/workbench.h"
#include "rail/stretch.h"
#include "session/log.h"
#include "support/boards.h"
#include "support/fake_instrument.h"
#include "support/wait.h"
#include "ui/test_ui.h"

#include <QApplication>
#include <QComboBox>
#include <QFile>
#include <QFontInfo>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

struct Window {
    QTemporaryDir folder;
    MainWindow window{std::move(Casebook::open(folder.path().toStdString()).value())};
    Window() {
        window.show();
        window.activateWindow(); // shortcuts belong to the active window
        static_cast<void>(QTest::qWaitForWindowActive(&window));
    }
    void openBoard(const QString& stem = "greenhouse-controller") {
        const QString path = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/" + stem;
        window.openNew({path + ".356", path + ".centroid.csv"}, stem);
    }
    template <class T> T* child(const char* name) const { return window.findChild<T*>(name); }
    void type(const QString& place, const QString& kind, const QString& value) {
        child<QLineEdit>("entryPlace")->setText(place);
        child<QComboBox>("entryKind")->setCurrentText(kind);
        auto* line = child<QLineEdit>("entryValue");
        line->setText(value);
        QTest::keyClick(line, Qt::Key_Return);
    }
    const CaseSession& session() const { return *window.workbench().session(); }
};

/// WCAG 2.1 contrast ratio of two colours.
double contrast(const QColor& a, const QColor& b) {
    const auto luminance = [](const QColor& c) {
        const auto linear = [](double v) {
            return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
        };
        return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
    };
    const double la = luminance(a), lb = luminance(b);
    return (std::max(la, lb) + 0.05) / (std::min(la, lb) + 0.05);
}

} // namespace

void TestWindow::emptyStartSaysWhatToDo() {
    const Window w;
    QString words;
    for (const QLabel* label : w.window.findChildren<QLabel*>())
        if (label->isVisible()) words += label->text();
    QVERIFY(words.contains("Drop a board's files"));
    QVERIFY(w.child<QPushButton>("openDemo")->isVisible());
    QVERIFY(w.child<QAbstractButton>("outputOff")->isVisible());
}

void TestWindow::badFilesAreToldAndNothingIsLost() {
    Window w;
    QFile file(w.folder.filePath("bad.356"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("this is no netlist");
    file.close();
    w.window.openNew({file.fileName()}, "bad");
    const QString said = w.child<QLabel>("casesSaid")->text();
    QVERIFY2(said.contains("cannot be opened") && said.contains("bad.356"), qPrintable(said));
    QVERIFY(!w.window.workbench().session());
    w.window.openFolder(w.folder.filePath("nowhere"));
    QVERIFY(w.child<QLabel>("casesSaid")->text().contains("not a case"));
}

void TestWindow::readingsAreTypedAndTakenBack() {
    Window w;
    w.openBoard();
    QVERIFY(w.window.workbench().session());
    w.type("L2.2", "ohms", "0,31");
    QCOMPARE(w.session().facts().size(), std::size_t(1));
    QVERIFY(!w.session().assessment().down.nets.empty());
    QVERIFY(w.child<QLabel>("rails")->text().contains("short"));
    QTest::keyClick(&w.window.workbench().board(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(w.session().assessment().down.nets.empty());
    w.window.workbench().redo();
    QVERIFY(!w.session().assessment().down.nets.empty());
    w.type("L2.1 L2.2", "ohms", "20m");
    QCOMPARE(std::get<ReadingTaken>(w.session().facts().back().body).against, std::string("L2.2"));
    w.type("", "complaint", "no valve opens");
    QCOMPARE(w.session().assessment().state.complaint, std::string("no valve opens"));
    QCOMPARE(w.child<QComboBox>("entryKind")->currentText(), QString("ohms")); // readings come next
    w.type("C10", "seen", "cracked");
    w.type("", "plug-in V A", "24 0.02");
    QCOMPARE(w.session().assessment().state.source()->amps, 0.02);
    QCOMPARE(w.session().assessment().state.seen.at("C10").damage, Damage::Cracked);
}

// A move that reads from pad to pad, or volts, sets place and mode: without a meter it waits to be typed so.
void TestWindow::movesSetPlaceAndMode() {
    Window w;
    w.openBoard("chart-plotter");
    for (const auto& [place, kind, value] : {std::tuple{"", "complaint", "dead"},
                                             {"", "plug-in V A", "12 0.3 none"},
                                             {"C1.1", "ohms", "40"},
                                             {"C9.1", "ohms", "40"},
                                             {"C17.1", "ohms", "700"}})
        w.type(place, kind, value);
    const auto& moves = w.session().assessment().next;
    const auto across = std::find_if(moves.begin(), moves.end(), [](const NextMove& move) {
        return move.kind == MoveKind::MeasureAcross;
    });
    QVERIFY(across != moves.end());
    const QString places = QString::fromStdString(across->place + " " + across->against);
    NextMove chosen(*across);
    emit w.child<NextPanel>("nextPanel")->wanted(chosen);
    QCOMPARE(w.child<QLineEdit>("entryPlace")->text(), places);
    const std::size_t before = w.session().facts().size();
    auto* line = w.child<QLineEdit>("entryValue");
    line->setText("0.1");
    QTest::keyClick(line, Qt::Key_Return);
    QCOMPARE(w.session().facts().size(), before + 1);
    const auto& taken = std::get<ReadingTaken>(w.session().facts().back().body);
    QCOMPARE(QString::fromStdString(taken.place + " " + taken.against), places);
    NextMove volts;
    volts.kind = MoveKind::ReadVolts;
    volts.place = "C9.1";
    volts.mode = MeterMode::Volts;
    emit w.child<NextPanel>("nextPanel")->wanted(volts);
    QCOMPARE(w.child<QComboBox>("entryKind")->currentData().toString(), QString("volts"));
}

// Every kind of fact of the trade can be typed in the window, and what counts for nothing is said.
void TestWindow::factsOfTheTradeAreTyped() {
    Window w;
    w.openBoard("chart-plotter");
    for (const auto& [place, kind, value] : {std::tuple{"", "history", "liquid lemonade"},
                                             {"J1", "negotiation", "20 5"},
                                             {"", "power-up trace", "0 12 0.02; 1 12 0.5"},
                                             {"C3.1", "damage of the board", "corrosion"},
                                             {"C3", "spark, smoke, pop", "spark"},
                                             {"C3", "warmth without the camera", "alcohol VMAIN_12V"},
                                             {"C1.1", "supply shows V A", "0.5 2"},
                                             {"", "leads alone", "meter 0.2"},
                                             {"", "board warm or cool", "cool"},
                                             {"C1.1", "a good board reads", "ohms 4k"},
                                             {"C3", "part off the board", "ohms 0.2"},
                                             {"C1.1", "copper and solder", "bridge-opened"},
                                             {"Q2", "fails again", ""},
                                             {"", "what the job pays", "100 0 50"},
                                             {"C1.1", "ohms", "0.3 powered"}}) {
        const std::size_t before = w.session().facts().size();
        w.type(place, kind, value);
        QVERIFY2(w.session().facts().size() == before + 1, kind);
    }
    QVERIFY(w.child<QLabel>("rails")->text().contains("with the power on"));
    for (int i = 0; i < 15; ++i)
        QTest::keyClick(&w.window.workbench().board(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(w.session().assessment().setAside.empty());
    QVERIFY(w.session().assessment().state.readings.empty());
}

void TestWindow::nextTellsWhatALiftTaughtAndWhatASchoolCosts() {
    Window w;
    w.openBoard();
    const auto* taught = w.child<QLabel>("learnt");
    w.type("C10.1", "ohms", "0.3");
    QVERIFY(taught->text().isEmpty());
    w.type("C10", "lifted", "");
    w.type("C10.1", "ohms", "0.3");
    QVERIFY2(taught->text().contains("C10 from") && taught->text().contains("to 0 %"),
             qPrintable(taught->text()));
    w.type("", "what comes first", "nonsense");
    QCOMPARE(w.session().facts().size(), std::size_t{3});
    w.type("", "what comes first", "eyes");
    const NextMove* first = w.window.findChild<NextPanel*>()->shown();
    QVERIFY(first && first->kind == MoveKind::LookOver);
    QVERIFY2(first->reason.text().find("you wanted first") != std::string::npos,
             first->reason.text().c_str());
    for (int i = 0; i < 3; ++i)
        QTest::keyClick(&w.window.workbench().board(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(taught->text().isEmpty());
}

// A full screen of 1920 by 1080 at 200 %: the button that switches off, and all else, is on it in every view.
void TestWindow::everyViewFitsASmallScreen() {
    Window w;
    constexpr QSize small(960, 540);
    w.openBoard();
    w.type("C10.1", "ohms", "0.2");
    for (const Qt::Key view : {Qt::Key_F1, Qt::Key_F2, Qt::Key_F3, Qt::Key_F4, Qt::Key_F5, Qt::Key_F6}) {
        QTest::keyClick(&w.window, view);
        w.window.resize(small);
        QApplication::processEvents();
        QVERIFY2(w.window.width() <= small.width() && w.window.height() <= small.height(),
                 qPrintable(QString("F%1: %2 x %3")
                                .arg(view - Qt::Key_F1 + 1)
                                .arg(w.window.width())
                                .arg(w.window.height())));
    }
}

// On a small screen nothing is cut: the window fits it, and the keys bring every suspect into view, the one
// that is off and guilty among them.
void TestWindow::everySuspectIsReachedOnASmallScreen() {
    Window w;
    constexpr QSize small(1280, 720);
    w.window.resize(small);
    w.openBoard();
    w.type("C10.1", "ohms", "0.2");
    const Board& board = w.session().board();
    const BoardPoint at = board.parts[static_cast<std::size_t>(board.findPart("C12"))].centre;
    w.type("", "seen by the camera", QString("+12V top point %1 %2").arg(at.x_mm).arg(at.y_mm));
    w.type("C12", "lifted", "");
    w.type("C10.1", "ohms", "3");
    QApplication::processEvents();
    QCOMPARE(w.window.size(), small);
    auto* list = w.window.findChild<SuspectList*>();
    QVERIFY(list->accessibleDescription().contains("C12 100 %"));
    QRect row;
    connect(list, &SuspectList::opened, this, [&row](const QRect& opened) { row = opened; });
    QSet<int> reached;
    list->setFocus();
    constexpr int more = 40;
    for (int i = 0; i < more; ++i) {
        QTest::keyClick(list, Qt::Key_Down);
        QApplication::processEvents();
        QVERIFY2(list->visibleRegion().contains(QPoint(20, row.top() + 5)), qPrintable(QString::number(i)));
        reached.insert(row.top());
    }
    constexpr int likely = 7; // rows, and the guilty one
    QCOMPARE(reached.size(), likely + 1);
}

void TestWindow::wrongEntriesAreToldAndKept() {
    Window w;
    w.openBoard();
    for (const auto& [place, kind, value] : {std::tuple{"L2.2", "ohms", "lots"},
                                             {"", "ohms", "5"},
                                             {"Q1.1 Q1.2 Q1.3", "ohms", "5"},
                                             {"", "plug-in V A", "5"},
                                             {"", "note", ""}}) {
        w.type(place, kind, value);
        QVERIFY2(w.session().facts().empty(), value);
        QCOMPARE(w.child<QLineEdit>("entryValue")->text(),
                 QString(value)); // what was typed stays to be mended
    }
}

void TestWindow::caseIsFoundAgain() {
    Window w;
    w.openBoard();
    w.type("", "note", "smells of seaweed");
    const QString path = QString::fromStdString(w.session().folder().path.string());
    w.window.showCases();
    auto* search = w.child<QLineEdit>("caseSearch");
    auto* list = w.child<QListView>("caseList");
    search->setText("lighthouse");
    QCOMPARE(list->model()->rowCount(), 0);
    search->setText("seaweed");
    QCOMPARE(list->model()->rowCount(), 1);
    w.window.openFolder(path);
    QCOMPARE(w.session().facts().size(), std::size_t(1));
}

void TestWindow::boardCanBeWalkedByKeyboard() {
    Window w;
    w.openBoard();
    PlateView& board = w.window.workbench().board();
    board.setFocus();
    const QPointF before = board.toView({40, 30});
    QTest::keyClick(&board, Qt::Key_Right);
    QVERIFY(board.toView({40, 30}).x() < before.x());
    QTest::keyClick(&board, Qt::Key_Plus);
    QTest::keyClick(&board, Qt::Key_0);
    QVERIFY((board.toView({40, 30}) - before).manhattanLength() < 1e-6);
    QTest::keyClick(&board, Qt::Key_F);
    QCOMPARE(board.side(), Side::Bottom);
    QVERIFY(board.find("u1"));
    QCOMPARE(board.side(), Side::Top);
    QCOMPARE(board.selected(), std::string("U1"));
    QVERIFY(board.find("+12V"));
    QVERIFY(!board.find("nothing of that name"));
    // What is shown where is also where it is clicked.
    const BoardPoint there = board.toBoard(board.toView({12.5, 34.5}));
    QVERIFY(std::fabs(there.x_mm - 12.5) < 1e-9 && std::fabs(there.y_mm - 34.5) < 1e-9);
}

void TestWindow::kindAndVoltageAreCorrected() {
    Window w;
    w.openBoard();
    auto* find = w.child<QLineEdit>("find");
    find->setText("U6");
    QTest::keyClick(find, Qt::Key_Return);
    auto* kind = w.child<QPushButton>("partClass");
    QVERIFY(kind->isVisible());
    const PartIndex u6 = w.session().board().findPart("U6");
    QCOMPARE(kind->text().toStdString(), labelOf(w.session().board().parts[u6].partClass).text());
    const PartClass before = w.session().board().parts[u6].partClass;
    for (QAction* action : kind->menu()->actions())
        if (action->text() == "processor") kind->menu()->setActiveAction(action);
    QTest::keyClick(kind->menu(), Qt::Key_Return);
    QCOMPARE(kind->text(), QString("processor"));
    QVERIFY(w.session().assessment().state.board.parts[u6].partClass == PartClass::Processor);
    QVERIFY(w.session().board().parts[u6].partClass == before); // the file's own word stays
    find->setText("+12V");
    QTest::keyClick(find, Qt::Key_Return);
    QVERIFY(!kind->isVisible());
    auto* volts = w.child<QLineEdit>("workingVolts");
    QVERIFY(volts->isVisible());
    const std::size_t facts = w.session().facts().size();
    for (const char* wrong : {"twelve", "-3", "0", "230000"}) {
        volts->setText(wrong);
        QTest::keyClick(volts, Qt::Key_Return);
        QCOMPARE(w.session().facts().size(), facts);
    }
    volts->setText("13V8");
    QTest::keyClick(volts, Qt::Key_Return);
    const Board& board = w.session().assessment().state.board;
    QCOMPARE(board.nets[board.findNet("+12V")].nominal->value, 13.8);
    w.window.workbench().undo();
    const Board& undone = w.session().assessment().state.board;
    QVERIFY(undone.nets[undone.findNet("+12V")].nominal->value != 13.8);
}

void TestWindow::markedPartTakesWhatWasDone() {
    Window w;
    w.openBoard();
    w.type("L2.2", "ohms", "0.3");
    QVERIFY(w.window.workbench().board().find("C10"));
    const auto click = [&](const char* name) {
        auto* button = w.child<QPushButton>(name);
        QVERIFY2(button->isVisible(), name);
        QTest::mouseClick(button, Qt::LeftButton);
    };
    click("liftMarked");
    QVERIFY(w.session().assessment().state.lifted.contains("C10"));
    click("aloneFine");
    QVERIFY(!w.session().assessment().state.measured.at("C10").shorted);
    click("putBackMarked");
    QVERIFY(w.session().assessment().state.lifted.empty());
    QVERIFY(w.session().assessment().state.replaced.empty());
    click("liftMarked");
    click("fitNewMarked");
    QVERIFY(w.session().assessment().state.replaced.contains("C10"));
    // Another rail can be hunted than the one that reads lowest.
    const Stretch& down = w.session().assessment().down;
    const Board& board = w.session().board();
    for (const NetIndex net : powerNets(board))
        if (!down.holds(net)) {
            QVERIFY(w.window.workbench().board().find(QString::fromStdString(board.nets[net].name)));
            click("huntHere");
            QVERIFY(w.session().assessment().down.holds(net));
            return;
        }
    QFAIL("the board has one rail only");
}

void TestWindow::caseTravelsInOneFile() {
    Window here, there;
    here.openBoard();
    here.type("L2.2", "ohms", "0.31");
    here.type("", "note", "for the bench next door");
    const QString file = here.folder.filePath("moved.ustor-case");
    const auto words = [](const Window& w, const char* label) { return w.child<QLabel>(label)->text(); };
    here.window.exportTo(file); // in the background: facts can be typed meanwhile
    here.type("", "note", "written while it is packed");
    QVERIFY(testing::waitUntil([&] { return words(here, "words").contains("Exported"); }));
    there.window.importFile(file);
    QVERIFY(testing::waitUntil([&] { return there.window.workbench().session() != nullptr; }));
    QVERIFY(there.session().facts().size() >= 2); // the third was in time, or not
    QCOMPARE(there.session().board().parts.size(), here.session().board().parts.size());
    QVERIFY(there.session().folder().path != here.session().folder().path);
    there.window.showCases();
    here.window.importFile(here.folder.filePath("nowhere.ustor-case"));
    QVERIFY(testing::waitUntil([&] { return words(here, "casesSaid").contains("cannot be opened"); }));
    here.window.exportTo(here.folder.filePath("no/such/place.ustor-case"));
    QVERIFY(testing::waitUntil([&] { return words(here, "words").contains("the case is unchanged"); }));
}

// A number that was taken in must not come back by itself: the next Enter would note it at the next place.
void TestWindow::undoInTheEntryTakesTheFactBack() {
    Window w;
    w.openBoard();
    w.type("L2.2", "ohms", "0.31");
    QCOMPARE(w.session().facts().size(), std::size_t(1));
    auto* line = w.child<QLineEdit>("entryValue");
    line->setFocus();
    QTest::keyClick(line, Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(line->text().isEmpty());
    QVERIFY(isStruck(w.session().facts(), 1));
    QTest::keyClick(line, Qt::Key_Return);
    QCOMPARE(activeFacts(w.session().facts()).size(), std::size_t(0));
}

// A key of the flow types a letter in the entry line; Escape leaves the line, what was typed stays in it.
void TestWindow::escapeLeavesTheLine() {
    Window w;
    w.openBoard();
    w.window.workbench().typeReading();
    auto* line = w.child<QLineEdit>("entryValue");
    line->setFocus();
    QTest::keyClicks(line, "4m ");
    QCOMPARE(QApplication::focusWidget(), line);
    QTest::keyClick(line, Qt::Key_Escape);
    QVERIFY(QApplication::focusWidget() && QApplication::focusWidget() != line);
    QCOMPARE(line->text(), QString("4m "));
    // The key of the flow does what stands under Next, and types nothing.
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Space);
    QCOMPARE(line->text(), QString("4m "));
}

void TestWindow::spaceGoesOnFromAnEmptyLine() {
    Window w;
    w.openBoard();
    auto* line = w.child<QLineEdit>("entryValue");
    auto* kind = w.child<QComboBox>("entryKind");
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Space);
    QCOMPARE(kind->currentData().toString(), QString("complaint"));
    QTest::keyClicks(line, "no start");
    QTest::keyClick(line, Qt::Key_Return);
    QVERIFY(testing::waitUntil([&] { return activeFacts(w.session().facts()).size() == 1; }));
    QCOMPARE(QApplication::focusWidget(), line);
    QTest::keyClick(line, Qt::Key_Space);
    QCOMPARE(kind->currentData().toString(), QString("plug-in"));
    QVERIFY(line->text().isEmpty());
}

// Common practice: the first "OL" is a probe that does not touch; only one that is read again is a finding.
void TestWindow::theFirstOpenOfAWiredMeterIsAskedAgain() {
    Window w;
    w.openBoard();
    testing::FakeInstrument meter;
    meter.answer = [](const QString& line) { return line == "*IDN?" ? QString("meter") : QString("9.9E37"); };
    BenchAddress bench;
    bench.meter = InstrumentAddress(meter.address());
    w.window.workbench().connectBench(bench);
    QVERIFY(testing::waitUntil([&] { return w.window.workbench().bench()->meter().isConnected(); }));
    w.type("", "complaint", "dead");
    w.type("", "plug-in V A", "5 0.2");
    const std::size_t before = w.session().facts().size();
    const auto press = [&] { w.window.workbench().doNext(); };
    // A caution stands before the first measurement; it is met by a press of its own.
    while (w.window.workbench().next().cautionShown())
        press();
    const auto readings = [&] { return w.session().assessment().state.readings.size(); };
    press();
    QVERIFY2(testing::waitUntil([&] { return w.window.workbench().asksAgain(); }),
             w.session().assessment().next.front().sentence.text().c_str());
    QCOMPARE(readings(), std::size_t(0));
    press();
    QVERIFY(testing::waitUntil([&] { return readings() == 1; }));
    QCOMPARE(w.session().assessment().state.readings.front().taken.reading.state, ReadingState::OverRange);
    QVERIFY(w.session().facts().size() > before);
}

// Open in another window, or not to be written: it can be looked at, and says so at each wish to change it.
void TestWindow::aCaseOpenElsewhereIsLookedAt() {
    Window w;
    w.openBoard();
    w.type("L2.2", "ohms", "0.31");
    const QString path = QString::fromStdString(w.session().folder().path.string());
    Window other;
    other.window.openFolder(path);
    QVERIFY(other.window.workbench().session());
    QVERIFY(!other.session().takesFacts());
    QCOMPARE(other.session().facts().size(), std::size_t(1));
    const auto said = [&] {
        QString all;
        for (const QLabel* label : other.window.findChildren<QLabel*>())
            if (label->isVisible()) all += label->text() + " ";
        return all;
    };
    QVERIFY2(said().contains("Only to look at"), qPrintable(said()));
    other.type("L2.2", "ohms", "900");
    QCOMPARE(other.session().facts().size(), std::size_t(1));
    QVERIFY2(said().contains("opened to be looked at"), qPrintable(said()));
    // Whoever has it writes on.
    w.type("L2.2", "ohms", "0.33");
    QCOMPARE(w.session().facts().size(), std::size_t(2));
}

// A trail of thousands shows the newest, says how many stand before, and brings them.
void TestWindow::aLongTrailBringsItsEarlierFacts() {
    Window w;
    w.openBoard();
    std::vector<FactBody> many;
    for (int i = 0; i < 1000; ++i)
        many.emplace_back(Noted{"note " + std::to_string(i)});
    QVERIFY(w.window.workbench().session()->add(many).ok());
    auto* list = w.window.findChild<TrailPanel*>()->findChild<QListWidget*>();
    QVERIFY(list->count() < 1000);
    QCOMPARE(list->item(list->count() - 1)->text(), QString("note 999"));
    QVERIFY2(list->item(0)->text().contains("earlier facts"), qPrintable(list->item(0)->text()));
    for (int round = 0; round < 10 && list->item(0)->text().contains("earlier facts"); ++round)
        list->setCurrentRow(0);
    QCOMPARE(list->count(), 1000);
    QCOMPARE(list->item(0)->text(), QString("note 0"));
    // Struck from there, it is struck.
    list->setCurrentRow(0);
    w.child<QPushButton>("strike")->click();
    QVERIFY(isStruck(w.session().facts(), 1));
}

// WCAG 2.1, 1.4.3: text at least 4.5 : 1, by day and by night.
void TestWindow::textIsReadable() {
    for (const bool night : {false, true}) {
        Look::setNight(*qApp, night);
        const Look& look = Look::current();
        for (const QColor& ground : {look.paper, look.plate}) {
            QVERIFY(contrast(look.ink, ground) >= 4.5);
            QVERIFY(contrast(look.faint, ground) >= 4.5);
        }
        QVERIFY(contrast(look.emberText, look.ember) >= 4.5);
    }
    Look::setNight(*qApp, false);
}

void TestWindow::figuresAreTabular() {
    for (const QFont& font : {Look::small(), Look::text(), Look::large(), Look::bold(Look::text())}) {
        QCOMPARE(QFontInfo(font).family(), QString("Lato")); // the shipped one, not what the machine has
        const QFontMetricsF metrics(font);
        for (const QChar digit : QString("0123456789"))
            QCOMPARE(metrics.horizontalAdvance(digit), metrics.horizontalAdvance('0'));
    }
}

// What went wrong can be read by a word in the window, without what people typed.
void TestWindow::theLogIsShown() {
    Window w;
    const Log log(w.folder.filePath("state").toStdString());
    w.openBoard();
    w.type("", "note", "mrs x wants it back on monday");
    Log::note(Log::Level::Info, "output: off");
    QTest::mouseClick(w.child<QPushButton>("log"), Qt::LeftButton);
    auto* shown = w.window.findChild<LogWindow*>();
    QVERIFY(shown && shown->isVisible());
    // Lines are written by a thread of their own: those of a moment ago may still be on their way.
    const auto lines = [&] { return Log::newest(100).join("\n"); };
    QVERIFY(testing::waitUntil([&] { return lines().contains("output: off"); }));
    QVERIFY(!lines().contains("monday"));
    QTest::keyClick(shown, Qt::Key_Escape);
    QVERIFY(!w.window.findChild<LogWindow*>() || !w.window.findChild<LogWindow*>()->isVisible());
}
