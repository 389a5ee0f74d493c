#include "rebuild/preview_seams.h"

#include <algorithm>
#include <iterator>
#include <memory>

#include "formats/jpeg/dc_picture.h"
#include "formats/jpeg/small_picture.h"
#include "rebuild/thumbnail_witness.h"

namespace dreskel::rebuild {
namespace {

using jpeg::Seam;

constexpr std::size_t kPreviewPortion = 256 * 1024;
constexpr std::uint64_t kLargestPreview = 64 << 20, kLargestSmall = 256 << 10;  // bytes

Seam worseOf(Seam a, Seam b) {
    const auto badness = [](Seam seam) { return seam == Seam::DoesNotFit ? 2 : seam == Seam::Fits ? 0 : 1; };
    return badness(a) < badness(b) ? b : a;
}

struct Decoded {
    jpeg::DcPlanes planes;
    jpeg::StreamDecoder decoder{&planes};
    bool ended() const { return decoder.state() == jpeg::StreamDecoder::State::Ended; }
};

std::unique_ptr<Decoded> decode(PieceReader& file, const ByteRange& preview) {
    auto decoded = std::make_unique<Decoded>();
    decoded->planes.phase = preview.offset % jpeg::DcPlanes::kMarkStep;
    std::vector<std::uint8_t> buffer;
    using State = jpeg::StreamDecoder::State;
    for (auto at = preview.offset; at < preview.end() && decoded->decoder.state() == State::Hungry;) {
        buffer.resize(static_cast<std::size_t>(std::min<std::uint64_t>(kPreviewPortion, preview.end() - at)));
        const auto got = file.read(at, buffer);
        at += got;
        decoded->decoder.feed(Bytes(buffer).first(got), got == 0 || at == preview.end());
        if (got == 0) break;
    }
    return decoded;
}

// A preview in one piece as a small picture of the same.
std::optional<Grey> smallOf(PieceReader& file, const ByteRange& preview) {
    if (preview.length <= kLargestSmall) {
        std::vector<std::uint8_t> bytes(preview.length);
        bytes.resize(file.read(preview.offset, bytes));
        if (auto small = jpeg::decodeSmall(bytes)) return small;
    }
    const auto decoded = decode(file, preview);
    if (!decoded->ended()) return std::nullopt;
    const auto picture = jpeg::pictureOf(decoded->decoder.frame(), decoded->planes, jpeg::kSmallSide, false);
    return picture ? std::optional(greyOf(*picture)) : std::nullopt;
}

// `joins`: bytes of the file. `others`: previews in one piece, which show the same.
Seam seamsOf(PieceReader& file, const ByteRange& preview, const std::vector<std::uint64_t>& joins,
             const std::vector<ByteRange>& others) {
    const auto decoded = decode(file, preview);
    const auto& [planes, decoder] = *decoded;
    if (!decoder.hasFrame()) return Seam::Fits;
    const auto& frame = decoder.frame();
    ThumbnailWitness witness;
    for (const auto& other : others) {
        const auto small = witness.isThere() ? std::nullopt : smallOf(file, other);
        if (small) witness = ThumbnailWitness(std::make_shared<jpeg::OwnThumbnail>(*small, frame));
    }
    const auto mcuAt = [&](std::size_t join) {
        const auto all = std::uint64_t{frame.mcusWide} * frame.mcusHigh;
        return join < joins.size()
                   ? planes.mcuAt(decoder.codedDataAt(), joins[join] - preview.offset).value_or(all)
                   : all;
    };
    auto worst = Seam::Fits;
    for (std::size_t i = 0; i < joins.size(); ++i) {
        // What the header consists of is told by itself.
        const auto join = joins[i] - preview.offset;
        if (join <= decoder.codedDataAt()) continue;
        witness.learn(planes, mcuAt(i));
        const auto says = witness.of(planes, mcuAt(i), mcuAt(i + 1));
        if (says == ThumbnailWitness::Says::Otherwise) return Seam::DoesNotFit;
        const bool alike = says == ThumbnailWitness::Says::Alike;
        const auto look = jpeg::lookAtSeam(frame, planes, decoder.codedDataAt(), join, decoded->ended());
        // Rows that do not fit may be its own edge; that the rest is like it does not make them fit.
        if (alike && (look.seam != Seam::DoesNotFit || witness.showsEdge(mcuAt(i)))) continue;
        const bool nothingTold = look.seam != Seam::Fits && look.seam != Seam::DoesNotFit && look.rows == 0;
        if (!nothingTold) worst = worseOf(worst, look.seam);
    }
    return worst;
}

}  // namespace

Seam seamsOfPreviews(CardView& card, const std::vector<ByteRange>& places,
                     const std::vector<ByteRange>& previews) {
    std::vector<std::uint64_t> joins;
    std::uint64_t at = 0;
    for (const auto& place : places) {
        if (at > 0) joins.push_back(at);
        at += place.length;
    }
    const auto within = [&](const ByteRange& preview) {
        std::vector<std::uint64_t> inside;
        std::copy_if(joins.begin(), joins.end(), std::back_inserter(inside),
                     [&](std::uint64_t join) { return join > preview.offset && join < preview.end(); });
        return inside;
    };
    std::vector<ByteRange> inOnePiece;
    for (const auto& preview : previews) {
        if (preview.length <= kLargestPreview && within(preview).empty()) inOnePiece.push_back(preview);
    }
    // The smallest that is there tells enough.
    std::sort(inOnePiece.begin(), inOnePiece.end(),
              [](const ByteRange& a, const ByteRange& b) { return a.length < b.length; });
    PieceReader file(card, places);
    auto worst = Seam::Fits;
    for (const auto& preview : previews) {
        const auto inside = within(preview);
        if (!inside.empty() && preview.length <= kLargestPreview)
            worst = worseOf(worst, seamsOf(file, preview, inside, inOnePiece));
    }
    return worst;
}

}  // namespace dreskel::rebuild
