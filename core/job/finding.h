// A file that was found: an ordered list of pieces with a condition, and what is known of it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/words.h"
#include "formats/format.h"
#include "volume/remembered.h"

namespace dreskel {

// What the walk over the file showed, kept for settling overlaps with other files. Offsets from the file's
// start.
struct Evidence {
    std::string family;                          // the format family that measured it
    ByteRange range;                             // on the source, as if the file lay in one piece
    std::uint64_t proven = 0;                    // bytes that are certainly this file's
    Condition condition = Condition::Unchecked;  // on its own, before overlaps are settled
    double decoded = 0;
    std::string why;
    std::vector<ByteRange> mediaData, enclosed;
    bool holdsPhotos = false;
    Notices notices = Notices::ForeignBytes;
    bool plainSamples = false;  // see formats/plain_samples.h
    // Where it lies when it is known to be in pieces; `range` then reaches from the first byte of them to the
    // last. Empty for a file in one piece.
    std::vector<ByteRange> places;
    bool decided = false;  // the technician set them
    // The file as it was rebuilt, where bytes were made for it; `places` are then those of its pieces that
    // are on the card.
    std::vector<Piece> rebuilt;
};

constexpr int kBestRating = 5;

// What the technician decided about a file, and wrote to it.
struct Decision {
    bool kept = false;     // to be saved
    bool leftOut = false;  // looked at, and not wanted
    int rating = 0;        // 1 to kBestRating; 0: none
    std::string note;

    bool operator==(const Decision& other) const = default;
};

struct Finding {
    std::int64_t id = 0;
    Kind kind = Kind::Other;
    std::string format;
    std::vector<Piece> pieces;
    Condition condition = Condition::Unchecked;
    double decoded = 0;
    std::string why;  // where and why it is not whole
    std::string name, folder;
    bool byDirectory = false, bySignature = false;
    std::optional<Fate> fate;  // what the directory says of it; nothing where none speaks of it
    std::string modified;      // by the directory, ISO 8601
    Description description;
    std::vector<Join> joins;
    std::optional<std::int64_t> inside, sameAs;
    std::optional<std::int64_t> belongsTo;  // the file that this is a sidecar, a thumbnail or a note of
    std::vector<std::string> notes;
    std::vector<std::uint8_t> decodedMap;
    Evidence evidence;
    // Seen in its small picture, which is a guess; nothing where nobody has looked.
    std::optional<std::uint32_t> faces;
    bool wanted = true;  // of a kind and format that was asked for
    Decision decision;

    std::uint64_t size() const { return totalLength(pieces); }
    std::uint64_t start() const { return evidence.range.offset; }
    // Files of their own, as opposed to what is embedded in others or was not asked for.
    bool listed() const { return wanted && !inside; }
};

}  // namespace dreskel
