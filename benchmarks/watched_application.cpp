#include "watched_application.h"

#include <QElapsedTimer>
#include <QEvent>
#include <QThread>
#include <algorithm>

namespace ustor {

void WatchedApplication::watch() {
    m_longest.clear();
}

bool WatchedApplication::notify(QObject* receiver, QEvent* event) {
    // Other threads have event loops of their own.
    if (QThread::currentThread() != thread()) return QApplication::notify(receiver, event);
    const std::string what = std::string(receiver->metaObject()->className()) + ", event " +
                             std::to_string(static_cast<int>(event->type()));
    const double nestedBefore_ms = std::exchange(m_nested_ms, 0);
    QElapsedTimer clock;
    clock.start();
    const bool taken = QApplication::notify(receiver, event);
    const double whole_ms = static_cast<double>(clock.nsecsElapsed()) * 1e-6, own_ms = whole_ms - m_nested_ms;
    m_nested_ms = nestedBefore_ms + whole_ms;
    constexpr std::size_t kept = 5;
    if (m_longest.size() < kept || own_ms > m_longest.back().milliseconds) {
        m_longest.push_back({own_ms, what});
        std::sort(m_longest.begin(), m_longest.end(),
                  [](const LongEvent& a, const LongEvent& b) { return a.milliseconds > b.milliseconds; });
        m_longest.resize(std::min(kept, m_longest.size()));
    }
    return taken;
}

} // namespace ustor
