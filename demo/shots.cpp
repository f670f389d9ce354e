#include "app/look.h"
#include "app/plate_view.h"
#include "app/workbench.h"
#include "demo/window_walk.h"

#include <CLI/CLI.hpp>
#include <QApplication>
#include <QEventLoop>
#include <QTemporaryDir>
#include <QTimer>
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
    return saved ? 0 : 1;
}

} // namespace

int main(int argc, char** argv) {
    QApplication qt(argc, argv);
    QApplication::setApplicationName("ustor-shots");
    CLI::App app{"Plays the demo through the real window and takes pictures of it."};
    std::string walkTo, allTo;
    app.add_option("--walk", walkTo, "Play to the end, one picture of the judgement");
    app.add_option("--all", allTo, "Play to the end, a picture of each main view, into a folder");
    CLI11_PARSE(app, argc, argv);
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
    if (!walkTo.empty()) return walk(window, QString::fromStdString(walkTo));
    if (!allTo.empty()) return all(qt, window, QString::fromStdString(allTo));
    std::fprintf(stderr, "say --walk or --all\n");
    return 2;
}
