#include "app/heat/heat_canvas.h"
#include "app/heat/heat_page.h"
#include "app/heat_view.h"
#include "app/main_window.h"
#include "app/next_panel.h"
#include "app/workbench.h"
#include "base/random.h"
#include "session/still_file.h"
#include "support/wait.h"
#include "ui/test_ui.h"

#include <QComboBox>
#include <QImage>
#include <QLabel>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;
using testing::waitUntil;

namespace {

/// A camera that looks straight down: pixels a millimetre, a rim around the board.
constexpr double pixelsPerMm = 4, rim_px = 12;

PixelPoint seenAt(const Board& board, BoardPoint p) {
    const BoardBox box = board.box();
    return {rim_px + pixelsPerMm * (p.x_mm - box.low.x_mm), rim_px + pixelsPerMm * (box.high.y_mm - p.y_mm)};
}

/// The board as such a camera sees it, parts a little warmer or colder than the mask; a place of it warm.
QString filmed(const Board& board, const QString& file, BoardPoint warm, double warmer_k) {
    const BoardBox box = board.box();
    const auto pixels = [](double mm) { return static_cast<int>(mm * pixelsPerMm + 2 * rim_px); };
    cv::Mat kelvin(pixels(box.height_mm()), pixels(box.width_mm()), CV_32FC1, cv::Scalar(296));
    Random random(static_cast<std::uint64_t>(warmer_k) + 3);
    for (const Part& part : board.parts) {
        const PixelPoint at = seenAt(board, part.centre);
        const int reach = std::max(2, static_cast<int>(part.width_mm * pixelsPerMm / 2));
        cv::Mat(kelvin, cv::Rect(static_cast<int>(at.x_px) - reach, static_cast<int>(at.y_px) - reach,
                                 2 * reach, 2 * reach) &
                            cv::Rect({}, kelvin.size()))
            .setTo(296.5 + 0.5 * std::sin(3.0 * part.centre.x_mm));
    }
    const PixelPoint at = seenAt(board, warm);
    QImage picture(kelvin.cols, kelvin.rows, QImage::Format_Grayscale16);
    for (int y = 0; y < kelvin.rows; ++y)
        for (int x = 0; x < kelvin.cols; ++x) {
            const double r2 = (x - at.x_px) * (x - at.x_px) + (y - at.y_px) * (y - at.y_px);
            const double value =
                kelvin.at<float>(y, x) + warmer_k * std::exp(-r2 / 18) + 0.05 * random.normal();
            reinterpret_cast<quint16*>(picture.scanLine(y))[x] =
                static_cast<quint16>(std::lround(100 * value));
        }
    picture.save(file);
    return file;
}

void clickAllThatIsAsked(HeatView& view, const Board& board) {
    while (view.asking()) {
        const Part& part = board.parts[board.findPart(view.asked().toStdString())];
        QTest::mouseClick(&view, Qt::LeftButton, {}, view.toView(seenAt(board, part.centre)).toPoint());
    }
}

} // namespace

// A camera without a cable: two of its stills are placed on the board by landmarks, and what is warmer in one
// counts as a finding, less than an injection would.
void TestHeatPage::stillsArePlacedAndCount() {
    QTemporaryDir folder;
    MainWindow window{std::move(Casebook::open(folder.path().toStdString()).value())};
    window.resize(1280, 800);
    window.show();
    window.activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(&window));
    window.openNew({qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/wind-hub.board.json"}, "hub");
    Workbench& bench = window.workbench();
    CaseSession& session = *bench.session();
    QVERIFY(session.add(ReadingTaken{"C2.1", "", {MeterMode::Ohms, ReadingState::Value, 0.4, 0.1}}).ok());
    const Board board = session.board();
    const auto odds = [&session](const std::string& part) {
        for (const Suspect& suspect : session.assessment().suspects)
            if (suspect.part >= 0 && session.board().parts[suspect.part].designator == part)
                return suspect.odds;
        return 0.0;
    };
    // The last of the capacitors on the top is the warm one: nothing else speaks for it.
    std::string warm;
    for (const Suspect& suspect : session.assessment().suspects)
        if (suspect.part >= 0 && board.parts[suspect.part].side == Side::Top &&
            board.parts[suspect.part].partClass == PartClass::CeramicCapacitor)
            warm = board.parts[suspect.part].designator;
    const BoardPoint there = board.parts[board.findPart(warm)].centre;
    const double before = odds(warm);

    QTest::keyClick(&window, Qt::Key_F6);
    HeatPage& page = bench.heatMaps();
    QVERIFY(page.isVisible());
    page.addStills({filmed(board, folder.filePath("1-warm.png"), there, 4),
                    filmed(board, folder.filePath("2-cold.png"), there, 0)});
    QVERIFY2(waitUntil([&] { return page.ready(); }, 8000), qPrintable(page.canvas().words()));
    auto* finding = page.findChild<QPushButton*>("stillFinding");
    QVERIFY(!finding->isEnabled());
    // Left in the middle, nothing of it is kept.
    auto* place = page.findChild<QPushButton*>("placeStill");
    place->click();
    QCOMPARE(bench.view(), Workbench::BenchView);
    QVERIFY(bench.heat().asking());
    bench.next().button()->click();
    QVERIFY(!bench.heat().asking());
    const auto still = session.folder().path / "stills" / "1-warm.png";
    QVERIFY(!placeOf(still).has_value());

    QTest::keyClick(&window, Qt::Key_F6);
    place->click();
    clickAllThatIsAsked(bench.heat(), board);
    QCOMPARE(bench.view(), Workbench::HeatMaps);
    QVERIFY(placeOf(still).has_value());
    constexpr double near_mm = 0.5;
    QVERIFY(distance_mm(placeOf(still)->toBoard(seenAt(board, there)), there) < near_mm);

    QTest::keyClick(page.findChildren<QComboBox*>()[1], Qt::Key_Down);
    QTest::keyClick(page.findChildren<QComboBox*>()[1], Qt::Key_Down);
    QVERIFY(waitUntil([&] { return finding->isEnabled(); }, 8000));
    finding->click();
    const auto* found = std::get_if<HeatFound>(&session.facts().back().body);
    QVERIFY(found && found->fromStills);
    QCOMPARE(found->recording, std::string("stills/1-warm.png"));
    QVERIFY(distance_mm(found->spots.front().at, there) < near_mm);
    QVERIFY2(odds(warm) > 2 * before, qPrintable(QString("%1 was %2").arg(odds(warm)).arg(before)));
    QVERIFY(odds(warm) < 0.9);                    // a hand or hot-air heat looks the same
    const auto& next = session.assessment().next; // the injection is not spared by it
    QVERIFY(std::any_of(next.begin(), next.end(),
                        [](const NextMove& move) { return move.kind == MoveKind::Inject; }));
    QVERIFY(!finding->isEnabled()); // once is enough
}
