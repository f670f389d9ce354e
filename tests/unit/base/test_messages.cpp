#include "unit/base/test_messages.h"

#include "base/message.h"

#include <QDir>
#include <QDirIterator>
#include <QFile>
#include <QProcess>
#include <QRegularExpression>
#include <QSet>
#include <QStandardPaths>
#include <QTest>

using namespace ustor;

namespace {

/// The folders whose sentences are shown elsewhere.
QStringList sources() {
    QStringList files;
    for (const char* folder : {"core", "session", "store", "bench", "guard"}) {
        QDirIterator all(QDir(USTOR_SOURCES).filePath(folder), {"*.cpp", "*.h"}, QDir::Files,
                         QDirIterator::Subdirectories);
        while (all.hasNext())
            files << all.next();
    }
    return files;
}

QString contentOf(const QString& path) {
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly)) return {};
    QString text = QString::fromUtf8(file.readAll());
    return text.remove(QRegularExpression("//[^\n]*"));
}

const QString literal = R"((?:"(?:[^"\\\n]|\\.)*"\s*)+)";

/// A literal, or several beside each other, as the compiler sees it.
QString valueOf(QString pieces) {
    pieces.remove(QRegularExpression("\"\\s*\""));
    pieces = pieces.trimmed();
    return pieces.mid(1, pieces.size() - 2).replace("\\\"", "\"");
}

/// What stands between the bracket at `open` and its partner.
QString bracketed(const QString& text, qsizetype open) {
    int depth = 0;
    bool quoted = false;
    for (qsizetype i = open; i < text.size(); ++i) {
        if (quoted && text[i] == '\\')
            ++i;
        else if (text[i] == '"')
            quoted = !quoted;
        else if (!quoted && text[i] == '(')
            ++depth;
        else if (!quoted && text[i] == ')' && --depth == 0)
            return text.mid(open + 1, i - open - 1);
    }
    return {};
}

QSet<QString> placesIn(const QString& source) {
    QSet<QString> names;
    static const QRegularExpression place("\\{(\\w+)\\}");
    for (auto found = place.globalMatch(source); found.hasNext();)
        names << found.next().captured(1);
    return names;
}

} // namespace

void TestMessages::placesAreFilled() {
    const std::string part = "C12";
    QCOMPARE(say("Lift {part}, {n} of {of}", {{"part", part}, {"n", 3}, {"of", "4"}}).text(),
             std::string("Lift C12, 3 of 4"));
    QCOMPARE(say("Done").text(), std::string("Done"));
    QCOMPARE(say("{a} and {b}", {{"a", say("x {a}", {{"a", 1}})}, {"b", ""}}).text(),
             std::string("x 1 and "));
    // Nothing is lost where a name was forgotten, or a brace stands alone.
    QCOMPARE(say("{what} { }").text(), std::string("{what} { }"));
    QVERIFY(Message().empty());
    QVERIFY(verbatim("").empty());
}

void TestMessages::whatIsPutInIsNotLookedThrough() {
    QCOMPARE(say("{file}: {why}", {{"file", "{why}"}, {"why", "torn"}}).text(), std::string("{why}: torn"));
    QCOMPARE(verbatim("{part}").text(), std::string("{part}"));
}

void TestMessages::anotherLanguageMayTurnTheOrder() {
    const Translator turned = [](const char* source, const char*, long) {
        return std::string(source) == "{part} lies on {net}" ? "auf {net} liegt {part}"
                                                             : "?" + std::string(source);
    };
    const Message said = say("{part} lies on {net}", {{"part", say("a fuse")}, {"net", "VIN"}});
    QCOMPARE(said.text(turned), std::string("auf VIN liegt ?a fuse"));
    QCOMPARE(joined({said, verbatim("F1")}, ", ").text(turned), std::string("auf VIN liegt ?a fuse, F1"));
}

void TestMessages::numbersHaveTheirOwnText() {
    for (const auto& [number, text] : {std::pair{0L, "0 parts"}, {1L, "1 part"}, {2L, "2 parts"}})
        QCOMPARE(sayCount("1 part", "{n} parts", number).text(), std::string(text));
    // Polish, from the plural table of GNU gettext's manual: one, few, many.
    const Translator polish = [](const char*, const char*, long n) {
        const bool few = n % 10 >= 2 && n % 10 <= 4 && (n % 100 < 10 || n % 100 >= 20);
        return std::string(n == 1 ? "{n} plik" : few ? "{n} pliki" : "{n} plików");
    };
    for (const auto& [number, text] :
         {std::pair{1L, "1 plik"}, {3L, "3 pliki"}, {12L, "12 plików"}, {22L, "22 pliki"}})
        QCOMPARE(sayCount("1 file", "{n} files", number).text(polish), std::string(text));
}

void TestMessages::clausesAreJoined() {
    QCOMPARE(joined({say("a"), Message(), verbatim("b")}, "; ").text(), std::string("a; b"));
    QVERIFY(joined({Message(), Message()}, "; ").empty());
    QVERIFY(say("{x}", {{"x", 1}}) == say("{x}", {{"x", "1"}}));
    QVERIFY(!(say("{x}", {{"x", 1}}) == say("{x}", {{"x", 2}})));
}

/// Every name that a source text uses is put in, and nothing else is.
void TestMessages::placesAndNamesAgree() {
    static const QRegularExpression call("\\b(say|sayCount)\\s*\\(\\s*(?=\")"),
        named("\\{\\s*\"(\\w+)\"\\s*,");
    int calls = 0;
    for (const QString& file : sources()) {
        const QString text = contentOf(file);
        for (auto found = call.globalMatch(text); found.hasNext();) {
            const auto match = found.next();
            const bool counts = match.captured(1) == "sayCount";
            const QString inside = bracketed(text, text.indexOf('(', match.capturedStart()));
            const auto first =
                QRegularExpression("^\\s*" + literal + (counts ? ",\\s*" + literal : QString()))
                    .match(inside);
            QVERIFY2(first.hasMatch(), qPrintable(file + ": " + inside.left(80)));
            QSet<QString> given = counts ? QSet<QString>{"n"} : QSet<QString>();
            // Names of messages that are put in stand in calls of their own.
            QString rest = inside.mid(first.capturedEnd());
            for (auto inner = call.match(rest); inner.hasMatch(); inner = call.match(rest)) {
                const auto open = rest.indexOf('(', inner.capturedStart());
                rest.remove(inner.capturedStart(),
                            open + bracketed(rest, open).size() + 2 - inner.capturedStart());
            }
            for (auto name = named.globalMatch(rest); name.hasNext();)
                given << name.next().captured(1);
            QCOMPARE(placesIn(first.captured()) | (counts ? given : QSet<QString>()), given);
            ++calls;
        }
    }
    QVERIFY2(calls > 500, qPrintable(QString::number(calls)));
}

/// What GNU gettext finds by the three names is all that is said.
void TestMessages::allSentencesAreExtracted() {
    const QString tool = QStandardPaths::findExecutable("xgettext");
    if (tool.isEmpty()) QSKIP("xgettext (package gettext) is not on this machine");
    QProcess extract;
    extract.start(tool,
                  QStringList{"--keyword=say", "--keyword=sayCount:1,2", "--keyword=toSay", "--language=C++",
                              "--from-code=UTF-8", "--no-location", "--no-wrap", "-o", "-"} +
                      sources());
    QVERIFY(extract.waitForFinished(60000));
    QCOMPARE(extract.exitCode(), 0);
    const QString catalogue = QString::fromUtf8(extract.readAllStandardOutput());
    QSet<QString> extracted;
    static const QRegularExpression entry("^msgid (" + literal + ")", QRegularExpression::MultilineOption);
    for (auto found = entry.globalMatch(catalogue); found.hasNext();)
        extracted << valueOf(found.next().captured(1));
    static const QRegularExpression said("\\b(?:say|sayCount|toSay)\\s*\\(\\s*(" + literal + ")");
    QSet<QString> missing;
    for (const QString& file : sources()) {
        const QString text = contentOf(file);
        for (auto found = said.globalMatch(text); found.hasNext();)
            if (const QString source = valueOf(found.next().captured(1)); !extracted.contains(source))
                missing << source;
    }
    QVERIFY2(missing.isEmpty(), qPrintable(QStringList(missing.values()).join("\n")));
}

/// Words for people that are joined by a plus cannot be put in another order. What is left is for files,
/// programs and the log.
void TestMessages::noSentenceIsGlued() {
    static const QRegularExpression glued("(\\+\\s*)?(" + literal + ")(\\s*\\+)?"),
        words("[A-Za-z]{2,}[,;:]? [a-z]{2,}"),
        forOthers("SELECT|ORDER BY|IPC-D-356|<|Log::|injection (begins|ended)|a fact was not taken|the "
                  "recording: ");
    QStringList left;
    for (const QString& file : sources()) {
        const QString text = contentOf(file);
        for (auto found = glued.globalMatch(text); found.hasNext();) {
            const auto match = found.next();
            const bool joinedByPlus = !match.captured(1).isEmpty() || !match.captured(3).isEmpty();
            if (joinedByPlus && words.match(match.captured(2)).hasMatch() &&
                !forOthers.match(match.captured(2)).hasMatch())
                left << file + ": " + match.captured(2);
        }
    }
    QVERIFY2(left.isEmpty(), qPrintable(left.join("\n")));
}
