#include "source/copy_map.h"

#include <algorithm>

namespace dreskel {
namespace {

constexpr std::array<std::string_view, kTriedStates> kWords{"untried", "waiting", "stalled", "failed",
                                                            "read"};

}  // namespace

std::string_view toWord(Tried state) {
    return kWords.at(static_cast<std::size_t>(state));
}

std::optional<Tried> triedFromWord(std::string_view word) {
    const auto found = std::find(kWords.begin(), kWords.end(), word);
    if (found == kWords.end()) return std::nullopt;
    return static_cast<Tried>(found - kWords.begin());
}

CopyMap::CopyMap(std::uint64_t size) : size_(size) {
    if (size > 0) cells_[0] = {size, Tried::Untried, 0};
    totals_[static_cast<std::size_t>(Tried::Untried)] = size;
}

void CopyMap::split(std::uint64_t at) {
    if (at == 0 || at >= size_) return;
    auto cell = std::prev(cells_.upper_bound(at));
    if (cell->first == at) return;
    auto behind = cell->second;
    cell->second.end = at;
    cells_.emplace_hint(std::next(cell), at, behind);
}

// Makes the cell at `start` one with the cell before it when they say the same.
void CopyMap::join(std::uint64_t start) {
    const auto cell = cells_.find(start);
    if (cell == cells_.end() || cell == cells_.begin()) return;
    const auto before = std::prev(cell);
    if (before->second.state != cell->second.state || before->second.tries != cell->second.tries) return;
    before->second.end = cell->second.end;
    cells_.erase(cell);
}

void CopyMap::set(ByteRange range, Tried state, int tries) {
    if (range.offset >= size_) return;
    range.length = std::min(range.length, size_ - range.offset);
    if (range.length == 0) return;
    const std::lock_guard lock(mutex_);
    split(range.offset);
    split(range.end());
    auto at = cells_.find(range.offset);
    for (auto cell = at; cell != cells_.end() && cell->first < range.end();) {
        totals_[static_cast<std::size_t>(cell->second.state)] -= cell->second.end - cell->first;
        cell = cell == at ? std::next(cell) : cells_.erase(cell);
    }
    at->second = {range.end(), state, tries};
    totals_[static_cast<std::size_t>(state)] += range.length;
    join(range.end());
    join(range.offset);
}

std::vector<MapCell> CopyMap::cells() const {
    const std::lock_guard lock(mutex_);
    std::vector<MapCell> all;
    all.reserve(cells_.size());
    for (const auto& [start, cell] : cells_)
        all.push_back({{start, cell.end - start}, cell.state, cell.tries});
    return all;
}

std::vector<MapCell> CopyMap::cells(Tried state, ByteRange within) const {
    std::vector<MapCell> found;
    if (within.offset >= size_) return found;
    const std::lock_guard lock(mutex_);
    const auto end = within.offset + std::min(within.length, size_ - within.offset);
    for (auto cell = std::prev(cells_.upper_bound(within.offset)); cell != cells_.end() && cell->first < end;
         ++cell) {
        if (cell->second.state != state) continue;
        const auto from = std::max(cell->first, within.offset);
        const auto to = std::min(cell->second.end, end);
        if (to > from) found.push_back({{from, to - from}, state, cell->second.tries});
    }
    return found;
}

std::uint64_t CopyMap::total(Tried state) const {
    const std::lock_guard lock(mutex_);
    return totals_[static_cast<std::size_t>(state)];
}

std::vector<ByteRange> CopyMap::unread(ByteRange within) const {
    RangeSet read;
    for (const auto& cell : cells(Tried::Read, within)) read.add(cell.range);
    return read.gaps(within);
}

}  // namespace dreskel
