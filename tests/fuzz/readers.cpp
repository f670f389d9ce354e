#include "fuzz/readers.h"

#include "board/board_files.h"
#include "board/board_join.h"
#include "board/board_json.h"
#include "board/gerber/fabrication.h"
#include "board/ipc2581_reader.h"
#include "board/ipcd356_reader.h"
#include "board/ipcd356_writer.h"
#include "board/pin_list.h"
#include "board/sketch/beep_nets.h"
#include "board/sketch/sketch.h"
#include "diagnosis/fact/fact_json.h"
#include "diagnosis/fact/readings_csv.h"
#include "fuzz/folder_readers.h"
#include "fuzz/named_errors.h"

namespace ustor::testing {
namespace {

constexpr const char* name = "file";

/// What every board goes through after its reader: completed, written and read again.
void live(Board board) {
    for (const BoardWarning& warning : board.warnings)
        USTOR_CHECK(!warning.where.empty() && !warning.what.empty(), "a warning says where and what");
    completeParts(board);
    const auto again = boardFromJson(boardToJson(board), name);
    USTOR_CHECK(again.ok(), "a board that was read must come back from its own file");
    USTOR_CHECK(again.value().parts.size() == board.parts.size(), "parts are lost on the way");
}

void feedNetlist(std::string_view text) {
    auto board = readIpcD356(text, name);
    if (!wasRead(board, name)) return;
    std::vector<Message> lost;
    (void)writeIpcD356(board.value(), lost);
    live(std::move(board.value()));
}

void feedIpc2581(std::string_view text) {
    (void)looksLikeIpc2581(text);
    auto board = readIpc2581(text, name);
    if (wasRead(board, name)) live(std::move(board.value()));
}

void feedSketch(std::string_view text) {
    const auto sketch = sketchFromJson(text, name);
    if (!wasRead(sketch, name)) return;
    const auto again = sketchFromJson(sketchToJson(sketch.value()), name);
    USTOR_CHECK(again.ok(), "a sketch that was read must come back from its own file");
    (void)BeepNets(sketch.value()).proposals(3);
    (void)boardToJson(boardOf(sketch.value()));
}

void feedPins(std::string_view text) {
    (void)looksLikePinList(text);
    auto board = readPinList(text, name);
    if (!wasRead(board, name)) return;
    (void)readPinList(writePinList(board.value()), name);
    live(std::move(board.value()));
}

void feedCentroids(std::string_view text) {
    const auto list = readCentroids(text, name);
    if (!wasRead(list, name)) return;
    Board board;
    joinCentroids(board, list.value());
    live(std::move(board));
}

void feedGerber(std::string_view text) {
    (void)gerber::looksLikeGerber(text);
    auto file = gerber::readGerber(text, name);
    if (!wasRead(file, name)) return;
    gerber::Fabrication fabrication;
    gerber::LayerRole copper;
    copper.kind = gerber::LayerKind::Copper;
    copper.number = 1;
    fabrication.layers.push_back({name, copper, std::move(file.value())});
    Board board;
    gerber::joinFabrication(board, fabrication);
    live(std::move(board));
}

void feedDrill(std::string_view text) {
    (void)gerber::looksLikeDrill(text);
    auto file = gerber::readDrill(text, name);
    if (!wasRead(file, name)) return;
    gerber::Fabrication fabrication;
    fabrication.drills.push_back({name, std::move(file.value())});
    Board board;
    gerber::joinFabrication(board, fabrication);
    live(std::move(board));
}

void feedBoardJson(std::string_view text) {
    auto board = boardFromJson(text, name);
    if (wasRead(board, name)) live(std::move(board.value()));
}

void feedReadings(std::string_view text) {
    (void)wasRead(readReadings(text, name), name);
}

void feedFact(std::string_view text) {
    const auto fact = factFromJson(text);
    if (!fact) return;
    const auto again = factFromJson(factToJson(fact.value()));
    USTOR_CHECK(again.ok(), "a fact that was read must come back from its own line");
    (void)sentenceOf(fact.value().body);
}

} // namespace

const std::vector<FuzzedReader>& fuzzedReaders() {
    static const std::vector<FuzzedReader> readers = [] {
        std::vector<FuzzedReader> all = {
            {"ipc2581", feedIpc2581},
            {"ipcd356", feedNetlist},
            {"pins", feedPins},
            {"centroids", feedCentroids},
            {"gerber", feedGerber},
            {"drill", feedDrill},
            {"board_json", feedBoardJson},
            {"sketch", feedSketch},
            {"readings", feedReadings},
            {"fact", feedFact},
        };
        all.insert(all.end(), folderReaders().begin(), folderReaders().end());
        return all;
    }();
    return readers;
}

} // namespace ustor::testing
