#include "rebuild/playing_avi.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <map>
#include <optional>

#include "base/bytes.h"
#include "base/limits.h"
#include "rebuild/piece_edit.h"

namespace dreskel::rebuild {
namespace {

constexpr std::uint32_t kKeyFrame = 0x10;           // a flag of an idx1 entry
constexpr std::uint64_t kLargestChunk = 64U << 20;  // bytes
constexpr std::size_t kMostChunks = 4000000;
constexpr int kMostHoles = 1000;
constexpr std::uint64_t kSearched = 64U << 20;  // bytes behind a chunk that is none, for the next that is one

using Name = std::array<char, 4>;

struct Head {
    Name name{};
    std::uint32_t size = 0;
};

struct Chunk {
    Name name{};
    std::uint32_t offset = 0;  // from the "movi" of its list
    std::uint32_t size = 0;
    bool key = false;
};

bool is(const Name& name, const char* word) {
    return std::memcmp(name.data(), word, 4) == 0;
}

// "00dc": stream 0, compressed pictures; db: plain ones, wb: sound, tx: text.
bool isStream(const Name& name) {
    const auto digit = [](char c) { return c >= '0' && c <= '9'; };
    if (!digit(name[0]) || !digit(name[1])) return false;
    const std::string_view kind(name.data() + 2, 2);
    return kind == "dc" || kind == "db" || kind == "wb" || kind == "tx";
}

class File {
  public:
    File(CardView& card, const std::vector<Piece>& pieces) : reader_(card, pieces) {}

    std::uint64_t size() const { return reader_.size(); }
    std::optional<Head> headAt(std::uint64_t at) {
        std::array<std::uint8_t, 8> bytes{};
        if (reader_.read(at, bytes) < bytes.size()) return std::nullopt;
        Head head;
        std::memcpy(head.name.data(), bytes.data(), 4);
        ByteReader numbers(Bytes(bytes).subspan(4), Endian::Little);
        head.size = numbers.u32();
        return head;
    }
    // A chunk of the media, there to its end.
    std::optional<Head> chunkAt(std::uint64_t at) {
        const auto head = headAt(at);
        if (!head || head->size > kLargestChunk || at + 8 + head->size > size()) return std::nullopt;
        const bool known = isStream(head->name) || is(head->name, "JUNK") || is(head->name, "LIST") ||
                           (head->name[0] == 'i' && head->name[1] == 'x');
        return known ? head : std::nullopt;
    }
    std::vector<std::uint8_t> bytes(std::uint64_t at, std::size_t count) {
        std::vector<std::uint8_t> some(count);
        some.resize(reader_.read(at, some));
        return some;
    }

  private:
    PieceReader reader_;
};

// H.264 by its IDR slice, MPEG-4 Visual by the coding type of its VOP, everything else as if it stood alone.
bool standsAlone(Bytes picture) {
    for (std::size_t i = 0; i + 4 < picture.size(); ++i) {
        if (picture[i] != 0 || picture[i + 1] != 0 || picture[i + 2] != 1) continue;
        const auto code = picture[i + 3];
        if (code == 0xb6) return (picture[i + 4] & 0xc0U) == 0;
        if ((code & 0x1fU) == 5) return true;
        if ((code & 0x1fU) == 1) return false;
    }
    return true;
}

// Where two chunks follow each other again; chunks begin at even places of the list.
std::optional<std::uint64_t> resume(File& file, std::uint64_t from) {
    constexpr std::size_t kPortion = 1 << 20;
    for (auto at = from; at < std::min(from + kSearched, file.size()); at += kPortion) {
        const auto bytes = file.bytes(at, kPortion + 8);
        for (std::size_t i = (at - from) % 2; i + 4 <= bytes.size() && i < kPortion; i += 2) {
            Name name{};
            std::memcpy(name.data(), bytes.data() + i, 4);
            if (!isStream(name)) continue;
            const auto head = file.chunkAt(at + i);
            if (!head) continue;
            const auto next = at + i + 8 + head->size + head->size % 2;
            if (next >= file.size() || file.chunkAt(next)) return at + i;
        }
    }
    return std::nullopt;
}

std::vector<std::uint8_t> little(std::uint64_t value) {
    std::vector<std::uint8_t> bytes;
    for (int i = 0; i < 4; ++i) bytes.push_back(static_cast<std::uint8_t>(value >> (8 * i)));
    return bytes;
}

Error cannotMakeAvi(const std::string& why) {
    return {Fault::Failed, why, "", "Save the file as it is"};
}

struct Layout {
    std::uint64_t media = 0;             // of "movi" itself
    std::uint64_t totalFrames = 0;       // where the main header has them
    std::vector<std::uint64_t> lengths;  // where each stream's header has its length
    std::vector<bool> pictures;          // whether each stream is of pictures
};

// RIFF ("AVI ", LIST "hdrl" with "avih" and a LIST "strl" a stream, LIST "movi").
std::optional<Layout> readHead(File& file) {
    const auto riff = file.headAt(0);
    const auto form = file.bytes(8, 4);
    if (!riff || !is(riff->name, "RIFF") || form != std::vector<std::uint8_t>{'A', 'V', 'I', ' '})
        return std::nullopt;
    Layout layout;
    std::uint64_t at = 12;
    for (int i = 0; i < 256; ++i) {
        const auto head = file.headAt(at);
        if (!head) return std::nullopt;
        const auto kind = file.bytes(at + 8, 4);
        const std::string_view word(reinterpret_cast<const char*>(kind.data()), kind.size());
        if (is(head->name, "LIST") && word == "movi") {
            layout.media = at + 8;
            return layout;
        }
        if (is(head->name, "LIST") && (word == "hdrl" || word == "strl")) {
            at += 12;  // into it
            continue;
        }
        if (is(head->name, "avih")) layout.totalFrames = at + 8 + 16;
        if (is(head->name, "strh")) {
            layout.lengths.push_back(at + 8 + 32);
            layout.pictures.push_back(word == "vids");
        }
        const auto next = checkedAdd(at, std::uint64_t{8} + head->size + head->size % 2);
        if (!next) return std::nullopt;
        at = *next;
    }
    return std::nullopt;
}

}  // namespace

Result<PlayingAvi> makePlayingAvi(CardView& card, const std::vector<Piece>& file) {
    File reader(card, file);
    const auto layout = readHead(reader);
    if (!layout) return cannotMakeAvi("its head is not there");
    PlayingAvi playing;
    playing.pieces = file;
    std::vector<Chunk> chunks;
    std::map<int, std::uint64_t> counts;
    int holes = 0;
    auto at = layout->media + 4;
    while (at + 8 <= reader.size() && chunks.size() < kMostChunks) {
        const auto head = reader.chunkAt(at);
        if (!head) {
            const auto name = reader.headAt(at)->name;
            if (is(name, "idx1")) break;
            if (is(name, "RIFF")) return cannotMakeAvi("it consists of several parts");
            const auto next = holes++ < kMostHoles ? resume(reader, at + 2) : std::nullopt;
            if (!next || *next < at + 8) break;
            // What is no chunk becomes one that players pass over.
            auto junk = little(*next - at - 8);
            const std::string_view called = "JUNK";
            junk.insert(junk.begin(), called.begin(), called.end());
            replaceBytes(playing.pieces, at, std::move(junk), "what is no chunk is passed over");
            playing.passedOver += *next - at;
            at = *next;
            continue;
        }
        if (is(head->name, "LIST")) {
            at += 12;  // a list of chunks that belong together
            continue;
        }
        if (isStream(head->name)) {
            const bool picture = head->name[2] == 'd';
            const auto from = at - layout->media;
            if (from > UINT32_MAX) return cannotMakeAvi("it is too long for this kind of index");
            const bool key =
                !picture || standsAlone(reader.bytes(at + 8, std::min<std::size_t>(head->size, 4096)));
            chunks.push_back({head->name, static_cast<std::uint32_t>(from), head->size, key});
            ++counts[(head->name[0] - '0') * 10 + head->name[1] - '0'];
            playing.pictures += picture ? 1 : 0;
        }
        at = std::min(reader.size(), at + 8 + head->size + head->size % 2);
    }
    if (playing.pictures == 0) return cannotMakeAvi("none of its pictures is left");
    const auto end = at - at % 2;
    cutAt(playing.pieces, end);
    std::vector<std::uint8_t> index;
    for (const auto& chunk : chunks) {
        index.insert(index.end(), chunk.name.begin(), chunk.name.end());
        for (const auto value : {chunk.key ? kKeyFrame : 0U, chunk.offset, chunk.size}) {
            const auto bytes = little(value);
            index.insert(index.end(), bytes.begin(), bytes.end());
        }
    }
    const auto length = end + 8 + index.size();
    if (length > UINT32_MAX) return cannotMakeAvi("it is too long for this kind of index");
    replaceBytes(playing.pieces, 4, little(length - 8), "the length as it is");
    replaceBytes(playing.pieces, layout->media - 4, little(end - layout->media), "the length as it is");
    if (layout->totalFrames > 0)
        replaceBytes(playing.pieces, layout->totalFrames, little(playing.pictures),
                     "as many pictures as there are");
    for (std::size_t i = 0; i < layout->lengths.size(); ++i) {
        if (layout->pictures[i])
            replaceBytes(playing.pieces, layout->lengths[i], little(counts[static_cast<int>(i)]),
                         "as many pictures as there are");
    }
    auto size = little(index.size());
    index.insert(index.begin(), size.begin(), size.end());
    const std::string_view called = "idx1";
    index.insert(index.begin(), called.begin(), called.end());
    playing.pieces.push_back(madePiece(std::move(index), "an index of the chunks that are there"));
    return playing;
}

}  // namespace dreskel::rebuild
