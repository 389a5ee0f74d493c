#include "rebuild/playing_wav.h"

#include <optional>

#include "base/bytes.h"
#include "base/limits.h"
#include "rebuild/piece_edit.h"

namespace dreskel::rebuild {
namespace {

constexpr std::size_t kMostHead = 1 << 20;  // bytes in front of the samples

Error cannot(const char* why) {
    return {Fault::Failed, std::string("No version of it that plays: ") + why, "", "Save the file as it is"};
}

// Where the length of the samples stands; they follow behind it.
std::optional<std::size_t> lengthAt(Bytes head) {
    if (!startsWith(head, "RIFF")) return std::nullopt;
    ByteReader reader(head, Endian::Little);
    reader.skip(12);
    for (unsigned i = 0; i < limits::kMostRiffChunks && reader.ok(); ++i) {
        const auto name = reader.take(4);
        const auto at = reader.position();
        const std::uint64_t length = reader.u32();
        if (startsWith(name, "data")) return reader.ok() ? std::optional(at) : std::nullopt;
        reader.skip(length + (length & 1));
    }
    return std::nullopt;
}

std::vector<std::uint8_t> littleEndian(std::uint64_t value) {
    std::vector<std::uint8_t> bytes;
    for (unsigned i = 0; i < 4; ++i) bytes.push_back(static_cast<std::uint8_t>(value >> (8 * i)));
    return bytes;
}

}  // namespace

Result<std::vector<Piece>> makePlayingWav(CardView& card, const std::vector<Piece>& file) {
    PieceReader reader(card, file);
    std::vector<std::uint8_t> head(kMostHead);
    head.resize(reader.read(0, head));
    const auto at = lengthAt(head);
    if (!at || reader.size() <= *at + 4) return cannot("no samples follow its head");
    if (reader.size() - 8 > UINT32_MAX) return cannot("it is too long for this kind of file");
    const auto samples = reader.size() - *at - 4;
    const auto stated = ByteReader(slice(head, *at, 4), Endian::Little).u32();
    if (stated > 0 && stated <= samples) return std::vector<Piece>();
    auto pieces = file;
    replaceBytes(pieces, 4, littleEndian(reader.size() - 8), "the length as it is");
    replaceBytes(pieces, *at, littleEndian(samples), "the length as it is");
    return pieces;
}

}  // namespace dreskel::rebuild
