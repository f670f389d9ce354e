#pragma once

#include <QApplication>
#include <string>
#include <vector>

namespace ustor {

/// An application that remembers the events that took its window's thread longest.
class WatchedApplication : public QApplication {
  public:
    using QApplication::QApplication;

    struct LongEvent {
        double milliseconds = 0;
        std::string what; ///< receiver's class and the event's type
    };
    /// Starts anew.
    void watch();
    /// The longest events since then, longest first; a nested event loop's own events are not counted twice.
    const std::vector<LongEvent>& longest() const { return m_longest; }
    bool notify(QObject* receiver, QEvent* event) override;

  private:
    std::vector<LongEvent> m_longest;
    double m_nested_ms = 0;
};

} // namespace ustor
