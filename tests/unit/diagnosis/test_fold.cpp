#include "base/random.h"
#include "diagnosis/assess.h"
#include "support/boards.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>

using namespace ustor;

namespace {

/// All that is shown, as text: two assessments that say the same have the same.
QString told(const Assessment& a) {
    QString text;
    const auto add = [&text](const std::string& s) { text += QString::fromStdString(s) + "|"; };
    for (const auto& rail : a.rails)
        add(a.state.board.nets[rail.net].name + " " + rail.reading + " " +
            std::string(wordOf(rail.ruling.state)) + " " + rail.ruling.rule.text() + " " +
            std::to_string(rail.fact));
    add("down: " + nameOf(a.state.board, a.down) + ", proven: " + a.culprit);
    for (const auto& s : a.suspects) {
        add((s.part < 0 ? "else" : a.state.board.parts[s.part].designator) + (s.cleared ? " cleared " : " ") +
            QString::number(s.odds, 'g', 12).toStdString());
        for (const auto& e : s.evidence)
            add(e.what->text() + QString::number(e.weight, 'g', 10).toStdString() + " " +
                std::to_string(e.fact));
    }
    for (const auto& move : a.next)
        add(move.sentence.text() + QString::number(move.gainBits, 'g', 10).toStdString());
    for (const auto& choice : a.splits)
        add(choice.placeNear + choice.placeFar);
    for (const auto& what : a.state.cautionsMet)
        add(what);
    return text;
}

/// Whatever a bench may bring, with strikes of earlier facts and of strikes among them.
FactBody anyFact(Random& random, const Board& board, long next) {
    const auto below = [&](std::size_t n) {
        return static_cast<std::size_t>(random.uniform() * static_cast<double>(n));
    };
    const Part& part = board.parts[below(board.parts.size())];
    const std::string place = part.designator + "." + part.pads[below(part.pads.size())].pin;
    Reading reading;
    reading.mode = below(2) == 0 ? MeterMode::Ohms : MeterMode::Diode;
    constexpr double values[] = {0.02, 0.3, 4, 40, 300, 900};
    reading.value = reading.mode == MeterMode::Ohms ? values[below(6)] : 0.05 + 0.5 * random.uniform();
    switch (below(17)) {
    case 0:
        return Lifted{part.designator};
    case 1:
        return Refitted{part.designator, below(2) == 0, ""};
    case 2:
        return Struck{1 + static_cast<long>(below(static_cast<std::size_t>(next)))};
    case 3:
        return Seen{part.designator, below(2) == 0 ? Damage::Cracked : Damage::None, "", ""};
    case 4:
        return ClassCorrected{part.designator, below(2) == 0 ? PartClass::Ic : PartClass::CeramicCapacitor};
    case 5:
        return NominalSet{board.nets[below(board.nets.size())].name, below(2) == 0 ? 1.0 : 3.3};
    case 6:
        return HeatFound{HeatVerdict::Point, part.side, {{part.centre, 0.5, 20, 5, 0}}, "recordings/01"};
    case 7:
        return PartMeasured{part.designator, below(2) == 0};
    case 8:
        return RailChosen{board.nets[below(board.nets.size())].name};
    case 9:
        return CautionMet{"measure"};
    case 11:
        return Painted{Painted::Over::Top, "bare metal", {1, 2}, {3, 4}, 2.5};
    case 10: {
        const Part& other = board.parts[below(board.parts.size())];
        return ReadingTaken{place, other.designator + "." + other.pads.front().pin, reading};
    }
    default:
        return ReadingTaken{place, "", reading, below(8) == 0};
    }
}

} // namespace

// A matter of logic: what was folded one by one is what is folded at once, whatever came and was struck out.
void TestFold::oneByOneAndAtOnce() {
    for (const Board& board : {testing::smallBoard(), testing::demoBoard("chart-plotter")})
        for (std::uint64_t seed = 1; seed <= 2; ++seed) {
            Random random(seed);
            Assessor kept(board, {});
            std::vector<Fact> facts;
            for (long id = 1; id <= 40; ++id) {
                facts.push_back({id, 1000 + 70.0 * static_cast<double>(id), anyFact(random, board, id)});
                kept.take(facts);
                const QString once = told(assess(board, facts, {}));
                QVERIFY2(told(kept.assessment()) == once,
                         qPrintable(QString("seed %1, fact %2: %3\nkept %4\nonce %5")
                                        .arg(seed)
                                        .arg(id)
                                        .arg(QString::fromStdString(sentenceOf(facts.back().body).text()),
                                             told(kept.assessment()), once)));
            }
        }
}

// Facts of another list are not taken for the continuation of this one.
void TestFold::anotherListIsFoldedAnew() {
    const Board board = testing::smallBoard();
    const Fact shorted{1, 0, ReadingTaken{"C10.1", "", {MeterMode::Ohms, {}, 0.3, 0}}};
    const Fact healthy{2, 0, ReadingTaken{"C10.1", "", {MeterMode::Ohms, {}, 900, 0}}};
    Assessor kept(board, {});
    kept.take({shorted});
    kept.take({healthy});
    QCOMPARE(told(kept.assessment()), told(assess(board, {healthy}, {})));
    kept.take({});
    QCOMPARE(told(kept.assessment()), told(assess(board, {}, {})));
}

// What good boards read may come after the readings (a list that is taken in, a case closed meanwhile).
void TestFold::knownGoodThatComesLater() {
    const Board board = testing::smallBoard();
    const std::vector<Fact> facts{{1, 0, ReadingTaken{"C10.1", "", {MeterMode::Ohms, {}, 300, 0}}}};
    KnownGoodSet good;
    good.readings.push_back({"C10.1", {MeterMode::Ohms, {}, 2000, 0}, false, "donor"});
    Assessor kept(board, {});
    kept.take(facts);
    QCOMPARE(kept.assessment().rails.front().ruling.state, RailState::Healthy);
    kept.setKnown(good, {});
    QCOMPARE(kept.assessment().rails.front().ruling.state, RailState::Partial);
    Knowledge knowing;
    knowing.knownGood = good;
    QCOMPARE(told(kept.assessment()), told(assess(board, facts, knowing)));
}

// Common practice: a reading that is repeated with nothing changed is the same fact, not a second witness.
void TestFold::saidTwiceIsNoSecondWitness() {
    const Board board = testing::smallBoard();
    std::vector<Fact> facts{{1, 0, ReadingTaken{"C10.1", "", {MeterMode::Ohms, {}, 0.3, 0}}},
                            {2, 0, Lifted{"C10"}},
                            {3, 1000, ReadingTaken{"C11.1", "", {MeterMode::Ohms, {}, 900, 0}}}};
    const auto odds = [&] {
        std::map<PartIndex, double> all;
        for (const Suspect& s : assess(board, facts, {}).suspects)
            all[s.part] = s.odds;
        return all;
    };
    const auto once = odds();
    for (long id = 4; id < 9; ++id)
        facts.push_back({id, 1000, ReadingTaken{"C11.1", "", {MeterMode::Ohms, {}, 900, 0}}});
    QCOMPARE(odds(), once);
}
