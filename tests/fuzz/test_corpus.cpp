#include "fuzz/test_corpus.h"

#include "fuzz/readers.h"
#include "support/run_all.h"

#include <QDir>
#include <QFile>

using namespace ustor::testing;

/// Files that fuzzing kept: one for each new way through a reader, and everything that once broke one.
void TestCorpus::everyFileIsReadOrRefused_data() {
    QTest::addColumn<int>("reader");
    for (int i = 0; i < static_cast<int>(fuzzedReaders().size()); ++i)
        QTest::addRow("%s", fuzzedReaders()[i].name.c_str()) << i;
}

void TestCorpus::everyFileIsReadOrRefused() {
    QFETCH(int, reader);
    const FuzzedReader& under = fuzzedReaders()[reader];
    const QDir folder(QString(USTOR_FUZZ_CORPUS) + "/" + QString::fromStdString(under.name));
    const auto files = folder.entryInfoList(QDir::Files);
    QVERIFY2(!files.isEmpty(), "a reader without a corpus");
    for (const QFileInfo& info : files) {
        QFile file(info.filePath());
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QByteArray bytes = file.readAll();
        // To come back at all is what is asked: a crash names the file that was last announced.
        qInfo("%s", qPrintable(info.fileName()));
        under.feed({bytes.constData(), static_cast<std::size_t>(bytes.size())});
    }
}

int main(int argc, char** argv) {
    return RunAll().add<TestCorpus>().run(argc, argv);
}
