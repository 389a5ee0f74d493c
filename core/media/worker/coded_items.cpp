#include "media/worker/coded_items.h"

#include "formats/isobmff/boxes.h"
#include "formats/isobmff/item_check.h"
#include "media/worker/av_input.h"
#include "media/worker/strict_av1.h"

namespace dreskel::media {
namespace {

using isobmff::Item;
using isobmff::ItemFault;

constexpr std::size_t kManyTiles = 4;

std::optional<ItemFault> faultIn(const Item& item, Bytes bytes) {
    if (item.coding != Item::Coding::Av1) return isobmff::faultOf(item, bytes);
    auto why = complaintAboutAv1(bytes);
    return why.empty() ? std::nullopt : std::optional(ItemFault{0, std::move(why)});
}

std::uint64_t inFile(const Item& item, std::uint64_t byte) {
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
    std::size_t faults = 0, pictures = 0;
    for (const auto& item : index->items) {
        std::vector<std::uint8_t> bytes;
        for (const auto& extent : item.extents) {
            const auto part = slice(file, extent.offset, extent.length);
            bytes.insert(bytes.end(), part.begin(), part.end());
        }
        auto fault = faultIn(item, bytes);
        if (item.coded()) ++pictures;
        if (!fault) continue;
        if (item.coded()) ++faults;
        fault->byte = inFile(item, fault->byte);
        if (!first || fault->byte < first->byte) first = std::move(fault);
    }
    // Where not one of many tiles can be followed, it is the encoder that is not understood; the decoder
    // judges.
    return faults >= kManyTiles && faults == pictures ? std::nullopt : first;
}

}  // namespace dreskel::media
