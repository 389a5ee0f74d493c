#include "formats/isobmff/item_check.h"

#include <algorithm>

#include "formats/clip/picture_check.h"
#include "formats/jpeg/stream_decoder.h"

namespace dreskel::isobmff {
namespace {

std::optional<ItemFault> faultOfTile(const Item& item, Bytes bytes) {
    if (item.lengthBytes() == 0) return std::nullopt;
    const auto fault = pictureCheck(PictureCoding::Hevc, item.settings)->sample(bytes, item.lengthBytes());
    return fault ? std::optional(ItemFault{fault->byte, fault->why}) : std::nullopt;
}

std::optional<ItemFault> faultOfJpeg(Bytes bytes) {
    jpeg::StreamDecoder decoder;
    if (decoder.feed(bytes, true) == jpeg::StreamDecoder::State::Ended) return std::nullopt;
    return ItemFault{decoder.offset(), decoder.breakPoint().why};
}

// A TIFF block, behind its distance (ISO/IEC 23008-12, A.2.1) or whatever else a writer puts there.
std::optional<ItemFault> faultOfExif(Bytes bytes) {
    constexpr std::size_t kMostInFront = 32;
    for (std::size_t at = 0; at < kMostInFront && at < bytes.size(); ++at) {
        const auto block = bytes.subspan(at);
        if (startsWith(block, {"II*\0", 4}) || startsWith(block, {"MM\0*", 4})) return std::nullopt;
    }
    return ItemFault{0, "no facts stand where its index says"};
}

// XMP names itself at its beginning and, in a packet, says where it ends (ISO 16684-1, 7.3); XML in UTF-8
// holds no control characters but three (XML 1.0, 2.2).
std::optional<ItemFault> faultOfNotes(Bytes bytes) {
    constexpr std::size_t kFront = 512, kEnd = 64, kMostZeros = 16;
    for (std::size_t i = 0; i < kMostZeros && !bytes.empty() && bytes.back() == 0; ++i)
        bytes = bytes.first(bytes.size() - 1);
    const std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    const auto front = text.substr(0, kFront);
    if (front.find("xmpmeta") == front.npos && front.find("rdf:RDF") == front.npos)
        return ItemFault{0, "no notes stand where its index says"};
    const auto odd = std::find_if(text.begin(), text.end(), [](char c) {
        return static_cast<unsigned char>(c) < 0x20 && c != '\t' && c != '\n' && c != '\r';
    });
    if (odd != text.end())
        return ItemFault{static_cast<std::uint64_t>(odd - text.begin()), "its notes hold what no text does"};
    const auto end = text.substr(text.size() - std::min(text.size(), kEnd));
    if (front.find("<?xpacket begin") != front.npos && end.find("<?xpacket end") == end.npos)
        return ItemFault{text.size(), "its notes do not end"};
    return std::nullopt;
}

}  // namespace

std::optional<ItemFault> faultOf(const Item& item, Bytes bytes) {
    switch (item.coding) {
        case Item::Coding::Hevc: return faultOfTile(item, bytes);
        case Item::Coding::Jpeg: return faultOfJpeg(bytes);
        case Item::Coding::Exif: return faultOfExif(bytes);
        case Item::Coding::Notes: return faultOfNotes(bytes);
        case Item::Coding::Av1: break;
    }
    return std::nullopt;
}

}  // namespace dreskel::isobmff
