#include "media/messages.h"

#include <sys/socket.h>

#include <array>
#include <cerrno>

#include "base/bytes.h"
#include "base/json_text.h"
#include "base/limits.h"

namespace dreskel::media {
namespace {

bool sendAll(int socket, const void* data, std::size_t size) {
    const auto* at = static_cast<const char*>(data);
    while (size > 0) {
        const auto sent = ::send(socket, at, size, MSG_NOSIGNAL);
        if (sent < 0 && errno == EINTR) continue;
        if (sent <= 0) return false;
        at += sent;
        size -= static_cast<std::size_t>(sent);
    }
    return true;
}

bool receiveAll(int socket, void* data, std::size_t size) {
    auto* at = static_cast<char*>(data);
    while (size > 0) {
        const auto got = ::recv(socket, at, size, 0);
        if (got < 0 && errno == EINTR) continue;
        if (got <= 0) return false;
        at += got;
        size -= static_cast<std::size_t>(got);
    }
    return true;
}

}  // namespace

bool sendMessage(int socket, const Message& message) {
    const auto text = jsonText(message.head);
    const std::array<std::uint32_t, 2> lengths{static_cast<std::uint32_t>(text.size()),
                                               static_cast<std::uint32_t>(message.payload.size())};
    return sendAll(socket, lengths.data(), sizeof lengths) && sendAll(socket, text.data(), text.size()) &&
           sendAll(socket, message.payload.data(), message.payload.size());
}

bool receiveMessage(int socket, Message& into) {
    std::array<std::uint32_t, 2> lengths{};
    if (!receiveAll(socket, lengths.data(), sizeof lengths)) return false;
    if (lengths[0] > limits::kLargestMessage || lengths[1] > limits::kLargestMessage) return false;
    std::string text(lengths[0], '\0');
    into.payload.resize(lengths[1]);
    if (!receiveAll(socket, text.data(), text.size())) return false;
    if (!receiveAll(socket, into.payload.data(), into.payload.size())) return false;
    into.head = jsonFrom(text);
    return into.head.is_object();
}

void putPieces(Message& message, const std::vector<Piece>& pieces) {
    auto array = nlohmann::json::array();
    for (const auto& piece : pieces) {
        const auto offset = piece.from == PieceFrom::Made ? message.payload.size() : piece.offset;
        if (piece.made) message.payload.insert(message.payload.end(), piece.made->begin(), piece.made->end());
        array.push_back({std::string(toWord(piece.from)), offset, piece.length});
    }
    message.head["pieces"] = std::move(array);
}

std::vector<Piece> piecesOf(const Message& message) {
    std::vector<Piece> pieces;
    for (const auto& item : message.head.at("pieces")) {
        const auto from = pieceFromWord(item.at(0).get<std::string>()).value_or(PieceFrom::Fill);
        const auto offset = item.at(1).get<std::uint64_t>();
        const auto length = item.at(2).get<std::uint64_t>();
        if (from == PieceFrom::Made) {
            const auto bytes = slice(message.payload, offset, length);
            pieces.push_back(madePiece({bytes.begin(), bytes.end()}, {}));
        } else {
            pieces.push_back({from, offset, length, {}});
        }
    }
    return pieces;
}

About aboutOf(const Message& request) {
    return {request.head.value("format", std::string()), request.head.value("pieces", nlohmann::json()),
            request.payload};
}

}  // namespace dreskel::media
