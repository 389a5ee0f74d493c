// The copy of a card: an image file as large as the card, with holes where nothing was read or all is zero,
// and its map beside it. Offsets in the image are those on the card, of a copied span too.
#pragma once

#include <memory>
#include <string>

#include "base/control.h"
#include "copy/map_writer.h"
#include "source/source.h"

namespace dreskel {

class CopyImage {
  public:
    // Begins a copy, or takes up one that was begun. Fault::DestinationRefused, with nothing written, when
    // the files there are something else or belong to another card.
    static Result<std::shared_ptr<CopyImage>> open(const std::string& image, const std::string& map,
                                                   const CardIdentity& card);

    const std::string& path() const { return path_; }
    CopyMap& map() { return *content_.map; }
    const CopyMap& map() const { return *content_.map; }
    const CardIdentity& card() const { return content_.card; }
    const std::string& sha256() const { return content_.sha256; }

    // Puts bytes of the card into the copy, zeros as a hole, and says so in the map.
    Status write(std::uint64_t offset, Bytes bytes);
    // Says in the map what is known of a range that was not read.
    Status mark(ByteRange range, Tried state, int tries = 0);
    // Image and map to the medium.
    Status flush();

    // Reads the image back and notes its SHA-256 in the map. Call it when the copy is done.
    Result<std::string> hash(Control& control);

    // The copy as a source: reading what was not read from the card fails with EIO. Knows what is still
    // being copied.
    Result<std::shared_ptr<Source>> source() const;

  private:
    CopyImage(std::string path, MapContent content) : path_(std::move(path)), content_(std::move(content)) {}

    std::string path_;
    MapContent content_;
    std::unique_ptr<MapWriter> file_;
    UniqueFd fd_;
};

// Whether bytes that are known of the copy are the card's: compares up to `most` sectors, spread over what
// was read. Nothing when none of them could be read from the card; needs `image` to be the copy's.
std::optional<bool> sameContent(const Source& card, const Source& image, const CopyMap& map, int most);

// The SHA-256 of a finished copy, read past the cache where that can be done, against the one in its map.
// Fault::Failed when they differ or the copy is not finished.
Status verifyCopy(const std::string& image, const std::string& map, Control& control);

}  // namespace dreskel
