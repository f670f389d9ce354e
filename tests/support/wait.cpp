#include "support/wait.h"

#include <QTest>

namespace ustor::testing {

bool waitUntil(const std::function<bool()>& holds, int milliseconds) {
    return QTest::qWaitFor(holds, milliseconds);
}

} // namespace ustor::testing
