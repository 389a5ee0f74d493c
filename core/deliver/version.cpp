#include "deliver/version.h"

#include <algorithm>
#include <cmath>

#include "base/bytes.h"
#include "base/limits.h"
#include "formats/jpeg/stream_decoder.h"
#include "formats/registry.h"
#include "job/rows.h"
#include "media/thumbnail.h"
#include "rebuild/playing_avi.h"
#include "rebuild/playing_clip.h"
#include "rebuild/playing_matroska.h"
#include "rebuild/playing_wav.h"

namespace dreskel {
namespace {

constexpr int kMostTries = 4;

std::string lengthText(double seconds) {
    const auto all = static_cast<long>(std::lround(seconds));
    return std::to_string(all / 60) + " min " + std::to_string(all % 60) + " s";
}

// As far as the coded data of a sequential JPEG really go; what is known of the file is in round numbers.
std::optional<double> sharedDecoded(CardView& card, const Finding& finding) {
    PieceReader reader(card, finding.pieces);
    if (finding.format != "jpeg" || reader.size() > limits::kLargestPhoto) return std::nullopt;
    jpeg::StreamDecoder decoder;
    std::vector<std::uint8_t> portion(1 << 20);
    for (std::uint64_t at = 0; at < reader.size() && decoder.state() == jpeg::StreamDecoder::State::Hungry;) {
        const auto got = reader.read(at, portion);
        if (got == 0) break;
        at += got;
        decoder.feed(Bytes(portion).first(got), at >= reader.size());
    }
    return decoder.hasFrame() ? std::optional(decoder.decodedShare()) : std::nullopt;
}

// Plainly no part of the picture: stripes across a grey that no camera makes.
void markRest(Picture& picture, Rows there) {
    const auto from = static_cast<std::uint32_t>(std::floor(there.from * picture.height));
    const auto to = static_cast<std::uint32_t>(std::ceil(there.to * picture.height));
    const std::uint32_t step = std::max(24U, picture.width / 60);
    for (std::uint32_t y = 0; y < picture.height; ++y) {
        if (y >= from && y < to) continue;
        for (std::uint32_t x = 0; x < picture.width; ++x) {
            const bool stripe = (x + y) % step < step / 8;
            const std::uint8_t grey = y == to || y + 1 == from ? 255 : stripe ? 150 : 70;
            const auto at = (std::size_t{y} * picture.width + x) * 3;
            std::fill_n(picture.rgb.begin() + static_cast<std::ptrdiff_t>(at), 3, grey);
        }
    }
}

// The APP1 segment of an Exif file (CIPA DC-008, 4.7.2) that a JPEG begins with, markers included; or one
// that holds nothing but how the picture is turned.
std::vector<std::uint8_t> exifOf(CardView& card, const Finding& finding) {
    PieceReader reader(card, finding.pieces);
    std::vector<std::uint8_t> head(128 << 10);
    head.resize(reader.read(0, head));
    std::size_t at = 2;
    while (head.size() > at + 10 && head[0] == 0xff && head[1] == 0xd8 && head[at] == 0xff &&
           head[at + 1] >= 0xe0 && head[at + 1] <= 0xef) {
        const auto length = (std::size_t{head[at + 2]} << 8 | head[at + 3]) + 2;
        const std::string_view name(reinterpret_cast<const char*>(head.data()) + at + 4, 4);
        if (head[at + 1] == 0xe1 && name == "Exif" && at + length <= head.size())
            return {head.begin() + static_cast<std::ptrdiff_t>(at),
                    head.begin() + static_cast<std::ptrdiff_t>(at + length)};
        at += length;
    }
    if (finding.description.orientation == 1) return {};
    return {
        0xff, 0xe1, 0, 34, 'E', 'x', 'i', 'f', 0, 0,
        'M',  'M',  0, 42, 0,   0,   0,   8,   0, 1,
        0x01, 0x12, 0, 3,  0,   0,   0,   1,   0, static_cast<std::uint8_t>(finding.description.orientation),
        0,    0,    0, 0,  0,   0};
}

bool isMatroska(const Finding& finding) {
    const auto* format = formatFor(finding.format);
    return format != nullptr && format->name() == "matroska";
}

Version asVersion(rebuild::PlayingClip playing, std::uint64_t errors) {
    Version version;
    version.called = "what plays";
    version.pieces = std::move(playing.pieces);
    version.made = std::to_string(playing.pictures) + " pictures of " + lengthText(playing.length) +
                   " play, " + std::to_string(playing.leftOut) +
                   " were left out; the picture stands still for " + lengthText(playing.gaps) + " of it";
    if (errors > 0) version.made += "; " + std::to_string(errors) + " of them may look wrong";
    return version;
}

}  // namespace

bool VersionMaker::fits(const Finding& finding) {
    if (finding.condition != Condition::Partial) return false;
    if (finding.kind == Kind::Photo) return finding.decoded > 0;
    if (finding.format == "wav") return true;
    const auto* format = formatFor(finding.format);
    return finding.kind == Kind::Video && format != nullptr &&
           (format->name() == "isobmff" || format->name() == "avi" || format->name() == "matroska");
}

Result<std::optional<Version>> VersionMaker::of(const Finding& finding, Control& control) {
    if (finding.format == "wav") return ofWav(finding);
    auto version = finding.kind == Kind::Photo ? ofPhoto(finding, control)
                   : finding.format == "avi"   ? ofAvi(finding)
                   : isMatroska(finding)       ? ofMatroska(finding, control)
                                               : ofClip(finding, control);
    if (!version) return version.error();
    return std::optional(std::move(version.value()));
}

Result<Version> VersionMaker::ofPhoto(const Finding& finding, Control& control) {
    auto picture = decoder_.photo(finding.pieces, finding.format, 0, &control);
    if (!picture) return picture.error();
    auto there = rowsThere(finding);
    // What others took of its bytes was reckoned with in round numbers; the data themselves say it to the
    // row.
    if (there.from == 0 && there.to < 1) {
        if (const auto share = sharedDecoded(card_, finding))
            there.to = std::min(*share, finding.evidence.decoded);
    }
    markRest(picture.value(), there);
    auto bytes = media::encodePicture(picture.value());
    if (bytes.size() < 2)
        return Error{Fault::Failed, "No picture of it could be written", "", "Save the file as it is"};
    const auto exif = exifOf(card_, finding);
    bytes.insert(bytes.begin() + 2, exif.begin(), exif.end());
    Version version;
    version.called = "what is left";
    version.extension = ".jpg";
    version.made = "decoded and written again as a JPEG of " + std::to_string(picture.value().width) +
                   " by " + std::to_string(picture.value().height);
    const auto lost = std::lround((1 - (there.to - there.from)) * 100);
    if (lost > 0) version.made += "; " + std::to_string(lost) + " % of its rows are lost and striped";
    version.pieces = {madePiece(std::move(bytes), version.made)};
    return version;
}

Result<Version> VersionMaker::ofAvi(const Finding& finding) {
    auto playing = rebuild::makePlayingAvi(card_, finding.pieces);
    if (!playing) return playing.error();
    Version version;
    version.called = "what plays";
    version.pieces = std::move(playing.value().pieces);
    version.made = "an index of the " + std::to_string(playing.value().pictures) +
                   " pictures that are there, and true lengths";
    if (playing.value().passedOver > 0)
        version.made += "; " + std::to_string(playing.value().passedOver) +
                        " bytes are passed over, from where on sound may be ahead of the picture";
    return version;
}

Result<std::optional<Version>> VersionMaker::ofWav(const Finding& finding) {
    auto pieces = rebuild::makePlayingWav(card_, finding.pieces);
    if (!pieces) return pieces.error();
    if (pieces.value().empty()) return std::optional<Version>();
    return std::optional(
        Version{std::move(pieces.value()), "what plays", "", "its lengths were written anew"});
}

// What the first index leaves out is judged again: a picture that builds on a lost one may come to light only
// then.
Result<Version> VersionMaker::ofClip(const Finding& finding, Control& control) {
    auto report = decoder_.check(finding.pieces, finding.format, &control);
    if (!report) return report.error();
    RangeSet damaged;
    rebuild::PlayingClip playing;
    std::uint64_t errors = 0;
    for (int i = 0; i < kMostTries; ++i) {
        for (const auto& fault : report.value().faults) damaged.add(fault);
        auto made = rebuild::makePlayingClip(card_, finding.pieces, damaged);
        if (!made) return made.error();
        playing = std::move(made.value());
        report = decoder_.check(playing.pieces, finding.format, &control);
        if (!report) return report.error();
        errors = report.value().errors;
        if (errors == 0 || report.value().faults.empty()) break;
    }
    return asVersion(std::move(playing), errors);
}

Result<Version> VersionMaker::ofMatroska(const Finding& finding, Control& control) {
    auto playing = rebuild::makePlayingMatroska(card_, finding.pieces, control);
    if (!playing) return playing.error();
    const auto report = decoder_.check(playing.value().pieces, finding.format, &control);
    if (!report) return report.error();
    return asVersion(std::move(playing.value()), report.value().errors);
}

}  // namespace dreskel
