#include "formats/isobmff/iso_format.h"

#include <algorithm>
#include <array>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"
#include "formats/isobmff/movie.h"

namespace dreskel::isobmff {
namespace {

constexpr std::size_t kHeadLength = 64;
constexpr std::uint64_t kLargestUnknown = 16 << 20;  // bytes of a box that is passed over

// Boxes that stand at the top level of a file.
bool isTopLevel(std::uint32_t type) {
    constexpr std::array<std::uint32_t, 20> known{
        fourCc("ftyp"), fourCc("moov"), fourCc("mdat"), fourCc("free"), fourCc("skip"),
        fourCc("wide"), fourCc("uuid"), fourCc("meta"), fourCc("moof"), fourCc("mfra"),
        fourCc("sidx"), fourCc("ssix"), fourCc("styp"), fourCc("emsg"), fourCc("prft"),
        fourCc("pdin"), fourCc("pnot"), fourCc("udta"), fourCc("PICT"), fourCc("bloc")};
    return std::find(known.begin(), known.end(), type) != known.end();
}

// Still pictures and raw photos share the container; they are formats of their own.
bool isPictureBrand(std::uint32_t brand) {
    constexpr std::array<std::uint32_t, 12> pictures{
        fourCc("heic"), fourCc("heix"), fourCc("heim"), fourCc("heis"), fourCc("hevc"), fourCc("hevx"),
        fourCc("mif1"), fourCc("msf1"), fourCc("avif"), fourCc("avis"), fourCc("crx "), fourCc("jxl ")};
    return std::find(pictures.begin(), pictures.end(), brand) != pictures.end();
}

bool printable(std::uint32_t type) {
    for (int shift = 24; shift >= 0; shift -= 8) {
        const auto byte = type >> shift & 0xff;
        if (byte < 0x20 || byte > 0x7e) return false;
    }
    return true;
}

class IsoMeasure : public Measure {
  public:
    std::optional<Want> want() const override {
        switch (phase_) {
            case Phase::Header: return Want{position_, kHeadLength};
            case Phase::Index: return Want{position_, static_cast<std::size_t>(indexSize_)};
            case Phase::Over: break;
        }
        return std::nullopt;
    }
    void give(Bytes bytes) override {
        if (phase_ == Phase::Header) {
            header(bytes);
        } else {
            index(bytes);
        }
    }
    Measured finish() override;

  private:
    enum class Phase { Header, Index, Over };

    void header(Bytes bytes);
    void index(Bytes bytes);
    void advance(std::uint64_t size) {
        const auto next = checkedAdd(position_, size);
        if (!next || ++boxes_ > limits::kMostTopLevelBoxes) {
            phase_ = Phase::Over;
            return;
        }
        position_ = *next;
        phase_ = Phase::Header;
    }
    // Boxes of the camera's own are passed over when one that is known stands behind them.
    void passOver(const BoxHeader& box) {
        if (!unknownFrom_) unknownFrom_ = position_;
        advance(box.size);
    }
    void end() {
        position_ = unknownFrom_.value_or(position_);
        phase_ = Phase::Over;
    }
    std::string shortName() const;
    std::string whyIndexDoesNotFit() const;

    Phase phase_ = Phase::Header;
    std::uint64_t position_ = 0;  // everything before it is walked
    std::uint64_t indexSize_ = 0;
    int boxes_ = 0;
    std::uint32_t brand_ = 0;
    std::optional<Movie> movie_;
    bool damagedIndex_ = false, startsAsIndex_ = false;
    bool endless_ = false;
    bool fragments_ = false;
    RangeSet data_, padding_;
    std::optional<std::uint64_t> unknownFrom_;
};

void IsoMeasure::header(Bytes bytes) {
    const auto box = readBoxHeader(bytes);
    if (!box || !printable(box->type)) return end();
    if (!isTopLevel(box->type)) return box->size == 0 || box->size > kLargestUnknown ? end() : passOver(*box);
    if (box->type == fourCc("ftyp")) {
        // A second one is where the next file begins.
        if (position_ != 0 || box->size < 16 || box->size > 4096) return end();
        ByteReader reader(bytes.subspan(8));
        brand_ = reader.u32();
    }
    if (box->size == 0) {
        // "To the end of the file" says nothing on a card.
        endless_ = box->type == fourCc("mdat");
        if (endless_) unknownFrom_.reset();
        return end();
    }
    if (box->type == fourCc("moov")) {
        if (movie_ || box->size > limits::kLargestIndex) return end();
        const auto child = readBoxHeader(slice(bytes, box->headerSize, kHeadLength));
        if (!child || child->size > box->size || !printable(child->type)) return end();
        startsAsIndex_ = child->type == fourCc("mvhd");
        unknownFrom_.reset();
        indexSize_ = box->size;
        phase_ = Phase::Index;
        return;
    }
    unknownFrom_.reset();
    if (box->type == fourCc("free") || box->type == fourCc("skip"))
        padding_.add({position_ + box->headerSize, box->size - box->headerSize});
    if (box->type == fourCc("moof")) fragments_ = true;
    if (box->type == fourCc("mdat")) data_.add({position_ + box->headerSize, box->size - box->headerSize});
    advance(box->size);
}

void IsoMeasure::index(Bytes bytes) {
    if (bytes.size() < indexSize_) {
        damagedIndex_ = true;
        phase_ = Phase::Over;
        return;
    }
    const auto box = readBoxHeader(bytes);
    movie_ = readMovie(bytes.subspan(box->headerSize));
    if (!movie_) {
        damagedIndex_ = true;
        phase_ = Phase::Over;
        return;
    }
    advance(indexSize_);
}

std::string IsoMeasure::shortName() const {
    const auto family = brand_ >> 8;
    const bool sees =
        movie_ && std::any_of(movie_->tracks.begin(), movie_->tracks.end(),
                              [](const Track& track) { return track.kind == TrackKind::Video; });
    const bool hears =
        movie_ && std::any_of(movie_->tracks.begin(), movie_->tracks.end(),
                              [](const Track& track) { return track.kind == TrackKind::Audio; });
    if (brand_ == fourCc("M4A ") || brand_ == fourCc("M4B ")) return "m4a";
    if (family == (fourCc("3gp ") >> 8) || family == (fourCc("3g2 ") >> 8)) return "3gp";
    if (brand_ == fourCc("M4V ")) return "m4v";
    if (brand_ == 0 || brand_ == fourCc("qt  ")) return "mov";
    return hears && !sees ? "m4a" : "mp4";
}

std::string IsoMeasure::whyIndexDoesNotFit() const {
    for (const auto& track : movie_->tracks) {
        for (const auto& chunk : track.chunks) {
            if (!checkedAdd(chunk.offset, chunk.length) || !data_.covers(chunk)) {
                return "the index points outside of the clip's data";
            }
        }
    }
    return {};
}

Measured IsoMeasure::finish() {
    Measured result;
    result.format = shortName();
    result.kind = result.format == "m4a" ? Kind::Audio : Kind::Video;
    result.length = result.proven = position_;
    const bool hasData = !data_.empty() || endless_;
    if (!movie_) {
        // Media data of a stated length with no index behind it, or an index in front that soon becomes
        // something else: cut off, or in pieces.
        result.accepted =
            brand_ != 0 && (hasData || (damagedIndex_ && startsAsIndex_)) && !isPictureBrand(brand_);
        result.condition = Condition::Broken;
        result.why = damagedIndex_ ? "its index is damaged" : "its index is not where its data end";
        if (endless_)
            result.why =
                "the recording was never closed: it has no index; a good clip of the same camera, lent, may "
                "help";
        const auto data = data_.ranges();
        result.proven = data.empty() ? position_ : data.front().offset;
        result.mediaData = data;
        return result;
    }
    // An index with no data belongs to a clip elsewhere, unless that begins in front of it.
    result.accepted = hasData || (brand_ != 0 && !isPictureBrand(brand_));
    if (!result.accepted) return result;
    auto& about = result.description;
    about.duration = movie_->duration > 0 ? std::optional(movie_->duration) : std::nullopt;
    about.taken = movie_->created;
    about.camera = movie_->camera;
    about.position = movie_->position;
    for (const auto& track : movie_->tracks) {
        if (track.kind == TrackKind::Other) continue;
        if (track.kind == TrackKind::Video && !about.width && track.width > 0) {
            about.width = track.width;
            about.height = track.height;
            about.orientation = track.orientation;
            if (track.duration > 0 && track.samples > 0) {
                about.frameRate = static_cast<double>(track.samples) / track.duration;
            }
        }
        const auto name = codecName(track.codec);
        if (name == "Motion JPEG") result.holdsPhotos = true;
        if (about.codec.find(name) == std::string::npos)
            about.codec += (about.codec.empty() ? "" : ", ") + name;
    }
    if (auto further = furtherTracks(*movie_); !further.empty())
        result.notes.push_back("it also holds " + further);
    RangeSet media;
    for (const auto& track : movie_->tracks) {
        for (const auto& chunk : track.chunks) media.add(chunk);
    }
    result.padding = padding_.ranges();
    result.mediaData = fragments_ ? data_.ranges() : media.ranges();
    if (result.mediaData.size() > limits::kMostMediaRanges) result.mediaData = data_.ranges();
    result.why = whyIndexDoesNotFit();
    if (!result.why.empty()) {
        result.condition = Condition::Broken;
        if (!data_.ranges().empty()) result.proven = std::min(result.proven, data_.ranges().front().offset);
    }
    result.needsDecoder = true;
    return result;
}

}  // namespace

bool IsoFormat::matches(Bytes head) const {
    const auto box = readBoxHeader(head);
    if (!box || box->size == 0) return false;
    if (box->type == fourCc("ftyp")) {
        if (box->size < 16 || box->size > 4096 || box->size % 4 != 0) return false;
        const auto brand = ByteReader(head.subspan(8)).u32();
        return printable(brand) && !isPictureBrand(brand);
    }
    // QuickTime files of older cameras begin with any of these, and have no ftyp.
    if (box->type == fourCc("moov")) {
        const auto child = readBoxHeader(slice(head, box->headerSize, head.size()));
        return child && (child->type == fourCc("mvhd") || child->type == fourCc("cmov"));
    }
    if (box->type == fourCc("wide")) return box->size == 8;
    if (box->type == fourCc("pnot")) return box->size == 20;
    if (box->type == fourCc("skip") || box->type == fourCc("free")) return box->size < (1U << 20);
    return box->type == fourCc("mdat");
}

std::unique_ptr<Measure> IsoFormat::measure() const {
    return std::make_unique<IsoMeasure>();
}

}  // namespace dreskel::isobmff
