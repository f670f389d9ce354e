#pragma once

#include <QProcess>
#include <memory>
#include <vector>

namespace ustor {

/// Other programs that take all the time they can get, while this object lives.
class BusyLoops {
  public:
    explicit BusyLoops(int count) {
        for (int i = 0; i < count; ++i) {
            m_loops.push_back(std::make_unique<QProcess>());
            m_loops.back()->start("/bin/sh", {"-c", "while :; do :; done"});
            m_loops.back()->waitForStarted();
        }
    }
    ~BusyLoops() {
        for (const auto& loop : m_loops) {
            loop->kill();
            loop->waitForFinished();
        }
    }
    BusyLoops(const BusyLoops&) = delete;
    BusyLoops& operator=(const BusyLoops&) = delete;

  private:
    std::vector<std::unique_ptr<QProcess>> m_loops;
};

} // namespace ustor
