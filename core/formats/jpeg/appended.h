// What phones write behind the end marker of a photo: a clip of the moment around it, and a trailer of their
// own.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "formats/format.h"

namespace dreskel::jpeg {

// Part of the walk over a photo, from the end of its last picture on; see Measure.
class Appended {
  public:
    // `end`: of the file, as far as it is known. Nothing when there is no more to be asked.
    std::optional<Measure::Want> want(std::uint64_t end) const;
    // Moves `end` behind what was found. False when the walk is over.
    bool give(Bytes bytes, std::uint64_t& end);
    const std::vector<std::string>& notes() const { return notes_; }

  private:
    bool look(Bytes bytes, std::uint64_t& end);
    void trailer(Bytes bytes, std::uint64_t& end);

    std::unique_ptr<Measure> clip_;
    std::uint64_t clipAt_ = 0;
    bool clipDone_ = false;
    std::vector<std::string> notes_;
};

}  // namespace dreskel::jpeg
