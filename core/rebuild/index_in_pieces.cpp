#include "rebuild/index_in_pieces.h"

#include <algorithm>
#include <array>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::rebuild {
namespace {

using isobmff::fourCc;

constexpr int kMostTries = 2000;         // clusters that were gone on from
constexpr std::size_t kMostOffered = 4;  // clusters for one place
constexpr std::uint64_t kShortest = 64;  // bytes of an index

bool holdsBoxes(std::uint32_t type) {
    constexpr std::array kTypes{fourCc("trak"), fourCc("mdia"), fourCc("minf"), fourCc("stbl"),
                                fourCc("edts")};
    return std::find(kTypes.begin(), kTypes.end(), type) != kTypes.end();
}

bool mayBeName(std::uint32_t type) {
    for (int shift = 0; shift < 32; shift += 8) {
        const auto letter = static_cast<std::uint8_t>(type >> shift);
        const bool plain = (letter >= 'a' && letter <= 'z') || (letter >= 'A' && letter <= 'Z') ||
                           (letter >= '0' && letter <= '9') || letter == ' ' || letter == '-' ||
                           letter == 0xa9;
        if (!plain) return false;
    }
    return true;
}

// Where the walk over an index stands at the end of the bytes that there are.
struct Standing {
    bool possible = true;
    std::uint64_t next = 0;   // byte of the index at which the next box begins
    std::uint32_t table = 0;  // the box that the bytes end in
    std::uint64_t tableAt = 0;
};

Standing walk(Bytes bytes, std::uint64_t length) {
    Standing standing;
    std::uint64_t at = 8;
    while (at + 8 <= bytes.size()) {
        ByteReader reader(slice(bytes, at, 8));
        const std::uint64_t size = reader.u32();
        const auto type = reader.u32();
        if (size < 8 || !mayBeName(type) || at + size > length) return {false, at, 0, 0};
        standing.table = type;
        standing.tableAt = at;
        at += holdsBoxes(type) ? 8 : size;
    }
    standing.next = at;
    return standing;
}

// Whether a stretch of a table can be one: places in the file rise, everything else is small.
bool mayBeTable(Bytes bytes, const Standing& standing, std::uint64_t from, std::uint64_t to) {
    constexpr std::uint64_t kHead = 16;  // of the box, with its count
    constexpr std::array kTables{fourCc("stts"), fourCc("ctts"), fourCc("stss"), fourCc("stsc"),
                                 fourCc("stsz"), fourCc("stco"), fourCc("co64")};
    if (std::find(kTables.begin(), kTables.end(), standing.table) == kTables.end()) return true;
    const bool wide = standing.table == fourCc("co64");
    const bool places = wide || standing.table == fourCc("stco");
    const std::uint64_t size = wide ? 8 : 4;
    auto at = std::max(from, standing.tableAt + kHead);
    at += (size - (at - standing.tableAt) % size) % size;
    std::uint64_t before = 0;
    for (; at + size <= to; at += size) {
        ByteReader reader(slice(bytes, at, size));
        const auto value = wide ? reader.u64() : reader.u32();
        if (places ? value <= before : (value >> 24) != 0 && (value >> 24) != 0xff) return false;
        before = value;
    }
    return true;
}

class Completion {
  public:
    Completion(CardView& card, const ClipPool& pool, const Control& control)
        : card_(card), pool_(pool), control_(control), cluster_(pool.cluster()) {}

    std::optional<LooseIndex> complete(std::uint64_t at) {
        std::vector<std::uint8_t> head(8);
        if (at < pool_.origin() || card_.read(at, head) < head.size()) return std::nullopt;
        const auto box = isobmff::readBoxHeader(head);
        if (!box || box->type != fourCc("moov") || box->headerSize != 8 || box->size < kShortest ||
            box->size > limits::kLargestIndex)
            return std::nullopt;
        length_ = box->size;
        const auto first = std::min(length_, cluster_ - (at - pool_.origin()) % cluster_);
        if (first == length_ || !append({at, first})) return std::nullopt;
        return goOn();
    }

  private:
    bool append(const ByteRange& place) {
        const auto from = bytes_.size();
        bytes_.resize(from + static_cast<std::size_t>(place.length));
        if (card_.read(place.offset, MutableBytes(bytes_).subspan(from)) < place.length) return false;
        places_.push_back(place);
        return true;
    }
    void dropLast() {
        bytes_.resize(bytes_.size() - static_cast<std::size_t>(places_.back().length));
        places_.pop_back();
    }
    bool own(std::uint64_t at) const {
        return std::any_of(places_.begin(), places_.end(),
                           [at](const ByteRange& place) { return place.contains(at); });
    }
    // Whether what follows may lie here; it is appended then.
    bool take(std::uint64_t at, const Standing& before) {
        const auto have = std::uint64_t{bytes_.size()};
        // The next box is looked at first: most are told by that.
        if (before.next >= have && before.next + 8 <= std::min(have + cluster_, length_)) {
            std::array<std::uint8_t, 8> head{};
            card_.read(at + (before.next - have), head);
            ByteReader reader(head);
            const auto size = reader.u32();
            if (size < 8 || !mayBeName(reader.u32())) return false;
        }
        if (!append({at, std::min(cluster_, length_ - have)})) {
            bytes_.resize(static_cast<std::size_t>(have));
            return false;
        }
        const auto upTo = std::min<std::uint64_t>(before.next, bytes_.size());
        if (mayBeTable(bytes_, before, have, upTo) && walk(bytes_, length_).possible) return true;
        dropLast();
        return false;
    }
    std::optional<LooseIndex> goOn() {
        const auto standing = walk(bytes_, length_);
        if (!standing.possible || control_.stopped() || ++tries_ > kMostTries) return std::nullopt;
        if (bytes_.size() == length_) {
            auto index = parseIndex(bytes_);
            if (!index) return std::nullopt;
            index->box = {places_.front().offset, length_};
            index->places = joinedUp();
            return index;
        }
        // What comes right behind is tried to its end first: nearly always that is it.
        std::optional<LooseIndex> index;
        std::size_t offered = 0;
        pool_.visit(places_.back().end(), [&](std::uint64_t at) {
            if (control_.stopped() || tries_ > kMostTries) return true;
            if (own(at) || !take(at, standing)) return false;
            index = goOn();
            if (!index) dropLast();
            return index || ++offered == kMostOffered;
        });
        return index;
    }
    std::vector<ByteRange> joinedUp() const {
        std::vector<ByteRange> runs;
        for (const auto& place : places_) {
            if (!runs.empty() && runs.back().end() == place.offset) {
                runs.back().length += place.length;
            } else {
                runs.push_back(place);
            }
        }
        return runs;
    }

    CardView& card_;
    const ClipPool& pool_;
    const Control& control_;
    std::uint64_t cluster_, length_ = 0;
    std::vector<std::uint8_t> bytes_;
    std::vector<ByteRange> places_;
    int tries_ = 0;
};

}  // namespace

std::optional<LooseIndex> readIndex(CardView& card, std::uint64_t at, const ClipPool& pool,
                                    const Control& control) {
    auto straight = readLooseIndex(card, at);
    if (straight) {
        std::vector<std::uint8_t> bytes(static_cast<std::size_t>(straight->box.length));
        card.read(at, bytes);
        const auto end = walk(bytes, bytes.size());
        if (end.possible && end.next == bytes.size()) return straight;
    }
    // Of one that is damaged what can be read of it counts, when it is in one piece after all.
    auto joined = Completion(card, pool, control).complete(at);
    return joined ? std::move(joined) : std::move(straight);
}

}  // namespace dreskel::rebuild
