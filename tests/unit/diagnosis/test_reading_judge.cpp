#include "diagnosis/assess.h"
#include "diagnosis/fact/readings_csv.h"
#include "diagnosis/reading_judge.h"
#include "support/boards.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>

using namespace ustor;
using namespace ustor::testing;

namespace {

/// The small board with two channels built alike beside its rails.
Board withChannels() {
    Board board = smallBoard();
    for (const char* channel : {"A", "B"})
        for (int i = 0; i < 3; ++i)
            addChip(board, std::string("C") + channel + std::to_string(i), PartClass::CeramicCapacitor,
                    {50 + 2.0 * i, channel[0] - 60.0}, std::string("+1V1_") + channel, "GND")
                .value = "22u";
    return board;
}

class Facts {
  public:
    Facts& reading(const std::string& place, const std::string& mode, const std::string& shown) {
        return add(ReadingTaken{place, "", *readingFromText(shown, *meterModeFromWord(mode))});
    }
    Facts& add(FactBody body, double after_s = 10) {
        m_now_s += after_s;
        m_facts.push_back({static_cast<long>(m_facts.size()) + 1, m_now_s, std::move(body)});
        return *this;
    }
    const std::vector<Fact>& all() const { return m_facts; }

  private:
    double m_now_s = 1000;
    std::vector<Fact> m_facts;
};

KnownReading good(const std::string& place, const std::string& mode, const std::string& shown) {
    return {place, *readingFromText(shown, *meterModeFromWord(mode)), false, "donor"};
}

RailRuling rulingOf(const Board& board, const Facts& facts, const KnownGoodSet& set = {}) {
    return caseState(board, facts.all(), set).readings.back().ruling;
}

} // namespace

/// The kinds of readings that the trade tells of, each judged by who knows best. Every row: common practice.
void TestReadingJudge::tableOfTheTrade_data() {
    QTest::addColumn<QString>("place");
    QTest::addColumn<QString>("mode");
    QTest::addColumn<QString>("shown");
    QTest::addColumn<QString>("known"); // what a good board reads at C10.1; empty: none known
    QTest::addColumn<QString>("sibling");
    QTest::addColumn<bool>("warm");
    QTest::addColumn<QString>("state");
    QTest::addColumn<int>("by");
    constexpr int byGood = int(RulingBy::KnownGood), bySibling = int(RulingBy::Sibling),
                  byRule = int(RulingBy::Rule);
    const auto row = [](const char* name, const char* place, const char* mode, const char* shown,
                        const char* known, const char* sibling, bool warm, const char* state, int by) {
        QTest::newRow(name) << place << mode << shown << known << sibling << warm << state << by;
    };
    row("healthy", "C10.1", "diode", "0.45", "", "", false, "healthy", byRule);
    row("hard short", "C10.1", "ohms", "0.3", "", "", false, "short", byRule);
    row("hard short in diode test", "C10.1", "diode", "0.004", "", "", false, "short", byRule);
    row("partial short", "C10.1", "ohms", "63", "", "", false, "partial short", byRule);
    row("core rail", "C3.1", "ohms", "2.1", "", "", false, "low by nature", byRule);
    row("core rail in diode test", "C3.1", "diode", "0.012", "", "", false, "low by nature", byRule);
    row("a rail of 70 ohm that is so on a good board", "C10.1", "ohms", "68", "70", "", false, "healthy",
        byGood);
    row("hundreds of ohms, where a good board has thousands", "C10.1", "ohms", "300", "4k7", "", false,
        "partial short", byGood);
    row("core rail as on a good board", "C3.1", "ohms", "2.1", "2.3", "", false, "healthy", byGood);
    row("core rail far below a good board", "C3.1", "ohms", "0.3", "2.3", "", false, "short", byGood);
    row("open where a good board conducts", "C10.1", "diode", "OL", "0.45", "", false, "healthy", byGood);
    row("good board too low for the meter", "C3.1", "diode", "0.001", "0.002", "", false, "low by nature",
        byRule);
    row("core channel as its sibling", "CA0.1", "ohms", "3.1", "", "3.0", false, "healthy", bySibling);
    row("core channel far below its sibling", "CA0.1", "ohms", "0.3", "", "3.0", false, "short", bySibling);
    row("half of its sibling", "CA0.1", "ohms", "1.2", "", "3.0", false, "partial short", bySibling);
    row("the good board goes before the sibling", "CA0.1", "ohms", "1.2", "1.3", "3.0", false, "healthy",
        byGood);
    row("0.50 V for 0.60 V right after hot air", "C10.1", "diode", "0.50", "0.60", "", true, "unknown",
        byRule);
    row("the same on a cold board", "C10.1", "diode", "0.50", "0.60", "", false, "partial short", byGood);
    row("a hard short stays one on a warm board", "C10.1", "ohms", "0.3", "", "", true, "short", byRule);
    row("volts say nothing", "C10.1", "volts", "0.4", "0.45", "", false, "unknown", byRule);
}

void TestReadingJudge::tableOfTheTrade() {
    QFETCH(QString, place);
    QFETCH(QString, mode);
    QFETCH(QString, shown);
    QFETCH(QString, known);
    QFETCH(QString, sibling);
    QFETCH(bool, warm);
    QFETCH(QString, state);
    QFETCH(int, by);
    KnownGoodSet set;
    if (!known.isEmpty())
        set.readings.push_back(good(place.toStdString(), mode.toStdString(), known.toStdString()));
    Facts facts;
    if (!sibling.isEmpty()) facts.reading("CB1.1", mode.toStdString(), sibling.toStdString());
    if (warm) facts.add(Refitted{"C15", false, ""});
    facts.reading(place.toStdString(), mode.toStdString(), shown.toStdString());
    const RailRuling ruling = rulingOf(withChannels(), facts, set);
    QCOMPARE(QString::fromStdString(std::string(wordOf(ruling.state))), state);
    QCOMPARE(int(ruling.by), by);
    QVERIFY(ruling.rule.text().size() > 10);
}

void TestReadingJudge::otherPlacesOfTheNetSpeak() {
    const Board board = withChannels();
    const KnownGoodSet set{"small", {good("C11.1", "ohms", "70"), good("C12.1", "ohms", "74")}};
    const auto ruling = rulingOf(board, Facts().reading("C10.1", "ohms", "69"), set);
    QCOMPARE(ruling.state, RailState::Healthy);
    QCOMPARE(ruling.by, RulingBy::KnownGood);
    QVERIFY(ruling.rule.text().find("72") != std::string::npos); // the median of both
}

void TestReadingJudge::reversedLeadsNeedAGoodBoard() {
    const Board board = withChannels();
    ReadingTaken taken{"C10.1", "", *readingFromText("0.2", MeterMode::Diode), true};
    QCOMPARE(rulingOf(board, Facts().add(taken)).state, RailState::Unknown);
    KnownGoodSet set{"small", {good("C10.1", "diode", "0.21")}};
    set.readings.front().reversed = true;
    QCOMPARE(rulingOf(board, Facts().add(taken), set).state, RailState::Healthy);
    // A reading the usual way round is not compared with one the other way round.
    taken.reversed = false;
    QCOMPARE(rulingOf(board, Facts().add(taken), set).by, RulingBy::Rule);
}

/// An hour after hot air the board is cold again.
void TestReadingJudge::warmthPasses() {
    const Board board = withChannels();
    const KnownGoodSet set{"small", {good("C10.1", "diode", "0.60")}};
    Facts facts;
    facts.add(Lifted{"C15"});
    facts.add(ReadingTaken{"C10.1", "", *readingFromText("0.50", MeterMode::Diode)}, 3600);
    QCOMPARE(rulingOf(board, facts, set).state, RailState::Partial);
}

void TestReadingJudge::knownGoodComesFromDonorsAndProvenRepairs() {
    const Board board = withChannels();
    Facts donor;
    donor.reading("C10.1", "ohms", "450").reading("C3.1", "ohms", "2.4");
    QCOMPARE(knownGoodFrom(board, donor.all(), "d").readings.size(), std::size_t(2));
    // A repair speaks only after the short is gone and all is back on.
    Facts repair;
    repair.reading("C10.1", "ohms", "0.3").reading("C3.1", "ohms", "2.2");
    QVERIFY(knownGoodFrom(board, repair.all(), "r").empty());
    repair.add(Lifted{"C11"});
    repair.add(ReadingTaken{"C10.1", "", *readingFromText("460", MeterMode::Ohms)}, 600);
    QVERIFY(knownGoodFrom(board, repair.all(), "r").empty());
    repair.add(Refitted{"C11", true, ""});
    repair.add(ReadingTaken{"C10.1", "", *readingFromText("455", MeterMode::Ohms)}, 600);
    const auto set = knownGoodFrom(board, repair.all(), "r");
    QCOMPARE(set.readings.size(), std::size_t(1));
    QCOMPARE(set.readings.front().reading.value, 455.0);
    QCOMPARE(set.readings.front().donor, std::string("r"));
}

void TestReadingJudge::knownGoodAsCsv() {
    KnownGoodSet set{"small",
                     {good("C10.1", "ohms", "450"), good("U1", "diode", "OL"), good("C3,1", "beep", "2")}};
    set.readings[0].reversed = true;
    std::vector<Message> warnings;
    const auto back = readKnownGood(knownGoodToCsv(set), "k.csv", warnings);
    QVERIFY(back.ok());
    QVERIFY(warnings.empty());
    QCOMPARE(back.value().readings.size(), set.readings.size());
    for (std::size_t i = 0; i < set.readings.size(); ++i) {
        QCOMPARE(back.value().readings[i].place, set.readings[i].place);
        QVERIFY(back.value().readings[i].reading == set.readings[i].reading);
        QCOMPARE(back.value().readings[i].reversed, set.readings[i].reversed);
        QCOMPARE(back.value().readings[i].donor, set.readings[i].donor);
    }
    const auto partly =
        readKnownGood("place,mode,value,unit,polarity,board\nC1,ohms,5,ohm,sideways,x\nC2,ohms,5,ohm,,x\n",
                      "k.csv", warnings);
    QVERIFY(partly.ok());
    QCOMPARE(partly.value().readings.size(), std::size_t(1));
    QCOMPARE(warnings.size(), std::size_t(1));
    QVERIFY(warnings.front().text().starts_with("k.csv:2"));
    QVERIFY(!readKnownGood("what,is,this\n", "k.csv", warnings).ok());
}
