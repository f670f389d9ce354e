#include "app/tone.h"

#include <QDataStream>
#include <QFile>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <cmath>
#include <numbers>

namespace ustor {

double toneHz(RailState state) {
    switch (state) {
    case RailState::Short:
        return 1320;
    case RailState::Partial:
        return 880;
    case RailState::LowByNature:
    case RailState::Unknown:
        return 660;
    case RailState::Healthy:
        return 440;
    }
    return 440;
}

QByteArray toneWave(double hz) {
    constexpr int rate = 16000, count = rate / 5, fade = 200;
    QByteArray wave;
    QDataStream out(&wave, QIODevice::WriteOnly);
    out.setByteOrder(QDataStream::LittleEndian);
    out.writeRawData("RIFF", 4);
    out << quint32(36 + 2 * count);
    out.writeRawData("WAVEfmt ", 8);
    out << quint32(16) << quint16(1) << quint16(1) << quint32(rate) << quint32(2 * rate) << quint16(2)
        << quint16(16);
    out.writeRawData("data", 4);
    out << quint32(2 * count);
    for (int i = 0; i < count; ++i) {
        const double edge = std::min({1.0, i / double(fade), (count - i) / double(fade)});
        out << qint16(9000 * edge * std::sin(2 * std::numbers::pi * hz * i / rate));
    }
    return wave;
}

void playTone(double hz) {
    static const QString player = [] {
        for (const char* name : {"pw-play", "paplay", "aplay"})
            if (QString found = QStandardPaths::findExecutable(name); !found.isEmpty()) return found;
        return QString();
    }();
    static const QTemporaryDir folder;
    if (player.isEmpty()) return;
    const QString file = folder.filePath(QString::number(hz) + ".wav");
    if (!QFile::exists(file)) {
        QFile out(file);
        if (!out.open(QIODevice::WriteOnly) || out.write(toneWave(hz)) < 0) return;
    }
    QProcess::startDetached(player, {file});
}

} // namespace ustor
