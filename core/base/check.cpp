#include "base/check.h"

#include <cstdio>
#include <cstdlib>

namespace ustor {
void checkFailed(const char* expression, const char* file, int line, const char* message) {
    std::fprintf(stderr, "%s:%d: broken invariant (%s): %s\n", file, line, expression, message);
    std::abort();
}
} // namespace ustor
