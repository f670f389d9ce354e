#pragma once

#include "bench/line_link.h"

#include <QIODevice>
#include <QPointer>

namespace ustor {

inline constexpr const char* endlessAnswer = "an answer without an end";

/// Tells every whole line that waits in the device. False when what waits is longer than any answer.
inline bool takeLines(QIODevice& device, LineLink& link) {
    const QPointer<LineLink> alive(&link); // whoever hears a line may end the link
    while (alive && device.canReadLine())
        emit link.line(device.readLine().trimmed());
    constexpr qint64 longestLine = 1 << 20;
    return !alive || device.bytesAvailable() <= longestLine;
}

} // namespace ustor
