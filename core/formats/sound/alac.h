// One packet of Apple Lossless sound (Apple's published description of the coding,
// "ALACMagicCookieDescription", and its elements), followed to its last bit without rebuilding a sample.
#pragma once

#include <cstdint>
#include <optional>

#include "base/bytes.h"

namespace dreskel::alac {

// The decoder's settings, as containers hold them.
struct Settings {
    std::uint32_t frames = 0;  // samples of a channel in a packet
    std::uint8_t bits = 0;     // of a sample
    std::uint8_t history = 0, initialHistory = 0, limit = 0;
    std::uint8_t channels = 0;
};
// From the 24 bytes, or with the atom in front of them; nothing when they are none.
std::optional<Settings> readSettings(Bytes bytes);

// What is wrong with it; nothing when its bytes end with what it holds.
const char* followPacket(Bytes packet, const Settings& settings);

}  // namespace dreskel::alac
