// A card on which files lie in pieces, cluster by cluster, with the truth of where.
#pragma once

#include <map>
#include <vector>

#include "base/range.h"
#include "tests/support/support.h"

namespace dreskel::test {

inline constexpr std::size_t kCluster = 8192;

// A card run by run: a file, and how many of its clusters come next; -1: all the rest. Without a name: noise.
using Runs = std::vector<std::pair<QString, int>>;

struct PiecesCard {
    Buffer bytes;
    std::map<QString, std::vector<ByteRange>> places;
};

inline PiecesCard writeInPieces(const Runs& runs, std::size_t cluster = kCluster) {
    PiecesCard card;
    card.bytes = randomBytes(2 * cluster, 5);
    std::map<QString, std::size_t> next;
    for (const auto& [name, count] : runs) {
        if (name.isEmpty()) {
            const auto noise = randomBytes(static_cast<std::size_t>(count) * cluster, 11);
            card.bytes.insert(card.bytes.end(), noise.begin(), noise.end());
            continue;
        }
        const auto file = mediaFile(name);
        auto& at = next[name];
        const auto left = file.size() - at;
        const auto length = count < 0 ? left : std::min(left, static_cast<std::size_t>(count) * cluster);
        card.places[name].push_back({card.bytes.size(), length});
        card.bytes.insert(card.bytes.end(), file.begin() + static_cast<std::ptrdiff_t>(at),
                          file.begin() + static_cast<std::ptrdiff_t>(at + length));
        card.bytes.resize((card.bytes.size() + cluster - 1) / cluster * cluster, 0);
        at += length;
    }
    card.bytes.resize(card.bytes.size() + cluster, 0);
    return card;
}

// One file in as many pieces as there are numbers in `order`, written in that order, noise between. Their
// places are in the order of the file.
inline PiecesCard writeShuffled(const QString& name, const std::vector<std::size_t>& order,
                                std::size_t cluster = kCluster) {
    PiecesCard card;
    const auto file = mediaFile(name);
    const auto clusters = (file.size() + cluster - 1) / cluster;
    std::vector<ByteRange> places(order.size());
    card.bytes = randomBytes(2 * cluster, 5);
    for (const auto piece : order) {
        const auto from = clusters * piece / order.size() * cluster;
        const auto to = std::min(file.size(), clusters * (piece + 1) / order.size() * cluster);
        places[piece] = {card.bytes.size(), to - from};
        card.bytes.insert(card.bytes.end(), file.begin() + static_cast<std::ptrdiff_t>(from),
                          file.begin() + static_cast<std::ptrdiff_t>(to));
        card.bytes.resize((card.bytes.size() + cluster - 1) / cluster * cluster, 0);
        const auto noise = randomBytes(3 * cluster, static_cast<unsigned>(piece));
        card.bytes.insert(card.bytes.end(), noise.begin(), noise.end());
    }
    card.places[name] = places;
    return card;
}

// What lies in these places, one behind the other.
inline Buffer bytesAt(const Buffer& card, const std::vector<ByteRange>& places) {
    Buffer bytes;
    for (const auto& place : places) {
        const auto part = slice(card, place.offset, place.length);
        bytes.insert(bytes.end(), part.begin(), part.end());
    }
    return bytes;
}

}  // namespace dreskel::test
