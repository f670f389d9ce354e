#include "diagnosis/fact/fact_check.h"
#include "diagnosis/fact/fact_json.h"
#include "diagnosis/fact/readings_csv.h"
#include "support/boards.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <cmath>
#include <limits>
#include <map>

using namespace ustor;

namespace {

using Refused = std::map<QByteArray, std::pair<FactBody, QString>>;

/// What must not come in, and a word of why.
const Refused& refusedFacts() {
    const double nan = std::nan(""), infinite = std::numeric_limits<double>::infinity();
    const auto ohms = [](const char* place, double value) {
        return ReadingTaken{place, "", {MeterMode::Ohms, ReadingState::Value, value, 0}};
    };
    static const Refused all{
        {"place", {ohms("C99.1", 1), "no place C99.1"}},
        {"no place", {ohms("", 1), "no place is named"}},
        {"other place", {ReadingTaken{"C12.1", "C99", {MeterMode::Ohms, ReadingState::Value, 1, 0}}, "C99"}},
        {"from itself",
         {ReadingTaken{"C12.1", "C12.1", {MeterMode::Ohms, ReadingState::Value, 63, 0}}, "both ends"}},
        {"wire to itself", {CopperWorked{CopperWork::WireRun, "C12.1", "C12.1"}, "both ends"}},
        {"not a number", {ohms("C12.1", nan), "not a number"}},
        {"infinite", {ohms("C12.1", infinite), "not a number"}},
        {"below nothing", {ohms("C12.1", -5), "no value"}},
        {"mains",
         {ReadingTaken{"C12.1", "", {MeterMode::Volts, ReadingState::Value, 230, 0}}, "no value of a bench"}},
        {"lifted", {Lifted{"C99"}, "no part C99"}},
        {"lifted nothing", {Lifted{""}, "no part is named"}},
        {"replaced", {Refitted{"C99", true, ""}, "no part C99"}},
        {"seen", {Seen{"C99", Damage::Burnt, ""}, "no part C99"}},
        {"rail", {RailChosen{"+99V"}, "no net +99V"}},
        {"source", {SourceShows{nan, 0, ""}, "not a number"}},
        {"no current", {MillivoltTaken{"C12.1", "", 0.01, 0, 0, "C12.1", ""}, "without a current"}},
        {"nowhere",
         {HeatFound{HeatVerdict::Point, Side::Top, {{{nan, 0}, 0.1, 9, 1, 0}}, ""}, "lies nowhere"}},
        {"no landmarks", {Aligned{}, "without landmarks"}}};
    return all;
}

} // namespace

void TestFacts::everyKindComesBackAsItWent() {
    const std::vector<FactBody> bodies{
        Complaint{"dead \"since\" a wet night"},
        SourceShows{5, 0.02, "after a blip"},
        Seen{"C7", Damage::Bulged, "under foam", "photos/C7-1.png"},
        Uncovered{"shields"},
        Unplugged{"J3", false},
        MillivoltTaken{"C9.1", "C9.2", 0.0123, 1e-5, 2, "L1.2", "J1.2"},
        ReadingTaken{"C12.1", "", {MeterMode::Ohms, ReadingState::Value, 0.3, 0.01}},
        ReadingTaken{"C12.1", "C13.1", {MeterMode::Diode, ReadingState::OverRange, 0, 0}},
        RailChosen{"+3V3"},
        ClassCorrected{"U3", PartClass::Processor},
        NominalSet{"SW", 1.1},
        InjectionDone{"+5V0", "L1.2", "J1.2", 1, 0.2, 0.01, 21, "recordings/01", StopCause::Certain},
        HeatFound{HeatVerdict::FarSide, Side::Bottom, {{{1.5, 2.5}, 0.2, 30, 12, 0.7}}, "recordings/01"},
        Lifted{"C76"},
        Refitted{"C76", true, "25 V part"},
        PartMeasured{"C76", true},
        Closed{true, "C76", "done"},
        Noted{"tea"},
        Aligned{Side::Bottom, 0.4, R"({"format":"ustor-registration/1"})"},
        Painted{Painted::Over::Stills, "bare metal", {3.5, 4}, {60, 4.25}, 2.5},
        CautionMet{"inject"},
        History{Past::Liquid, "lemonade"},
        Negotiated{"J1", true, 20, 5},
        PowerTrace{{{0, 20, 0.07}, {1.5, 20, 0.6}}, "with battery"},
        LeadsMeasured{LeadsOf::Supply, 0.08},
        FeeAgreed{120, 20, 60},
        SchoolChosen{HuntSchool::Split},
        BoardSeen{BoardDamage::LiftedPad, "C12.1", "by others"},
        BurstSeen{Burst::Pop, "C12"},
        DonorReading{"C12.1", {MeterMode::Ohms, ReadingState::Value, 480, 1}, true},
        BoardWarm{false},
        SupplyShows{"L1.2", 1, 2.4, CurrentCourse::Drops},
        HeatSensed{HeatSense::Frost, "C76", "+5V0"},
        CopperWorked{CopperWork::WireRun, "C12.1", "C13.1"},
        CameBack{"Q3", "after a minute"},
        Struck{3}};
    long id = 0;
    for (const FactBody& body : bodies) {
        const Fact fact{++id, 1234.5, body};
        const std::string line = factToJson(fact);
        QVERIFY(line.find('\n') == std::string::npos);
        const auto back = factFromJson(line);
        QVERIFY2(back.ok(), back.ok() ? "" : (line + back.error().text()).c_str());
        QCOMPARE(factToJson(back.value()), line);
        QCOMPARE(back.value().body.index(), body.index());
        QVERIFY(!sentenceOf(body).empty());
    }
    QCOMPARE(static_cast<std::size_t>(id),
             std::variant_size_v<FactBody>); // each kind once, readings twice, the unknown one below
}

void TestFacts::unknownKindsAreKept() {
    const std::string line = R"({"id":4,"time":9.5,"kind":"x-ray","dose":[1,2],"by":"a newer version"})";
    const auto fact = factFromJson(line);
    QVERIFY(fact.ok());
    QVERIFY(std::holds_alternative<UnknownFact>(fact.value().body));
    QCOMPARE(factToJson(fact.value()), line);
    QVERIFY(sentenceOf(fact.value().body).text().find("x-ray") != std::string::npos);
}

// A word of a later version, in a kind that is known.
void TestFacts::unknownWordsAreKept() {
    for (const char* line : {R"({"id":1,"time":2,"kind":"reading","place":"C1","mode":"smell","value":1})",
                             R"({"id":1,"time":2,"kind":"seen","part":"C1","damage":"sad"})",
                             R"({"id":1,"time":2,"kind":"injection","cause":"bored"})"}) {
        const auto fact = factFromJson(line);
        QVERIFY2(fact.ok(), line);
        QVERIFY(std::holds_alternative<UnknownFact>(fact.value().body));
        QCOMPARE(factToJson(fact.value()), std::string(line));
    }
    // Even a line that is no fact at all tells its number, so that it is not given again.
    QCOMPARE(idInJson(R"({"id":17,"time":"soon"})"), std::optional<long>(17));
    QCOMPARE(idInJson(R"({"id":18,"kind":)"), std::optional<long>(18));
    QVERIFY(!idInJson("nothing").has_value());
}

void TestFacts::factsAreAskedAtTheDoor_data() {
    QTest::addColumn<QString>("why");
    for (const auto& [name, refused] : refusedFacts())
        QTest::newRow(name) << refused.second;
}

void TestFacts::factsAreAskedAtTheDoor() {
    QFETCH(QString, why);
    const Board board = testing::smallBoard();
    const auto& body = refusedFacts().at(QTest::currentDataTag()).first;
    const auto refused = whyNotTaken(board, body);
    QVERIFY(refused.has_value());
    QVERIFY2(QString::fromStdString(refused->text()).contains(why), refused->text().c_str());
}

void TestFacts::goodFactsPassTheDoor() {
    const Board board = testing::smallBoard();
    for (const FactBody& body : std::vector<FactBody>{
             Complaint{""}, SourceShows{-0.01, 0, ""}, Seen{"", Damage::None, ""}, Lifted{"C12"},
             ReadingTaken{"C12.1", "", {MeterMode::Ohms, ReadingState::Value, -0.02, 0.01}},
             ReadingTaken{"+3V3", "C12", {MeterMode::Diode, ReadingState::OverRange, 0, 0}},
             ReadingTaken{"C12", "", {MeterMode::Volts, ReadingState::Value, 19.5, 0.01}},
             NominalSet{"+3V3", 3.3}, Closed{false, "", ""}, UnknownFact{"x-ray", "{}"}})
        QVERIFY2(!whyNotTaken(board, body), sentenceOf(body).text().c_str());
}

void TestFacts::badLinesAreErrors() {
    for (const char* line :
         {"", "{", "[]", R"({"id":1})", R"({"id":1,"kind":"reading","place":"C1","mode":"ohms","value":1})",
          R"({"id":1,"time":2,"kind":"reading","place":"C1","mode":"ohms"})",
          R"({"id":"one","time":2,"kind":"note"})",
          R"({"id":1,"time":2,"kind":"heat","verdict":"point","spots":[]})"})
        QVERIFY2(!factFromJson(line).ok(), line);
}

void TestFacts::strikingAndBringingBack() {
    std::vector<Fact> facts{{1, 0, Noted{"a"}}, {2, 0, Noted{"b"}}, {3, 0, Struck{1}}};
    QVERIFY(isStruck(facts, 1));
    QCOMPARE(activeFacts(facts).size(), std::size_t(1));
    facts.push_back({4, 0, Struck{3}}); // striking the strike
    QVERIFY(!isStruck(facts, 1));
    QCOMPARE(activeFacts(facts).size(), std::size_t(2));
    facts.push_back({5, 0, Struck{99}}); // of something that is not there
    QCOMPARE(activeFacts(facts).size(), std::size_t(2));
}

void TestFacts::undoAndRedo() {
    std::vector<Fact> facts{{1, 0, Noted{"a"}}, {2, 0, Noted{"b"}}, {3, 0, Noted{"c"}}};
    const auto append = [&](std::optional<long> target) {
        QVERIFY(target.has_value());
        facts.push_back({static_cast<long>(facts.size()) + 1, 0, Struck{*target}});
    };
    const auto texts = [&] {
        std::string all;
        for (const Fact* f : activeFacts(facts))
            all += sentenceOf(f->body).text();
        return all;
    };
    QVERIFY(!redoTarget(facts));
    append(undoTarget(facts));
    append(undoTarget(facts));
    QCOMPARE(texts(), std::string("a"));
    append(redoTarget(facts));
    QCOMPARE(texts(), std::string("ab"));
    append(redoTarget(facts));
    QCOMPARE(texts(), std::string("abc"));
    QVERIFY(!redoTarget(facts));
    append(undoTarget(facts));
    facts.push_back({static_cast<long>(facts.size()) + 1, 0, Noted{"d"}});
    QVERIFY(!redoTarget(facts)); // a new fact closes the way back
    QCOMPARE(texts(), std::string("abd"));
}

void TestFacts::readingsAsCsv() {
    const auto list = readReadings("place,mode,value,unit\nC12.1,ohms,0.3,ohm\nC13.1,diode,,V\nC14.1,volts,"
                                   "12,mV\nC15,smell,1,V\nC16,ohms,many,ohm\n",
                                   "r.csv");
    QVERIFY(list.ok());
    QCOMPARE(list.value().readings.size(), std::size_t(3));
    QCOMPARE(list.value().readings[1].reading.state, ReadingState::OverRange);
    QCOMPARE(list.value().readings[2].reading.value, 0.012);
    QCOMPARE(list.value().warnings.size(), std::size_t(2));
    QVERIFY(list.value().warnings[0].text().find("r.csv:5") != std::string::npos);
    QVERIFY(!readReadings("a,b\n", "r.csv").ok());
    std::vector<Fact> facts;
    for (const auto& r : list.value().readings)
        facts.push_back({static_cast<long>(facts.size()) + 1, 0, r});
    const auto back = readReadings(readingsToCsv(facts), "back.csv");
    QVERIFY(back.ok());
    for (std::size_t i = 0; i < 3; ++i)
        QCOMPARE(back.value().readings[i].reading, list.value().readings[i].reading);
}
