// Elements of EBML (RFC 8794) and the identifiers of Matroska's that more than one part asks for (RFC 9559).
#pragma once

#include <bit>
#include <cstdint>
#include <optional>

#include "base/bytes.h"

namespace dreskel::ebml {

inline constexpr std::uint64_t kUnknown = ~std::uint64_t{0};

struct Element {
    std::uint32_t id = 0;
    std::uint64_t length = 0;  // kUnknown: not stated
    std::uint32_t header = 0;  // bytes
};

// Of the file as a whole, of a segment, of a cluster.
inline constexpr std::uint32_t kHeaderId = 0x1a45dfa3, kSegment = 0x18538067, kCluster = 0x1f43b675;
inline constexpr std::uint32_t kTracks = 0x1654ae6b, kInfo = 0x1549a966, kCues = 0x1c53bb6b;
inline constexpr std::uint32_t kTime = 0xe7, kBlock = 0xa3, kBlockGroup = 0xa0;
inline constexpr std::uint32_t kVoid = 0xec, kCheckSum = 0xbf;

// Nothing when `bytes` does not begin with the head of one.
inline std::optional<Element> readElement(Bytes bytes) {
    if (bytes.size() < 2) return std::nullopt;
    const auto idLength = static_cast<std::size_t>(std::countl_zero(bytes[0])) + 1;
    if (idLength > 4 || bytes.size() <= idLength) return std::nullopt;
    Element element;
    for (std::size_t i = 0; i < idLength; ++i) element.id = element.id << 8 | bytes[i];
    const auto first = bytes[idLength];
    const auto length = static_cast<std::size_t>(std::countl_zero(first)) + 1;
    if (length > 8 || bytes.size() < idLength + length) return std::nullopt;
    element.length = first & (0xffU >> length);
    bool unknown = element.length == (0x7fU >> (length - 1));
    for (std::size_t i = 1; i < length; ++i) {
        element.length = element.length << 8 | bytes[idLength + i];
        unknown = unknown && bytes[idLength + i] == 0xff;
    }
    if (unknown) element.length = kUnknown;
    element.header = static_cast<std::uint32_t>(idLength + length);
    return element;
}

inline std::uint64_t number(Bytes value) {
    std::uint64_t sum = 0;
    for (const auto byte : value.first(std::min<std::size_t>(value.size(), 8))) sum = sum << 8 | byte;
    return sum;
}

// Shows the elements of one after the other, up to one that does not fit.
template <class Shown>
void each(Bytes body, Shown&& shown) {
    while (const auto element = readElement(body)) {
        if (element->length > body.size() - element->header) return;
        const auto length = static_cast<std::size_t>(element->length);
        shown(element->id, slice(body, element->header, length));
        body = body.subspan(element->header + length);
    }
}

inline bool inSegment(std::uint32_t id) {
    for (const std::uint32_t known : {0x114d9b74U, kInfo, kTracks, kCluster, kCues, 0x1941a469U, 0x1043a770U,
                                      0x1254c367U, kVoid, kCheckSum}) {
        if (id == known) return true;
    }
    return false;
}

inline bool inCluster(std::uint32_t id) {
    for (const std::uint32_t known :
         {kTime, kBlock, kBlockGroup, 0xabU, 0xa7U, 0x5854U, 0xafU, kVoid, kCheckSum}) {
        if (id == known) return true;
    }
    return false;
}

// Enough of a cluster to know it by.
inline constexpr std::size_t kClusterHead = 32;

// When a cluster begins, where `bytes` begin with one: its time is its first element, but for a check sum.
inline std::optional<std::uint64_t> clusterTime(Bytes bytes) {
    const auto cluster = readElement(bytes);
    if (!cluster || cluster->id != kCluster) return std::nullopt;
    auto inside = slice(bytes, cluster->header, kClusterHead);
    auto first = readElement(inside);
    if (first && first->id == kCheckSum && first->length == 4) {
        inside = slice(inside, first->header + 4U, kClusterHead);
        first = readElement(inside);
    }
    if (!first || first->id != kTime || first->length == 0 || first->length > 8) return std::nullopt;
    const auto value = slice(inside, first->header, static_cast<std::size_t>(first->length));
    return value.size() == first->length ? std::optional(number(value)) : std::nullopt;
}

}  // namespace dreskel::ebml
