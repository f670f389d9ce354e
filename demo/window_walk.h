#pragma once

#include "app/main_window.h"
#include "diagnosis/assess.h"

#include <functional>
#include <string>

namespace ustor {

/// Plays an open practice case through the window: presses the next move, clicks landmarks where the
/// simulated camera shows them (with a person's click noise), waits while the bench works.
class WindowWalk {
  public:
    enum class Moment { Surveyed, Aligning, Injecting, Judged, Lifted, Proven, Closed };
    explicit WindowWalk(MainWindow& window) : m_window(window) {}

    /// Called when the walk reaches a moment, with the window as it stands.
    std::function<void(Moment)> at = [](Moment) {};

    /// Pixels of the picture across one of the simulated camera, where the picture is an enlarged one.
    int enlarged = 1;

    /// Plays until the case is closed; false when nothing moved for too long (`trouble` says where).
    bool playToTheEnd();
    /// From `at`: an injection is left as it is, and nothing more is done.
    void endHere() { m_ended = true; }
    const std::string& trouble() const { return m_trouble; }
    /// Suspects as they stood before the first part was lifted.
    const Assessment& judged() const { return m_judged; }

  private:
    const char* shownBySource() const;
    bool typeSource();
    bool pressNext();
    bool clickLandmarks();
    bool waitUntil(const std::function<bool()>& done, int milliseconds);

    MainWindow& m_window;
    std::string m_trouble;
    bool m_ended = false;
    Assessment m_judged;
};

} // namespace ustor
