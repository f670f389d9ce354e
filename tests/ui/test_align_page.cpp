#include "app/align/align_canvas.h"
#include "app/align/align_page.h"
#include "app/main_window.h"
#include "app/plate/plate_view.h"
#include "app/workbench.h"
#include "ui/test_ui.h"

#include <QFile>
#include <QLabel>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTest>

using namespace ustor;

namespace {

/// A pin list, a layer in its frame, and two holes from another origin: too few to tell the shift.
struct Incoming {
    QTemporaryDir folder;
    MainWindow window{std::move(Casebook::open(folder.path().toStdString()).value())};
    QStringList files;
    Incoming() {
        write("pins.csv", "part,pin,net,x,y,side\nR1,1,IN,0,0,top\nR1,2,MID,2,0,top\nC1,1,MID,5,0,top\n"
                          "C1,2,OUT,7,0,top\nJ1,1,OUT,10,4,both\nJ1,2,GND,0,4,both\n");
        write("top.gbr", "%FSLAX33Y33*%%MOMM*%%TF.FileFunction,Copper,L1,Top*%%ADD10R,1X1*%%ADD11C,0.3*%"
                         "D10*X0Y0D03*X2000D03*X5000D03*X7000D03*D11*X2000Y0D02*X5000D01*X7000Y0D02*Y3000D01*"
                         "D10*X0Y4000D03*X10000Y4000D03*M02*");
        write("holes.drl", "M48\nMETRIC\nT1C0.3\nT2C0.8\n%\nT1\nX107.0Y-47.0\nT2\nX110.0Y-46.0\nM30\n");
        window.show();
        window.activateWindow();
        static_cast<void>(QTest::qWaitForWindowActive(&window));
        window.openNew(files, "unplaced");
    }
    void write(const char* name, const char* text) {
        QFile file(folder.filePath(name));
        if (file.open(QIODevice::WriteOnly)) file.write(text);
        files << file.fileName();
    }
    QString said() const { return window.findChild<QLabel*>("alignSaid")->text(); }
    QPushButton* take() const { return window.findChild<QPushButton*>("alignTake"); }
    const Board& board() const { return window.workbench().session()->board(); }
};

} // namespace

void TestAlignPage::twoClicksPlaceADrillFile() {
    Incoming in;
    AlignPage& page = in.window.align();
    QVERIFY(page.isVisible());
    QVERIFY(!in.take()->isEnabled());
    // The board first: it asks for the file's place.
    const QPointF onBoard = page.boardCanvas().toView({10, 4});
    QTest::mouseClick(&page.boardCanvas(), Qt::LeftButton, {}, onBoard.toPoint());
    QVERIFY(in.said().contains("First"));
    QTest::mouseClick(&page.fileCanvas(), Qt::LeftButton, {},
                      page.fileCanvas().toView({107, -47}).toPoint() + QPoint(5, -4));
    // Wrong place: the hole of the via on the pin. Seen, and clicked again, by keys.
    QTest::mouseClick(&page.boardCanvas(), Qt::LeftButton, {}, onBoard.toPoint() + QPoint(3, 3));
    QVERIFY2(in.said().contains("1 of its 2"), qPrintable(in.said()));
    QVERIFY(in.take()->isEnabled());
    page.fileCanvas().setFocus();
    QTest::keyClick(&page.fileCanvas(), Qt::Key_Right); // from the via's hole to the pin's
    QTest::keyClick(&page.fileCanvas(), Qt::Key_Return);
    QVERIFY(!in.take()->isEnabled());
    QVERIFY(page.boardCanvas().hasFocus());
    QTest::keyClick(&page.boardCanvas(), Qt::Key_Return); // where the last click was: the pin
    QVERIFY2(in.said().contains("-100.00, 50.00"), qPrintable(in.said()));
    QTest::keyClick(in.take(), Qt::Key_Space);
    QVERIFY(in.window.workbench().session());
    QVERIFY(in.window.workbench().isVisible());
    QCOMPARE(in.board().vias.size(), std::size_t(1));
    QVERIFY(distance_mm(in.board().vias[0].at, {7, 3}) < 1e-6);
    QCOMPARE(in.board().vias[0].net, in.board().findNet("OUT"));
}

void TestAlignPage::aFileCanStayWhereItLies() {
    Incoming in;
    in.window.findChild<QPushButton*>("alignLeave")->click();
    QVERIFY(in.window.workbench().session());
    QCOMPARE(in.board().vias.size(), std::size_t(2));
    QVERIFY(distance_mm(in.board().vias[0].at, {107, -47}) < 1e-6);
}
