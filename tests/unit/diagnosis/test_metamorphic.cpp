// What must not matter to the judge, on random boards with random facts: no figure is expected, only that two
// ways of telling the same agree. 1,000 cases for each; under sanitizers, which take ten times as long,
// fewer.
#include "base/random.h"
#include "diagnosis/assess.h"
#include "support/boards.h"
#include "support/facts.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <set>

using namespace ustor;
using testing::factsOf;
using testing::ohms;

namespace {

#ifdef __SANITIZE_ADDRESS__
constexpr int rounds = 60;
#else
constexpr int rounds = 1000;
#endif

/// Two to four rails with capacitors and a chip each, the first behind a fuse, some joined by an inductor.
Board randomBoard(Random& random) {
    Board board;
    board.outline = {{0, 0}, {60, 0}, {60, 50}, {0, 50}};
    testing::addNet(board, "GND");
    testing::addChip(board, "J1", PartClass::Connector, {3, 5}, "VIN_12V", "GND", 4, 3);
    const std::vector<std::string> names{"VSYS_12V", "+5V", "+3V3", "+1V8"};
    testing::addChip(board, "F1", PartClass::Fuse, {8, 5}, "VIN_12V", names[0], 3, 1.5);
    const int rails = 2 + random.below(3);
    for (int rail = 0; rail < rails; ++rail) {
        const std::string& net = names[static_cast<std::size_t>(rail)];
        const std::string n = std::to_string(rail + 1);
        const double y = 5 + 11 * rail;
        const int capacitors = 2 + random.below(4);
        for (int k = 0; k < capacitors; ++k)
            testing::addChip(board, "C" + n + std::to_string(k), PartClass::CeramicCapacitor,
                             {13 + 5.0 * k + random.uniform(0, 2), y + random.uniform(-2, 2)}, net, "GND");
        testing::addChip(board, "U" + n, PartClass::Ic, {50, y}, net, "GND", 4, 4);
        if (rail > 0 && random.below(3) == 0)
            testing::addChip(board, "L" + n, PartClass::Inductor, {42, y - 5},
                             names[static_cast<std::size_t>(rail - 1)], net, 4, 4);
    }
    return board;
}

/// A fact about the part that no fact about another one leans on.
FactBody independentFact(const Part& part, Random& random) {
    const std::string place = part.designator + ".1";
    switch (random.below(3)) {
    case 0:
        return ohms(place.c_str(), std::exp(random.uniform(std::log(0.1), std::log(2e4))));
    case 1:
        return testing::diode(place.c_str(), random.uniform(0, 0.7));
    default:
        return Seen{part.designator, random.below(2) ? Damage::Cracked : Damage::Burnt, ""};
    }
}

/// What a hunt may hold besides: parts taken off and measured, heat, what a source shows.
FactBody anyFact(const Part& part, Random& random) {
    switch (random.below(8)) {
    case 0:
        return Lifted{part.designator};
    case 1:
        return HeatFound{HeatVerdict::Point, part.side, {{part.centre, 0.4, 30, 0, 0}}, "", false,
                         "VSYS_12V"};
    case 2:
        return PartMeasured{part.designator, random.below(2) == 0};
    case 3:
        return SourceShows{12, random.uniform(0, 3), ""};
    default:
        return independentFact(part, random);
    }
}

template <class T> void shuffle(std::vector<T>& list, Random& random) {
    for (std::size_t i = list.size(); i > 1; --i) {
        const auto other = static_cast<std::size_t>(random.below(static_cast<int>(i)));
        if (other == i - 1) continue;
        // Not std::swap, which for two of 37 kinds compiles 37 times 37 ways.
        T taken = std::move(list[i - 1]);
        list[i - 1] = std::move(list[other]);
        list[other] = std::move(taken);
    }
}

/// Facts about so many parts, each another one.
std::vector<FactBody> someFacts(const Board& board, Random& random, int count,
                                FactBody (*fact)(const Part&, Random&)) {
    std::vector<PartIndex> parts(board.parts.size());
    std::iota(parts.begin(), parts.end(), 0);
    shuffle(parts, random);
    std::vector<FactBody> facts;
    for (int i = 0; i < count && i < static_cast<int>(parts.size()); ++i)
        facts.push_back(
            fact(board.parts[static_cast<std::size_t>(parts[static_cast<std::size_t>(i)])], random));
    return facts;
}

/// A rail that is read twice with another result has changed meanwhile, or one reading was a slip: which came
/// first matters. Only the first stays.
void onceARail(const Board& board, std::vector<FactBody>& facts) {
    std::set<NetIndex> read;
    std::erase_if(facts, [&](const FactBody& fact) {
        const auto* reading = std::get_if<ReadingTaken>(&fact);
        if (!reading) return false;
        const auto nets = stretchOf(board, netOfPlace(board, reading->place)).nets;
        const bool again =
            std::any_of(nets.begin(), nets.end(), [&](NetIndex n) { return read.contains(n); });
        read.insert(nets.begin(), nets.end());
        return again;
    });
}

/// How sure it is of each part, by name, and of the case as a whole.
struct Opinion {
    std::map<std::string, double> cause, victim;
    double shorted = 0, other = 0;
};

Opinion opinionOf(const Board& board, const std::vector<Fact>& facts) {
    const Assessment a = assess(board, facts, {});
    Opinion opinion;
    for (std::size_t p = 0; p < board.parts.size(); ++p) {
        opinion.cause[board.parts[p].designator] = a.belief.cause[p];
        opinion.victim[board.parts[p].designator] = a.belief.victim[p];
    }
    opinion.shorted = a.stillShorted;
    for (const Hypothesis& h : a.belief.hypotheses)
        if (std::any_of(h.causes.begin(), h.causes.end(),
                        [](const Fault& fault) { return fault.kind == FaultKind::Other; }))
            opinion.other += h.odds;
    return opinion;
}

/// The largest difference between two opinions.
double between(const Opinion& a, const Opinion& b) {
    double most = std::max(std::fabs(a.shorted - b.shorted), std::fabs(a.other - b.other));
    for (const auto& [part, odds] : a.cause)
        most = std::max(
            {most, std::fabs(odds - b.cause.at(part)), std::fabs(a.victim.at(part) - b.victim.at(part))});
    return most;
}

QByteArray told(int round, const std::vector<FactBody>& facts, double difference) {
    QByteArray words = "case " + QByteArray::number(round) + ", differs by " + QByteArray::number(difference);
    for (const FactBody& fact : facts)
        words += "; " + QByteArray::fromStdString(sentenceOf(fact).text());
    return words;
}

constexpr double rounding = 1e-9;

} // namespace

void TestMetamorphic::orderOfIndependentFacts() {
    Random random(101);
    for (int round = 0; round < rounds; ++round) {
        const Board board = randomBoard(random);
        auto facts = someFacts(board, random, 2 + random.below(5), independentFact);
        onceARail(board, facts);
        const Opinion first = opinionOf(board, factsOf(facts));
        shuffle(facts, random);
        const double difference = between(first, opinionOf(board, factsOf(facts)));
        QVERIFY2(difference < rounding, told(round, facts, difference).constData());
    }
}

void TestMetamorphic::struckOutIsNeverNoted() {
    Random random(102);
    for (int round = 0; round < rounds; ++round) {
        const Board board = randomBoard(random);
        auto bodies = someFacts(board, random, 2 + random.below(5), anyFact);
        auto facts = factsOf(bodies);
        const std::size_t at = static_cast<std::size_t>(random.below(static_cast<int>(facts.size())));
        auto without = facts;
        without.erase(without.begin() + static_cast<std::ptrdiff_t>(at));
        facts.push_back(
            {static_cast<long>(facts.size()) + 1, facts.back().time_s + 60, Struck{facts[at].id}});
        const double difference = between(opinionOf(board, without), opinionOf(board, facts));
        QVERIFY2(difference < rounding, told(round, bodies, difference).constData());
    }
}

// Other names of the parts, parts and nets in another order in the file, the board elsewhere and turned over
// to the other way of counting pads: it is the same board.
void TestMetamorphic::relabelledOrMovedBoards() {
    Random random(103);
    for (int round = 0; round < rounds; ++round) {
        const Board board = randomBoard(random);
        Board other = board;
        const double dx = random.uniform(-30, 30), dy = random.uniform(-30, 30);
        // A quarter turn and a shift.
        const auto moved = [&](BoardPoint p) { return BoardPoint{dx - p.y_mm, dy + p.x_mm}; };
        for (BoardPoint& corner : other.outline)
            corner = moved(corner);
        std::vector<NetIndex> nets(board.nets.size());
        std::iota(nets.begin(), nets.end(), 0);
        shuffle(nets, random); // where each net goes
        for (std::size_t n = 0; n < nets.size(); ++n)
            other.nets[static_cast<std::size_t>(nets[n])] = board.nets[n];
        std::map<std::string, std::string> names; // from the new to the old
        for (Part& part : other.parts) {
            std::string name = part.designator.substr(0, 1) + std::to_string(100 + random.below(900));
            while (names.contains(name))
                name += "7";
            names[name] = part.designator;
            part.designator = name;
            part.centre = moved(part.centre);
            part.rotation_deg += 90;
            for (Pad& pad : part.pads) {
                pad.at = moved(pad.at);
                pad.net = nets[static_cast<std::size_t>(pad.net)];
            }
        }
        shuffle(other.parts, random);
        const std::uint64_t facts = random.bits();
        Random here(facts);
        const auto bodies = someFacts(board, here, 2 + here.below(5), anyFact);
        // The same facts of the other board.
        std::vector<FactBody> same;
        for (FactBody body : bodies) {
            const auto renamed = [&](const std::string& old) {
                for (const auto& [name, was] : names)
                    if (was == old) return name;
                return old;
            };
            if (auto* reading = std::get_if<ReadingTaken>(&body))
                reading->place = renamed(reading->place.substr(0, reading->place.find('.'))) + ".1";
            if (auto* lifted = std::get_if<Lifted>(&body)) lifted->part = renamed(lifted->part);
            if (auto* seen = std::get_if<Seen>(&body)) seen->part = renamed(seen->part);
            if (auto* measured = std::get_if<PartMeasured>(&body)) measured->part = renamed(measured->part);
            if (auto* heat = std::get_if<HeatFound>(&body))
                for (HeatSpot& spot : heat->spots)
                    spot.at = moved(spot.at);
            same.push_back(body);
        }
        Opinion opinion = opinionOf(other, factsOf(same));
        Opinion back = opinion;
        back.cause.clear();
        back.victim.clear();
        for (const auto& [name, was] : names) {
            back.cause[was] = opinion.cause.at(name);
            back.victim[was] = opinion.victim.at(name);
        }
        const double difference = between(opinionOf(board, factsOf(bodies)), back);
        QVERIFY2(difference < rounding, told(round, bodies, difference).constData());
    }
}

// A test point of its own net reads open whatever is wrong elsewhere.
void TestMetamorphic::whatAllPredictAlikeMovesNothing() {
    Random random(104);
    for (int round = 0; round < rounds; ++round) {
        Board board = randomBoard(random);
        testing::addNet(board, "SPARE");
        Part& spare = testing::addChip(board, "TP1", PartClass::TestPoint, {55, 45}, "SPARE", "SPARE");
        spare.pads.pop_back();
        auto bodies = someFacts(board, random, 2 + random.below(5), anyFact);
        std::erase_if(bodies, [](const FactBody& body) {
            return sentenceOf(body).text().find("TP1") != std::string::npos;
        });
        const Opinion before = opinionOf(board, factsOf(bodies));
        bodies.push_back(ReadingTaken{"TP1.1", "", {MeterMode::Ohms, ReadingState::OverRange, 0, 0}});
        const double difference = between(before, opinionOf(board, factsOf(bodies)));
        QVERIFY2(difference < rounding, told(round, bodies, difference).constData());
    }
}

// That a part was lifted and the short stayed never speaks for it.
void TestMetamorphic::aShortThatStaysNeverAccuses() {
    Random random(105);
    for (int round = 0; round < rounds; ++round) {
        const Board board = randomBoard(random);
        std::vector<FactBody> bodies;
        const double first = std::exp(random.uniform(-2, 1));
        bodies.push_back(ohms("C20.1", first));
        if (random.below(2)) bodies.push_back(Seen{"C21", Damage::Cracked, ""});
        const std::string part = random.below(4) ? "C2" + std::to_string(random.below(2)) : "U2";
        const double before = opinionOf(board, factsOf(bodies)).cause.at(part);
        bodies.push_back(Lifted{part});
        // One that stays and reads many times as much is two: then it may well have been one of them.
        const char* place = part == "C20" ? "C21.1" : "C20.1";
        bodies.push_back(ohms(place, first * random.uniform(0.8, 1.2)));
        const double after = opinionOf(board, factsOf(bodies)).cause.at(part);
        QVERIFY2(after <= before + rounding, told(round, bodies, after - before).constData());
    }
}
