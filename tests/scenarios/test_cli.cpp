#include "base/random.h"
#include "rail/copper_network.h"
#include "scenarios/test_scenarios.h"
#include "session/bench_link.h"
#include "session/practice/standin_process.h"
#include "store/case_folder.h"
#include "support/boards.h"
#include "support/recordings.h"
#include "thermal/recording_writer.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

struct Said {
    int code;
    QByteArray out, err;
    QJsonObject json() const { return QJsonDocument::fromJson(out).object(); }
};

Said cli(const QStringList& arguments) {
    QProcess process;
    process.start(programBeside("ustor-cli"), arguments);
    if (!process.waitForFinished(60000)) return {-1, {}, {}};
    return {process.exitCode(), process.readAllStandardOutput(), process.readAllStandardError()};
}

QStringList plotter() {
    const QString stem = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/chart-plotter";
    return {stem + ".356", stem + ".centroid.csv"};
}

} // namespace

// Exit 0 done, 1 the answer is no, 2 wrong call or bad input with one line why.
void TestCli::exitCodes_data() {
    QTest::addColumn<QStringList>("arguments");
    QTest::addColumn<int>("code");
    QTest::newRow("show") << (QStringList{"board", "show"} + plotter()) << 0;
    QTest::newRow("help") << QStringList{"--help"} << 0;
    QTest::newRow("no command") << QStringList{} << 2;
    QTest::newRow("unknown command") << QStringList{"dance"} << 2;
    QTest::newRow("missing file") << QStringList{"board", "show", "nowhere.356"} << 2;
    QTest::newRow("no recording") << QStringList{"thermal", "locate", "nowhere"} << 2;
    QTest::newRow("no such net") << (QStringList{"plan", "inject", "--rail", "NOPE"} + plotter()) << 2;
    QTest::newRow("ground") << (QStringList{"plan", "inject", "--rail", "GND"} + plotter()) << 2;
    QTest::newRow("plan") << (QStringList{"plan", "inject", "--rail", "+5V0"} + plotter()) << 0;
    QTest::newRow("inject beside the board")
        << (QStringList{"rail", "locate", "--rail", "+5V0", "--inject", "X9.9", "--amps", "1"} + plotter())
        << 2;
    QTest::newRow("no current") << (QStringList{"rail", "locate", "--rail", "+5V0", "--inject", "L1.2"} +
                                    plotter())
                                << 2;
    QTest::newRow("way of the power") << (QStringList{"rail", "path"} + plotter()) << 0;
    QTest::newRow("walk") << (QStringList{"rail", "survey"} + plotter()) << 0;
    QTest::newRow("tour of no net") << (QStringList{"rail", "survey", "--rail", "NOPE"} + plotter()) << 2;
    QTest::newRow("usual leads") << QStringList{"rail", "near"} << 0;
    QTest::newRow("no hard short") << QStringList{"rail", "near",    "--volts", "12",      "--amps",
                                                  "0.3",  "--rated", "12",      "--leads", "0.1"}
                                   << 1;
    QTest::newRow("no case") << QStringList{"assess", "nowhere"} << 2;
}

void TestCli::exitCodes() {
    QFETCH(QStringList, arguments);
    QFETCH(int, code);
    const Said said = cli(arguments);
    QVERIFY2(said.code == code, said.err.constData());
    if (code == 2) QVERIFY(!said.err.trimmed().isEmpty());
}

void TestCli::theWindowTellsItsOptionsWithoutADisplay() {
    for (const char* asked : {"--help", "--version"}) {
        QProcess window;
        QProcessEnvironment none = QProcessEnvironment::systemEnvironment();
        for (const char* display : {"DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"})
            none.remove(display);
        window.setProcessEnvironment(none);
        window.start(programBeside("ustor"), {asked});
        QVERIFY(window.waitForFinished());
        QCOMPARE(window.exitStatus(), QProcess::NormalExit);
        QCOMPARE(window.exitCode(), 0);
        QVERIFY(window.readAllStandardOutput().contains("ustor"));
    }
}

void TestCli::answersInJson() {
    const auto board = cli(QStringList{"--json", "board", "show"} + plotter()).json();
    QCOMPARE(board["parts"].toInt(), 147);
    QCOMPARE(board["sides"].toObject()["top"].toInt() + board["sides"].toObject()["bottom"].toInt(), 147);
    QVERIFY(board["warnings"].toArray().isEmpty());
    QTemporaryDir folder;
    const QString file = folder.filePath("x.board.json");
    QCOMPARE(cli(QStringList{"board", "convert", "-o", file} + plotter()).code, 0);
    QCOMPARE(cli({"--json", "board", "show", file}).json()["pads"], board["pads"]);
    const auto plan =
        cli({"--json", "plan", "inject", file, "--rail", "VMAIN_12V", "--fault-ohms", "0.3"}).json();
    QVERIFY(plan["limit_volts"].toDouble() <= 1.3);
    QVERIFY(!plan["steps"].toArray().isEmpty());
    for (const auto& bound : plan["volt_bounds"].toArray())
        QVERIFY(!bound.toObject()["reason"].toString().isEmpty());
}

void TestCli::theWayAndTheWalk() {
    const auto path = cli(QStringList{"--json", "rail", "path"} + plotter()).json();
    bool converter = false;
    for (const auto& step : path["steps"].toArray())
        converter |= step.toObject()["kind"] == "converter" && step.toObject()["to"] == "+5V0" &&
                     step.toObject()["parts"].toArray().contains("L1");
    QVERIFY(converter);
    const auto walk = cli(QStringList{"--json", "rail", "survey"} + plotter()).json();
    QVERIFY(walk["stops"].toArray().size() >= 6);
    const auto tour = cli(QStringList{"--json", "rail", "survey", "--rail", "+5V0"} + plotter()).json();
    QVERIFY(tour["tour"].toArray().contains("L1"));
    const auto near =
        cli({"--json", "rail", "near", "--volts", "1", "--amps", "3", "--rated", "12", "--leads", "0.32"})
            .json();
    QCOMPARE(near["verdict"].toString(), QString("at the connector"));
}

/// A donor's readings judge the next board of its kind.
void TestCli::goodBoardsJudge() {
    QTemporaryDir folder;
    const std::filesystem::path base = folder.path().toStdString();
    const Board board = testing::smallBoard();
    const auto add = [&](const std::string& name, double ohms) {
        auto made = CaseFolder::create(base / name, name, board);
        QVERIFY(made.ok());
        const Reading reading{MeterMode::Ohms, ReadingState::Value, ohms, 0};
        QVERIFY(made.value().log->append(ReadingTaken{"C10.1", "", reading}, 1e9).ok());
    };
    add("donor", 320);
    add("patient", 150);
    const QString csv = folder.filePath("good.csv"), patient = folder.filePath("patient");
    QCOMPARE(cli({"case", "known-good", folder.filePath("donor"), "-o", csv}).code, 0);
    const auto judged = [&](const QStringList& more) {
        return cli(QStringList{"--json", "assess", patient} + more)
            .json()["rails"]
            .toArray()
            .first()
            .toObject();
    };
    QCOMPARE(judged({})["state"].toString(), QString("healthy"));
    QCOMPARE(judged({})["by"].toString(), QString("a rule of thumb"));
    QCOMPARE(judged({"--known-good", csv})["state"].toString(), QString("partial short"));
    QCOMPARE(judged({"--known-good", csv})["by"].toString(), QString("a good board"));
    QCOMPARE(cli({"assess", patient, "--known-good", "nowhere.csv"}).code, 2);
}

void TestCli::locatesInARecording() {
    QTemporaryDir folder;
    testing::RenderSettings settings;
    settings.seconds = 14;
    const Recording recording = testing::render({{{30.4, 20.6}, 0.05}}, settings);
    {
        auto writer = RecordingWriter::create(folder.filePath("r").toStdString(), recording.info);
        for (const auto& f : recording.frames)
            QVERIFY(writer.value()->add(f).ok());
        for (const auto& s : recording.supply)
            QVERIFY(writer.value()->add(s).ok());
    }
    const Said said = cli({"--json", "thermal", "locate", folder.filePath("r")});
    QCOMPARE(said.code, 0);
    QCOMPARE(said.json()["verdict"].toString(), QString("point"));
    const auto source = said.json()["sources"].toArray().first().toObject();
    QVERIFY(std::hypot(source["image_px"].toArray()[0].toDouble() - 30.4,
                       source["image_px"].toArray()[1].toDouble() - 20.6) < 0.3);
    for (const char* member : {"sigma_px", "power_mw", "snr", "in_path"})
        QVERIFY2(source.contains(member), member);
}

// Two tables of temperatures, as any camera program writes them: the warmest place, and what is warmer than
// before; what was written is read again.
void TestCli::readsStills() {
    QTemporaryDir folder;
    Random random(8);
    const auto written = [&](const char* name, double warmer_k) {
        QFile file(folder.filePath(name));
        if (!file.open(QIODevice::WriteOnly)) return QString();
        for (int y = 0; y < 40; ++y) {
            for (int x = 0; x < 50; ++x) {
                const double r2 = (x - 30.4) * (x - 30.4) + (y - 17.7) * (y - 17.7);
                file.write(
                    QByteArray::number(24 + warmer_k * std::exp(-r2 / 4) + 0.05 * random.normal(), 'f', 3));
                file.write(x < 49 ? "," : "\n");
            }
        }
        return file.fileName();
    };
    const QString before = written("before.csv", 0), warm = written("warm.csv", 1.5),
                  same = written("same.csv", 0);
    const Said said =
        cli({"--json", "thermal", "still", warm, "--before", before, "-o", folder.filePath("rise")});
    QCOMPARE(said.code, 0);
    QVERIFY(std::fabs(said.json()["warmest_c"].toDouble() - 25.5) < 0.3);
    const auto spots = said.json()["spots"].toArray();
    QCOMPARE(spots.size(), 1);
    const auto at = spots[0].toObject()["image_px"].toArray();
    QVERIFY(std::hypot(at[0].toDouble() - 30.4, at[1].toDouble() - 17.7) < 0.3);
    QCOMPARE(cli({"thermal", "still", same, "--before", before}).code, 1);
    const Said again = cli({"--json", "thermal", "still", folder.filePath("rise.tiff"), "--unit", "celsius"});
    QCOMPARE(again.code, 0);
    QVERIFY(std::fabs(again.json()["warmest_c"].toDouble() - 1.5) < 0.3);
    QCOMPARE(cli({"thermal", "still", folder.filePath("missing.png")}).code, 2);
}

// Readings made with the same guess of the copper that the program makes of a board without any: they must
// lead back.
void TestCli::locatesAlongTheCopper() {
    const QTemporaryDir folder;
    const Board board = testing::demoBoard("chart-plotter");
    const Stretch stretch = stretchOf(board, board.findNet("+5V0"));
    const CopperNetwork copper = copperNetwork(board, stretch).value();
    const PadRef inject = *board.findPad("L1.2"), hidden = *board.findPad("C76.1");
    std::vector<double> amps(static_cast<std::size_t>(copper.network.nodes()), 0.0);
    amps[static_cast<std::size_t>(copper.nodeOf(inject))] = 2;
    amps[static_cast<std::size_t>(copper.nodeOf(hidden))] = -2;
    const auto volts = copper.network.solve(amps, copper.nodeOf(hidden)).value();
    const QStringList call = QStringList{"--json", "rail", "locate"} + plotter() +
                             QStringList{"--rail", "+5V0", "--inject", "L1.2", "--amps", "2"};
    QCOMPARE(cli(call).json()["read_next"].toString(), QString("L1.2"));

    const QString csv = folder.filePath("along.csv");
    QString rows = "place,mode,value,unit\n";
    QString next = "L1.2";
    for (int n = 0; n < 6; ++n) {
        const PadRef at = *board.findPad(next.toStdString());
        rows += QString("%1,volts,%2,V\n")
                    .arg(next)
                    .arg(0.05 + volts[static_cast<std::size_t>(copper.nodeOf(at))], 0, 'f', 6);
        QFile file(csv);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write(rows.toUtf8()) > 0);
        file.close();
        const auto said = cli(call + QStringList{"--readings", csv}).json();
        next = said["read_next"].toString();
        if (next.isEmpty()) break;
    }
    const Said said = cli(call + QStringList{"--readings", csv});
    QCOMPARE(said.code, 0);
    QVERIFY(said.json()["tells"].toBool());
    QVERIFY(!said.json()["from_copper"].toBool());
    // A guess of the copper cannot part neighbours; the branch behind the ferrite it must name.
    const NetIndex branch = board.pad(hidden).net;
    for (int i = 0; i < 3; ++i) {
        const auto place = said.json()["candidates"].toArray()[i].toObject()["place"].toString();
        QVERIFY2(board.touches(board.findPart(place.toStdString()), branch), qPrintable(place));
    }
}

// The case is open in this process: a second writer is refused, and told.
void TestCli::probesInstruments_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QString>("address"); // where of the simulated bench; %1 its serial line
    QTest::addColumn<QString>("profile");
    QTest::addColumn<int>("code");
    QTest::addColumn<QString>("said");
    QTest::newRow("supply") << "supply"
                            << "supply"
                            << "" << 0 << "\"is refused\"";
    QTest::newRow("supply on a serial line") << "supply"
                                             << "serial:%1"
                                             << "" << 0 << "reads back";
    QTest::newRow("supply as a message device") << "supply"
                                                << "usbtmc:%1"
                                                << "" << 0 << "reads back";
    QTest::newRow("meter") << "meter"
                           << "meter"
                           << "" << 0 << "ohms are read";
    QTest::newRow("camera") << "camera"
                            << "camera"
                            << "" << 0 << "pictures come";
    QTest::newRow("profile that does not fit")
        << "supply"
        << "supply"
        << "{\"kind\":\"supply\",\"set_volts\":\"SET:V {volts}\",\"format\":\"ustor-instrument/1\"}" << 1
        << "SET:V 0.5000";
    QTest::newRow("nobody there") << "meter"
                                  << "127.0.0.1:1"
                                  << "" << 1 << "reached";
    QTest::newRow("profile of another kind")
        << "supply"
        << "supply"
        << "{\"kind\":\"meter\",\"format\":\"ustor-instrument/1\"}" << 2 << "for a meter";
    QTest::newRow("no address") << "supply"
                                << "serial:"
                                << "" << 2 << "path is missing";
}

void TestCli::probesInstruments() {
    QFETCH(QString, kind);
    QFETCH(QString, address);
    QFETCH(QString, profile);
    QFETCH(int, code);
    QFETCH(QString, said);
    StandInProcess bench;
    QVERIFY(bench.start(programBeside("ustor-standin"), plotter() << "--serial").ok());
    const QJsonObject ready = QJsonDocument::fromJson(bench.readyLine()).object();
    if (ready.contains(address)) address = "127.0.0.1:" + QString::number(ready[address].toInt());
    if (address.contains("%1")) address = address.arg(ready["supply_serial"].toString());
    QStringList arguments{"--json", "bench", "probe", kind, address};
    QTemporaryDir folder;
    if (!profile.isEmpty()) {
        QFile file(folder.filePath("p.json"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(profile.toUtf8());
        file.close();
        arguments << "--profile" << file.fileName();
    }
    const Said answer = cli(arguments);
    QVERIFY2(answer.code == code, (answer.out + answer.err).constData());
    QVERIFY2((answer.out + answer.err).contains(said.toUtf8()), (answer.out + answer.err).constData());
    if (code == 0) QVERIFY(answer.json()["fine"].toBool());
}

void TestCli::aCaseHasOneWriter() {
    const QTemporaryDir base;
    const QString folder = base.filePath("case"), csv = base.filePath("in.csv");
    const auto open =
        CaseFolder::create(folder.toStdString(), "Bilge alarm", testing::demoBoard("chart-plotter"));
    QVERIFY(open.ok());
    QFile file(csv);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("place,mode,value,unit\nL2.2,ohms,0.31,ohm\n");
    file.close();
    const Said refused = cli({"case", "readings", folder, "--add", csv});
    QCOMPARE(refused.code, 2);
    QVERIFY(!refused.err.isEmpty());
    QVERIFY(open.value().log->facts().empty());
}

// What follows from a case, for programs: moves whose outcomes are sure together, rails explained, the end;
// and what was left out.
void TestCli::assessTellsMovesAndWhatIsLeftOut() {
    const QTemporaryDir base;
    const QString folder = base.filePath("case");
    Board board = testing::smallBoard();
    testing::addChip(board, "R9", PartClass::Resistor, {50, 30}, "SENSE_A", "SENSE_B");
    auto made = CaseFolder::create(folder.toStdString(), "case", board);
    QVERIFY(made.ok());
    const auto read = [&](const char* place, double ohms) {
        const Reading reading{MeterMode::Ohms, ReadingState::Value, ohms, 0.1};
        return made.value().log->append(ReadingTaken{place, "", reading}, 1e9).ok();
    };
    QVERIFY(read("C10.1", 0.3) && read("R9.1", 12));
    const QJsonObject told = cli({"--json", "assess", folder}).json();
    QCOMPARE(told["end"].toString(), QString("open"));
    const QJsonArray moves = told["moves"].toArray();
    QVERIFY(!moves.isEmpty());
    int weighed = 0;
    for (const auto& move : moves) {
        double odds = 0;
        for (const auto& outcome : move.toObject()["outcomes"].toArray())
            odds += outcome.toObject()["odds"].toDouble();
        if (odds > 0) QVERIFY(std::fabs(odds - 1) < 0.01);
        weighed += odds > 0;
    }
    QVERIFY(weighed > 2);
    bool explained = false;
    for (const auto& rail : told["rails"].toArray())
        explained |= rail.toObject()["net"] == "+3V3" && rail.toObject()["shorted"].toDouble() > 0.8 &&
                     rail.toObject()["explained_by"].toString().contains("shorted");
    QVERIFY(explained);
    QVERIFY(told["stretch"].toArray().contains("+3V3"));
    QVERIFY(!told["parts"].toArray().isEmpty());
    bool leftOut = false;
    for (const auto& warning : told["warnings"].toArray())
        leftOut |= warning.toString().contains("R9.1");
    QVERIFY(leftOut);
}

// Every kind of fact can be noted, and a case be kept from its first fact to its end.
void TestCli::aCaseWithoutTheWindow() {
    const QTemporaryDir base;
    const QString folder = base.filePath("case");
    const QString stem = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/chart-plotter";
    QCOMPARE(
        cli({"case", "new", folder, "--board", stem + ".356", stem + ".centroid.csv", "--title", "Plotter"})
            .code,
        0);
    QCOMPARE(cli({"case", "new", folder, "--board", stem + ".356"}).code, 2); // there is one already
    const auto note = [&](const QStringList& words) {
        return cli(QStringList{"case", "note", folder} + words);
    };
    const QString trace = base.filePath("trace.csv");
    QFile log(trace);
    QVERIFY(log.open(QIODevice::WriteOnly));
    log.write("s,V,A\n0,12,0.01\n1,12,0.012\n");
    log.close();
    for (const QStringList& words :
         {QStringList{"complaint", "dead after a wet night"}, QStringList{"plug-in", "12", "0", "none"},
          QStringList{"trace", trace}, QStringList{"ohms", "C1.1", "0.3"}, QStringList{"history", "liquid"},
          QStringList{"sensed", "C3", "alcohol", "VMAIN_12V"}, QStringList{"lifted", "C3"},
          QStringList{"ohms", "C1.1", "2k2"}, QStringList{"part", "C3", "ohms", "0.2"}}) {
        const Said said = note(words);
        QVERIFY2(said.code == 0, (words.join(' ').toUtf8() + said.err).constData());
    }
    const QJsonObject told = cli({"--json", "assess", folder}).json();
    QCOMPARE(told["title"].toString(), QString("Plotter"));
    QCOMPARE(told["culprit"].toString(), QString("C3"));
    // Back by one, and forth again.
    QCOMPARE(note({"undo"}).code, 0);
    QCOMPARE(note({"undo"}).code, 0);
    QVERIFY(cli({"--json", "assess", folder}).json()["culprit"].toString().isEmpty());
    QCOMPARE(note({"redo"}).code, 0);
    QCOMPARE(cli({"--json", "assess", folder}).json()["culprit"].toString(), QString("C3"));
    // What is wrong is said, and nothing is noted.
    const auto count = [&] {
        QFile facts(folder + "/facts.jsonl");
        return facts.open(QIODevice::ReadOnly) ? facts.readAll().count('\n') : -1;
    };
    const auto before = count();
    for (const auto& [words, says] : {std::pair{QStringList{"ohms", "C999.1", "3"}, "C999"},
                                      std::pair{QStringList{"smell", "bad"}, "no kind of fact"},
                                      std::pair{QStringList{"strike", "77"}, "number of a fact"},
                                      std::pair{QStringList{"trace", "no.csv"}, "no.csv"},
                                      std::pair{QStringList{"ohms", "C1.1"}, "is not a reading"}}) {
        const Said said = note(words);
        QCOMPARE(said.code, 2);
        QVERIFY2(said.err.contains(says), said.err.constData());
    }
    QCOMPARE(count(), before);
    QVERIFY(cli({"--json", "case", "kinds"}).json()["kinds"].toArray().size() > 30);
}

// By an independent validator (package python3-jsonschema): every fact that was noted, and what follows.
void TestCli::answersKeepTheirSchemas() {
    QProcess python;
    python.start("/usr/bin/python3", {"-c", "import jsonschema"});
    if (!python.waitForFinished() || python.exitCode() != 0)
        QSKIP("the validator (package python3-jsonschema) is not on this machine");
    const QTemporaryDir base;
    const QString folder = base.filePath("case");
    const QString stem = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/chart-plotter";
    QCOMPARE(cli({"case", "new", folder, "--board", stem + ".356", stem + ".centroid.csv"}).code, 0);
    for (const QStringList& words : {QStringList{"complaint", "dead"},
                                     QStringList{"plug-in", "1", "3"},
                                     QStringList{"seen", "C3", "askew"},
                                     QStringList{"board", "C3.1", "lifted-pad"},
                                     QStringList{"burst", "C3", "pop"},
                                     QStringList{"negotiation", "J1", "20", "5"},
                                     QStringList{"trace", "0 12 0.1; 1 12 0.5"},
                                     QStringList{"leads", "meter", "0.1"},
                                     QStringList{"fee", "120", "0", "60"},
                                     QStringList{"first", "split"},
                                     QStringList{"donor", "C1.1", "ohms", "OL"},
                                     QStringList{"warmth", "warm"},
                                     QStringList{"supply", "C1.1", "0.5", "2", "falls"},
                                     QStringList{"sensed", "C3", "frost", "VMAIN_12V"},
                                     QStringList{"copper", "C1.1", "bridge-opened"},
                                     QStringList{"again", "Q2"},
                                     QStringList{"part", "F1", "ohms", "OL"},
                                     QStringList{"ohms", "C1.1", "0.3"},
                                     QStringList{"heat", "VMAIN_12V", "top", "none"},
                                     QStringList{"unplugged", "J3"}}) {
        const Said said = cli(QStringList{"case", "note", folder} + words);
        QVERIFY2(said.code == 0, (words.join(' ').toUtf8() + said.err).constData());
    }
    QFile answer(base.filePath("answer.json"));
    QVERIFY(answer.open(QIODevice::WriteOnly));
    answer.write(cli({"--json", "assess", folder}).out);
    answer.close();
    const QString schemas = USTOR_FORMATS;
    python.start("/usr/bin/python3", {"-c",
                                      "import json,jsonschema,sys\n"
                                      "schema=lambda n: json.load(open(sys.argv[1]+'/'+n+'.schema.json'))\n"
                                      "for line in open(sys.argv[2]+'/facts.jsonl'): "
                                      "jsonschema.validate(json.loads(line), schema('fact'))\n"
                                      "jsonschema.validate(json.load(open(sys.argv[3])), schema('assess'))\n",
                                      schemas, folder, answer.fileName()});
    QVERIFY(python.waitForFinished());
    QVERIFY2(python.exitCode() == 0, python.readAllStandardError().constData());
}

// A case goes out and comes back through the command line, readings as a spreadsheet keeps them.
void TestCli::readingsReportsAndPackedCases() {
    const QTemporaryDir base;
    const QString folder = base.filePath("case"), csv = base.filePath("in.csv"),
                  out = base.filePath("out.csv");
    QVERIFY(
        CaseFolder::create(folder.toStdString(), "Bilge alarm", testing::demoBoard("chart-plotter")).ok());
    QFile file(csv);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("place,mode,value,unit\nL2.2,ohms,0.31,ohm\nC1.1,diode,,V\nC2.1,smell,1,V\n");
    file.close();
    const QJsonObject taken = cli({"--json", "case", "readings", folder, "--add", csv}).json();
    QCOMPARE(taken["taken"].toInt(), 2);
    QVERIFY(taken["warnings"].toArray().first().toString().contains("in.csv:4"));
    QCOMPARE(cli({"case", "readings", folder, "-o", out}).code, 0);
    QFile written(out);
    QVERIFY(written.open(QIODevice::ReadOnly));
    QCOMPARE(written.readAll(), QByteArray("place,mode,value,unit\nL2.2,ohms,0.31,ohm\nC1.1,diode,,V\n"));
    QCOMPARE(cli({"case", "readings", folder}).code, 2);
    QVERIFY(!cli({"--json", "assess", folder}).json()["suspects"].toArray().isEmpty());

    const QString packed = base.filePath("x.ustor-case");
    QCOMPARE(cli({"case", "export", folder, "-o", packed}).code, 0);
    const Said landed = cli({"--json", "case", "import", packed, "-o", base.filePath("other")});
    QCOMPARE(landed.code, 0);
    QCOMPARE(cli({"--json", "assess", landed.json()["case"].toString()}).json()["suspects"],
             cli({"--json", "assess", folder}).json()["suspects"]);
    const Said refused = cli({"case", "import", csv, "-o", base.filePath("other")});
    QCOMPARE(refused.code, 2);
    QVERIFY(refused.err.contains("in.csv"));

    for (const char* name : {"r.pdf", "r.html"})
        QCOMPARE(cli({"case", "report", folder, "-o", base.filePath(name)}).code, 0);
    QFile html(base.filePath("r.html")), pdf(base.filePath("r.pdf"));
    QVERIFY(html.open(QIODevice::ReadOnly) && pdf.open(QIODevice::ReadOnly));
    QVERIFY(html.readAll().contains("310 m"));
    QVERIFY(pdf.read(5) == "%PDF-");
    QCOMPARE(cli({"case", "report", folder, "-o", base.filePath("no/such/r.pdf")}).code, 2);
    // Without the program that sets pages: told, and the page that stood there stands.
    const QString alone = base.filePath("ustor-cli");
    QVERIFY(QFile::copy(programBeside("ustor-cli"), alone));
    QProcess withoutPages;
    withoutPages.start(alone, {"case", "report", folder, "-o", base.filePath("r.pdf")});
    QVERIFY(withoutPages.waitForFinished(60000));
    QCOMPARE(withoutPages.exitCode(), 2);
    QVERIFY(withoutPages.readAllStandardError().contains("ustor-print"));
    QVERIFY(pdf.seek(0) && pdf.read(5) == "%PDF-");
    QVERIFY(!QFile::exists(base.filePath("r.pdf.part")));
    const Said neither = cli({"case", "report", folder, "-o", base.filePath("r.txt")});
    QCOMPARE(neither.code, 2);
    QVERIFY(neither.err.contains("r.txt") && neither.err.contains(".pdf"));
}
