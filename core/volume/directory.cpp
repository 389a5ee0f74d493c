#include "volume/directory.h"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <utility>

#include "volume/names.h"

namespace dreskel {
namespace {

constexpr std::size_t kEntry = 32;
constexpr std::uint8_t kDeleted = 0xe5;
constexpr std::uint8_t kLongName = 0x0f;
constexpr std::uint8_t kLabel = 0x08;
constexpr std::uint8_t kFolder = 0x10;

std::uint8_t shortChecksum(Bytes eleven) {
    std::uint8_t sum = 0;
    for (const auto byte : eleven.first(11))
        sum = static_cast<std::uint8_t>(((sum & 1) << 7) + (sum >> 1) + byte);
    return sum;
}

// The parts of a long name, as they come: the last part first.
struct LongName {
    std::vector<std::u16string> parts;
    std::uint8_t checksum = 0;
    bool deleted = false;

    void add(Bytes entry) {
        const bool gone = entry[0] == kDeleted;
        const bool begins = gone ? parts.empty() || entry[13] != checksum : (entry[0] & 0x40) != 0;
        if (begins || gone != deleted || entry[13] != checksum) parts.clear();
        deleted = gone;
        checksum = entry[13];
        std::u16string part;
        constexpr std::array<int, 13> places{1, 3, 5, 7, 9, 14, 16, 18, 20, 22, 24, 28, 30};
        for (const int at : places) {
            const auto index = static_cast<std::size_t>(at);
            const auto letter = static_cast<char16_t>(entry[index] | entry[index + 1] << 8);
            if (letter == 0 || letter == 0xffff) break;
            part.push_back(letter);
        }
        if (parts.size() < 20) parts.push_back(part);
    }
    std::u16string text() const {
        std::u16string all;
        for (auto part = parts.rbegin(); part != parts.rend(); ++part) all += *part;
        return all;
    }
};

// A sane name of a deleted entry has no control characters and none of those that FAT forbids.
bool plausibleShortName(Bytes entry) {
    if (entry[1] == ' ' && entry[2] != ' ') return false;
    for (std::size_t i = 1; i < 11; ++i) {
        const auto letter = entry[i];
        if (letter < 0x20 || letter == 0x7f) return false;
        constexpr std::string_view forbidden = "\"*+,./:;<=>?[\\]|";
        if (forbidden.find(static_cast<char>(letter)) != std::string_view::npos) return false;
    }
    return true;
}

DirectoryEntry fatEntry(Bytes entry, const LongName& longName) {
    ByteReader reader(entry, Endian::Little);
    DirectoryEntry found;
    found.deleted = entry[0] == kDeleted;
    found.folder = (entry[11] & kFolder) != 0;
    reader.seek(12);
    const auto lower = reader.u8();
    const auto hundredths = reader.u8();
    const auto createdTime = reader.u16();
    const auto createdDate = reader.u16();
    reader.skip(2);
    const std::uint32_t high = reader.u16();
    const auto time = reader.u16();
    const auto date = reader.u16();
    const std::uint32_t low = reader.u16();
    found.size = reader.u32();
    found.firstCluster = high << 16 | low;
    found.highHalfZeroed = found.deleted && high == 0;
    found.modified = isoFromDos(date, time, 0);
    found.created = isoFromDos(createdDate, createdTime, hundredths);

    std::array<std::uint8_t, 11> eleven{};
    std::copy_n(entry.begin(), 11, eleven.begin());
    if (eleven[0] == 0x05) eleven[0] = kDeleted;  // a name that really begins with that letter
    const auto text = longName.text();
    if (!text.empty() && longName.deleted == found.deleted) {
        if (found.deleted) {
            // The first letter of the short name was overwritten; the long one tells it.
            auto first = static_cast<std::uint8_t>(text[0] < 0x80 ? text[0] : 0);
            if (first >= 'a' && first <= 'z') first = static_cast<std::uint8_t>(first - 32);
            eleven[0] = first;
        }
        if (shortChecksum(eleven) == longName.checksum || found.deleted) {
            found.checked = shortChecksum(eleven) == longName.checksum;
            found.name = utf8From(text);
            return found;
        }
    }
    found.firstLetterLost = found.deleted;
    if (found.deleted) eleven[0] = '?';
    found.name = shortName(eleven.data(), lower);
    return found;
}

DirectoryContent readFatEntries(Bytes bytes) {
    DirectoryContent content;
    LongName longName;
    for (std::size_t at = 0; at + kEntry <= bytes.size(); at += kEntry) {
        const auto entry = bytes.subspan(at, kEntry);
        if (entry[0] == 0) {
            content.ended = true;
            break;
        }
        const auto attributes = static_cast<std::uint8_t>(entry[11] & 0x3f);
        if (attributes == kLongName) {
            longName.add(entry);
            continue;
        }
        const auto named = std::exchange(longName, {});
        const bool deleted = entry[0] == kDeleted;
        if (entry[0] == '.' && (attributes & kFolder) != 0) {
            const auto cluster = static_cast<std::uint32_t>(entry[26] | entry[27] << 8 | entry[20] << 16) |
                                 std::uint32_t{entry[21]} << 24;
            if (entry[1] == ' ') content.own = cluster;
            if (entry[1] == '.') {
                content.parent = cluster;
                content.hasDots = at == kEntry;
            }
            continue;
        }
        if ((attributes & kLabel) != 0) {
            if (!deleted) content.label = shortName(entry.data(), 0);
            continue;
        }
        if (deleted && !plausibleShortName(entry)) continue;
        auto found = fatEntry(entry, named);
        found.at = at;
        if (found.deleted && found.firstCluster == 0 && found.size == 0) continue;
        content.entries.push_back(std::move(found));
    }
    return content;
}

// exFAT specification, section 6.3.3: over the whole set, but for the sum itself.
bool setChecksumFits(Bytes set, std::uint16_t told) {
    std::uint16_t sum = 0;
    for (std::size_t i = 0; i < set.size(); ++i) {
        if (i == 2 || i == 3) continue;
        // A deleted set has its in-use bits cleared; the sum was made before.
        const auto byte = i % kEntry == 0 ? static_cast<std::uint8_t>(set[i] | 0x80) : set[i];
        sum = static_cast<std::uint16_t>(((sum & 1) << 15) + (sum >> 1) + byte);
    }
    return sum == told;
}

std::string exFatTime(std::uint32_t stamp, unsigned hundredths, unsigned zone) {
    auto text =
        isoFromDos(static_cast<std::uint16_t>(stamp >> 16), static_cast<std::uint16_t>(stamp), hundredths);
    if (text.empty() || (zone & 0x80) == 0) return text;
    // Quarters of an hour, seven bits with a sign.
    const int quarters =
        (zone & 0x40) != 0 ? static_cast<int>(zone & 0x7f) - 128 : static_cast<int>(zone & 0x7f);
    const int minutes = std::abs(quarters) * 15;
    std::array<char, 16> offset{};
    std::snprintf(offset.data(), offset.size(), "%c%02d:%02d", quarters < 0 ? '-' : '+', minutes / 60,
                  minutes % 60);
    return text + offset.data();
}

// The set that begins with a file entry; nothing when it is none. `length` in bytes.
bool exFatSet(Bytes bytes, DirectoryEntry& found, std::size_t& length) {
    const std::size_t secondaries = bytes[1];
    length = (secondaries + 1) * kEntry;
    if (secondaries < 2 || secondaries > 18 || length > bytes.size()) return false;
    const auto set = bytes.first(length);
    const bool deleted = (set[0] & 0x80) == 0;
    const std::uint8_t in = deleted ? 0 : 0x80;
    if (set[kEntry] != (0x40 | in)) return false;
    ByteReader reader(set, Endian::Little);
    reader.seek(2);
    const auto checksum = reader.u16();
    const auto attributes = reader.u16();
    reader.skip(2);
    const auto created = reader.u32();
    const auto modified = reader.u32();
    reader.skip(4);
    const auto createdHundredths = reader.u8();
    const auto modifiedHundredths = reader.u8();
    const auto createdZone = reader.u8();
    const auto modifiedZone = reader.u8();
    reader.seek(kEntry + 1);
    const auto flags = reader.u8();
    reader.skip(1);
    const std::size_t letters = reader.u8();
    reader.seek(kEntry + 20);
    found.firstCluster = reader.u32();
    found.size = reader.u64();
    found.deleted = deleted;
    found.folder = (attributes & kFolder) != 0;
    found.contiguous = (flags & 2) != 0;
    found.created = exFatTime(created, createdHundredths, createdZone);
    found.modified = exFatTime(modified, modifiedHundredths, modifiedZone);
    std::u16string name;
    for (std::size_t part = 2; part <= secondaries && name.size() < letters; ++part) {
        if (set[part * kEntry] != (0x41 | in)) return false;
        reader.seek(part * kEntry + 2);
        for (int i = 0; i < 15 && name.size() < letters; ++i) name.push_back(reader.u16());
    }
    if (name.empty() || name.size() != letters) return false;
    found.name = utf8From(name);
    found.checked = setChecksumFits(set, checksum);
    return true;
}

DirectoryContent readExFatEntries(Bytes bytes) {
    DirectoryContent content;
    for (std::size_t at = 0; at + kEntry <= bytes.size();) {
        const auto rest = bytes.subspan(at);
        const auto type = rest[0];
        if (type == 0) {
            content.ended = true;
            break;
        }
        std::size_t length = kEntry;
        if (type == 0x85 || type == 0x05) {
            DirectoryEntry found;
            const bool sound = exFatSet(rest, found, length);
            // A deleted set may be half overwritten; then the next entry counts.
            if (sound && (found.checked || !found.deleted)) {
                found.at = at;
                content.entries.push_back(std::move(found));
            } else {
                length = kEntry;
            }
        } else if (type == 0x81 && content.bitmapCluster == 0) {
            ByteReader reader(rest.first(kEntry), Endian::Little);
            reader.seek(20);
            content.bitmapCluster = reader.u32();
            content.bitmapLength = reader.u64();
        } else if (type == 0x83) {
            std::u16string label;
            ByteReader reader(rest.first(kEntry), Endian::Little);
            reader.seek(2);
            for (int i = 0; i < std::min<int>(rest[1], 11); ++i) label.push_back(reader.u16());
            content.label = utf8From(label);
        }
        at += length;
    }
    return content;
}

}  // namespace

DirectoryContent readDirectory(Bytes bytes, DirectoryKind kind) {
    return kind == DirectoryKind::Fat ? readFatEntries(bytes) : readExFatEntries(bytes);
}

}  // namespace dreskel
