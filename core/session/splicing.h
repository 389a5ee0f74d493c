// One photo or clip on the splice bench: where it lies, what is free around it, how it looks with another
// way, and what could follow. Everything blocks; for one thread at a time, not the interface's.
#pragma once

#include "media/decoder_process.h"
#include "rebuild/clip_pool.h"
#include "rebuild/photo_joiner.h"
#include "rebuild/splice.h"
#include "session/session.h"

namespace dreskel {

class Splicing {
  public:
    // Reads the free space once; of a clip, with its index. Fault::Usage when the file is none that can be
    // spliced; Fault::Failed when a clip's index is not found.
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

    rebuild::SpliceLook look(const std::vector<ByteRange>& places, std::uint32_t side) {
        return splicer_->look(places, side);
    }
    // Says, too, which file a place was a part of so far.
    rebuild::Followers followers(const std::vector<ByteRange>& places, std::uint32_t side,
                                 const Control& control);
    std::vector<ByteRange> cutAt(std::uint32_t at) const { return splicer_->cutAt(at); }
    std::vector<rebuild::SpliceFrame> frames(const std::vector<ByteRange>& places,
                                             const std::vector<std::uint32_t>& times, std::uint32_t side) {
        return splicer_->frames(places, times, side);
    }

  private:
    Splicing(std::shared_ptr<Source> source, const FreeSpace& space)
        : card_(source), decoder_(std::move(source)), cluster_(space.cluster), free_(space.stretches) {}
    Status takeClip(const Finding& clip, const FreeSpace& space, Control& control);

    CardView card_;
    media::DecoderProcess decoder_;
    Kind kind_ = Kind::Photo;
    std::uint32_t cluster_;
    std::vector<ByteRange> found_, free_, others_;
    std::vector<std::pair<ByteRange, std::string>> owners_;  // of what is not whole
    bool decided_ = false;
    std::unique_ptr<rebuild::Pool> photos_;
    std::unique_ptr<rebuild::ClipPool> clips_;
    std::unique_ptr<rebuild::Splicer> splicer_;
};

// Whether the splice bench can do something for a file.
bool canBeSpliced(const Finding& finding);

}  // namespace dreskel
