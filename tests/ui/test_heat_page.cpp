#include "app/heat/heat_canvas.h"
#include "app/heat/heat_page.h"
#include "session/still_file.h"
#include "support/wait.h"
#include "ui/test_ui.h"

#include <QComboBox>
#include <QFile>
#include <QImage>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace ustor;
using testing::waitUntil;

namespace {

constexpr double low_c = 22, high_c = 34;
constexpr PixelPoint spot{101, 64};

/// A board at 25 degrees whose texture is a degree, with a part some kelvin warmer, in false colours with a
/// bar.
QString drawnStill(const QTemporaryDir& folder, const QString& name, double warmer_k) {
    cv::Mat celsius(140, 180, CV_32FC1);
    for (int y = 0; y < celsius.rows; ++y)
        for (int x = 0; x < celsius.cols; ++x) {
            const double r2 = (x - spot.x_px) * (x - spot.x_px) + (y - spot.y_px) * (y - spot.y_px);
            celsius.at<float>(y, x) = static_cast<float>(25 + std::sin(0.31 * x) * std::cos(0.23 * y) +
                                                         warmer_k * std::exp(-r2 / 12));
        }
    QImage picture = heatPicture(celsius, low_c, high_c).convertToFormat(QImage::Format_RGB32);
    cv::Mat ramp(110, 10, CV_32FC1);
    for (int i = 0; i < ramp.rows; ++i)
        ramp.row(i).setTo(low_c + (high_c - low_c) * (1 - (i + 0.5) / ramp.rows));
    QPainter painter(&picture);
    painter.fillRect(158, 13, 14, 114, Qt::white);
    painter.drawImage(160, 15, heatPicture(ramp, low_c, high_c));
    painter.end();
    QString file = folder.filePath(name);
    picture.save(file);
    return file;
}

void typeInto(QWidget& page, const char* name, const QString& words) {
    auto* line = page.findChild<QLineEdit*>(name);
    QVERIFY(line->isVisible());
    line->clear();
    QTest::keyClicks(line, words);
    QTest::keyClick(line, Qt::Key_Return);
}

/// As the workbench lists them.
std::vector<HeatPage::Choice> stillsIn(const QTemporaryDir& folder, const QStringList& names) {
    std::vector<HeatPage::Choice> choices;
    for (const QString& name : names)
        choices.push_back({name, folder.filePath("stills/" + name).toStdString(), Side::Top, true});
    return choices;
}

struct Page {
    QTemporaryDir folder;
    HeatPage page;
    Page() {
        page.resize(1000, 620);
        page.show();
    }
    bool ready() {
        const bool there = waitUntil([&] { return page.ready(); }, 8000);
        if (!there) qWarning("%s", qPrintable(page.canvas().words()));
        return there;
    }
    QString told() const { return page.findChild<QLabel*>("repairsTold")->text(); }
};

} // namespace

// Two pictures in colours, one before and one while it was warm: their ends typed, then one against the
// other.
void TestHeatPage::stillsAreTypedAndCompared() {
    Page p;
    p.page.setCase(nullptr, p.folder.path().toStdString(), {}, {});
    int added = 0;
    connect(&p.page, &HeatPage::stillsAdded, this, [&] { ++added; });
    QTemporaryDir outside;
    p.page.addStills({drawnStill(outside, "cold.png", 0), drawnStill(outside, "warm.png", 5)});
    QCOMPARE(added, 1);
    p.page.addStills({outside.filePath("warm.png")}); // once more: kept beside the first
    QVERIFY(QFile::exists(p.folder.filePath("stills/warm-2.png")));
    p.page.setCase(nullptr, p.folder.path().toStdString(), stillsIn(p.folder, {"warm.png", "cold.png"}), {});
    p.page.begin();
    QVERIFY(!p.page.ready());
    typeInto(p.page, "coldEnd", "22");
    typeInto(p.page, "hotEnd", "34,0");
    QVERIFY(p.ready());
    QCOMPARE(p.page.shown(), HeatPage::Still);
    QVERIFY(p.told().contains("Palette learnt"));
    const float there = p.page.study()->still.at<float>(64, 101);
    QVERIFY2(std::fabs(there - 30.5) < 1.2, qPrintable(QString::number(there)));
    QCOMPARE(scaleOf(p.folder.filePath("stills/warm.png").toStdString())->high_c,
             34.0); // next time it is known
    // The other one has the same bar.
    QVERIFY(keepScale(p.folder.filePath("stills/cold.png").toStdString(), {low_c, high_c}).ok());
    auto* against = p.page.findChildren<QComboBox*>()[1];
    QTest::keyClick(against, Qt::Key_Down);
    QTest::keyClick(against, Qt::Key_Down);
    QVERIFY(waitUntil([&] { return p.told().contains("cannot tell what follows the power"); }, 8000));
    QVERIFY(p.page.canvas().high() > 3);
}

// A line with the brush says what a surface is: nothing is shown where it is bare metal, and it stays.
void TestHeatPage::surfacesArePainted() {
    Page p;
    QDir(p.folder.path()).mkpath("stills");
    drawnStill(p.folder, "stills/warm.png", 5);
    const auto file = p.folder.filePath("stills/warm.png").toStdString();
    QVERIFY(keepScale(file, {low_c, high_c}).ok());
    p.page.setCase(nullptr, p.folder.path().toStdString(), stillsIn(p.folder, {"warm.png"}), {});
    // The strokes are facts of a case.
    std::vector<Fact> facts;
    const Board board;
    const auto note = [&](const FactBody& body) {
        facts.push_back({static_cast<long>(facts.size()) + 1, 0, body});
        p.page.showPainted(caseState(board, facts));
    };
    connect(&p.page, &HeatPage::noted, this, note);
    connect(&p.page, &HeatPage::takeBackWanted, this, [&](long id) { note(Struck{id}); });
    p.page.begin();
    QVERIFY(p.ready());
    auto* brush = p.page.findChild<QComboBox*>("surfaceBrush");
    for (int i = 0; i < 4; ++i)
        QTest::keyClick(brush, Qt::Key_Down);
    QVERIFY(brush->currentText().contains("bare metal"));
    HeatCanvas& canvas = p.page.canvas();
    const auto at = [&](double x, double y) { return canvas.toView({x, y}).toPoint(); };
    QTest::mousePress(&canvas, Qt::LeftButton, {}, at(30, 100));
    QTest::mouseMove(&canvas, at(60, 100));
    QMouseEvent move(QEvent::MouseMove, QPointF(at(60, 100)), canvas.mapToGlobal(QPointF(at(60, 100))),
                     Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&canvas, &move);
    QTest::mouseRelease(&canvas, Qt::LeftButton, {}, at(60, 100));
    QCOMPARE(p.page.surfaces().size(), std::size_t(1));
    QCOMPARE(p.page.surfaces()[0].surface, Surface::BareMetal);
    // By keys too, and taken back.
    QTest::keyClick(&canvas, Qt::Key_Return);
    QTest::keyClick(&canvas, Qt::Key_Right, Qt::ShiftModifier);
    QTest::keyClick(&canvas, Qt::Key_Return);
    QCOMPARE(p.page.surfaces().size(), std::size_t(2));
    QTest::keyClick(&canvas, Qt::Key_Backspace);
    QCOMPARE(p.page.surfaces().size(), std::size_t(1));
    cv::Mat surface(140, 180, CV_32FC1, cv::Scalar(0.9));
    paintSurfaces(surface, p.page.surfaces());
    QVERIFY(std::fabs(surface.at<float>(100, 45) - 0.15) < 1e-6);
    QVERIFY(std::fabs(surface.at<float>(110, 45) - 0.9) < 1e-6);
    HeatPage tomorrow;
    tomorrow.setCase(nullptr, p.folder.path().toStdString(), stillsIn(p.folder, {"warm.png"}), {});
    tomorrow.showPainted(caseState(board, facts));
    QCOMPARE(tomorrow.surfaces().size(), std::size_t(1));
    QCOMPARE(tomorrow.surfaces()[0].to.x_px, p.page.surfaces()[0].to.x_px);
}

void TestHeatPage::wrongStillsAreTold() {
    Page p;
    QDir(p.folder.path()).mkpath("stills");
    QFile cut(p.folder.filePath("stills/cut.csv"));
    QVERIFY(cut.open(QIODevice::WriteOnly));
    cut.write("20,20,20,20,20,20,20,20\n20,20,20,20,20,20,20,20\n20,20,20\n");
    cut.close();
    drawnStill(p.folder, "stills/warm.png", 5);
    p.page.setCase(nullptr, p.folder.path().toStdString(), stillsIn(p.folder, {"cut.csv", "warm.png"}), {});
    // What a later version painted stays a fact, and paints nothing here.
    p.page.showPainted(
        caseState(Board(), {{1, 0, Painted{Painted::Over::Stills, "glass", {1, 1}, {9, 9}, 3}}}));
    QVERIFY(p.page.surfaces().empty());
    p.page.begin();
    QVERIFY(waitUntil([&] { return p.page.canvas().words().contains("cut.csv:3"); }, 8000));
    QTest::keyClick(p.page.findChildren<QComboBox*>()[0], Qt::Key_Down);
    typeInto(p.page, "coldEnd", "34");
    typeInto(p.page, "hotEnd", "22");
    QVERIFY(p.told().contains("warmer than the cold end"));
    QVERIFY(!scaleOf(p.folder.filePath("stills/warm.png").toStdString()).has_value());
}
