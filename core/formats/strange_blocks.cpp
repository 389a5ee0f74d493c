#include "formats/strange_blocks.h"

#include <algorithm>
#include <cctype>

namespace dreskel {
namespace {

// As a card has it that was erased, or written with nothing.
bool isBlank(Bytes block) {
    return (block[0] == 0 || block[0] == 0xff) &&
           std::all_of(block.begin(), block.end(), [&](auto byte) { return byte == block[0]; });
}

// Letters with the spaces and line ends between them. Samples that happen to lie in that range are spread
// over it.
bool isWriting(Bytes block) {
    std::size_t letters = 0, gaps = 0;
    for (const auto byte : block) {
        if (byte >= 0x80) continue;
        if (byte < 0x20 && byte != '\t' && byte != '\n' && byte != '\r') return false;
        letters += std::isalpha(byte) != 0 ? 1 : 0;
        gaps += byte == ' ' || byte == '\n' ? 1 : 0;
    }
    return letters * 2 >= block.size() && gaps * 20 >= block.size() && letters + gaps >= block.size() / 4 * 3;
}

}  // namespace

void StrangeBlocks::add(Bytes bytes) {
    while (!bytes.empty()) {
        const auto room = kBlock - static_cast<std::size_t>(next_ % kBlock);
        const auto part = bytes.first(std::min(room, bytes.size()));
        bytes = bytes.subspan(part.size());
        next_ += part.size();
        const bool all = part.size() == kBlock;
        if (!all) block_.insert(block_.end(), part.begin(), part.end());
        if (next_ % kBlock != 0) continue;
        look(all ? part : Bytes(block_));
        block_.clear();
    }
}

void StrangeBlocks::look(Bytes block) {
    const bool all = block.size() == kBlock;
    const bool blank = isBlank(block);
    if (run_ && !(blank && block[0] == run_->value)) {
        if (block[0] != run_->value) found(run_->at);
        run_.reset();
    }
    if (!run_ && all && blank && before_ && *before_ != block[0]) run_ = Run{next_ - kBlock, block[0]};
    if (all && isWriting(block)) found(next_ - kBlock);
    before_ = block.back();
}

std::optional<std::uint64_t> StrangeBlocks::finish(bool more) {
    if (more) return found_;
    const auto at = next_ - block_.size();
    if (block_.empty()) {
        if (run_) found(run_->at);
    } else if (isBlank(block_)) {
        if (run_ && block_[0] == run_->value) {
            found(run_->at);
        } else if (at % kBlock == 0 && block_.size() >= kLeastAtEnd && before_ && *before_ != block_[0]) {
            found(at);
        }
    } else if (run_ && block_[0] != run_->value) {
        found(run_->at);
    }
    return found_;
}

}  // namespace dreskel
