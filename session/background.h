#pragma once

#include <QObject>
#include <QThreadPool>
#include <functional>
#include <utility>

namespace ustor {

/// Work that a window must not wait for, one after the other in a thread of its own. What follows from it is
/// done in the thread that this object lives in, and not at all once it is gone. Its end waits for the work
/// that was begun.
class Background : public QObject {
  public:
    explicit Background(QObject* parent = nullptr) : QObject(parent) { m_pool.setMaxThreadCount(1); }
    ~Background() override { m_pool.waitForDone(); }

    template <class T> void run(std::function<T()> work, std::function<void(T)> then) {
        m_pool.start([this, work = std::move(work), then = std::move(then)] {
            QMetaObject::invokeMethod(
                this, [result = work(), then] { then(result); }, Qt::QueuedConnection);
        });
    }
    /// Called in the working thread: `what` is done in this object's.
    void tell(std::function<void()> what) {
        QMetaObject::invokeMethod(this, std::move(what), Qt::QueuedConnection);
    }

  private:
    QThreadPool m_pool;
};

} // namespace ustor
