#include "trade/test_trade.h"

#include "diagnosis/assess.h"
#include "diagnosis/circuit/feed.h"
#include "diagnosis/fact/fact_check.h"
#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/hypothesis/words.h"
#include "diagnosis/moves/prospect.h"
#include "rail/near_far.h"
#include "store/case_folder.h"
#include "trade/trade_case.h"

#include <QTest>
#include <algorithm>
#include <cstdio>
#include <functional>
#include <set>

using namespace ustor;
using testing::TradeBoard;
using testing::TradeCase;
using testing::TradeLine;

namespace {

std::string joinedFrom(const std::vector<std::string>& words, std::size_t first) {
    std::string all;
    for (std::size_t i = first; i < words.size(); ++i)
        all += (all.empty() ? "" : " ") + words[i];
    return all;
}

/// A case while it is told.
class Telling {
  public:
    explicit Telling(const TradeBoard& on) : m_board(on.board), m_assessor(m_board, {}) {}

    const std::vector<Fact>& facts() const { return m_facts; }

    /// What is wrong with the line; empty where nothing is.
    std::string take(const TradeLine& line) {
        if (line.expects) return wrongWith(line.words);
        std::vector<std::string> words = line.words;
        // "at PART" is where a person reads the spot off the picture.
        if (const auto at = std::find(words.begin(), words.end(), "at");
            words.front() == "heat" && at != words.end()) {
            const PartIndex p = m_board.findPart(*(at + 1));
            if (p < 0) return "no part " + *(at + 1);
            const BoardPoint centre = m_board.parts[p].centre;
            words.erase(at, words.end());
            words.push_back(std::to_string(centre.x_mm));
            words.push_back(std::to_string(centre.y_mm));
            if (m_board.parts[p].side == Side::Bottom && words[3] == "point") words[2] = "bottom";
        }
        const std::string kind = words.front();
        words.erase(words.begin());
        const auto body = factFromEntry(m_board, entryOf(m_board, kind, words));
        if (!body) return body.error().text();
        if (const auto why = whyNotTaken(m_board, body.value())) return why->text();
        constexpr double apart_s = 60;
        m_time_s += apart_s;
        m_facts.push_back({static_cast<long>(m_facts.size()) + 1, m_time_s, body.value()});
        m_assessor.take(m_facts);
        return {};
    }

  private:
    const Assessment& now() const { return m_assessor.assessment(); }

    double oddsOf(const std::function<bool(const Fault&)>& is) const {
        double odds = 0;
        for (const Hypothesis& h : now().belief.hypotheses)
            if (std::any_of(h.causes.begin(), h.causes.end(), is)) odds += h.odds;
        return odds;
    }
    PartIndex part(const std::string& name) const { return m_board.findPart(name); }

    /// Parts by how sure it is that they are a cause; what was found before is none any more.
    std::vector<std::pair<double, std::string>> ranked() const {
        std::vector<std::pair<double, std::string>> all;
        for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p)
            all.emplace_back(now().belief.cause[static_cast<std::size_t>(p)], m_board.parts[p].designator);
        std::stable_sort(all.begin(), all.end(),
                         [](const auto& a, const auto& b) { return a.first > b.first; });
        return all;
    }
    /// What stands first, for the message.
    std::string first() const {
        std::string told;
        const auto& all = now().belief.hypotheses;
        for (std::size_t i = 0; i < std::min<std::size_t>(4, all.size()); ++i)
            told += QString::number(all[i].odds, 'f', 3).toStdString() + " " +
                    sentenceOf(m_board, all[i].causes).text() + "; ";
        return told;
    }

    std::string number(double is, const std::vector<std::string>& words, std::size_t at) const {
        const double wanted = std::stod(words[at + 1]);
        const bool holds = words[at] == ">" ? is > wanted : is < wanted;
        return holds ? std::string() : "is " + QString::number(is, 'f', 3).toStdString() + "; " + first();
    }

    std::string nextText() const {
        return now().next.empty() ? std::string() : now().next.front().sentence.text();
    }

    std::string wrongWith(const std::vector<std::string>& words) const {
        const std::string& what = words[0];
        const Assessment& a = now();
        const BoardCircuit circuit(a.state.board, *a.state.netParts);
        const Feed feed(a.state.board, circuit);
        if (what == "first" || what == "among") {
            const std::size_t most = what == "first" ? 1 : std::stoul(words[1]);
            const auto all = ranked();
            for (std::size_t i = 0; i < std::min(most, all.size()); ++i)
                if (all[i].second == words.back()) return {};
            return first();
        }
        if (what == "part" || what == "rest")
            return number(a.belief.cause[static_cast<std::size_t>(part(words[1]))], words, 2);
        if (what == "victim")
            return number(a.belief.victim[static_cast<std::size_t>(part(words[1]))], words, 2);
        if (what == "found") {
            const PartIndex p = part(words[1]);
            const bool found = std::any_of(a.belief.found.begin(), a.belief.found.end(),
                                           [p](const Fault& f) { return f.part == p; });
            return found ? std::string() : "not found; " + first();
        }
        if (what == "still") return number(a.stillShorted, words, 1);
        if (what == "other")
            return number(oddsOf([](const Fault& f) { return f.kind == FaultKind::Other; }), words, 1);
        if (what == "repairable")
            return number(Prospect(a.state, a.belief, {}).oddsOf([](const Prospect::View& view) {
                return view.repairable;
            }),
                          words, 1);
        if (what == "kind")
            return number(oddsOf([&](const Fault& f) { return wordOf(f.kind) == words[1]; }), words, 2);
        if (what == "shorted") {
            const int rail = circuit.railOf(m_board.findNet(words[1]));
            const PartsOff& stand = *a.state.now;
            return number(oddsOf([&](const Fault& f) {
                              return f.conducts() && rail >= 0 && isOn(a.state.board, stand, f) &&
                                     (circuit.railOf(f.a) == rail || circuit.railOf(f.b) == rail);
                          }),
                          words, 2);
        }
        if (what == "where")
            return number(oddsOf([&](const Fault& f) {
                              if (!f.conducts()) return false;
                              const auto stage =
                                  std::min(feed.stageOf(circuit.railOf(f.a)),
                                           f.b < 0 ? FeedStage::Unfed : feed.stageOf(circuit.railOf(f.b)));
                              return words[1] == (stage == FeedStage::Input     ? "Input"
                                                  : stage == FeedStage::Main    ? "Main"
                                                  : stage == FeedStage::Derived ? "Derived"
                                                                                : "Unfed");
                          }),
                          words, 2);
        if (what == "behind") {
            // The switch itself, or a short behind it.
            const PartIndex p = part(words[1]);
            return number(oddsOf([&](const Fault& f) {
                              return f.part == p ||
                                     (f.conducts() && feed.stageOf(circuit.railOf(f.a)) == FeedStage::Main);
                          }),
                          words, 2);
        }
        if (what == "about") {
            // A fault of the rail, or of what makes it.
            const int rail = circuit.railOf(m_board.findNet(words[1]));
            return number(oddsOf([&](const Fault& f) {
                              if (f.conducts() && circuit.railOf(f.a) == rail) return true;
                              if (feed.wayTo(rail).empty()) return false;
                              const auto& step = feed.wayTo(rail).back().parts;
                              return f.part >= 0 && std::find(step.begin(), step.end(), f.part) != step.end();
                          }),
                          words, 2);
        }
        if (what == "state" || what == "healthy")
            for (const RailJudgement& rail : a.rails)
                if (m_board.nets[rail.net].name == words[1]) {
                    const std::string wanted = what == "healthy" ? "healthy" : words[2];
                    const std::string is(wordOf(rail.ruling.state));
                    return is == wanted ? std::string() : "is " + is;
                }
        if (what == "next" || what == "nextnot") {
            const bool so = nextText().starts_with(joinedFrom(words, 1));
            return so == (what == "next") ? std::string() : "next: " + nextText() + "; " + first();
        }
        if (what == "nextabout") {
            const NextMove& next = a.next.front();
            const int rail = circuit.railOf(m_board.findNet(words[1]));
            const NetIndex net = netOfPlace(a.state.board, next.place);
            const PartIndex p = part(next.place);
            bool onIt = circuit.railOf(net) == rail;
            if (p >= 0)
                for (const Pad& pad : m_board.parts[p].pads)
                    onIt = onIt || circuit.railOf(pad.net) == rail;
            return onIt ? std::string() : "next: " + nextText();
        }
        if (what == "end") {
            const std::string is(wordOf(a.next.empty() ? CaseEnd::Open : a.next.front().end));
            return is == words[1] ? std::string() : "is " + is + ", next: " + nextText() + "; " + first();
        }
        if (what == "together") {
            std::set<std::string> all;
            for (const Together& t : a.together)
                all.insert(m_board.parts[t.part].designator);
            std::string missing;
            for (std::size_t i = 2; i < words.size(); ++i)
                if (!all.contains(words[i])) missing += words[i] + " ";
            return missing.empty() ? std::string() : "not together: " + missing;
        }
        if (what == "warn") {
            for (const SetAside& each : a.setAside)
                if (each.why.text().find(joinedFrom(words, 1)) != std::string::npos) return {};
            return "not said";
        }
        if (what == "near") {
            const SourceShows* source = a.state.source();
            const NearFar found = nearOrFar(Volts(source->volts), Amps(source->amps),
                                            ratedFor(Volts(source->volts)), usualLeads().front().resistance);
            return found.verdict == NearFar::Verdict::AtConnector || found.verdict == NearFar::Verdict::Behind
                       ? std::string()
                       : "not in its limit";
        }
        return "no such expectation: " + what;
    }

    const Board& m_board;
    Assessor m_assessor;
    std::vector<Fact> m_facts;
    double m_time_s = 0;
};

/// Where somebody wants to look at the cases in the window.
void keep(const TradeBoard& board, const TradeCase& told, const std::vector<Fact>& facts) {
    const QString folder = qEnvironmentVariable("USTOR_KEEP_CASES");
    if (folder.isEmpty()) return;
    auto made = CaseFolder::create(freeCaseFolder(folder.toStdString(), board.name + " " + told.title),
                                   told.title, board.board);
    QVERIFY2(made.ok(), made.ok() ? "" : made.error().text().c_str());
    for (const Fact& fact : facts)
        QVERIFY(made.value().log->append(fact.body, fact.time_s).ok());
}

} // namespace

void TestTrade::casesOfTheTrade() {
    std::vector<std::string> missing;
    const std::string folder = USTOR_TRADE_CASES;
    const auto boards = testing::readTradeBoards(folder + "/boards.txt", missing);
    const auto cases = testing::readTradeCases(folder + "/cases.txt");
    int worked = 0, moments = 0, wrongMoments = 0;
    std::set<std::string> theirs, used;
    for (const TradeCase& each : cases) {
        bool told = false;
        std::string row;
        for (const TradeBoard& board : boards) {
            const auto here = each.on(board);
            if (!here) continue;
            told = true;
            ++worked;
            used.insert(board.name);
            if (!board.drawnHere) theirs.insert(board.name);
            Telling telling(board);
            bool wrong = false;
            for (const TradeLine& line : here->lines) {
                const std::string what = telling.take(line);
                moments += line.expects;
                if (what.empty()) continue;
                wrong = true;
                ++wrongMoments;
                std::printf("  %s, line %d (%s): %s\n", board.name.c_str(), line.line,
                            joinedFrom(line.words, 0).c_str(), what.c_str());
                if (!line.expects) break;
            }
            row += "  " + board.name + (wrong ? " WRONG" : " right");
            keep(board, *here, telling.facts());
        }
        std::printf("%-64s%s\n", each.title.c_str(), row.c_str());
        QVERIFY2(told, each.title.c_str());
    }
    std::printf("%d cases on %d boards, %d of them drawn by others; %d moments, %d wrong\n", worked,
                static_cast<int>(used.size()), static_cast<int>(theirs.size()), moments, wrongMoments);
    for (const std::string& name : missing)
        std::printf("board left out, it cannot be had here: %s\n", name.c_str());
    QCOMPARE(wrongMoments, 0);
    QVERIFY(worked >= 80);
}
