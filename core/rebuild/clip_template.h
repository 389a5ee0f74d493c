// A good clip as a template for one that lost its index: what its recorder's index looks like (ISO/IEC
// 14496-12), from which a new one can be written for other samples of the same settings.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "formats/clip/picture_order.h"
#include "formats/isobmff/sample_table.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

struct TemplateTrack {
    isobmff::TrackKind kind = isobmff::TrackKind::Other;
    isobmff::SampleTrack::Coding coding = isobmff::SampleTrack::Coding::Other;
    isobmff::SoundCoding sound = isobmff::SoundCoding::Other;
    unsigned lengthBytes = 4;  // of a NAL unit's length
    PictureOrder order{PictureCoding::Avc};
    // AudioSpecificConfig of AAC; of pictures that can be followed, avcC or hvcC.
    std::vector<std::uint8_t> settings;
    std::uint32_t frameBytes = 0;            // of PCM: one sample of every channel
    std::uint32_t statedSize = 0;            // of PCM: what the template's table gives as a sample's size
    std::uint32_t timescale = 0, delta = 0;  // units a second; units a sample, as most samples have it
    bool steady = true;                      // all samples last as long
    std::vector<std::uint8_t> description;   // the inside of the stsd box: the coding and its settings
    std::vector<std::uint64_t> chunkSizes;   // bytes, the most frequent first; a few
    bool isPlain() const { return sound == isobmff::SoundCoding::Plain; }
    // Whether it is sound whose samples can be found again.
    bool sounds() const { return isPlain() || sound == isobmff::SoundCoding::Aac; }
    bool rebuildable() const { return coding != isobmff::SampleTrack::Coding::Other || sounds(); }
};

struct ClipTemplate {
    std::string name;  // of the clip, for the reader
    std::uint32_t timescale = 0;
    std::vector<std::uint8_t> movie;    // the inside of the moov box
    std::vector<TemplateTrack> tracks;  // in the order of the index; those that cannot be rebuilt too
};

// The same for two that lend the same.
std::string settingsOf(const ClipTemplate& like);

// `movie`: the inside of a moov box. Nothing when it has no picture that could be found again.
std::optional<ClipTemplate> readTemplate(Bytes movie, std::string name);

// The same from a clip that lies whole in these pieces.
std::optional<ClipTemplate> readTemplate(CardView& card, const std::vector<Piece>& clip, std::string name);

}  // namespace dreskel::rebuild
