#include "app/align/align_canvas.h"
#include "app/align/align_page.h"
#include "app/heat/heat_canvas.h"
#include "app/heat/heat_page.h"
#include "app/look.h"
#include "app/plate/plate_view.h"
#include "app/sketch/sketch_page.h"
#include "app/tour_panel.h"
#include "app/workbench.h"
#include "board/board_files.h"
#include "demo/board_photo_render.h"
#include "demo/window_walk.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QEventLoop>
#include <QFile>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTimer>
#include <algorithm>
#include <cmath>
#include <cstdio>

namespace {

using namespace ustor;

void settle(int milliseconds) {
    QEventLoop loop;
    QTimer::singleShot(milliseconds, &loop, &QEventLoop::quit);
    loop.exec();
}

bool save(MainWindow& window, const QString& file) {
    settle(150);
    if (window.grab().save(file)) return true;
    std::fprintf(stderr, "%s: cannot be written\n", qPrintable(file));
    return false;
}

void printFound(const Assessment& judged, const CaseSession& session) {
    std::printf("before anything was lifted:\n");
    int shown = 0;
    for (const Suspect& s : judged.suspects) {
        constexpr int most = 5;
        if (s.part < 0 || shown++ >= most) continue;
        std::printf("  %-6s %5.1f %%\n", judged.state.board.parts[s.part].designator.c_str(), 100 * s.odds);
    }
    std::printf("proven by lifting: %s\n", session.assessment().culprit.c_str());
}

int walk(MainWindow& window, const QString& picture) {
    window.openDemo(2);
    if (!window.workbench().session()) return 2;
    WindowWalk walk(window);
    bool saved = true;
    walk.at = [&](WindowWalk::Moment moment) {
        if (moment == WindowWalk::Moment::Judged) saved = save(window, picture);
    };
    if (!walk.playToTheEnd()) {
        std::fprintf(stderr, "the walk stopped: %s\n", walk.trouble().c_str());
        return 1;
    }
    printFound(walk.judged(), *window.workbench().session());
    const auto hidden = window.workbench().hands()->reveal();
    const std::string part = hidden ? hidden.value()["part"].toString().toStdString() : "?";
    std::printf("hidden was:        %s\npicture:           %s\n", part.c_str(), qPrintable(picture));
    return saved && part == window.workbench().session()->assessment().culprit ? 0 : 1;
}

/// Drills of the hub from another origin: most are vias, which a board without copper does not know.
bool align(MainWindow& window, const QString& picture, const QString& boards) {
    auto read = readBoardFiles({(boards + "/wind-hub.board.json").toStdString()});
    const QTemporaryDir folder;
    if (!read || !folder.isValid()) return false;
    Board board = std::move(read.value());
    constexpr double away_x_mm = 30, away_y_mm = -55;
    std::string drills = "M48\nMETRIC\nT1C0.3\n%\nT1\n";
    const auto drill = [&](BoardPoint at) {
        drills += QString("X%1Y%2\n")
                      .arg(at.x_mm + away_x_mm, 0, 'f', 3)
                      .arg(at.y_mm + away_y_mm, 0, 'f', 3)
                      .toStdString();
    };
    for (const Via& via : board.vias)
        drill(via.at);
    std::vector<BoardPoint> pins;
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            if (pad.through) pins.push_back(pad.at);
    if (pins.empty()) return false;
    std::for_each(pins.begin(), pins.end(), drill);
    board.vias.clear();
    board.copper.clear();
    const std::string pads = folder.filePath("wind-hub.board.json").toStdString();
    QFile file(folder.filePath("wind-hub holes.drl"));
    if (!writeBoardFile(board, pads) || !file.open(QIODevice::WriteOnly)) return false;
    file.write((drills + "M30\n").c_str());
    file.close();
    window.openNew({QString::fromStdString(pads), file.fileName()}, "Wind sensor hub");
    if (!window.align().isVisible()) return false;
    emit window.align().fileCanvas().placeChosen({pins[0].x_mm + away_x_mm, pins[0].y_mm + away_y_mm});
    emit window.align().boardCanvas().placeChosen(pins[0]);
    const bool saved = save(window, picture);
    window.showCases();
    return saved;
}

/// The views around a board with its copper: the hub of the demo, readings typed as a technician would.
bool views(MainWindow& window, const QString& folder, const QString& boards) {
    window.openNew({boards + "/wind-hub.board.json"}, "Wind sensor hub: dead after a storm");
    Workbench& bench = window.workbench();
    if (!bench.session()) return false;
    bool saved = true;
    const auto shot = [&](const char* name) { saved = save(window, folder + "/" + name) && saved; };
    const auto noted = [&](const FactBody& body) { (void)bench.session()->add(body); };
    noted(Complaint{"dead after a storm, no liquid seen"});
    noted(SourceShows{12, 0.02, ""});
    bench.showView(Workbench::SurveyView);
    for (const char* typed : {"420", "5k", "0.3"}) {
        auto* value = bench.findChild<QLineEdit*>("surveyValue");
        value->setText(typed);
        QMetaObject::invokeMethod(value, "returnPressed");
    }
    shot("survey.png");
    bench.showView(Workbench::PathWay);
    shot("power-path.png");
    noted(RailChosen{"+5V"});
    bench.showView(Workbench::TourView);
    bench.tour().tick(Damage::None);
    bench.tour().tick(Damage::None);
    bench.tour().tick(Damage::Discoloured);
    shot("tour.png");
    bench.showView(Workbench::AlongView);
    for (const auto& [place, volts] : {std::pair{"L1.2", 0.0412}, {"C10.1", 0.0389}, {"C6.1", 0.0386}})
        noted(MillivoltTaken{place, "", volts, 1e-4, 1, "L1.2", "J1.2"});
    bench.findChild<QPushButton*>("drawCopper")->setChecked(true);
    shot("along-the-copper.png");
    window.openSketch("Wind sensor hub");
    SketchPage& sketch = window.sketch();
    const auto board = readBoardFiles({(boards + "/wind-hub.board.json").toStdString()});
    if (!board) return false;
    const RenderedPhoto photo = photographed(board.value(), Side::Top);
    sketch.addPhoto(Side::Top, boards + "/../photos/wind-hub-top.png");
    for (const PixelPoint corner : photo.corners)
        sketch.clickCorner(corner);
    sketch.setLength("62");
    for (const Part& part : board.value().parts)
        if (part.side == Side::Top && part.package == "0603") {
            sketch.chooseClass(part.partClass);
            sketch.chooseCase("0603");
            sketch.stampAt(part.centre);
        }
    sketch.pickPad("C1.2");
    sketch.nameNet("GND");
    sketch.answer(true);
    sketch.pickPad("C3.1");
    sketch.pickPad("C4.1");
    shot("sketch.png");
    window.showCases();
    return align(window, folder + "/align-drills.png", boards) && saved;
}

bool photos(const QString& boards, const QString& folder) {
    const auto board = readBoardFiles({(boards + "/wind-hub.board.json").toStdString()});
    return board && photographed(board.value(), Side::Top).image.save(folder + "/wind-hub-top.png") &&
           photographed(board.value(), Side::Bottom).image.save(folder + "/wind-hub-bottom.png");
}

/// The first recording's maps, with a line over what was found.
bool heatMaps(MainWindow& window, const QString& picture) {
    Workbench& bench = window.workbench();
    bench.showView(Workbench::HeatMaps);
    HeatPage& page = bench.heatMaps();
    for (int waits = 0; waits < 100 && !page.ready(); ++waits)
        settle(100);
    bool saved = page.ready();
    if (saved && !page.study()->located.sources.empty()) {
        HeatCanvas& canvas = page.canvas();
        const PixelPoint at = page.study()->located.sources.front().spot.at;
        constexpr double half_px = 18;
        const auto mouse = [&canvas](QEvent::Type type, PixelPoint p) {
            const QPointF place = canvas.toView(p);
            QMouseEvent event(type, place, canvas.mapToGlobal(place), Qt::LeftButton, Qt::LeftButton, {});
            QApplication::sendEvent(&canvas, &event);
        };
        mouse(QEvent::MouseButtonPress, {at.x_px - half_px, at.y_px - half_px / 2});
        mouse(QEvent::MouseMove, {at.x_px + half_px, at.y_px + half_px / 2});
        mouse(QEvent::MouseButtonPress, at);
    }
    saved = save(window, picture) && saved;
    bench.showView(Workbench::BenchView);
    return saved;
}

/// The same case with a supply that a person switches; nobody does, so it ends where it is pictured.
bool byHand(MainWindow& window, const QString& picture) {
    window.openDemo(1);
    Workbench& bench = window.workbench();
    if (!bench.session()) return false;
    settle(1500);
    BenchAddress address = bench.bench()->address();
    address.supply = {};
    bench.connectBench(address);
    bool saved = false;
    WindowWalk walk(window);
    walk.at = [&](WindowWalk::Moment moment) {
        if (moment != WindowWalk::Moment::Injecting) return;
        settle(1500);
        saved = save(window, picture);
        walk.endHere();
    };
    (void)walk.playToTheEnd();
    return saved;
}

int all(QApplication& qt, MainWindow& window, const QString& folder) {
    bool saved = save(window, folder + "/cases-empty.png");
    window.openDemo(1);
    if (!window.workbench().session()) return 2;
    settle(1500);
    saved = save(window, folder + "/complaint.png") && saved;
    WindowWalk walk(window);
    walk.at = [&](WindowWalk::Moment moment) {
        const auto shot = [&](const char* name) { saved = save(window, folder + "/" + name) && saved; };
        switch (moment) {
        case WindowWalk::Moment::Surveyed:
            return shot("rail-down.png");
        case WindowWalk::Moment::Aligning:
            return shot("align-camera.png");
        case WindowWalk::Moment::Injecting:
            return shot("injecting.png");
        case WindowWalk::Moment::Judged: {
            shot("judged.png");
            const auto& first = window.workbench().session()->assessment().suspects.front();
            if (first.part < 0) return;
            window.workbench().board().find(
                QString::fromStdString(window.workbench().session()->board().parts[first.part].designator));
            shot("evidence.png");
            Look::setNight(qt, true);
            shot("night.png");
            Look::setNight(qt, false);
            saved = heatMaps(window, folder + "/heat.png") && saved;
            return window.workbench().board().fit();
        }
        case WindowWalk::Moment::Closed:
            return shot("closed.png");
        default:
            return;
        }
    };
    if (!walk.playToTheEnd()) {
        std::fprintf(stderr, "the walk stopped: %s\n", walk.trouble().c_str());
        return 1;
    }
    window.showCases();
    saved = save(window, folder + "/casebook.png") && saved;
    saved = byHand(window, folder + "/by-hand.png") && saved;
    return saved ? 0 : 1;
}

} // namespace

int main(int argc, char** argv) {
    QApplication qt(argc, argv);
    QApplication::setApplicationName("ustor-shots");
    QCommandLineParser options;
    options.setApplicationDescription("Plays the demo through the real window and takes pictures of it.");
    options.addHelpOption();
    options.addOptions(
        {{"views", "Pictures of the views around a board with copper, into a folder", "folder"},
         {"photos", "Render the photos that a board is sketched from, into a folder", "folder"},
         {"boards", "Folder of the demo boards", "folder", "demo/boards"},
         {"walk", "Play to the end, one picture of the judgement", "file"},
         {"all", "Play to the end, a picture of each main view, into a folder", "folder"}});
    options.process(qt);
    const QString boards = options.value("boards");
    const QTemporaryDir casebook;
    auto book = Casebook::open(casebook.path().toStdString());
    if (!book) {
        std::fprintf(stderr, "%s\n", book.error().text().c_str());
        return 2;
    }
    Look::install(qt);
    MainWindow window(std::move(book.value()));
    window.show();
    settle(300);
    if (options.isSet("walk")) return walk(window, options.value("walk"));
    if (options.isSet("photos")) return photos(boards, options.value("photos")) ? 0 : 1;
    if (options.isSet("views")) return views(window, options.value("views"), boards) ? 0 : 1;
    if (options.isSet("all")) return all(qt, window, options.value("all"));
    std::fprintf(stderr, "say --walk, --views, --photos or --all\n");
    return 2;
}
