#pragma once

#include "base/input_bounds.h"
#include "bench/line_link.h"

#include <QIODevice>
#include <QPointer>
#include <QTimer>
#include <functional>

namespace ustor {

inline constexpr const char* endlessAnswer = toSay("an answer without an end");

/// Tells whole lines that wait in the device, a bounded number: who sends without pause must not keep timers
/// and other links waiting. What is left over is told in the next turn, by `again`. False when what waits is
/// longer than any answer.
inline bool takeLines(QIODevice& device, LineLink& link, const std::function<void()>& again) {
    const QPointer<LineLink> alive(&link); // whoever hears a line may end the link
    constexpr int mostInATurn = 32;
    for (int i = 0; alive && i < mostInATurn && device.canReadLine(); ++i)
        emit link.line(device.readLine().trimmed());
    if (alive && device.canReadLine()) QTimer::singleShot(1, &link, again);
    return !alive || device.bytesAvailable() <= bounds::line_bytes;
}

} // namespace ustor
