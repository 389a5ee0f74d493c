// What a card's directories still say of its files: those that are present, those that were deleted, and
// those of folders that a format left behind.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "base/range.h"
#include "volume/survey.h"
#include "volume/tree.h"

namespace dreskel {

enum class Fate { Present, Deleted, FormattedOver };
std::string_view toWord(Fate fate);
std::optional<Fate> fateFromWord(std::string_view word);

struct RememberedFile {
    std::string name, folder;       // the folder is empty where its own name is lost, or in the root
    std::uint64_t size = 0;         // bytes
    std::string modified, created;  // ISO 8601
    Fate fate = Fate::Present;
    // Where its bytes lie on the source, in order. Without `placesKnown` nothing is known but the start: they
    // are then given as one stretch.
    std::vector<ByteRange> places;
    bool placesKnown = false;
    // FAT32 deletions that cleared half of the first cluster's number: where it may begin instead.
    std::vector<std::uint64_t> otherStarts;

    std::uint64_t start() const { return places.front().offset; }
};

struct Remembered {
    std::vector<RememberedFile> files;  // each with at least one place and one byte
    RangeSet present;                   // the bytes of present files, whole clusters
    RangeSet structures;                // boot sectors, tables and folders of live volumes
    bool complete = true;               // false when time or a limit ended it
};

// From the volumes of a survey, live ones first; those that only copies of boot sectors tell of, too.
Remembered remember(const Source& source, const Survey& survey, const std::function<bool()>& goOn);

}  // namespace dreskel
