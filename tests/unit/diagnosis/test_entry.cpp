#include "diagnosis/fact/entry.h"
#include "diagnosis/fact/fact_check.h"
#include "diagnosis/fact/fact_json.h"
#include "support/boards.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <set>

using namespace ustor;

// What the list offers as an example can be typed, and every kind of fact can be typed in some way.
void TestEntry::everyExampleIsTaken() {
    const Board board = testing::smallBoard();
    const std::map<std::string, std::vector<std::string>> typed{
        {"ohms", {"C10.1", "4m"}},
        {"diode", {"C10.1", "0.45"}},
        {"beep", {"C10.1", "12"}},
        {"volts", {"C10.1", "3.31"}},
        {"seen", {"C10", "cracked"}},
        {"plug-in", {"5", "0.02", "dies"}},
        {"complaint", {"dead"}},
        {"note", {"smells", "of", "seaweed"}},
        {"history", {"liquid", "lemonade"}},
        {"negotiation", {"J1", "20", "5", "turned"}},
        {"trace", {"0 20 0.07; 1 20 0.6"}},
        {"board", {"C10.1", "burnt-laminate"}},
        {"burst", {"C10", "spark"}},
        {"sensed", {"C10", "alcohol", "+3V3"}},
        {"supply", {"C10.1", "1", "2.4", "steady"}},
        {"leads", {"meter", "0.2"}},
        {"warmth", {"cool"}},
        {"donor", {"C10.1", "ohms", "480"}},
        {"part", {"C10", "ohms", "0.4"}},
        {"copper", {"C10.1", "C11.1", "wire"}},
        {"again", {"Q1", "after", "a", "minute"}},
        {"fee", {"120", "0", "60"}},
        {"first", {"chips"}},
        {"lifted", {"C10"}},
        {"refitted", {"C10"}},
        {"replaced", {"C10"}},
        {"unplugged", {"J1"}},
        {"plugged", {"J1"}},
        {"uncovered", {"foam"}},
        {"rail", {"+3V3"}},
        {"class", {"U2", "processor"}},
        {"nominal", {"SW", "1.1"}},
        {"injection", {"C10.1", "C10.2", "+3V3", "1", "2"}},
        {"heat", {"+3V3", "top", "far", "side", "31.5", "12"}},
        {"millivolts", {"C10.1", "C11.1", "C11.2", "0.0021", "1"}},
        {"caution", {"measure"}},
        {"closed", {"C10", "fixed", "as", "new"}},
        {"json",
         {R"({"kind":"painted","over":"top","surface":"bare metal","from_px":[1,2],"to_px":[3,4],"radius_px":2})"}}};
    std::set<std::size_t> kinds;
    for (const EntryKind& kind : entryKinds()) {
        const auto words = typed.find(std::string(kind.word));
        QVERIFY2(words != typed.end(), std::string(kind.word).c_str());
        const auto body = factFromEntry(board, entryOf(board, std::string(kind.word), words->second));
        QVERIFY2(body.ok(), body.ok() ? "" : (std::string(kind.word) + ": " + body.error().text()).c_str());
        const auto why = whyNotTaken(board, body.value());
        QVERIFY2(!why, why ? why->text().c_str() : "");
        kinds.insert(body.value().index());
    }
    // All but an alignment, which is typed as JSON too, a strike and what is not known.
    QCOMPARE(kinds.size(), std::variant_size_v<FactBody> - 3);
}

void TestEntry::wrongEntriesSayWhatIsNeeded_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QStringList>("words");
    QTest::addColumn<QString>("says");
    QTest::newRow("no kind") << "smell" << QStringList{"bad"}
                             << "there is no kind of fact \"smell\"; there are: ohms";
    QTest::newRow("no place") << "ohms" << QStringList{} << "Where?";
    QTest::newRow("no reading") << "ohms" << QStringList{"C10.1", "lots"} << "is not a reading";
    QTest::newRow("no reaction") << "plug-in" << QStringList{"5", "0.2", "sings"} << "pulses";
    QTest::newRow("half a moment") << "trace" << QStringList{"0 20 0.1; 1 20"} << "is no moment";
    QTest::newRow("no volts got") << "negotiation" << QStringList{"20"} << "volts got";
    QTest::newRow("no leads") << "leads" << QStringList{"dog", "0.2"} << "meter, supply";
    QTest::newRow("mode") << "donor" << QStringList{"C10.1", "480"} << "first the mode";
    QTest::newRow("side") << "heat" << QStringList{"+3V3", "left", "none"} << "the side";
    QTest::newRow("end") << "closed" << QStringList{"maybe"} << "not-fixed";
    QTest::newRow("class") << "class" << QStringList{"U2", "toaster"} << "no class of parts";
    QTest::newRow("json") << "json" << QStringList{R"({"kind":"x-ray"})"} << "knows no such fact";
    QTest::newRow("no json") << "json" << QStringList{"kind"} << "begins with a brace";
}

void TestEntry::wrongEntriesSayWhatIsNeeded() {
    QFETCH(const QString, kind);
    QFETCH(const QStringList, words);
    QFETCH(const QString, says);
    const Board board = testing::smallBoard();
    std::vector<std::string> typed;
    for (const QString& word : words)
        typed.push_back(word.toStdString());
    const auto body = factFromEntry(board, entryOf(board, kind.toStdString(), typed));
    QVERIFY(!body.ok());
    QVERIFY2(QString::fromStdString(body.error().text()).contains(says), body.error().text().c_str());
}

void TestEntry::placesAndValues() {
    Board board = testing::smallBoard();
    // Nets of untidy boards are called by numbers: "63" is what the meter shows all the same.
    testing::addChip(board, "R7", PartClass::Resistor, {50, 8}, "63", "20");
    const auto readingOf = [&](const std::vector<std::string>& words) {
        return std::get<ReadingTaken>(factFromEntry(board, entryOf(board, "ohms", words)).value());
    };
    QCOMPARE(readingOf({"C10.1", "63"}).against, std::string());
    QCOMPARE(readingOf({"63", "12"}).place, std::string("63"));
    QCOMPARE(std::get<Negotiated>(factFromEntry(board, entryOf(board, "negotiation", {"20", "5"})).value())
                 .asked_v,
             20.0);
    QCOMPARE(std::get<CameBack>(factFromEntry(board, entryOf(board, "again", {"Q1"})).value()).part,
             std::string("Q1"));
    QCOMPARE(readingOf({"Q1.D", "Q1.S", "0.2"}).against, std::string("Q1.S"));
    QVERIFY(readingOf({"C10.1", "63", "reversed"}).reversed);
    QVERIFY(readingOf({"C10.1", "63", "powered"}).powered);
    // Nets of a board that came as copper alone have blanks in their names.
    testing::addChip(board, "C90", PartClass::CeramicCapacitor, {50, 12}, "copper 13", "copper 1");
    QCOMPARE(readingOf({"copper", "13", "0.4"}).place, std::string("copper 13"));
    QCOMPARE(readingOf({"copper", "13", "copper", "1", "0.4"}).against, std::string("copper 1"));
    const auto heat = std::get<HeatFound>(
        factFromEntry(board, entryOf(board, "heat", {"copper", "13", "top", "point", "31", "12"})).value());
    QCOMPARE(heat.net, std::string("copper 13"));
    QCOMPARE(heat.spots.front().at, (BoardPoint{31, 12}));
    const auto injected = std::get<InjectionDone>(
        factFromEntry(board, entryOf(board, "injection", {"C90.1", "C90.2", "copper", "13", "1", "2"}))
            .value());
    QCOMPARE(injected.net, std::string("copper 13"));
    QCOMPARE(injected.amps, 2.0);
    // What a part reads by itself: a capacitor of 40 ohms leaks, a coil of 40 ohms does not short.
    const auto measured = [&](const std::vector<std::string>& words) {
        return std::get<PartMeasured>(factFromEntry(board, entryOf(board, "part", words)).value());
    };
    QVERIFY(measured({"C10", "ohms", "40"}).shorted);
    QVERIFY(!measured({"C10", "ohms", "OL"}).shorted);
    QVERIFY(!measured({"L1", "ohms", "0.02"}).shorted);
    QVERIFY(measured({"F1", "ohms", "OL"}).open);
    QVERIFY(measured({"Q1", "diode", "0.001"}).shorted);
    QVERIFY(!measured({"Q1", "diode", "0.5"}).shorted);
    QVERIFY(measured({"C10", "shorted"}).shorted);
    const auto seen = std::get<Seen>(
        factFromEntry(board, entryOf(board, "seen", {"C10", "cracked", "at", "one", "end"})).value());
    QCOMPARE(seen.damage, Damage::Cracked);
    QCOMPARE(seen.text, std::string("at one end"));
}
