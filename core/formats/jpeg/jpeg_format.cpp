#include "formats/jpeg/jpeg_format.h"

#include <algorithm>

#include "base/limits.h"
#include "formats/jpeg/appended.h"
#include "formats/jpeg/continuity.h"
#include "formats/jpeg/dc_picture.h"
#include "formats/jpeg/metadata.h"
#include "formats/jpeg/own_thumbnail.h"
#include "formats/jpeg/small_picture.h"
#include "formats/jpeg/stream_decoder.h"

namespace dreskel::jpeg {
namespace {

constexpr std::size_t kJpegPortion = 256 * 1024;
constexpr std::uint32_t kThumbnailSide = 320;
constexpr std::size_t kMapLength = 64;

class JpegMeasure : public Measure {
  public:
    JpegMeasure() : decoder_(&planes_) {}

    std::optional<Want> want() const override {
        switch (phase_) {
            case Phase::Picture: return Want{position_, kJpegPortion};
            case Phase::Tail: return Want{position_, kJpegPortion};
            case Phase::Further: return Want{position_, kJpegPortion};
            case Phase::Appended: return appended_.want(end_);
            case Phase::Over: break;
        }
        return std::nullopt;
    }

    void give(Bytes bytes) override {
        const bool last = bytes.size() < kJpegPortion;
        if (position_ == 0) {
            metadata_ = readMetadata(bytes);
            thumbnail_.assign(metadata_.thumbnail.begin(), metadata_.thumbnail.end());
            metadata_.thumbnail = {};  // what was given is not kept
        }
        switch (phase_) {
            case Phase::Picture: picture(bytes, last); break;
            case Phase::Tail: tail(bytes, last); break;
            case Phase::Further: further(bytes, last); break;
            case Phase::Appended:
                if (!appended_.give(bytes, end_)) phase_ = Phase::Over;
                break;
            case Phase::Over: break;
        }
    }

    Measured finish() override;

  private:
    enum class Phase { Picture, Tail, Further, Appended, Over };

    void picture(Bytes bytes, bool last) {
        const auto state = decoder_.feed(bytes, last || position_ + bytes.size() > limits::kLargestPhoto);
        position_ += bytes.size();
        if (state == StreamDecoder::State::Hungry) return;
        primaryEnd_ = end_ = decoder_.offset();
        if (state == StreamDecoder::State::Ended) {
            nextPicture();
            return;
        }
        // The data went wrong. If it goes on looking like coded JPEG data up to an end marker, that is most
        // likely where the file ends; a single damaged sector must not cost the rest of the photo.
        if (decoder_.scans() > 0 && decoder_.breakPoint().why != "another photo begins") {
            phase_ = Phase::Tail;
            position_ = end_;
        } else {
            phase_ = Phase::Over;
        }
    }

    void tail(Bytes bytes, bool last) {
        std::size_t at = 0;
        while (at + 2 <= bytes.size()) {
            const auto* found =
                static_cast<const std::uint8_t*>(std::memchr(bytes.data() + at, 0xff, bytes.size() - at - 1));
            if (found == nullptr) break;
            at = static_cast<std::size_t>(found - bytes.data());
            const auto code = bytes[at + 1];
            const bool coded =
                code == 0 || code == 0xff || (decoder_.restarts() && code >= 0xd0 && code <= 0xd7);
            if (!coded) {
                if (code == 0xd9) tailEnd_ = position_ + at + 2;
                phase_ = Phase::Over;
                return;
            }
            at += code == 0xff ? 1 : 2;
        }
        // The last byte is looked at again: a marker may lie across two portions.
        position_ += bytes.empty() ? 0 : bytes.size() - 1;
        if (last || position_ > limits::kLargestPhoto) phase_ = Phase::Over;
    }

    void nextPicture() {
        phase_ = Phase::Appended;
        while (nextFurther_ < metadata_.furtherPictures.size()) {
            const auto& range = metadata_.furtherPictures[nextFurther_];
            if (range.offset >= end_ && range.end() <= limits::kLargestPhoto) {
                inner_ = std::make_unique<StreamDecoder>();
                position_ = range.offset;
                phase_ = Phase::Further;
                return;
            }
            ++nextFurther_;
        }
    }

    void further(Bytes bytes, bool last) {
        const auto state = inner_->feed(bytes, last);
        position_ += bytes.size();
        if (state == StreamDecoder::State::Hungry) return;
        const auto range = metadata_.furtherPictures[nextFurther_++];
        if (state == StreamDecoder::State::Ended && inner_->offset() <= range.length) {
            end_ = range.end();
            ++furtherFound_;
        } else {
            furtherLost_ = true;
        }
        nextPicture();
    }

    // Where a picture that decodes to its end stops being the photo.
    std::optional<Jump> stranger() const;

    DcPlanes planes_;
    StreamDecoder decoder_;
    std::unique_ptr<StreamDecoder> inner_;
    Metadata metadata_;
    std::vector<std::uint8_t> thumbnail_;  // a JPEG; decoded only once the picture is complete
    Phase phase_ = Phase::Picture;
    std::uint64_t position_ = 0;
    std::uint64_t end_ = 0;
    std::uint64_t primaryEnd_ = 0;  // of the first picture
    std::uint64_t tailEnd_ = 0;
    Appended appended_;
    std::size_t nextFurther_ = 0;
    std::size_t furtherFound_ = 0;
    bool furtherLost_ = false;
};

std::vector<std::uint8_t> mapOf(double share) {
    std::vector<std::uint8_t> map(kMapLength);
    for (std::size_t i = 0; i < map.size(); ++i) {
        const auto filled = std::clamp(share * kMapLength - static_cast<double>(i), 0.0, 1.0);
        map[i] = static_cast<std::uint8_t>(filled * 255);
    }
    return map;
}

// The thumbnail tells it to a few rows; of the places where a cluster may begin the roughest nearby is it.
std::optional<Jump> JpegMeasure::stranger() const {
    constexpr std::uint64_t kAround = 16;  // rows of the whole, one of so many
    const auto& frame = decoder_.frame();
    const auto small = decodeSmall(thumbnail_);
    if (!small) return std::nullopt;
    const auto row = OwnThumbnail(*small, frame).strangeFrom(planes_);
    if (!row) return std::nullopt;
    const std::uint64_t wide = frame.mcusWide, around = frame.mcusHigh / kAround + 1;
    std::optional<Jump> found;
    double roughest = -1;
    for (std::size_t i = 0; i < planes_.marks.size(); ++i) {
        const auto mcu = planes_.marks[i];
        if (mcu + around * wide < *row * wide || mcu > (*row + around) * wide) continue;
        const auto byte = planes_.byteOf(planes_.steps(decoder_.codedDataAt()) + 1 + i);
        const auto look = lookAtSeam(frame, planes_, decoder_.codedDataAt(), byte, true);
        if (look.strain > roughest) found = Jump{byte, mcu};
        roughest = std::max(roughest, look.strain);
    }
    return found;
}

Measured JpegMeasure::finish() {
    Measured result;
    result.format = "jpeg";
    result.kind = Kind::Photo;
    result.description = metadata_.description;
    result.notes = decoder_.notes();
    const bool ended = decoder_.state() == StreamDecoder::State::Ended;
    result.why = ended ? "" : decoder_.breakPoint().why;
    if (!decoder_.hasFrame() || decoder_.scans() == 0) {
        // Without a picture header only a well-formed Exif block shows that a photo began here.
        result.accepted = metadata_.exif;
        result.length = result.proven = end_;
        result.condition = Condition::Broken;
        return result;
    }
    const auto& frame = decoder_.frame();
    result.description.width = frame.width;
    result.description.height = frame.height;
    result.description.codec = frame.progressive ? "JPEG, progressive" : "JPEG";
    if (frame.precision == 12) result.description.codec += ", 12 bit";
    result.accepted = true;
    result.proven = result.length = end_;

    if (decoder_.skimmed()) {
        result.condition = Condition::Unchecked;
        result.notes.emplace_back("a coding that cannot be checked yet (arithmetic or lossless)");
        return result;
    }
    auto share = decoder_.decodedShare();
    if (!ended && frame.progressive && share > 0) {
        // The first scan covers the picture; what is missing is detail.
        const auto all = static_cast<double>(std::max(tailEnd_, end_));
        share = tailEnd_ > 0 ? static_cast<double>(end_) / all : share * 0.5;
        result.notes.emplace_back("progressive: what is missing is detail, over the whole picture");
    }
    if (ended) {
        result.condition = Condition::Whole;
        result.decoded = 1.0;
        const auto torn = findJump(frame, planes_, decoder_.codedDataAt());
        const auto jump = torn ? torn : stranger();
        if (jump) {
            result.condition = Condition::Partial;
            const auto upTo =
                static_cast<double>(jump->mcu) / (static_cast<double>(frame.mcusWide) * frame.mcusHigh);
            result.decoded = std::clamp(upTo, 0.0, 0.9999);
            result.proven = jump->byte;
            result.why = "it decodes to its end, but from byte " + grouped(jump->byte) +
                         (torn ? " on the picture does not continue what is above"
                               : " on, about, the picture is not the one that its thumbnail shows");
        }
        if (furtherFound_ > 0) {
            result.notes.push_back("with " + std::to_string(furtherFound_) +
                                   " more picture(s) of the same shot behind it");
        }
        for (const auto& note : appended_.notes()) result.notes.push_back(note);
        if (furtherLost_) {
            result.condition = Condition::Partial;
            result.why = "a further picture that the file announces is not there or damaged";
        }
    } else {
        // A few blocks decode out of anything; that alone is not a picture.
        result.condition = share > 0.002 ? Condition::Partial : Condition::Broken;
        result.decoded = std::min(share, 0.9999);
        if (tailEnd_ > end_) result.length = tailEnd_;
        const auto& at = decoder_.breakPoint();
        // A component by itself is not interleaved: its blocks are counted (A.2.2).
        const bool alone = frame.components.size() == 1;
        const auto across =
            std::max<std::uint64_t>(1, alone ? frame.components[0].blocksWide : frame.mcusWide);
        const auto rows = alone ? frame.components[0].blocksHigh : frame.mcusHigh;
        result.why += ", at byte " + grouped(at.byte) + ", block row " +
                      grouped(std::min<std::uint64_t>(at.mcu / across + 1, rows)) + " of " + grouped(rows);
    }
    result.mediaData = {{decoder_.codedDataAt(), primaryEnd_ - decoder_.codedDataAt()}};
    result.decodedMap = mapOf(result.decoded);
    const bool rgbCoded = frame.components.size() == 3 && frame.components[0].id == 'R' &&
                          frame.components[1].id == 'G' && frame.components[2].id == 'B';
    result.thumbnail = pictureOf(frame, planes_, kThumbnailSide, rgbCoded);
    return result;
}

}  // namespace

bool JpegFormat::matches(Bytes head) const {
    if (head.size() < 20 || head[0] != 0xff || head[1] != 0xd8 || head[2] != 0xff) return false;
    const auto code = head[3];
    return (code >= 0xe0 && code <= 0xef) || code == 0xdb || code == 0xc4 || code == 0xfe || code == 0xdd ||
           (code >= 0xc0 && code <= 0xc2) || code == 0xff;
}

std::unique_ptr<Measure> JpegFormat::measure() const {
    return std::make_unique<JpegMeasure>();
}

}  // namespace dreskel::jpeg
