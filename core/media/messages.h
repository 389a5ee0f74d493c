// What the core and its decoder worker say to each other over a socket: a JSON head and a run of raw bytes.
// Layout: two 32-bit little-endian lengths (head, payload), then both. See docs/architecture.md, "The
// worker".
#pragma once

#include <cstdint>
#include <nlohmann/json.hpp>
#include <string>
#include <tuple>
#include <vector>

#include "base/result.h"
#include "base/words.h"

namespace dreskel::media {

struct Message {
    nlohmann::json head;
    std::vector<std::uint8_t> payload;
};

// Blocking. False when the other side is gone or sends nonsense.
bool sendMessage(int socket, const Message& message);
bool receiveMessage(int socket, Message& into);

// The bytes of what is made go into the payload, one piece behind the other.
void putPieces(Message& message, const std::vector<Piece>& pieces);
std::vector<Piece> piecesOf(const Message& message);

// What tells the file of one request from another's: its format, its pieces, and their made bytes.
using About = std::tuple<std::string, nlohmann::json, std::vector<std::uint8_t>>;
About aboutOf(const Message& request);

}  // namespace dreskel::media
