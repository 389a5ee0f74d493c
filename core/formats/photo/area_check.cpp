#include "formats/photo/area_check.h"

namespace dreskel {
namespace {

// Bytes of an area behind its stream: what writers fill up with.
constexpr std::uint64_t kMostBehind = 16 * 1024;

// The frame header's marker of a JPEG that brings its own tables; 0 where that does not show in these bytes.
std::uint8_t frameOf(Bytes head) {
    ByteReader reader(head);
    if (reader.u16() != 0xffd8) return 0;
    std::uint8_t frame = 0;
    bool tables = false;
    while (reader.ok()) {
        if (reader.u8() != 0xff) return 0;
        const auto code = reader.u8();
        if (code == 0xda) return tables ? frame : std::uint8_t{0};
        if (code >= 0xc0 && code <= 0xcf && code != 0xc4 && code != 0xc8 && code != 0xcc) frame = code;
        tables = tables || code == 0xc4;
        const auto length = reader.u16();
        if (length < 2) return 0;
        reader.skip(length - 2U);
    }
    return 0;
}

bool isJpeg(Area::Coding coding) {
    return coding == Area::Coding::Preview || coding == Area::Coding::Strip || coding == Area::Coding::Old;
}

}  // namespace

bool AreaCheck::tells(Area::Coding coding, Bytes head) {
    return !isJpeg(coding) || frameOf(head) != 0;
}

void AreaCheck::open(Bytes head) {
    begun_ = true;
    if (sensor_) stream_.emplace<SensorState>(sensor_->rows(at_));
    if (!isJpeg(coding_)) return;
    const auto frame = frameOf(head);
    if (frame == 0xc0 || frame == 0xc1 || frame == 0xc2) {
        stream_.emplace<jpeg::StreamDecoder>();
    } else if (frame == 0xc3) {
        stream_.emplace<jpeg::LosslessDecoder>(most_, at_);
    } else if (coding_ != Area::Coding::Old && !startsWith(head, "\xff\xd8")) {
        why_ = "its picture data do not begin where its directory says";
    }
}

void AreaCheck::lookClosely(bool closely) {
    closely_ = closely;
    if (auto* lossless = std::get_if<jpeg::LosslessDecoder>(&stream_)) lossless->lookClosely(closely);
    if (auto* rows = std::get_if<SensorState>(&stream_)) (*rows)->lookClosely(closely);
}

void AreaCheck::give(Bytes bytes, bool last) {
    if (!begun_) {
        open(bytes);
        lookClosely(closely_);
    }
    given_ += bytes.size();
    if (auto* photo = std::get_if<jpeg::StreamDecoder>(&stream_)) {
        const auto state = photo->feed(bytes, last);
        taken_ = state == jpeg::StreamDecoder::State::Ended ? given_ : photo->offset();
        if (state == jpeg::StreamDecoder::State::Broken) why_ = photo->breakPoint().why;
    } else if (auto* lossless = std::get_if<jpeg::LosslessDecoder>(&stream_)) {
        const auto state = lossless->feed(bytes, last);
        const bool ended = state == jpeg::LosslessDecoder::State::Ended;
        taken_ = ended ? given_ : lossless->offset();
        if (state == jpeg::LosslessDecoder::State::Broken) why_ = lossless->why();
        if (ended && given_ > lossless->offset() + kMostBehind) {
            taken_ = lossless->offset();
            why_ = "its picture ends before its data do";
        }
    } else if (auto* rows = std::get_if<SensorState>(&stream_)) {
        using State = SensorRows::State;
        const auto state = (*rows)->feed(bytes, last);
        taken_ = state == State::Ended || state == State::NotUnderstood ? given_ : (*rows)->offset();
        if (state == State::Broken) why_ = (*rows)->why();
    } else if (coding_ == Area::Coding::Sixteens) {
        giveSixteens(bytes);
    } else if (why_.empty()) {
        taken_ = given_;
    }
}

// Each block holds the largest and the smallest of its samples, 11 bits each, their places, 4 bits each, and
// the others between them: little-endian, from the lowest bit on, as LibRaw reads them. The first of two is
// never below the second, nor in its place.
void AreaCheck::giveSixteens(Bytes bytes) {
    // Of a block across two portions nothing is asked.
    const auto first = (16 - (given_ - bytes.size()) % 16) % 16;
    taken_ += first;
    for (std::size_t at = static_cast<std::size_t>(first); at + 16 <= bytes.size() && why_.empty();
         at += 16) {
        const auto word = ByteReader(bytes.subspan(at, 4), Endian::Little).u32();
        const auto most = word & 0x7ff;
        const auto least = word >> 11 & 0x7ff;
        if (most < least || (word >> 22 & 15) == (word >> 26 & 15)) {
            why_ = "sensor data that no camera writes";
        } else {
            taken_ += 16;
        }
    }
    if (why_.empty()) taken_ = given_;
}

}  // namespace dreskel
