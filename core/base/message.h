#pragma once

#include <functional>
#include <initializer_list>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

namespace ustor {

/// The words of a source text in the language that is shown. `many` is null where the text has no number in
/// it; else it is the text for any `number` but one.
using Translator = std::function<std::string(const char* source, const char* many, long number)>;

/// A sentence for people: the text of the source, in which `{names}` stand for what is put in. It is put
/// together where something happens and turned into words where it is shown, so that no part of the program
/// depends on how it reads. Made by `say`, `sayCount` and `verbatim`.
class Message {
  public:
    struct Named;

    Message() = default;

    bool empty() const;
    /// In the words of the source.
    std::string text() const;
    /// In other words. A name that nothing was put in for stays as it is written.
    std::string text(const Translator& translator) const;
    /// The same sources with the same things put in.
    friend bool operator==(const Message& a, const Message& b);

  private:
    friend Message say(const char* source, std::initializer_list<Named> with);
    friend Message sayCount(const char* one, const char* many, long number,
                            std::initializer_list<Named> with);
    friend Message verbatim(std::string words);
    friend Message joined(const std::vector<Message>& clauses, const char* between);
    struct Piece;

    std::vector<Piece> m_pieces;
};

/// A stretch of one source, or of words that are nobody's to translate.
struct Message::Piece {
    const char* source = nullptr; ///< of static life; null: `words` as they are
    const char* many = nullptr;
    long number = 1;
    std::string words;
    std::vector<Named> with;
};

/// What stands at a name of a source text.
struct Message::Named {
    Named(const char* place, std::string words);
    Named(const char* place, std::string_view words) : Named(place, std::string(words)) {}
    Named(const char* place, const char* words) : Named(place, std::string(words)) {}
    Named(const char* place, Message message) : name(place), value(std::move(message)) {}
    template <class Number, class = std::enable_if_t<std::is_integral_v<Number>>>
    Named(const char* place, Number number) : Named(place, std::to_string(number)) {}
    /// Strings of other libraries that give themselves as ours.
    template <class Words, class = decltype(std::declval<const Words&>().toStdString()), class = void>
    Named(const char* place, const Words& words) : Named(place, words.toStdString()) {}

    const char* name;
    Message value;
};

/// A sentence. The source is a literal, so that tools find it: `xgettext --keyword=say
/// --keyword=sayCount:1,2`.
Message say(const char* source, std::initializer_list<Message::Named> with = {});
/// Marks the source of a sentence that `say` makes later, as in a table: `xgettext --keyword=toSay`.
constexpr const char* toSay(const char* source) {
    return source;
}
/// A sentence about a number of things, which stands at `{n}`: `one` for exactly one of them.
Message sayCount(const char* one, const char* many, long number,
                 std::initializer_list<Message::Named> with = {});
/// Words that are shown as they are: what a person wrote, a name on a board, what an instrument answered.
Message verbatim(std::string words);
template <class Words, class = decltype(std::declval<const Words&>().toStdString())>
Message verbatim(const Words& words) {
    return verbatim(words.toStdString());
}
/// Whole clauses one after the other; empty ones are left out. `between` is punctuation.
Message joined(const std::vector<Message>& clauses, const char* between);

} // namespace ustor
