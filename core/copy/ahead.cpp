#include "copy/ahead.h"

#include <algorithm>
#include <chrono>

#include "base/aligned_buffer.h"

namespace dreskel {
namespace {

constexpr std::uint64_t kGrain = 64U << 10;  // bytes; what is read at once is rounded out to it
constexpr std::uint64_t kMostAtOnce = 4U << 20;
constexpr int kMostFailures = 4;
constexpr std::chrono::milliseconds kTooLong(2500);

}  // namespace

Result<std::shared_ptr<AheadOfCopy>> AheadOfCopy::open(std::shared_ptr<Source> card,
                                                       std::shared_ptr<CopyImage> image, ByteRange span) {
    auto known = image->source();
    if (!known) return known.error();
    if (span.length == 0) span = {0, card->size()};
    return std::shared_ptr<AheadOfCopy>(
        new AheadOfCopy(std::move(card), std::move(image), known.value(), span));
}

void AheadOfCopy::fetch(ByteRange range) const {
    const auto from = std::max(range.offset / kGrain * kGrain, span_.offset);
    const auto end = std::min((range.end() + kGrain - 1) / kGrain * kGrain, span_.end());
    if (end <= from) return;
    const std::size_t sector = card_->sectorSize();
    for (const auto& cell : image_->map().cells(Tried::Untried, {from, end - from})) {
        for (auto at = cell.range.offset; at < cell.range.end() && failures_ < kMostFailures;) {
            const auto length = static_cast<std::size_t>(std::min(cell.range.end() - at, kMostAtOnce));
            const AlignedBuffer buffer(length);
            const auto bytes = buffer.bytes().first(length);
            const auto began = std::chrono::steady_clock::now();
            const auto outcome = card_->read(at, bytes);
            const auto good = outcome.count == length ? length : outcome.count / sector * sector;
            // What failed stays untried: the copy has its own way with bad places.
            const bool slow = std::chrono::steady_clock::now() - began > kTooLong;
            if (good < length || slow) ++failures_;
            if (good > 0 && !image_->write(at, bytes.first(good))) failures_ = kMostFailures;
            if (good < length) break;
            at += length;
        }
    }
}

ReadOutcome AheadOfCopy::read(std::uint64_t offset, MutableBytes into) const {
    const std::lock_guard lock(mutex_);
    if (offset < size()) fetch({offset, std::min<std::uint64_t>(into.size(), size() - offset)});
    return known_->read(offset, into);
}

}  // namespace dreskel
