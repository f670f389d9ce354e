#include "board/gerber/gerber_words.h"

namespace ustor::gerber {

bool Words::next(Word& word) {
    word = {};
    bool started = false;
    while (m_at < m_text.size()) {
        const char c = m_text[m_at++];
        if (c == '\n') {
            ++m_line;
        } else if (c == '\r' || (!started && (c == ' ' || c == '\t'))) {
            continue;
        } else if (c == '%') {
            if (started && word.extended) return true;
            if (started) {
                // A plain block without its star: it ends where the extended one starts.
                --m_at;
                return true;
            }
            started = word.extended = true;
            word.line = m_line;
        } else if (c == '*' && !word.extended) {
            if (started) return true;
        } else {
            if (!started) word.line = m_line;
            started = true;
            word.text += c;
        }
    }
    m_cutOff = started;
    return started && !word.extended;
}

} // namespace ustor::gerber
