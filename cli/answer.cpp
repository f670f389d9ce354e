#include "cli/answer.h"

#include <cstdio>

namespace ustor::cli {

void Answer::wrong(const Error& error) {
    std::fprintf(stderr, "%s\n", error.text().c_str());
    code = Wrong;
}

void Answer::print() const {
    if (code == Wrong) return;
    const std::string out =
        json ? data.dump(-1, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n" : text;
    std::fputs(out.c_str(), stdout);
}

std::string fixed(double value, int decimals) {
    char buffer[64];
    std::snprintf(buffer, sizeof buffer, "%.*f", decimals, value);
    return buffer;
}

} // namespace ustor::cli
