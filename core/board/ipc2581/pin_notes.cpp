#include "board/ipc2581/pin_notes.h"

#include <algorithm>
#include <cstring>
#include <functional>

namespace ustor::ipc2581 {
namespace {

constexpr std::size_t few = 32; ///< pins that are looked through faster than an index is asked

} // namespace

PinNotes::Key PinNotes::keyOf(std::string_view name) {
    Key key;
    if (name.size() <= sizeof key.letters) {
        std::memcpy(&key.letters, name.data(), name.size());
    } else {
        key.letters = std::hash<std::string_view>()(name);
        key.longName = name;
    }
    return key;
}

std::size_t PinNotes::Hash::operator()(const Key& key) const {
    // Multiplicative hashing (Knuth); the upper half is the better mixed one.
    constexpr std::uint64_t golden = 0x9E3779B97F4A7C15;
    const std::uint64_t mixed = key.letters * golden;
    return static_cast<std::size_t>(mixed ^ (mixed >> 32));
}

std::optional<std::size_t> PinNotes::placeOf(const Pins& pins, const Key& key, std::size_t likely) {
    if (likely < pins.keys.size() && pins.keys[likely] == key) return likely;
    if (pins.keys.size() > few) {
        const auto found = pins.index->find(key);
        return found == pins.index->end() ? std::nullopt : std::optional(found->second);
    }
    const auto found = std::find(pins.keys.begin(), pins.keys.end(), key);
    if (found == pins.keys.end()) return std::nullopt;
    return static_cast<std::size_t>(found - pins.keys.begin());
}

std::optional<std::size_t> PinNotes::knownPart(const Key& key) const {
    if (m_slots.empty()) return std::nullopt;
    const std::size_t mask = m_slots.size() - 1;
    for (std::size_t i = Hash()(key) & mask; m_slots[i].place != 0; i = (i + 1) & mask)
        if (m_slots[i].letters == key.letters && m_parts[m_slots[i].place - 1].longName == key.longName)
            return m_slots[i].place - 1;
    return std::nullopt;
}

std::size_t PinNotes::part(const Key& key) {
    if (const auto known = knownPart(key)) return *known;
    m_parts.push_back(key);
    constexpr std::size_t most = 8; // parts have few pins, most of them
    m_pins.emplace_back();
    m_pins.back().notes.reserve(most);
    m_pins.back().keys.reserve(most);
    widen();
    return m_pins.size() - 1;
}

/// Makes a slot for the newest part.
void PinNotes::widen() {
    constexpr std::size_t fewest = 1024;
    std::size_t from = m_parts.size() - 1;
    if (2 * m_parts.size() > m_slots.size()) {
        m_slots.assign(std::max(fewest, 2 * m_slots.size()), {});
        from = 0;
    }
    const std::size_t mask = m_slots.size() - 1;
    for (std::size_t p = from; p < m_parts.size(); ++p) {
        std::size_t i = Hash()(m_parts[p]) & mask;
        while (m_slots[i].place != 0)
            i = (i + 1) & mask;
        m_slots[i] = {m_parts[p].letters, p + 1};
    }
}

PinNotes::Note& PinNotes::at(std::string_view part, std::string_view pin) {
    if (part != m_lastName || m_pins.empty()) {
        m_last = this->part(keyOf(part));
        m_lastName = part;
        m_next = 0;
    }
    Pins& pins = m_pins[m_last];
    const Key key = keyOf(pin);
    if (const auto place = placeOf(pins, key, m_next)) {
        m_next = *place + 1;
        return pins.notes[*place];
    }
    const std::size_t place = pins.notes.size();
    pins.notes.push_back({pin, -1, {}, {}});
    pins.keys.push_back(key);
    if (pins.keys.size() == few + 1) {
        pins.index = std::make_unique<std::unordered_map<Key, std::size_t, Hash>>();
        for (std::size_t i = 0; i < place; ++i)
            pins.index->emplace(pins.keys[i], i);
    }
    if (pins.index) pins.index->emplace(key, place);
    return pins.notes.back();
}

PinNotes::OfPart PinNotes::of(std::string_view part) const {
    const auto known = knownPart(keyOf(part));
    return OfPart(known ? &m_pins[*known] : nullptr);
}

const PinNotes::Note* PinNotes::OfPart::find(std::string_view pin) {
    if (!m_pins) return nullptr;
    const auto place = placeOf(*m_pins, keyOf(pin), m_next);
    if (!place) return nullptr;
    m_next = *place + 1;
    return &m_pins->notes[*place];
}

std::vector<const PinNotes::Note*> PinNotes::OfPart::drawn() const {
    std::vector<const Note*> drawn;
    if (!m_pins) return drawn;
    for (const Note& note : m_pins->notes)
        if (note.drawn) drawn.push_back(&note);
    std::sort(drawn.begin(), drawn.end(), [](const Note* a, const Note* b) { return a->pin < b->pin; });
    return drawn;
}

} // namespace ustor::ipc2581
