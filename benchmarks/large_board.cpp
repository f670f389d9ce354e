#include "app/plate/plate_view.h"

#include "base/median.h"
#include "benchmarks.h"
#include "board/board_files.h"
#include "support/ipc2581_text.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QFile>
#include <QTemporaryDir>
#include <algorithm>
#include <cstdio>
#include <pugixml.hpp>
#include <vector>

namespace ustor {
void benchLargeBoard() {
    const QTemporaryDir folder;
    const QString file = folder.filePath("large.xml");
    const QByteArray text = QByteArray::fromStdString(testing::ipc2581Text(testing::manyParts(10000, 6)));
    QFile out(file);
    if (!out.open(QIODevice::WriteOnly) || out.write(text) != text.size()) return;
    out.close();
    std::vector<double> parser_ms, reader_ms;
    Result<Board> board = Error{};
    for (int run = 0; run < 9; ++run) {
        QElapsedTimer clock;
        clock.start();
        pugi::xml_document document;
        if (!document.load_file(file.toUtf8().constData())) return;
        parser_ms.push_back(static_cast<double>(clock.nsecsElapsed()) * 1e-6);
        board = Error{}; // what the last run made is not thrown away in this one's time
        clock.restart();
        board = readBoardFiles({file.toStdString()});
        reader_ms.push_back(static_cast<double>(clock.nsecsElapsed()) * 1e-6);
    }
    if (!board) return std::printf("Large board: %s\n", board.error().text().c_str()), void();
    std::size_t pads = 0;
    for (const Part& part : board.value().parts)
        pads += part.pads.size();
    std::printf("Board of %zu parts and %zu pads, %.1f MB of XML: opened in %.0f ms, %.2f times the XML "
                "parser alone (%.0f ms)\n",
                board.value().parts.size(), pads, static_cast<double>(text.size()) / 1e6, medianOf(reader_ms),
                medianOf(reader_ms) / medianOf(parser_ms), medianOf(parser_ms));
    QElapsedTimer clock;
    clock.start();
    const Assessment assessment = assess(board.value(), {}, {});
    std::printf("  judged in %.0f ms\n", static_cast<double>(clock.nsecsElapsed()) * 1e-6);
    PlateView view;
    view.resize(1280, 800);
    view.show(&assessment);
    static_cast<QWidget&>(view).show();
    QApplication::processEvents();
    std::vector<double> frames_ms;
    for (int i = 0; i < 120; ++i) {
        // In and out again around the middle, with a push to the side each time.
        QElapsedTimer frame;
        frame.start();
        view.zoomBy(i % 60 < 30 ? 1.12 : 1 / 1.12, QPointF(400 + 7 * (i % 30), 300));
        view.repaint();
        frames_ms.push_back(static_cast<double>(frame.nsecsElapsed()) * 1e-6);
    }
    std::printf("  pan and zoom at 1280x800: median %.1f ms a frame, longest %.1f ms\n", medianOf(frames_ms),
                *std::max_element(frames_ms.begin(), frames_ms.end()));
}

} // namespace ustor
