#include "unit/base/test_base.h"
#include "base/csv.h"
#include "base/measurement.h"
#include "base/number_text.h"
#include "base/quantity_text.h"
#include "base/random.h"
#include "base/result.h"
#include "base/units.h"

#include <QTest>
#include <clocale>
#include <cmath>

using namespace ustor;

void TestBase::entriesAsTyped_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<double>("value");
    // IEC 60062 puts the letter where the point would be: 4R7, 1k2.
    QTest::newRow("4m") << "4m" << 0.004;
    QTest::newRow("63") << "63" << 63.0;
    QTest::newRow("1k2") << "1k2" << 1200.0;
    QTest::newRow("4R7") << "4R7" << 4.7;
    QTest::newRow("R after") << "10R" << 10.0;
    QTest::newRow("comma") << "0,35" << 0.35;
    QTest::newRow("unit") << "120 m\u03a9" << 0.12;
    QTest::newRow("volts") << "3.3V" << 3.3;
    QTest::newRow("2V5") << "2V5" << 2.5;
    QTest::newRow("micro") << "250u" << 250e-6;
    QTest::newRow("mega") << "2M2" << 2.2e6;
    QTest::newRow("negative") << "-0.5 mV" << -0.0005;
    QTest::newRow("milliohm word") << "12 mohm" << 0.012;
}

void TestBase::entriesAsTyped() {
    QFETCH(QString, text);
    QFETCH(double, value);
    const auto read = quantityFromText(text.toStdString());
    QVERIFY2(read, qPrintable(text));
    QVERIFY2(std::fabs(*read - value) <= 1e-12 * std::max(1.0, std::fabs(value)),
             qPrintable(QString::number(*read, 'g', 17)));
}

void TestBase::entriesThatAreNone() {
    for (const char* text : {"", "abc", "--3", "1k2k", "k", "1.2.3", "nan", "inf", "0x10", "4 q"})
        QVERIFY2(!quantityFromText(text), text);
}

void TestBase::overRangeIsAState() {
    for (const char* text : {"OL", "ol", " O.L "}) {
        const auto reading = readingFromText(text, MeterMode::Ohms);
        QVERIFY(reading);
        QCOMPARE(reading->state, ReadingState::OverRange);
    }
    QVERIFY(!readingFromText("-5", MeterMode::Ohms));
    QVERIFY(readingFromText("-5m", MeterMode::Volts));
}

void TestBase::textForTheEye() {
    QCOMPARE(quantityText(0.004, "V"), std::string("0.004 V"));
    QCOMPARE(quantityText(63, "\u03a9"), std::string("63.0 \u03a9"));
    QCOMPARE(quantityText(0.012, "K"), std::string("12.0 mK"));
    QCOMPARE(quantityText(1200, "\u03a9"), std::string("1.20 k\u03a9"));
    QCOMPARE(quantityText(0, "W"), std::string("0 W"));
    QCOMPARE(textOf(Reading{MeterMode::Ohms, ReadingState::OverRange, 0, 0}), std::string("OL"));
}

void TestBase::numbersIgnoreTheLocale() {
    const char* before = std::setlocale(LC_NUMERIC, "de_DE.UTF-8");
    const auto value = numberFromText("3.25");
    if (before) std::setlocale(LC_NUMERIC, "C");
    QVERIFY(value);
    QCOMPARE(*value, 3.25);
    QVERIFY(!numberFromText("3,25"));
    QVERIFY(!numberFromText("3.25x"));
    QCOMPARE(textOfNumber(0.1), std::string("0.1"));
}

void TestBase::csvDialects() {
    QCOMPARE(csvSeparator("a,b,c\n1,2,3\n"), ',');
    QCOMPARE(csvSeparator("a;b;c\n1,5;2;3\n"), ';');
    QCOMPARE(csvSeparator("a\tb\n1,5\t2\n"), '\t');
    // RFC 4180: quotes around separators and line breaks, doubled quotes inside.
    const auto rows = csvRows("x,\"a, b\"\r\n\r\n1,\"say \"\"hi\"\"\"\n2,\"two\nlines\"\n", ',');
    QCOMPARE(rows.size(), std::size_t(3));
    QCOMPARE(rows[0].cells[1], std::string("a, b"));
    QCOMPARE(rows[1].cells[1], std::string("say \"hi\""));
    QCOMPARE(rows[1].line, 3);
    QCOMPARE(rows[2].cells[1], std::string("two\nlines"));
    QCOMPARE(rows[2].line, 5);
    QCOMPARE(csvRows("\xef\xbb\xbfhead\n", ',')[0].cells[0], std::string("head"));
    QCOMPARE(csvCell("a,\"b\""), std::string("\"a,\"\"b\"\"\""));
}

void TestBase::randomIsSeededAndNormal() {
    Random a(7), b(7), c(8);
    QCOMPARE(a.bits(), b.bits());
    QVERIFY(a.bits() != c.bits());
    double sum = 0, squares = 0;
    constexpr int n = 200000;
    for (int i = 0; i < n; ++i) {
        const double x = a.normal();
        sum += x;
        squares += x * x;
    }
    // Five standard errors: 5 / sqrt(n) for the mean, 5 sqrt(2 / n) for the variance.
    QVERIFY(std::fabs(sum / n) < 5 / std::sqrt(n));
    QVERIFY(std::fabs(squares / n - 1) < 5 * std::sqrt(2.0 / n));
}

void TestBase::unitsMultiplyAsTheyShould() {
    QCOMPARE((Volts(2) * Amps(3)).value, 6.0);
    QCOMPARE((Volts(6) / Amps(3)).value, 2.0);
    QCOMPARE((Volts(6) / Ohms(3)).value, 2.0);
    QVERIFY(Volts(1) < Volts(2));
}

void TestBase::errorsReadAsOneLine() {
    const Error error{say("it is torn"), "facts.jsonl:3", say("the rest is kept")};
    QCOMPARE(error.text(), std::string("facts.jsonl:3: it is torn (the rest is kept)"));
    const Result<int> failed = error;
    QVERIFY(!failed);
    QCOMPARE(failed.error().where, std::string("facts.jsonl:3"));
}
