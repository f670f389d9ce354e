#pragma once

#include "base/result.h"

#include <nlohmann/json.hpp>
#include <string>

namespace ustor {
/// For data that programs read: in the words of the source.
template <class Json> void to_json(Json& j, const Message& message) {
    j = message.text();
}
} // namespace ustor

namespace ustor::cli {

enum ExitCode { Done_ = 0, No = 1, Wrong = 2 };

/// Collects what a command answers and prints it once: JSON or plain text.
struct Answer {
    bool json = false;
    nlohmann::ordered_json data;
    std::string text;
    int code = Done_;

    void line(const std::string& words) { text += words + "\n"; }
    void line(const Message& message) { line(message.text()); }
    /// Bad input: one line on standard error, exit 2.
    void wrong(const Error& error);
    void print() const;
};

/// "12.3" with so many decimals.
std::string fixed(double value, int decimals);

} // namespace ustor::cli
