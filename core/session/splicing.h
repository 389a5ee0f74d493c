// One photo on the splice bench: where it lies, what is free around it, how it looks with another way, and
// what could follow. Everything blocks; for one thread at a time, not the interface's.
#pragma once

#include "rebuild/photo_splice.h"
#include "session/session.h"

namespace dreskel {

class Splicing {
  public:
    // Reads the free space once. Fault::Usage when the file is none that can be spliced.
    static Result<std::shared_ptr<Splicing>> open(const Session& session, std::int64_t id,
                                                  const Control& control);

    // The file's pieces as they are in the job; cut at what could not be read.
    const std::vector<ByteRange>& found() const { return found_; }
    bool decided() const { return decided_; }  // by the technician
    std::uint32_t cluster() const { return cluster_; }
    const std::vector<ByteRange>& free() const { return free_; }
    // The other files of its kind, for showing.
    const std::vector<ByteRange>& others() const { return others_; }

    rebuild::SpliceLook look(const std::vector<ByteRange>& places, std::uint32_t side) {
        return photo_.look(places, side);
    }
    // Says, too, which file a place was a part of so far.
    rebuild::Followers followers(const std::vector<ByteRange>& places, std::uint32_t side,
                                 const Control& control);
    std::vector<ByteRange> cutAtRow(std::uint32_t row) const { return photo_.cutAtRow(row); }

  private:
    Splicing(std::shared_ptr<Source> source, FreeSpace space, const Control& control)
        : card_(std::move(source)),
          cluster_(space.cluster),
          free_(space.stretches),
          pool_(card_, space.stretches, space.cluster, space.origin, control),
          photo_(card_, space.cluster) {}

    CardView card_;
    std::uint32_t cluster_;
    std::vector<ByteRange> found_, free_, others_;
    std::vector<std::pair<ByteRange, std::string>> owners_;  // of what is not whole
    bool decided_ = false;
    rebuild::Pool pool_;
    rebuild::PhotoSplice photo_;
};

// Whether the splice bench can do something for a file.
bool canBeSpliced(const Finding& finding);

}  // namespace dreskel
