#include "formats/riff/wav_format.h"

#include <algorithm>
#include <cctype>

#include "base/limits.h"
#include "formats/riff/pcm_check.h"
#include "formats/riff/waveform.h"

namespace dreskel::riff {
namespace {

constexpr std::size_t kHeadLength = 1024;
constexpr std::size_t kWavPortion = 256 * 1024;
constexpr std::size_t kMapLength = 64;

constexpr std::uint64_t kLongestUnclosed = 16ULL << 30;

// What recorders and writers to pipes leave for a length that they do not know yet.
constexpr bool isNone(std::uint32_t size) {
    constexpr std::uint32_t kHalf =
        0x7ffff000;  // the most that is even for clusters and for those who read signs
    return size == 0 || size == kHalf || size == INT32_MAX || size >= UINT32_MAX - 36;
}

struct SampleFormat {
    std::uint16_t tag = 0;
    std::uint16_t channels = 0;
    std::uint32_t rate = 0;
    std::uint32_t bytesPerSecond = 0;
    std::uint16_t bits = 0;

    bool pcm() const { return (tag == 1 || tag == 3) && bits >= 8 && bits <= 32; }
    PcmCheck::Layout layout() const { return {(bits + 7U) / 8, channels, tag == 3}; }
};

class WavMeasure : public Measure {
  public:
    std::optional<Want> want() const override {
        switch (phase_) {
            case Phase::Chunk: return Want{position_, kHeadLength};
            case Phase::Samples:
                return Want{sampleAt_, static_cast<std::size_t>(
                                           std::min<std::uint64_t>(kWavPortion, dataEnd_ - sampleAt_))};
            case Phase::Over: break;
        }
        return std::nullopt;
    }
    void give(Bytes bytes) override {
        if (phase_ == Phase::Samples) {
            samples(bytes);
        } else if (position_ == 0) {
            top(bytes);
        } else {
            chunk(bytes);
        }
    }
    Measured finish() override;
    std::shared_ptr<const PlainSamples> samples() const override;

  private:
    enum class Phase { Chunk, Samples, Over };

    void top(Bytes bytes);
    void chunk(Bytes bytes);
    void samples(Bytes bytes);
    void broadcast(Bytes body);
    bool sizes(Bytes body);
    Measured finishUnclosed(Measured result) const;
    void judge(Measured& result) const;

    Phase phase_ = Phase::Chunk;
    std::uint64_t position_ = 0;
    std::uint64_t end_ = 0;  // as the RIFF header states it
    // Of RF64, whose sizes of 32 bits say nothing: what stands in their place.
    bool large_ = false;
    std::uint64_t largeData_ = 0;
    bool closed_ = true;
    int chunks_ = 0;
    std::optional<SampleFormat> format_;
    std::uint64_t dataAt_ = 0, dataEnd_ = 0;
    std::uint64_t sampleAt_ = 0;
    bool cutOff_ = false;
    std::optional<PcmCheck> check_;
    std::string taken_, camera_;
};

void WavMeasure::top(Bytes bytes) {
    ByteReader reader(bytes, Endian::Little);
    large_ = !startsWith(reader.take(4), "RIFF");
    const auto size = reader.u32();
    closed_ = large_ || (size >= 36 && !isNone(size - 36));
    end_ = large_ || !closed_ ? UINT64_MAX : std::uint64_t{8} + size;
    position_ = 12;
}

// The ds64 chunk (EBU Tech 3306, 3.2; ITU-R BS.2088): the length of the file, and of the data.
bool WavMeasure::sizes(Bytes body) {
    ByteReader reader(body, Endian::Little);
    const auto size = reader.u64();
    largeData_ = reader.u64();
    closed_ = size >= 36 && largeData_ > 0;
    end_ = checkedAdd(size, 8).value_or(UINT64_MAX);
    return reader.ok();
}

void WavMeasure::chunk(Bytes bytes) {
    ByteReader reader(bytes, Endian::Little);
    const auto name = reader.take(4);
    const auto stated = reader.u32();
    const bool data = startsWith(name, "data");
    const std::uint64_t size = data && large_ && stated == UINT32_MAX ? largeData_ : stated;
    if (data && !large_ && isNone(stated)) closed_ = false;
    const bool possible =
        reader.ok() && ++chunks_ < limits::kMostRiffChunks &&
        std::all_of(name.begin(), name.end(), [](std::uint8_t c) { return c >= 0x20 && c < 0x7f; });
    const auto bodyEnd = position_ + 8 + size;
    const bool tooLong = closed_ && (bodyEnd > end_ || bodyEnd < size);
    if (!possible || tooLong || (large_ && chunks_ == 1 && !startsWith(name, "ds64"))) {
        phase_ = Phase::Over;
        return;
    }
    const auto body = slice(bytes, 8, size);
    if (startsWith(name, "fmt ")) {
        ByteReader fields(body, Endian::Little);
        SampleFormat format;
        format.tag = fields.u16();
        format.channels = fields.u16();
        format.rate = fields.u32();
        format.bytesPerSecond = fields.u32();
        fields.skip(2);
        format.bits = fields.u16();
        const bool sane = fields.ok() && format.channels > 0 && format.channels <= 64 &&
                          format.rate >= 1000 && format.rate <= 768000 && format.bytesPerSecond > 0;
        // WAVE_FORMAT_EXTENSIBLE: which of them it is, is said behind the size, the valid bits and the
        // speakers.
        if (format.tag == 0xfffe) {
            fields.skip(8);
            format.tag = fields.u16();
        }
        if (!sane) {
            phase_ = Phase::Over;
            return;
        }
        format_ = format;
    } else if (startsWith(name, "bext")) {
        broadcast(body);
    } else if (startsWith(name, "ds64")) {
        if (!sizes(body)) phase_ = Phase::Over;
    } else if (data) {
        if (!format_) {
            phase_ = Phase::Over;
            return;
        }
        dataAt_ = position_ + 8;
        dataEnd_ = closed_ ? bodyEnd : dataAt_ + kLongestUnclosed;
        if (!closed_ && !format_->pcm()) {
            phase_ = Phase::Over;
            return;
        }
        if (format_->pcm() && (size > 0 || !closed_)) {
            check_.emplace(format_->layout(), dataAt_);
            sampleAt_ = dataAt_;
            phase_ = Phase::Samples;
        }
    }
    // Chunks are padded to an even length; a writer may leave the last one as it is.
    position_ = std::min(bodyEnd + (size & 1), end_);
    if (position_ + 8 > end_ && phase_ == Phase::Chunk) phase_ = Phase::Over;
}

void WavMeasure::samples(Bytes bytes) {
    check_->feed(bytes);
    cutOff_ = bytes.size() < std::min<std::uint64_t>(kWavPortion, dataEnd_ - sampleAt_);
    sampleAt_ += bytes.size();
    if (sampleAt_ < dataEnd_ && !cutOff_ && (closed_ || !check_->isOver())) return;
    check_->finish();
    if (!closed_) check_->isOver();
    phase_ = cutOff_ || !closed_ || position_ + 8 > end_ ? Phase::Over : Phase::Chunk;
}

// EBU Tech 3285: originator, date and time at fixed places.
void WavMeasure::broadcast(Bytes body) {
    ByteReader reader(body);
    reader.skip(256);
    camera_ = reader.text(32);
    reader.skip(32);
    const auto date = reader.text(10);
    const auto time = reader.text(8);
    if (!reader.ok() || date.size() != 10 || time.size() != 8) return;
    auto iso = date;
    iso.append("T").append(time);
    for (const std::size_t at : {4U, 7U}) iso[at] = '-';
    for (const std::size_t at : {13U, 16U}) iso[at] = ':';
    const auto digits =
        std::count_if(iso.begin(), iso.end(), [](unsigned char c) { return std::isdigit(c) != 0; });
    if (digits == 14) taken_ = iso;
}

// Of a recorder that lost power. Where the sound ends, the recording does.
Measured WavMeasure::finishUnclosed(Measured result) const {
    const auto end = check_ ? std::min(check_->soundEnds(), sampleAt_) : dataAt_;
    result.length = result.proven = end;
    result.condition = end > dataAt_ ? Condition::Partial : Condition::Broken;
    result.why = end > dataAt_ ? "the recording was never closed: where its sound ends was taken for its end"
                               : "the recording was never closed: it does not say how long it is";
    if (end == dataAt_) return result;
    result.decoded = 0.9999;
    result.description.duration = static_cast<double>(end - dataAt_) / format_->bytesPerSecond;
    result.mediaData.push_back({dataAt_, end - dataAt_});
    result.needsDecoder = true;
    return result;
}

Measured WavMeasure::finish() {
    Measured result;
    result.format = "wav";
    result.kind = Kind::Audio;
    if (!format_ || dataAt_ == 0) return result;
    result.accepted = true;
    auto& about = result.description;
    about.taken = taken_;
    about.camera = camera_;
    about.codec = (format_->pcm() ? std::string(format_->tag == 3 ? "PCM float" : "PCM") : "WAV, coded") +
                  ", " + std::to_string(format_->rate) + " Hz, " + std::to_string(format_->channels) + " ch";
    if (format_->pcm()) result.notices = Notices::ForeignKinds;
    if (!closed_) return finishUnclosed(std::move(result));
    // The stated end is believed when the chunks fill it; some writers state a little too much.
    const bool filled = position_ + 8 > end_ && position_ <= end_;
    result.length = cutOff_ ? sampleAt_ : filled ? end_ : std::max(position_, dataEnd_);
    if (dataEnd_ > dataAt_ && result.length > dataAt_) {
        result.mediaData.push_back({dataAt_, std::min(dataEnd_, result.length) - dataAt_});
    }
    about.duration = static_cast<double>(dataEnd_ - dataAt_) / format_->bytesPerSecond;
    result.proven = result.length;
    result.needsDecoder = true;
    if (!check_) return result;

    result.samples = samples();
    judge(result);
    return result;
}

std::shared_ptr<const PlainSamples> WavMeasure::samples() const {
    if (!check_ || !closed_) return nullptr;
    return samplesOf(format_->layout(), {dataAt_, dataEnd_ - dataAt_}, std::max(end_, dataEnd_), true);
}

// By what its samples are like.
void WavMeasure::judge(Measured& result) const {
    result.decodedMap.assign(kMapLength, 255);
    result.condition = Condition::Whole;
    result.decoded = 1.0;
    const auto length = static_cast<double>(dataEnd_ - dataAt_);
    if (cutOff_) {
        result.condition = Condition::Partial;
        result.why = "the card ends before the recording does";
        result.decoded = static_cast<double>(sampleAt_ - dataAt_) / length;
    }
    if (const auto foreign = check_->foreignAt()) {
        result.condition = Condition::Partial;
        result.why = "from byte " + grouped(*foreign) + " on there are data that cannot be this recording";
        result.proven = *foreign;
        const auto blocks = check_->foreign();
        const auto count = std::count(blocks.begin(), blocks.end(), true);
        const auto lost = static_cast<double>(count) * PcmCheck::kBlock;
        result.decoded = std::clamp(1.0 - lost / length, 0.0, 0.9999);
        std::vector<std::uint32_t> bad(kMapLength), all(kMapLength);
        for (std::size_t i = 0; i < blocks.size(); ++i) {
            const auto at = i * kMapLength / blocks.size();
            ++all[at];
            bad[at] += blocks[i] ? 1 : 0;
        }
        for (std::size_t i = 0; i < kMapLength; ++i) {
            if (all[i] > 0) result.decodedMap[i] = static_cast<std::uint8_t>(255 - 255 * bad[i] / all[i]);
        }
    }
    const auto jump = check_->jumpsAt();
    if (jump && *jump < result.proven) {
        result.condition = Condition::Partial;
        result.why =
            "at byte " + grouped(*jump) + " the sound jumps: what is there may belong to another recording";
        result.proven = *jump;
        result.decoded =
            std::min(result.decoded, std::clamp(static_cast<double>(*jump - dataAt_) / length, 0.0, 0.9999));
    }
}

}  // namespace

bool WavFormat::matches(Bytes head) const {
    const bool riff = startsWith(head, "RIFF") || startsWith(head, "RF64") || startsWith(head, "BW64");
    return head.size() >= 44 && riff && startsWith(head.subspan(8), "WAVE") &&
           std::all_of(head.begin() + 12, head.begin() + 16,
                       [](std::uint8_t c) { return c >= 0x20 && c < 0x7f; });
}

std::unique_ptr<Measure> WavFormat::measure() const {
    return std::make_unique<WavMeasure>();
}

}  // namespace dreskel::riff
