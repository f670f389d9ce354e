#pragma once

#include "board/board.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace ustor::ipc2581 {

/// Copper that a file draws for a pad.
struct DrawnPad {
    BoardPoint at;
    int layer = 0;
    NetIndex net = -1;
    double width_mm = 0, height_mm = 0;
};

/// What a file says about pins by name, before the parts are known. Names are views into the file's XML. Pins
/// of a part lie side by side, and short names are compared as numbers: a file has a hundred thousand pins,
/// and reaching for each into tens of megabytes would take longer than parsing them.
class PinNotes {
  public:
    struct Note {
        std::string_view pin;
        NetIndex net = -1;             ///< by the list of nets
        std::optional<DrawnPad> drawn; ///< on the outer layers; the first
        std::vector<DrawnPad> more;
    };
    Note& at(std::string_view part, std::string_view pin);

  private:
    struct Pins;

  public:
    /// The pins of one part, to ask for one after the other.
    class OfPart {
      public:
        /// nullptr where the file says nothing about a pin.
        const Note* find(std::string_view pin);
        /// Pins that copper is drawn for, by name.
        std::vector<const Note*> drawn() const;

      private:
        friend class PinNotes;
        explicit OfPart(const Pins* pins) : m_pins(pins) {}
        const Pins* m_pins;
        std::size_t m_next = 0;
    };
    OfPart of(std::string_view part) const;

  private:
    /// Up to eight letters as they are, longer names by their hash.
    struct Key {
        std::uint64_t letters = 0;
        std::string_view longName;
        bool operator==(const Key&) const = default;
    };
    struct Hash {
        std::size_t operator()(const Key& key) const;
    };
    struct Pins {
        std::vector<Note> notes;
        std::vector<Key> keys;
        std::unique_ptr<std::unordered_map<Key, std::size_t, Hash>> index; ///< once there are many
    };
    static Key keyOf(std::string_view name);
    static std::optional<std::size_t> placeOf(const Pins& pins, const Key& key, std::size_t likely);

    std::optional<std::size_t> knownPart(const Key& key) const;
    std::size_t part(const Key& key);
    void widen();

    /// Open addressing: the places of ten thousand parts stay in the processor's cache.
    struct Slot {
        std::uint64_t letters = 0;
        std::size_t place = 0; ///< in `m_pins`, from 1; 0 where the slot is free
    };
    std::vector<Slot> m_slots; ///< a power of two, at most half full
    std::vector<Key> m_parts;  ///< names of the parts in `m_pins`
    std::vector<Pins> m_pins;
    std::string_view m_lastName; ///< files name the pins of a part one after the other
    std::size_t m_last = 0, m_next = 0;
};

} // namespace ustor::ipc2581
