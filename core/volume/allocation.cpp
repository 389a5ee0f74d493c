#include "volume/allocation.h"

#include <algorithm>

namespace dreskel {
namespace {

constexpr std::uint64_t kPage = 64U << 10;  // bytes
constexpr std::size_t kMostPages = 256;

}  // namespace

Allocation::Allocation(const Source& source, const BootSector& facts, std::uint64_t offset)
    : source_(source), facts_(facts), offset_(offset) {}

ByteRange Allocation::place(std::uint32_t cluster) const {
    return {offset_ + facts_.dataStart + std::uint64_t{cluster - 2} * facts_.clusterSize, facts_.clusterSize};
}

std::optional<std::uint32_t> Allocation::clusterAt(std::uint64_t offset) const {
    const auto start = offset_ + facts_.dataStart;
    if (offset < start || facts_.clusterSize == 0) return std::nullopt;
    const auto index = (offset - start) / facts_.clusterSize;
    if (index >= facts_.clusters) return std::nullopt;
    return static_cast<std::uint32_t>(index + 2);
}

std::optional<std::uint8_t> Allocation::byteAt(std::uint64_t offset) const {
    const auto start = offset / kPage * kPage;
    auto page = pages_.find(start);
    if (page == pages_.end()) {
        if (bad_.count(start) > 0) return std::nullopt;
        if (pages_.size() >= kMostPages) pages_.clear();
        std::vector<std::uint8_t> bytes(kPage);
        bytes.resize(source_.read(start, bytes).count);
        if (bytes.empty()) {
            bad_[start] = true;
            return std::nullopt;
        }
        page = pages_.emplace(start, std::move(bytes)).first;
    }
    if (offset - start >= page->second.size()) return std::nullopt;
    return page->second[static_cast<std::size_t>(offset - start)];
}

Allocation::Entry Allocation::entry(std::uint32_t cluster) const {
    if (!valid(cluster)) return {};
    const bool twelve = facts_.kind == "FAT12";
    const unsigned width = twelve || facts_.kind == "FAT16" ? 2 : 4;
    const auto inside = twelve ? std::uint64_t{cluster} + cluster / 2 : std::uint64_t{cluster} * width;
    if (inside + width > facts_.tableLength) return {};
    std::uint32_t value = 0;
    for (unsigned i = 0; i < width; ++i) {
        const auto byte = byteAt(offset_ + facts_.tableStart + inside + i);
        if (!byte) return {};
        value |= std::uint32_t{*byte} << (8 * i);
    }
    if (twelve) value = cluster % 2 == 0 ? value & 0xfffU : value >> 4;
    // The marks of the narrower tables are those of FAT32 with fewer digits.
    std::uint32_t end = 0xfffffff8U;
    if (twelve) end = 0xff8U;
    if (facts_.kind == "FAT16") end = 0xfff8U;
    if (facts_.kind == "FAT32") {
        value &= 0x0fffffffU;
        end = 0x0ffffff8U;
    }
    if (value == 0) return {Link::Free, 0};
    if (value >= end) return {Link::End, 0};
    if (value == end - 1) return {Link::Bad, 0};
    return {Link::Next, value};
}

std::optional<bool> Allocation::isFree(std::uint32_t cluster) const {
    if (!valid(cluster)) return std::nullopt;
    if (facts_.kind != "exFAT") {
        const auto link = entry(cluster).link;
        if (link == Link::Unknown) return std::nullopt;
        return link == Link::Free;
    }
    std::uint64_t index = (cluster - 2) / 8;
    for (const auto& range : bitmap_) {
        if (index < range.length) {
            const auto byte = byteAt(range.offset + index);
            if (!byte) return std::nullopt;
            return ((*byte >> ((cluster - 2) % 8)) & 1) == 0;
        }
        index -= range.length;
    }
    return std::nullopt;
}

Allocation::Chain Allocation::chain(std::uint32_t first, std::uint64_t bytes) const {
    Chain chain;
    std::uint64_t covered = 0;
    std::uint32_t steps = 0;
    for (auto cluster = first; valid(cluster) && covered < bytes; ++steps) {
        if (steps > facts_.clusters) return chain;  // in a circle
        const auto range = place(cluster);
        if (!chain.ranges.empty() && chain.ranges.back().end() == range.offset) {
            chain.ranges.back().length += range.length;
        } else {
            chain.ranges.push_back(range);
        }
        covered += range.length;
        const auto link = entry(cluster);
        if (link.link != Link::Next) {
            chain.complete = link.link == Link::End;
            break;
        }
        cluster = link.next;
    }
    chain.complete = covered >= bytes || chain.complete;
    if (covered > bytes && bytes > 0) chain.ranges.back().length -= covered - bytes;
    return chain;
}

Allocation::Chain Allocation::run(std::uint32_t first, std::uint64_t bytes) const {
    Chain chain;
    if (!valid(first) || bytes == 0) return chain;
    const auto room = std::uint64_t{facts_.clusters - (first - 2)} * facts_.clusterSize;
    chain.ranges.push_back({place(first).offset, std::min(bytes, room)});
    chain.complete = bytes <= room;
    return chain;
}

}  // namespace dreskel
