// Reads of a card ahead of its copy: the few parts, directories above all, that are wanted before everything
// else. What is read goes into the copy and its map, so that the card is not asked for it again.
#pragma once

#include <memory>
#include <mutex>

#include "copy/copy_image.h"

namespace dreskel {

class AheadOfCopy : public Source {
  public:
    // Reads nothing outside of `span` (bytes; length 0: all of the card). For use before the copy is begun,
    // not beside it. A card that fails or stalls is left alone after a few reads: all others then fail with
    // EIO, unless the copy has their bytes.
    static Result<std::shared_ptr<AheadOfCopy>> open(std::shared_ptr<Source> card,
                                                     std::shared_ptr<CopyImage> image, ByteRange span);

    std::uint64_t size() const override { return card_->size(); }
    std::uint32_t sectorSize() const override { return card_->sectorSize(); }
    const std::string& path() const override { return card_->path(); }
    int descriptor() const override { return known_->descriptor(); }
    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override;

  private:
    AheadOfCopy(std::shared_ptr<Source> card, std::shared_ptr<CopyImage> image, std::shared_ptr<Source> known,
                ByteRange span)
        : card_(std::move(card)), image_(std::move(image)), known_(std::move(known)), span_(span) {}
    void fetch(ByteRange range) const;

    std::shared_ptr<Source> card_;
    std::shared_ptr<CopyImage> image_;
    std::shared_ptr<Source> known_;  // the copy
    ByteRange span_;
    mutable std::mutex mutex_;
    mutable int failures_ = 0;
};

}  // namespace dreskel
