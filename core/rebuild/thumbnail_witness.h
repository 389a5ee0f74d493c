// What the thumbnail in a photo's header says of a piece: that it is this picture, or another. It says
// nothing of stretches of less than some rows, of photos without one, and where it does not go with what is
// known of the photo.
#pragma once

#include <memory>
#include <optional>

#include "formats/jpeg/own_thumbnail.h"

namespace dreskel::rebuild {

class ThumbnailWitness {
  public:
    enum class Says { Nothing, Alike, Otherwise };

    explicit ThumbnailWitness(std::shared_ptr<const jpeg::OwnThumbnail> thumbnail = nullptr)
        : thumbnail_(std::move(thumbnail)) {}
    // All up to MCU `to` is the photo's.
    void learn(const jpeg::DcPlanes& planes, std::uint64_t to) {
        learnt_ = thumbnail_ ? thumbnail_->learn(planes, to) : std::nullopt;
    }
    bool isThere() const { return thumbnail_ != nullptr; }
    bool hasLearnt() const { return learnt_.has_value(); }
    // Of MCUs `from` to `to` of the first scan.
    Says of(const jpeg::DcPlanes& planes, std::uint64_t from, std::uint64_t to) const {
        if (!learnt_ || to <= from) return Says::Nothing;
        if (thumbnail_->strain(planes, *learnt_, from, to).value_or(kAlike + 1) <= kAlike) return Says::Alike;
        return thumbnail_->isAnother(planes, *learnt_, from, to) ? Says::Otherwise : Says::Nothing;
    }

    // Whether a picture that is torn at an MCU, seen by its rows, has an edge of its own there.
    bool showsEdge(std::uint64_t mcu) const { return learnt_ && thumbnail_->showsEdge(*learnt_, mcu); }

  private:
    // Measured: docs/measures.md, "What thumbnails tell".
    static constexpr double kAlike = 0.8;  // strain

    std::shared_ptr<const jpeg::OwnThumbnail> thumbnail_;
    std::optional<ThumbnailMatch::Learnt> learnt_;
};

}  // namespace dreskel::rebuild
