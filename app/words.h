#pragma once

#include "base/result.h"

#include <QString>
#include <string_view>

namespace ustor {

/// Words that are shown as they are.
QString text(std::string_view words);
/// A sentence of core, session, store or bench in the language of the program: the translations that are
/// installed under the context "ustor".
QString text(const Message& message);
/// What happened, where, and what was kept.
QString text(const Error& error);
/// The language of the program, for whoever puts sentences together elsewhere.
Translator translator();

} // namespace ustor
