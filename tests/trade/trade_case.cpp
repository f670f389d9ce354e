#include "trade/trade_case.h"

#include "base/check.h"
#include "board/board_files.h"
#include "support/registry_boards.h"
#include "worlds/power_board.h"

#include <QDir>
#include <QFile>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <algorithm>
#include <fstream>
#include <sstream>

namespace ustor::testing {
namespace {

std::vector<std::string> wordsOf(const std::string& line) {
    std::istringstream in(line);
    std::vector<std::string> words;
    for (std::string word; in >> word;) {
        if (word.front() == '#') break;
        words.push_back(word);
    }
    return words;
}

/// Netlist and centroids of a board that comes with an editor from the distribution's packages, written by
/// that editor.
std::optional<Board> byTheEditor(const std::string& name) {
    const QString source = name == "numpres.pcb" ? "/usr/share/doc/gerbv/examples/numpres/numpres.pcb"
                                                 : "/usr/share/doc/pcb-rnd/tutorial/15_no_sch/step6.lht.gz";
    if (QStandardPaths::findExecutable("pcb-rnd").isEmpty() || !QFile::exists(source)) return std::nullopt;
    const QTemporaryDir folder;
    const QString drawn = source.endsWith(".gz") ? "board.lht" : "board.pcb";
    QProcess unpack;
    unpack.setStandardOutputFile(folder.filePath(drawn));
    unpack.start(source.endsWith(".gz") ? "zcat" : "cat", {source});
    if (!unpack.waitForFinished()) return std::nullopt;
    QProcess editor;
    editor.setWorkingDirectory(folder.path());
    for (const QStringList& exporter :
         {QStringList{"-x", "IPC-D-356", drawn}, QStringList{"-x", "XY", "--xy-unit", "mm", drawn}}) {
        editor.start("pcb-rnd", exporter);
        if (!editor.waitForFinished(60000)) return std::nullopt;
    }
    const std::string base = folder.path().toStdString();
    const auto read = readBoardFiles({base + "/board.net", base + "/board.xy"});
    return read ? std::optional(read.value()) : std::nullopt;
}

std::optional<Board> boardFrom(const std::vector<std::string>& words) {
    if (words[1] == "editor") return byTheEditor(words[2]);
    if (words[1] == "world") {
        Random random(std::stoul(words[2]));
        return randomPowerBoard(random).board;
    }
    if (words[1] == "registry") {
        const auto boards = registryBoards();
        if (boards.empty()) return std::nullopt;
        return furnished(boards[std::stoul(words[2]) % boards.size()]);
    }
    std::vector<std::filesystem::path> files;
    for (std::size_t i = 2; i < words.size(); ++i)
        files.emplace_back(qEnvironmentVariable("USTOR_DEMO_BOARDS").toStdString() + "/" + words[i]);
    const auto read = readBoardFiles(files);
    return read ? std::optional(read.value()) : std::nullopt;
}

} // namespace

std::optional<TradeCase> TradeCase::on(const TradeBoard& board) const {
    if (!only.empty() && std::find(only.begin(), only.end(), board.name) == only.end()) return std::nullopt;
    TradeCase told = *this;
    for (TradeLine& line : told.lines)
        for (std::string& word : line.words) {
            if (word.size() < 2 || word.front() != '$') continue;
            const auto role = board.roles.find(word.substr(1));
            if (role == board.roles.end()) return std::nullopt;
            word = role->second;
        }
    return told;
}

std::vector<TradeCase> readTradeCases(const std::string& file) {
    std::vector<TradeCase> cases;
    std::ifstream in(file);
    USTOR_CHECK(in.good(), "the trade cases can be read");
    int number = 0;
    for (std::string text; std::getline(in, text);) {
        ++number;
        const auto words = wordsOf(text);
        if (words.empty()) continue;
        if (words.front() == "case") {
            cases.push_back({text.substr(5), {}, {}});
        } else if (words.front() == "only") {
            cases.back().only.assign(words.begin() + 1, words.end());
        } else {
            const bool expects = words.front() == "expect";
            cases.back().lines.push_back(
                {number, expects, expects ? std::vector(words.begin() + 1, words.end()) : words});
        }
    }
    return cases;
}

std::vector<TradeBoard> readTradeBoards(const std::string& file, std::vector<std::string>& missing) {
    std::vector<TradeBoard> boards;
    std::ifstream in(file);
    USTOR_CHECK(in.good(), "the boards of the trade cases can be read");
    bool left = false; // what belongs to a board that cannot be had
    for (std::string text; std::getline(in, text);) {
        const auto words = wordsOf(text);
        if (words.size() < 2) continue;
        if (words.front() == "board") {
            boards.push_back({words[1], true, {}, {}});
            left = false;
        } else if (words.front() == "ours" || words.front() == "theirs") {
            boards.back().drawnHere = words.front() == "ours";
            if (auto board = boardFrom(words)) {
                boards.back().board = std::move(*board);
            } else {
                missing.push_back(boards.back().name);
                boards.pop_back();
                left = true;
            }
        } else if (!left) {
            // Names of nets may have blanks in them.
            const std::size_t value = text.find_first_not_of(' ', words[0].size());
            if (words.front() == "nominal") {
                const std::size_t volts = text.rfind(' ');
                Board& board = boards.back().board;
                const NetIndex net = board.findNet(text.substr(value, volts - value));
                USTOR_CHECK(net >= 0, "a board of the trade cases has the nets it names");
                board.nets[static_cast<std::size_t>(net)].nominal = Volts(std::stod(text.substr(volts)));
            } else {
                boards.back().roles[words[0]] = text.substr(value);
            }
        }
    }
    return boards;
}

} // namespace ustor::testing
