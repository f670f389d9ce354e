#pragma once

#include "base/check.h"
#include "base/message.h"

#include <string>
#include <utility>
#include <variant>

namespace ustor {

/// What a person needs when something they gave us did not work.
struct Error {
    Message what;      ///< what happened, in one sentence
    std::string where; ///< file and line, address or place; may be empty
    Message kept;      ///< what was kept or left unchanged; may be empty

    /// One line: "where: what (kept)".
    Message message() const {
        const Message line = joined({verbatim(where), what}, ": ");
        return kept.empty() ? line : say("{what} ({kept})", {{"what", line}, {"kept", kept}});
    }
    std::string text() const { return message().text(); }
};

/// A value, or the reason why there is none.
template <class T> class [[nodiscard]] Result {
  public:
    Result(T value) : m_state(std::move(value)) {}
    Result(Error error) : m_state(std::move(error)) {}

    bool ok() const { return std::holds_alternative<T>(m_state); }
    explicit operator bool() const { return ok(); }

    T& value() {
        USTOR_CHECK(ok(), "value of a failed result");
        return std::get<T>(m_state);
    }
    const T& value() const {
        USTOR_CHECK(ok(), "value of a failed result");
        return std::get<T>(m_state);
    }
    const Error& error() const {
        USTOR_CHECK(!ok(), "error of a good result");
        return std::get<Error>(m_state);
    }

  private:
    std::variant<T, Error> m_state;
};

/// The value of operations that only succeed or fail.
struct Done {};
using Outcome = Result<Done>;

} // namespace ustor
