#include "board/board_files.h"
#include "cli/commands.h"
#include "diagnosis/assess.h"
#include "diagnosis/fact/entry.h"
#include "diagnosis/fact/fact_check.h"
#include "diagnosis/fact/power_course.h"
#include "diagnosis/fact/readings_csv.h"
#include "session/report_file.h"
#include "store/case_archive.h"
#include "store/case_folder.h"

#include <QDateTime>
#include <QEventLoop>
#include <fstream>
#include <iterator>
#include <memory>

namespace ustor::cli {
namespace {

using Json = nlohmann::ordered_json;

void report(const std::string& folder, const std::string& target, Answer& answer) {
    if (!target.ends_with(".pdf") && !target.ends_with(".html"))
        return answer.wrong(
            {say("a report is written as .pdf or .html"), target, say("nothing was written")});
    const auto opened = CaseFolder::openToRead(folder);
    if (!opened) return answer.wrong(opened.error());
    const Assessment a = assess(opened.value().board, opened.value().log->facts(), {});
    const ReportInput input{opened.value().title, &opened.value().log->facts(), &a, {}};
    ReportFile report;
    Outcome written = Done{};
    QEventLoop waiting;
    QObject::connect(&report, &ReportFile::done, &waiting,
                     [&](const std::filesystem::path&, const Outcome& outcome) {
                         written = outcome;
                         waiting.quit();
                     });
    report.begin(input, target);
    waiting.exec();
    if (!written) return answer.wrong(written.error());
    answer.data = {{"written", target}};
    answer.line(target + " written");
}

void exportTo(const std::string& folder, const std::string& target, Answer& answer) {
    if (const auto written = exportCase(folder, target); !written) return answer.wrong(written.error());
    answer.data = {{"written", target}};
    answer.line(target + " written");
}

void importTo(const std::string& file, const std::string& parent, Answer& answer) {
    const auto folder = importCase(file, parent);
    if (!folder) return answer.wrong(folder.error());
    answer.data = {{"case", folder.value().string()}};
    answer.line(folder.value().string());
}

void readingsOut(const std::string& folder, const std::string& target, Answer& answer) {
    const auto opened = CaseFolder::openToRead(folder);
    if (!opened) return answer.wrong(opened.error());
    std::ofstream out(target);
    out << readingsToCsv(opened.value().log->facts());
    out.close();
    if (!out) return answer.wrong({say("cannot be written"), target, say("the case is unchanged")});
    answer.data = {{"written", target}};
    answer.line(target + " written");
}

void knownGoodOut(const std::string& folder, const std::string& target, Answer& answer) {
    const auto opened = CaseFolder::openToRead(folder);
    if (!opened) return answer.wrong(opened.error());
    const std::string donor = opened.value().path.filename().string();
    const KnownGoodSet set = knownGoodFrom(opened.value().board, opened.value().log->facts(), donor);
    if (set.empty()) {
        answer.line("this case shows no reading that may stand as known good");
        answer.code = No;
        return;
    }
    std::ofstream out(target);
    out << knownGoodToCsv(set);
    out.close();
    if (!out) return answer.wrong({say("cannot be written"), target, say("the case is unchanged")});
    answer.data = {{"written", target}, {"readings", set.readings.size()}};
    answer.line(std::to_string(set.readings.size()) + " known-good readings written to " + target);
}

void readingsIn(const std::string& folder, const std::string& file, Answer& answer) {
    std::ifstream in(file);
    if (!in) return answer.wrong({say("cannot be opened"), file, say("the case is unchanged")});
    const std::string text{std::istreambuf_iterator<char>(in), {}};
    const auto list = readReadings(text, file);
    if (!list) return answer.wrong(list.error());
    const auto opened = CaseFolder::open(folder);
    if (!opened) return answer.wrong(opened.error());
    std::size_t taken = 0;
    std::vector<Message> warnings = list.value().warnings;
    for (const ReadingTaken& reading : list.value().readings) {
        if (const auto why = whyNotTaken(opened.value().board, reading)) {
            warnings.push_back(say("{place}: not taken, {why}", {{"place", reading.place}, {"why", *why}}));
            continue;
        }
        const double now_s = static_cast<double>(QDateTime::currentMSecsSinceEpoch()) * 1e-3;
        if (const auto added = opened.value().log->append(reading, now_s); !added)
            return answer.wrong({added.error().what, added.error().where,
                                 say("{taken} readings were taken before that", {{"taken", taken}})});
        ++taken;
    }
    answer.data = {{"taken", taken}, {"warnings", warnings}};
    answer.line(std::to_string(taken) + " readings taken");
    for (const auto& w : warnings)
        answer.line("warning: " + w.text());
}

void newCase(const std::string& folder, const std::vector<std::string>& files, const std::string& title,
             Answer& answer) {
    const auto board = readBoardFiles({files.begin(), files.end()});
    if (!board) return answer.wrong(board.error());
    const std::string named = title.empty() ? std::filesystem::path(folder).filename().string() : title;
    const auto made = CaseFolder::create(folder, named, board.value());
    if (!made) return answer.wrong(made.error());
    answer.data = {{"case", folder}, {"warnings", Json::array()}};
    answer.line(folder);
    for (const BoardWarning& warning : board.value().warnings) {
        answer.data["warnings"].push_back(warning.what);
        answer.line("warning: " + warning.what.text());
    }
}

/// Everything that can be typed in the window can be noted here.
void noteFact(const std::string& folder, const std::string& kind, const std::vector<std::string>& words,
              Answer& answer) {
    const Message kept = say("nothing was noted");
    const auto wrong = [&](const Message& what) { answer.wrong({what, "case note " + kind, kept}); };
    const auto opened = CaseFolder::open(folder);
    if (!opened) return answer.wrong(opened.error());
    const Board& board = opened.value().board;
    FactLog& log = *opened.value().log;
    std::optional<FactBody> body;
    if (kind == "undo" || kind == "redo") {
        const auto target = kind == "undo" ? undoTarget(log.facts()) : redoTarget(log.facts());
        if (!target) return wrong(kind == "undo" ? say("nothing to undo") : say("nothing to redo"));
        body = Struck{*target};
    } else if (kind == "strike") {
        long id = 0;
        for (const Fact& fact : log.facts())
            if (words.size() == 1 && std::to_string(fact.id) == words.front()) id = fact.id;
        if (id == 0) return wrong(say("the number of a fact of this case is needed"));
        body = Struck{id};
    } else if (kind == "trace" && words.size() == 1 && words.front().ends_with(".csv")) {
        std::ifstream in(words.front());
        if (!in) return answer.wrong({say("cannot be opened"), words.front(), kept});
        auto trace = readPowerTrace(std::string{std::istreambuf_iterator<char>(in), {}}, words.front());
        if (!trace) return answer.wrong(trace.error());
        body = std::move(trace.value());
    } else {
        const auto made = factFromEntry(board, entryOf(board, kind, words));
        if (!made) return wrong(made.error().what);
        body = made.value();
    }
    if (const auto why = whyNotTaken(board, *body)) return wrong(*why);
    const double now_s = static_cast<double>(QDateTime::currentMSecsSinceEpoch()) * 1e-3;
    const auto added = log.append(*body, now_s);
    if (!added) return answer.wrong(added.error());
    const Message sentence = sentenceOn(board, *body);
    answer.data = {{"fact", added.value().id}, {"sentence", sentence}};
    answer.line(std::to_string(added.value().id) + " " + sentence.text());
}

void listKinds(Answer& answer) {
    answer.data["kinds"] = Json::array();
    for (const EntryKind& kind : entryKinds()) {
        answer.data["kinds"].push_back({{"kind", kind.word},
                                        {"what", kind.label},
                                        {"places", {kind.leastPlaces, kind.mostPlaces}},
                                        {"example", kind.example}});
        const std::string places = kind.mostPlaces == 0 ? "" : kind.leastPlaces == 0 ? " [PLACE]" : " PLACE";
        answer.line(std::string(kind.word) + places + " " + kind.example + ": " + kind.label.text());
    }
}

} // namespace

void addCaseCommands(CLI::App& app, Answer& answer) {
    struct Options {
        std::string folder, target, kind, title;
        std::vector<std::string> words;
    };
    auto options = std::make_shared<Options>();
    CLI::App* cases = app.add_subcommand("case", "Cases")->require_subcommand(1);
    CLI::App* reported = cases->add_subcommand("report", "Writes the report as PDF or HTML");
    reported->add_option("case", options->folder, "Case folder")->required();
    reported->add_option("-o,--output", options->target, "X.pdf or X.html")->required();
    reported->callback([options, &answer] { report(options->folder, options->target, answer); });
    CLI::App* packed = cases->add_subcommand("export", "Packs a case into one file");
    packed->add_option("case", options->folder, "Case folder")->required();
    packed->add_option("-o,--output", options->target, "X.ustor-case")->required();
    packed->callback([options, &answer] { exportTo(options->folder, options->target, answer); });
    CLI::App* unpacked = cases->add_subcommand("import", "Unpacks a case into a folder of its own");
    unpacked->add_option("file", options->target, "X.ustor-case")->required();
    unpacked->add_option("-o,--output", options->folder, "Folder that holds cases")->required();
    unpacked->callback([options, &answer] { importTo(options->target, options->folder, answer); });
    CLI::App* good = cases->add_subcommand("known-good", "What a donor or a proven repair reads, as CSV");
    good->add_option("case", options->folder, "Case folder")->required();
    good->add_option("-o,--output", options->target, "CSV file to write")->required();
    good->callback([options, &answer] { knownGoodOut(options->folder, options->target, answer); });
    CLI::App* made = cases->add_subcommand("new", "Makes a case around a board");
    made->add_option("case", options->folder, "Folder to make")->required();
    made->add_option("--board", options->words, "Files of the board")->required();
    made->add_option("--title", options->title, "What it is called; its folder's name without");
    made->callback([options, &answer] { newCase(options->folder, options->words, options->title, answer); });
    CLI::App* noted = cases->add_subcommand(
        "note", "Notes a fact: case note CASE ohms C12.1 0.3; undo, redo and strike NUMBER take one back");
    noted->add_option("case", options->folder, "Case folder")->required();
    noted->add_option("kind", options->kind, "What it is; `case kinds` lists them")->required();
    noted->add_option("words", options->words, "Places, then the value")->expected(0, -1);
    noted->positionals_at_end();
    noted->callback([options, &answer] { noteFact(options->folder, options->kind, options->words, answer); });
    CLI::App* kinds = cases->add_subcommand("kinds", "Kinds of fact that can be noted, with examples");
    kinds->callback([&answer] { listKinds(answer); });
    CLI::App* readings = cases->add_subcommand("readings", "Readings as CSV, out of a case or into it");
    readings->add_option("case", options->folder, "Case folder")->required();
    auto* out = readings->add_option("-o,--output", options->target, "CSV file to write");
    auto* in = readings->add_option("--add", options->target, "CSV file whose readings become facts");
    out->excludes(in);
    readings->callback([options, in, out, &answer] {
        if (*in)
            readingsIn(options->folder, options->target, answer);
        else if (*out)
            readingsOut(options->folder, options->target, answer);
        else
            answer.wrong({say("give -o FILE or --add FILE"), "case readings", {}});
    });
}

} // namespace ustor::cli
