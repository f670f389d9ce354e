#include "reference/spice_engine.h"

#include <QFile>
#include <QProcess>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTemporaryDir>

namespace ustor::testing {

QHash<QString, double> spice(const QString& netlist) {
    QHash<QString, double> volts;
    QTemporaryDir folder;
    QFile file(folder.filePath("net.cir"));
    if (!file.open(QIODevice::WriteOnly)) return volts;
    file.write(netlist.toUtf8());
    file.close();
    QProcess engine;
    engine.start("ngspice", {"-b", file.fileName()});
    if (!engine.waitForFinished(60000)) return volts;
    static const QRegularExpression line("^\\s*v\\((n\\w+)\\)\\s*=\\s*([-+0-9.eE]+)",
                                         QRegularExpression::MultilineOption |
                                             QRegularExpression::CaseInsensitiveOption);
    auto matches = line.globalMatch(QString::fromUtf8(engine.readAllStandardOutput()));
    while (matches.hasNext()) {
        const auto m = matches.next();
        volts[m.captured(1).toLower()] = m.captured(2).toDouble();
    }
    return volts;
}

bool spiceIsMissing() {
    return QStandardPaths::findExecutable("ngspice").isEmpty();
}

} // namespace ustor::testing
