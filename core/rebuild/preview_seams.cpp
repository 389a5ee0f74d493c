#include "rebuild/preview_seams.h"

#include <algorithm>

namespace dreskel::rebuild {
namespace {

using jpeg::Seam;

constexpr std::size_t kPreviewPortion = 256 * 1024;
constexpr std::uint64_t kLargestPreview = 64 << 20;  // bytes

Seam worseOf(Seam a, Seam b) {
    const auto badness = [](Seam seam) { return seam == Seam::DoesNotFit ? 2 : seam == Seam::Fits ? 0 : 1; };
    return badness(a) < badness(b) ? b : a;
}

// `joins`: bytes of the file.
Seam seamsOf(PieceReader& file, const ByteRange& preview, const std::vector<std::uint64_t>& joins) {
    jpeg::DcPlanes planes;
    planes.phase = preview.offset % jpeg::DcPlanes::kMarkStep;
    jpeg::StreamDecoder decoder(&planes);
    std::vector<std::uint8_t> buffer;
    using State = jpeg::StreamDecoder::State;
    for (auto at = preview.offset; at < preview.end() && decoder.state() == State::Hungry;) {
        buffer.resize(static_cast<std::size_t>(std::min<std::uint64_t>(kPreviewPortion, preview.end() - at)));
        const auto got = file.read(at, buffer);
        at += got;
        decoder.feed(Bytes(buffer).first(got), got == 0 || at == preview.end());
        if (got == 0) break;
    }
    auto worst = Seam::Fits;
    for (const auto join : joins) {
        // What the header consists of is told by itself.
        if (!decoder.hasFrame() || join - preview.offset <= decoder.codedDataAt()) continue;
        const auto look = jpeg::lookAtSeam(decoder.frame(), planes, decoder.codedDataAt(),
                                           join - preview.offset, decoder.state() == State::Ended);
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
    PieceReader file(card, places);
    auto worst = Seam::Fits;
    for (const auto& preview : previews) {
        std::vector<std::uint64_t> within;
        std::copy_if(joins.begin(), joins.end(), std::back_inserter(within),
                     [&](std::uint64_t join) { return join > preview.offset && join < preview.end(); });
        if (!within.empty() && preview.length <= kLargestPreview)
            worst = worseOf(worst, seamsOf(file, preview, within));
    }
    return worst;
}

}  // namespace dreskel::rebuild
