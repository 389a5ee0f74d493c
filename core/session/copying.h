// A copy in hand: the card, the image it goes to, and how far it is. Checked before anything is written: the
// image must not lie on the card, there must be room, and a copy that is gone on with must be of this card.
#pragma once

#include <atomic>
#include <memory>
#include <string>
#include <vector>

#include "copy/copier.h"

namespace dreskel {

struct CopyRequest {
    std::string image;   // path of the copy
    std::string map;     // path of its map; empty: beside it
    std::string serial;  // of the card; empty where none is told
    CopyOptions options;
};

// What the map says and how fast it fills, for showing. Without a copy under way only the map's part.
struct CopyView {
    CopyProgress progress;
    std::vector<MapCell> cells;
    bool underWay = false;
};
CopyView viewOf(const CopyMap& map);

class Copying {
  public:
    // Fault::DestinationRefused when nothing may be written there; nothing has been, then.
    static Result<std::shared_ptr<Copying>> begin(std::shared_ptr<Source> card, CopyRequest request);

    // See Copier::run; then the checksum is made. Blocks; one call at a time.
    Status run(Control& control, const Copier::Show& show = {}, std::uint64_t showFrom = 0);

    // The card, for what is wanted of it before it is copied; not beside run(). Null when the copy cannot be
    // read back.
    std::shared_ptr<const Source> ahead() const;

    // From any thread.
    CopyView view() const;
    CopyImage& image() { return *image_; }
    const CopyImage& image() const { return *image_; }
    const Source& card() const { return *card_; }
    ByteRange span() const { return span_; }  // what is copied; length 0: all of the card
    // Said when a copy that was begun goes on: how the card was recognised.
    const std::string& recognised() const { return recognised_; }

  private:
    Copying(std::shared_ptr<Source> card, std::shared_ptr<CopyImage> image, const CopyOptions& options)
        : card_(card),
          image_(image),
          span_(options.span),
          copier_(std::move(card), std::move(image), options) {}

    std::shared_ptr<Source> card_;
    std::shared_ptr<CopyImage> image_;
    ByteRange span_;
    Copier copier_;
    std::string recognised_;
    std::atomic<bool> hashing_{false};
    std::atomic<bool> running_{false};
};

}  // namespace dreskel
