// Each part of the window on its own, driven as a person drives it: keys and clicks in, signals and pictures
// out.
#include "app/entry_bar.h"
#include "app/heat_view.h"
#include "app/next_panel.h"
#include "app/output_off.h"
#include "app/plate/plate_view.h"
#include "app/strip.h"
#include "app/suspect_list.h"
#include "support/boards.h"
#include "support/facts.h"
#include "ui/test_ui.h"

#include <QComboBox>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QSignalSpy>
#include <QTest>
#include <cmath>

using namespace ustor;
using testing::factsOf;
using testing::ohms;

namespace {

const Assessment& shorted() {
    static const Assessment a =
        assess(testing::smallBoard(),
               factsOf({Complaint{"dead"}, ohms("C10.1", 0.3), Seen{"C12", Damage::Burnt, ""}}), {});
    return a;
}

ThermalFrame frame(int width, int height, double kelvin) {
    ThermalFrame f;
    f.centikelvin = cv::Mat(height, width, CV_16UC1, cv::Scalar(kelvin * 100));
    return f;
}

/// How far a colour is from grey: heat has colour, ink and paper nearly none.
int chroma(QRgb c) {
    return std::max({qRed(c), qGreen(c), qBlue(c)}) - std::min({qRed(c), qGreen(c), qBlue(c)});
}

} // namespace

void TestPanels::cameraIsAlignedByKeyboard() {
    HeatView view;
    view.resize(360, 260);
    view.show();
    view.addFrame(frame(160, 120, 300));
    std::vector<Landmark> taken;
    QStringList asked;
    connect(&view, &HeatView::asksFor, this, [&](const QString& part) { asked << part; });
    view.askLandmarks({{"J1", {1, 1}}, {"L1", {2, 2}}, {"U1", {3, 3}}},
                      [&](const std::vector<Landmark>& marks) { taken = marks; });
    QCOMPARE(view.asked(), QString("J1"));
    QTest::keyClick(&view, Qt::Key_Right);
    QTest::keyClick(&view, Qt::Key_Down, Qt::ShiftModifier);
    QTest::keyClick(&view, Qt::Key_Return);
    QCOMPARE(view.asked(), QString("L1"));
    QTest::keyClick(&view, Qt::Key_Backspace); // a slip
    QCOMPARE(view.asked(), QString("J1"));
    QTest::keyClick(&view, Qt::Key_Backspace); // nothing left to take back
    QTest::keyClick(&view, Qt::Key_Space);
    QTest::keyClick(&view, Qt::Key_Left, Qt::ShiftModifier);
    QTest::keyClick(&view, Qt::Key_Return);
    QVERIFY(taken.empty());
    // The mouse does the same; outside of the picture it does nothing.
    QTest::mouseClick(&view, Qt::LeftButton, {}, {view.width() - 2, view.height() - 2});
    QVERIFY(taken.empty());
    QTest::mouseClick(&view, Qt::LeftButton, {}, view.toView({40, 30}).toPoint());
    QCOMPARE(taken.size(), std::size_t(3));
    QVERIFY(!view.asking());
    QCOMPARE(taken[0].image, (PixelPoint{81, 70}));
    QCOMPARE(taken[1].image, (PixelPoint{71, 70}));
    QVERIFY(distance_px(taken[2].image, {40, 30}) < 0.5); // a widget's pixel is half of the camera's here
    QCOMPARE(taken[2].board, (BoardPoint{3, 3}));
    QCOMPARE(asked, (QStringList{"J1", "L1", "J1", "L1", "U1", ""}));
}

void TestPanels::lostCameraSaysSo() {
    HeatView view;
    view.resize(360, 260);
    const auto picture = [&] { return view.grab().toImage(); };
    const QImage none = picture();
    view.show();
    for (int i = 0; i < 6; ++i)
        view.addFrame(frame(160, 120, 300 + i));
    const QImage live = picture();
    QVERIFY(live != none);
    view.lose("cable pulled");
    QVERIFY(picture() != live);
    // Another camera with another size takes over without a trace of the first.
    for (int i = 0; i < 6; ++i)
        view.addFrame(frame(80, 60, 310));
    QVERIFY(std::fabs(view.toView({79, 59}).x() - view.toView({0, 0}).x()) > 100);
}

// The first dangerous move of a kind is done only after its caution was met.
void TestPanels::cautionComesFirst() {
    NextPanel panel;
    panel.resize(310, 400);
    QList<MoveKind> wanted;
    connect(&panel, &NextPanel::wanted, this, [&](const NextMove& move) { wanted << move.kind; });
    const Assessment down =
        assess(testing::smallBoard(), factsOf({Complaint{"dead"}, ohms("C10.1", 0.3)}), {});
    panel.show(&down);
    QCOMPARE(panel.shown()->kind, MoveKind::Inject);
    Assessment met = down;
    connect(&panel, &NextPanel::cautionMet, this, [&](const QString& about) {
        met.state.cautionsMet.insert(about.toStdString()); // as the case that notes it tells
        panel.show(&met);
    });
    panel.button()->click();
    QVERIFY(wanted.isEmpty());
    QVERIFY(met.state.cautionsMet.contains("inject"));
    panel.button()->click();
    QCOMPARE(wanted, QList<MoveKind>{MoveKind::Inject});
    panel.show(&met); // met once, met for this case
    panel.button()->click();
    QCOMPARE(wanted.size(), 2);
    int stops = 0;
    connect(&panel, &NextPanel::stopWanted, this, [&] { ++stops; });
    panel.showBusy("Injecting", "1 s so far");
    panel.button()->click();
    QCOMPARE(stops, 1);
    QCOMPARE(wanted.size(), 2);
    panel.endBusy();
    QCOMPARE(panel.shown()->kind, MoveKind::Inject);
    // Another school of injecting is one word away, and goes with the move; the next case starts small.
    School school = School::Ladder;
    connect(&panel, &NextPanel::wanted, this, [&](const NextMove& move) { school = move.school; });
    for (const School next : {School::FullAtOnce, School::Climb, School::Ladder, School::FullAtOnce}) {
        panel.findChild<QPushButton*>("injectionWay")->click();
        panel.button()->click();
        QCOMPARE(school, next);
    }
    panel.show(&met);
    panel.button()->click();
    QCOMPARE(school, School::Ladder);
    // What has to be done by hand first.
    int done = 0;
    panel.ask("Set 1 V", "output off", "Ready", [&] { ++done; });
    panel.button()->click();
    panel.button()->click(); // the second is a stop
    QCOMPARE(done, 1);
    QCOMPARE(stops, 2);
    wanted.resize(2);
    panel.endBusy();
    // Another move can be taken instead of the best.
    for (auto* other : panel.findChildren<QPushButton*>())
        if (other->text().startsWith("or: Lift")) {
            other->click();
            break;
        }
    QCOMPARE(panel.shown()->kind, MoveKind::Lift);
    panel.show(nullptr);
    QVERIFY(!panel.shown());
    panel.button()->click();
    QCOMPARE(wanted.size(), 2);
}

void TestPanels::suspectsOpenTheirEvidence() {
    SuspectList list;
    list.resize(300, 600);
    const QSignalSpy chosen(&list, &SuspectList::chosen);
    list.show(&shorted());
    QVERIFY(list.accessibleDescription().contains("C12"));
    const QImage closed = list.grab().toImage();
    const int height = list.sizeHint().height();
    QTest::mouseClick(&list, Qt::LeftButton, {}, {20, 10});
    QCOMPARE(chosen.count(), 1);
    QCOMPARE(chosen[0][0].toString(), QString("C12")); // burnt: the first
    QVERIFY(list.sizeHint().height() > height);
    QVERIFY(list.grab().toImage() != closed);
    QTest::mouseClick(&list, Qt::LeftButton, {}, {20, 10}); // closes
    QCOMPARE(list.sizeHint().height(), height);
    QTest::keyClick(&list, Qt::Key_Down);
    QTest::keyClick(&list, Qt::Key_Down);
    QTest::keyClick(&list, Qt::Key_Up);
    QCOMPARE(chosen.count(), 4);
    QCOMPARE(chosen[3][0].toString(), QString("C12"));
}

// The camera's picture lies on the board where the registration says.
void TestPanels::heatLiesWhereItBelongs() {
    PlateView plate;
    plate.resize(700, 520);
    plate.show(&shorted());
    const auto registration = Registration::fromLandmarks({{{4, 4}, {20, 100}},
                                                           {{56, 4}, {140, 104}},
                                                           {{56, 36}, {136, 20}},
                                                           {{4, 36}, {22, 18}},
                                                           {{30, 20}, {79.5, 60}}},
                                                          Side::Top);
    QVERIFY(registration.ok());
    const BoardPoint truth{41, 13};
    const PixelPoint at = registration.value().toImage(truth);
    LiveHeat heat;
    heat.rise_k_per_w = cv::Mat::zeros(120, 160, CV_32FC1);
    for (int y = 0; y < 120; ++y)
        for (int x = 0; x < 160; ++x)
            heat.rise_k_per_w.at<float>(y, x) =
                static_cast<float>(10 * std::exp(-(std::pow(x - at.x_px, 2) + std::pow(y - at.y_px, 2)) / 8));
    heat.sigma_k_per_w = 0.01;
    const QImage before = plate.grab().toImage();
    plate.setHeat(heat, registration.value());
    const QImage after = plate.grab().toImage();
    double x = 0, y = 0, weight = 0;
    for (int row = 0; row < after.height() - 40; ++row) // the scale stands at the foot
        for (int column = 0; column < after.width(); ++column)
            if (after.pixel(column, row) != before.pixel(column, row)) {
                const double w = chroma(after.pixel(column, row));
                x += w * (column + 0.5);
                y += w * (row + 0.5);
                weight += w;
            }
    QVERIFY(weight > 0);
    const BoardPoint shown = plate.toBoard({x / weight, y / weight});
    QVERIFY2(distance_mm(shown, truth) < 0.4, qPrintable(QString("%1 %2").arg(shown.x_mm).arg(shown.y_mm)));
    // The other side shows nothing of it, and cleared heat is gone.
    plate.setSide(Side::Bottom);
    plate.clearHeat();
    plate.setSide(Side::Top);
    QCOMPARE(plate.grab().toImage(), before);
}

void TestPanels::padsAndPartsAreClicked() {
    PlateView plate;
    plate.resize(700, 520);
    plate.show(&shorted());
    const QSignalSpy parts(&plate, &PlateView::partChosen), places(&plate, &PlateView::placeChosen);
    const Board& board = shorted().state.board;
    const Part& c13 = board.parts[board.findPart("C13")];
    QTest::mouseClick(&plate, Qt::LeftButton, {}, plate.toView(c13.pads[0].at).toPoint());
    QCOMPARE(parts.last()[0].toString(), QString("C13"));
    QCOMPARE(places.last()[0].toString(), QString("C13.1"));
    QTest::mouseClick(&plate, Qt::LeftButton, {}, plate.toView({50, 15}).toPoint());
    QCOMPARE(parts.last()[0].toString(), QString());
    QVERIFY(plate.selected().empty());
    // Dragging moves the board and chooses nothing.
    const int chosen = static_cast<int>(parts.count());
    const QPointF was = plate.toView({30, 20});
    QTest::mousePress(&plate, Qt::LeftButton, {}, {300, 200});
    QTest::mouseMove(&plate, {340, 230});
    QTest::mouseRelease(&plate, Qt::LeftButton, {}, {340, 230});
    QCOMPARE(static_cast<int>(parts.count()), chosen);
    QVERIFY((plate.toView({30, 20}) - was - QPointF(40, 30)).manhattanLength() < 1.5);
    plate.fit();
    plate.setSide(Side::Bottom); // seen from below left and right are exchanged
    QVERIFY(plate.toView({10, 20}).x() > plate.toView({50, 20}).x());
}

// A fuse that blew for a short behind it is marked apart from its cause, by form and by word.
void TestPanels::aVictimHasCorners() {
    const Board board = testing::smallBoard();
    const Assessment told =
        assess(board,
               factsOf({SourceShows{12, 0, "", Reaction::None}, Seen{"F1", Damage::Burnt, ""},
                        ReadingTaken{"F1.1", "F1.2", {MeterMode::Ohms, ReadingState::OverRange, 0, 0}},
                        ohms("C1.1", 0.3)}),
               {});
    const PartIndex fuse = board.findPart("F1");
    QVERIFY(told.belief.isVictim(fuse) && told.belief.victim[static_cast<std::size_t>(fuse)] > 0.2);
    Assessment alone = told; // the same, blown by itself
    alone.belief.victim[static_cast<std::size_t>(fuse)] = 0;
    const auto drawn = [](const Assessment& a) {
        PlateView view;
        view.resize(800, 500);
        view.show(&a);
        return view.grab().toImage();
    };
    const QImage corners = drawn(told), without = drawn(alone);
    QVERIFY(corners != without);
    QCOMPARE(drawn(told), corners); // and by nothing else
}

void TestPanels::stripStaysFlatOnNoise() {
    Strip strip;
    strip.resize(900, 84);
    const QSize size = strip.size();
    const auto inkRows = [&] {
        // Rows of the first trace (volts) that carry ink, between its number and its base line.
        const QImage image = strip.grab().toImage();
        int rows = 0;
        for (int y = 48; y < size.height() - 12; ++y) {
            bool ink = false;
            for (int x = 10; x < size.width() / 4 - 12; ++x)
                ink |= qGray(image.pixel(x, y)) < 150;
            rows += ink;
        }
        return rows;
    };
    const auto feed = [&](double from_s, double volts) {
        for (int i = 0; i < 500; ++i)
            strip.add({from_s + i * 0.04, volts > 0.1, 1, 0.1, volts + (i % 2 ? 0.0004 : 0.0), 0.0001});
    };
    feed(0, 0);
    QCOMPARE(inkRows(), 0);
    feed(20, 0.9); // the step stands over its full height
    QVERIFY(inkRows() > 10);
}

void TestPanels::outputOffTellsItsState() {
    OutputOff off;
    off.resize(220, 78);
    // Without a supply that answers it does not say that it is off: nobody knows.
    QVERIFY(off.accessibleName().contains("No supply"));
    const QImage unknown = off.grab().toImage();
    off.tell({OutputState::Off});
    const QImage calm = off.grab().toImage();
    QVERIFY(calm != unknown);
    off.tell({OutputState::On});
    QVERIFY(off.shown().ember());
    const QImage on = off.grab().toImage();
    QVERIFY(on != calm);
    off.tell({OutputState::Unreached, true}); // what it cannot do it does not promise
    QVERIFY(off.shown().ember());
    QVERIFY(off.grab().toImage() != on);
    QVERIFY(off.accessibleName().contains("by hand"));
    for (const OutputState state : {OutputState::Unknown, OutputState::Disobeys}) {
        off.tell({state}); // what is not read is not said
        QVERIFY(off.shown().ember());
        QVERIFY(off.accessibleName().contains("may still be on"));
    }
    off.tell({OutputState::Off});
    QVERIFY(!off.shown().ember());
    QCOMPARE(off.grab().toImage(), calm);
    const QSignalSpy clicked(&off, &QAbstractButton::clicked);
    QTest::keyClick(&off, Qt::Key_Space);
    QTest::mouseClick(&off, Qt::LeftButton);
    QCOMPARE(clicked.count(), 2);
}

// A screen an arm's length away: everything that can be done has a name for assistive tools.
void TestPanels::entryLineHasNames() {
    EntryBar bar;
    for (auto* line : bar.findChildren<QLineEdit*>())
        QVERIFY(!line->accessibleName().isEmpty());
    for (auto* box : bar.findChildren<QComboBox*>())
        QVERIFY(!box->accessibleName().isEmpty());
    bar.startTyping("plug-in");
    QVERIFY(!bar.findChild<QLineEdit*>("entryPlace")->isEnabled());
    bar.startTyping("ohms");
    QVERIFY(bar.findChild<QLineEdit*>("entryPlace")->isEnabled());
}
