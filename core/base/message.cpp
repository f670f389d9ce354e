#include "base/message.h"

#include <algorithm>

namespace ustor {
namespace {

/// The source with what is put in. What is put in is not looked through again: it may hold braces of its own.
std::string filled(std::string_view source, const std::vector<Message::Named>& with,
                   const Translator& translator) {
    std::string text;
    while (!source.empty()) {
        const auto open = source.find('{');
        const auto close = open == source.npos ? open : source.find('}', open);
        if (close == source.npos) break;
        const std::string_view name = source.substr(open + 1, close - open - 1);
        text += source.substr(0, open);
        const Message* value = nullptr;
        for (const Message::Named& each : with)
            if (name == each.name) value = &each.value;
        if (value)
            text += value->text(translator);
        else
            text += source.substr(open, close - open + 1);
        source.remove_prefix(close + 1);
    }
    return text.append(source);
}

bool sameText(const char* a, const char* b) {
    return a == b || (a && b && std::string_view(a) == b);
}

} // namespace

Message::Named::Named(const char* place, std::string words)
    : name(place), value(verbatim(std::move(words))) {}

bool Message::empty() const {
    return m_pieces.empty();
}

std::string Message::text() const {
    return text(nullptr);
}

std::string Message::text(const Translator& translator) const {
    std::string text;
    for (const Piece& piece : m_pieces) {
        if (!piece.source)
            text += piece.words;
        else if (translator)
            text += filled(translator(piece.source, piece.many, piece.number), piece.with, translator);
        else
            text +=
                filled(piece.many && piece.number != 1 ? piece.many : piece.source, piece.with, translator);
    }
    return text;
}

bool operator==(const Message& a, const Message& b) {
    return std::equal(a.m_pieces.begin(), a.m_pieces.end(), b.m_pieces.begin(), b.m_pieces.end(),
                      [](const Message::Piece& one, const Message::Piece& other) {
                          return sameText(one.source, other.source) && sameText(one.many, other.many) &&
                                 one.number == other.number && one.words == other.words &&
                                 std::equal(one.with.begin(), one.with.end(), other.with.begin(),
                                            other.with.end(),
                                            [](const Message::Named& x, const Message::Named& y) {
                                                return sameText(x.name, y.name) && x.value == y.value;
                                            });
                      });
}

Message say(const char* source, std::initializer_list<Message::Named> with) {
    Message message;
    message.m_pieces.push_back({source, nullptr, 1, {}, with});
    return message;
}

Message sayCount(const char* one, const char* many, long number, std::initializer_list<Message::Named> with) {
    Message message;
    message.m_pieces.push_back({one, many, number, {}, with});
    message.m_pieces.back().with.emplace_back("n", number);
    return message;
}

Message verbatim(std::string words) {
    Message message;
    if (!words.empty()) message.m_pieces.push_back({nullptr, nullptr, 1, std::move(words), {}});
    return message;
}

Message joined(const std::vector<Message>& clauses, const char* between) {
    Message all;
    for (const Message& clause : clauses) {
        if (clause.empty()) continue;
        if (!all.empty()) all.m_pieces.push_back({nullptr, nullptr, 1, between, {}});
        all.m_pieces.insert(all.m_pieces.end(), clause.m_pieces.begin(), clause.m_pieces.end());
    }
    return all;
}

} // namespace ustor
