// The files that are being looked into, and what was found to begin inside of one of them meanwhile: a raw
// photo's preview is looked through long before the photo is, and must not be taken for a file of its own.
// Such results wait for the file around them. Not for threads; Examiner holds its lock.
#pragma once

#include <atomic>
#include <cstdint>
#include <map>
#include <memory>
#include <vector>

#include "scan/examined.h"

namespace dreskel {

class OpenFiles {
  public:
    // Files that reach further hold nothing back: that would be for as long as a card takes to be read.
    static constexpr std::uint64_t kFurthest = 128ULL << 20;  // bytes
    // How many wait at most; with more, all go: it is only for what is shown meanwhile.
    static constexpr std::size_t kMost = 200;

    // One file, which nobody has begun to look into. Any thread may say how far it reaches.
    class Open {
      public:
        explicit Open(std::uint64_t start) : start_(start), end_(start) {}
        void reaches(std::uint64_t end) { end_ = end; }
        // It is being walked; until it is known to reach too far to hold anything.
        void mayReachAnywhere() {
            if (end_ - start_ <= kFurthest) end_ = kUnknown;
        }
        // The walk has come so far, and may go on.
        void walkedTo(std::uint64_t position) {
            if (position - start_ > kFurthest) end_ = position;
        }

      private:
        friend class OpenFiles;
        static constexpr std::uint64_t kUnknown = 0;
        std::uint64_t start_;
        std::atomic<std::uint64_t> end_;
    };

    std::shared_ptr<Open> open(std::uint64_t start);
    void close(const std::shared_ptr<Open>& file);
    // A file was looked into; what is not inside of one that is open goes to `done`.
    void add(Examined examined, std::vector<Examined>& done);
    // Moves what nothing holds back any more.
    void release(std::vector<Examined>& done);
    bool empty() const { return held_.empty(); }

  private:
    bool holds(std::uint64_t start) const;

    std::multimap<std::uint64_t, std::shared_ptr<Open>> open_;  // by their starts
    std::multimap<std::uint64_t, Examined> held_;
};

}  // namespace dreskel
