#include "media/worker/coded_items.h"

#include "formats/hevc/stream_check.h"
#include "formats/isobmff/boxes.h"
#include "formats/isobmff/item_index.h"
#include "media/worker/av_input.h"
#include "media/worker/strict_av1.h"

namespace dreskel::media {
namespace {

using isobmff::CodedItem;

constexpr std::size_t kManyTiles = 4;

// `byte` is of the item.
std::optional<ItemFault> faultOf(const CodedItem& item, Bytes coded) {
    if (item.coding == CodedItem::Coding::Av1) {
        auto why = complaintAboutAv1(coded);
        return why.empty() ? std::nullopt : std::optional(ItemFault{0, std::move(why)});
    }
    if (item.lengthBytes() == 0) return std::nullopt;
    hevc::StreamCheck stream(item.settings);
    const auto fault = stream.sample(coded, item.lengthBytes());
    return fault ? std::optional(ItemFault{fault->byte, fault->why}) : std::nullopt;
}

std::uint64_t inFile(const CodedItem& item, std::uint64_t byte) {
    auto extent = item.extents.begin();
    while (extent != item.extents.end() && extent + 1 != item.extents.end() && byte >= extent->length)
        byte -= (extent++)->length;
    return extent != item.extents.end() ? byte + extent->offset : byte;
}

}  // namespace

std::optional<ItemFault> faultOfItems(Bytes file) {
    isobmff::BoxWalk walk(file);
    std::optional<isobmff::ItemIndex> index;
    while (const auto box = walk.next()) {
        if (box->type == isobmff::fourCc("meta") && !index) index = isobmff::readItemIndex(box->body);
    }
    if (!index) return ItemFault{0, "it has no index"};
    std::optional<ItemFault> first;
    std::size_t faults = 0;
    for (const auto& item : index->coded) {
        std::vector<std::uint8_t> coded;
        for (const auto& extent : item.extents) {
            const auto part = slice(file, extent.offset, extent.length);
            coded.insert(coded.end(), part.begin(), part.end());
        }
        auto fault = faultOf(item, coded);
        if (!fault) continue;
        ++faults;
        fault->byte = inFile(item, fault->byte);
        if (!first || fault->byte < first->byte) first = std::move(fault);
    }
    // Where not one of many tiles can be followed, it is the encoder that is not understood; the decoder
    // judges.
    return faults >= kManyTiles && faults == index->coded.size() ? std::nullopt : first;
}

}  // namespace dreskel::media
