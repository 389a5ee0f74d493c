// One photo or clip on the splice bench: where it lies, what is free around it, how it looks with another
// way, and what could follow; of a clip that lost its index, which good clips can lend what a new one looks
// like. Everything blocks; for one thread at a time, not the interface's.
#pragma once

#include "media/decoder_process.h"
#include "rebuild/clip_pool.h"
#include "rebuild/photo_joiner.h"
#include "rebuild/splice.h"
#include "scan/claims.h"
#include "session/session.h"

namespace dreskel {

// A good clip that a clip without an index may have its settings from.
struct Lender {
    Lending choice;
    std::int64_t id = 0;       // of one on the card
    std::string name;          // may be empty
    Description description;   // of one on the card
    double share = 0;          // of the part that was looked at: what its settings explain
    std::size_t likeIt = 0;    // others with the same settings
    std::size_t pictures = 0;  // in that part
    double seconds = 0;        // they take
    bool inUse = false;        // the index that was made is after it
    Picture picture;           // from the middle of that part, as it decodes with these settings
};

class Splicing {
  public:
    // Reads the free space once; of a clip, with its index, or the front of its media data with the settings
    // of each good clip. Fault::Usage when the file is none that can be spliced; Fault::Failed when a clip's
    // index is not found and no good clip is there.
    static Result<std::shared_ptr<Splicing>> open(const Session& session, std::int64_t id, Control& control);

    Kind kind() const { return kind_; }
    rebuild::Splicer::Measure measure() const { return splicer_->measure(); }
    // The file's pieces as they are in the job, with what is empty; at what could not be read they end.
    const std::vector<ByteRange>& found() const { return found_; }
    bool decided() const { return decided_; }  // by the technician
    std::uint32_t cluster() const { return cluster_; }
    const std::vector<ByteRange>& free() const { return free_; }
    // The other files of its kind, for showing.
    const std::vector<ByteRange>& others() const { return others_; }

    rebuild::SpliceLook look(const std::vector<ByteRange>& places, std::uint32_t side,
                             const rebuild::Glimpses& glimpses = {}) {
        return splicer_->look(places, side, glimpses);
    }
    // Says, too, which file a place was a part of so far.
    rebuild::Followers followers(const std::vector<ByteRange>& places, std::uint32_t side,
                                 const Control& control);
    rebuild::Cut without(const rebuild::SpliceLook::Stretch& stretch) const {
        return splicer_->without(stretch);
    }
    std::vector<rebuild::SpliceFrame> frames(const std::vector<ByteRange>& places,
                                             const std::vector<std::uint32_t>& times, std::uint32_t side) {
        return splicer_->frames(places, times, side);
    }

    // Of a clip that lost its index, the best first; otherwise empty, and what is above is for ways only.
    const std::vector<Lender>& lenders() const { return lenders_; }
    // With the settings of one of them, as far as was looked.
    rebuild::SpliceLook lookWith(std::size_t lender) const;
    std::vector<rebuild::SpliceFrame> framesWith(std::size_t lender, const std::vector<std::uint32_t>& times,
                                                 std::uint32_t side);

  private:
    Splicing(std::shared_ptr<Source> source, const FreeSpace& space)
        : card_(source), decoder_(std::move(source)), cluster_(space.cluster), free_(space.stretches) {}
    Status takeClip(const Finding& clip, const FreeSpace& space, Control& control);
    Status takeOpenClip(const Session& session, const Finding& clip, const Claims& claims,
                        const FreeSpace& space, Control& control);
    std::vector<rebuild::SpliceFrame> decode(const std::vector<Piece>& file, const std::vector<double>& times,
                                             int side);

    CardView card_;
    media::DecoderProcess decoder_;
    Kind kind_ = Kind::Photo;
    std::string format_;
    std::uint32_t cluster_;
    std::vector<ByteRange> found_, free_, others_;
    std::vector<std::pair<ByteRange, std::string>> owners_;  // of what is not whole
    bool decided_ = false;
    std::unique_ptr<rebuild::Pool> photos_;
    std::unique_ptr<rebuild::ClipPool> clips_;
    std::unique_ptr<rebuild::Splicer> splicer_;
    std::vector<Lender> lenders_;
    std::vector<std::vector<Piece>> made_;  // the front of the file with the settings of each
};

// Whether the splice bench can do something for a file.
bool canBeSpliced(const Finding& finding);

}  // namespace dreskel
