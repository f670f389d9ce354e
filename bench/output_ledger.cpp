#include "bench/output_ledger.h"
#include "base/input_bounds.h"

#include "bench/guard_protocol.h"

#include <QCryptographicHash>
#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QSaveFile>
#include <QStandardPaths>
#include <algorithm>
#include <cmath>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace ustor {
namespace {

constexpr const char* format = "ustor-output/1";

LedgerEntry readEntry(const QFileInfo& info) {
    LedgerEntry entry;
    entry.file = info.filePath();
    // A clock that was set back or forth makes a signature look old: the output goes off then.
    entry.age_s =
        std::fabs(1e-3 * static_cast<double>(info.lastModified().msecsTo(QDateTime::currentDateTime())));
    QFile file(entry.file);
    const QJsonObject j = file.open(QIODevice::ReadOnly)
                              ? QJsonDocument::fromJson(file.read(bounds::ledger_bytes)).object()
                              : QJsonObject();
    entry.guard = static_cast<qint64>(j["guard"].toDouble());
    entry.window = static_cast<qint64>(j["window"].toDouble());
    entry.simulated = j["simulated"].toBool();
    entry.patience = std::max(1.0, j["patience"].toDouble(1));
    if (j["format"].toString() != format) {
        entry.trouble = say("it tells of no output");
        return entry;
    }
    if (const auto address = instrumentFromText(j["supply"].toString()))
        entry.supply = address.value();
    else
        entry.trouble = address.error().message();
    return entry;
}

} // namespace

bool LedgerEntry::abandoned() const {
    return age_s > 1e-3 * GuardTiming::signature_ms * patience;
}

OutputLedger::OutputLedger(const InstrumentAddress& supply, bool simulated, double patience)
    : m_supply(supply), m_simulated(simulated), m_patience(patience) {
    // Whoever reads it may stand in another folder.
    if (!m_supply.profile.isEmpty()) m_supply.profile = QFileInfo(m_supply.profile).absoluteFilePath();
    const QByteArray name =
        QCryptographicHash::hash(m_supply.text().toUtf8(), QCryptographicHash::Sha1).toHex().left(16);
    m_file = folder() + "/" + QString::fromLatin1(name) + ".json";
}

QString OutputLedger::folder() {
    QString runtime = qEnvironmentVariable("XDG_RUNTIME_DIR");
    if (runtime.isEmpty()) runtime = QDir::tempPath() + "/ustor-" + QString::number(::getuid());
    const QString folder = runtime + "/ustor/outputs";
    for (const QString& each : {runtime, runtime + "/ustor", folder})
        ::mkdir(each.toLocal8Bit().constData(), S_IRWXU); // what is there stays as it is
    return folder;
}

bool OutputLedger::stand(qint64 guard, qint64 window) {
    QSaveFile file(m_file);
    const QJsonObject entry{{"format", format},
                            {"supply", m_supply.text()},
                            {"guard", static_cast<double>(guard)},
                            {"window", static_cast<double>(window)},
                            {"simulated", m_simulated},
                            {"patience", m_patience}};
    return file.open(QIODevice::WriteOnly) && file.write(QJsonDocument(entry).toJson()) > 0 && file.commit();
}

void OutputLedger::sign() const {
    ::utimensat(AT_FDCWD, m_file.toLocal8Bit().constData(), nullptr, 0);
}

void OutputLedger::clear() const {
    QFile::remove(m_file);
}

std::vector<LedgerEntry> OutputLedger::entries() {
    std::vector<LedgerEntry> all;
    for (const QFileInfo& info : QDir(folder()).entryInfoList({"*.json"}, QDir::Files, QDir::Name))
        all.push_back(readEntry(info));
    return all;
}

void OutputLedger::strike(const LedgerEntry& entry) {
    QFile::remove(entry.file);
}

} // namespace ustor
