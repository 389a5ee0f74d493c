#include "formats/isobmff/item_index.h"

#include <algorithm>
#include <map>
#include <optional>

#include "formats/isobmff/boxes.h"

namespace dreskel::isobmff {
namespace {

constexpr std::size_t kMostItems = 20000;
constexpr std::size_t kMostExtents = 100000;

struct Items {
    std::uint32_t exif = 0;  // the number of the item of that type; 0: none
    std::vector<std::pair<std::uint32_t, Item::Coding>> known;
};

// Behind the type stands a name, and of a "mime" item what it is, both ended by a zero (ISO/IEC
// 14496-12, 8.11.6).
std::optional<Item::Coding> codingOf(Bytes type, Bytes behind) {
    if (startsWith(type, "hvc1")) return Item::Coding::Hevc;
    if (startsWith(type, "av01")) return Item::Coding::Av1;
    if (startsWith(type, "jpeg")) return Item::Coding::Jpeg;
    if (startsWith(type, "Exif")) return Item::Coding::Exif;
    const auto name = std::find(behind.begin(), behind.end(), std::uint8_t{0});
    const auto mime = slice(behind, static_cast<std::uint64_t>(name - behind.begin()) + 1, behind.size());
    if (startsWith(type, "mime") && startsWith(mime, "application/rdf+xml")) return Item::Coding::Notes;
    return std::nullopt;
}

Items readInfos(Bytes infos) {
    Items items;
    ByteReader head(infos);
    const auto version = head.u8();
    head.skip(3 + (version == 0 ? 2 : 4));
    BoxWalk walk(slice(infos, head.position(), infos.size()));
    while (const auto box = walk.next()) {
        ByteReader reader(box->body);
        const auto entry = reader.u8();
        reader.skip(3);
        const auto id = entry == 3 ? reader.u32() : reader.u16();
        reader.skip(2);
        const auto type = reader.take(4);
        if (entry < 2) continue;
        if (startsWith(type, "Exif")) items.exif = id;
        const auto coding = codingOf(type, reader.take(reader.left()));
        if (coding && items.known.size() < kMostItems) items.known.emplace_back(id, *coding);
    }
    return items;
}

std::uint64_t sized(ByteReader& reader, unsigned bytes) {
    return bytes == 8 ? reader.u64() : bytes == 4 ? reader.u32() : 0;
}

using Places = std::map<std::uint32_t, std::vector<ByteRange>>;  // by item

void readLocations(Bytes body, std::uint32_t exif, ItemIndex& into, Places& places) {
    ByteReader reader(body);
    const auto version = reader.u8();
    reader.skip(3);
    const auto sizes = reader.u16();
    const unsigned offsetSize = sizes >> 12, lengthSize = sizes >> 8 & 15U, baseSize = sizes >> 4 & 15U;
    const unsigned indexSize = version > 0 ? sizes & 15U : 0;
    const auto count = version < 2 ? reader.u16() : reader.u32();
    for (std::size_t item = 0; item < count && item < kMostItems && reader.ok(); ++item) {
        const auto id = version < 2 ? reader.u16() : reader.u32();
        const unsigned method = version > 0 ? reader.u16() & 15U : 0;
        reader.skip(2);
        const auto base = sized(reader, baseSize);
        const auto extents = reader.u16();
        for (unsigned i = 0; i < extents && reader.ok(); ++i) {
            sized(reader, indexSize);
            const auto at = checkedAdd(base, sized(reader, offsetSize));
            const auto length = sized(reader, lengthSize);
            if (!reader.ok() || !at || method != 0 || into.extents.size() >= kMostExtents) continue;
            into.extents.push_back({*at, length});
            if (id == exif) into.exif.push_back({*at, length});
            places[id].push_back({*at, length});
        }
    }
}

void readProperties(Bytes body, ItemIndex& into) {
    const auto list = findBox(body, fourCc("ipco"));
    if (!list) return;
    BoxWalk walk(list->body);
    while (const auto box = walk.next()) {
        ByteReader reader(box->body);
        if (box->type == fourCc("ispe")) {
            reader.skip(4);
            const auto width = reader.u32();
            const auto height = reader.u32();
            if (std::uint64_t{width} * height > std::uint64_t{into.width} * into.height) {
                into.width = width;
                into.height = height;
            }
        } else if (box->type == fourCc("irot")) {
            into.rotated = (reader.u8() & 1U) != 0;
        }
    }
}

// The settings of each item, by the associations (ISO/IEC 23008-12, 9.3).
std::map<std::uint32_t, Bytes> readSettings(Bytes body) {
    std::vector<Bytes> settings;  // by the property's number; empty for other properties
    std::map<std::uint32_t, Bytes> byItem;
    const auto list = findBox(body, fourCc("ipco"));
    const auto links = findBox(body, fourCc("ipma"));
    if (!list || !links) return byItem;
    BoxWalk walk(list->body);
    while (const auto box = walk.next()) {
        const bool codec = box->type == fourCc("hvcC") || box->type == fourCc("av1C");
        settings.push_back(codec ? box->body : Bytes());
    }
    ByteReader reader(links->body);
    const auto version = reader.u8();
    const bool wide = (reader.u24() & 1U) != 0;
    const auto count = reader.u32();
    for (std::size_t item = 0; item < count && item < kMostItems && reader.ok(); ++item) {
        const auto id = version < 1 ? reader.u16() : reader.u32();
        const auto linked = reader.u8();
        for (unsigned i = 0; i < linked && reader.ok(); ++i) {
            const std::size_t number = wide ? reader.u16() & 0x7fffU : reader.u8() & 0x7fU;
            if (number > 0 && number <= settings.size() && !settings[number - 1].empty())
                byItem[id] = settings[number - 1];
        }
    }
    return byItem;
}

}  // namespace

ItemIndex readItemIndex(Bytes body) {
    ItemIndex index;
    Items items;
    Places places;
    const auto boxes = slice(body, 4, body.size());
    if (const auto infos = findBox(boxes, fourCc("iinf"))) items = readInfos(infos->body);
    if (const auto locations = findBox(boxes, fourCc("iloc")))
        readLocations(locations->body, items.exif, index, places);
    if (const auto properties = findBox(boxes, fourCc("iprp"))) {
        readProperties(properties->body, index);
        const auto settings = readSettings(properties->body);
        for (const auto& [id, coding] : items.known) {
            Item item{coding, places[id], {}};
            const auto own = settings.find(id);
            if (own != settings.end()) item.settings.assign(own->second.begin(), own->second.end());
            if (!item.coded() || own != settings.end()) index.items.push_back(std::move(item));
        }
    }
    return index;
}

}  // namespace dreskel::isobmff
