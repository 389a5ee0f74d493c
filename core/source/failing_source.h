// A stand-in for a card in a failing reader: the bytes of another source, with places that fail, always or a
// few times, that stall, or at which the card goes away. Counts what is asked of it, so that a test can show
// that nothing is read twice.
#pragma once

#include <atomic>
#include <chrono>
#include <memory>
#include <mutex>

#include "base/line_log.h"
#include "base/range.h"
#include "source/source.h"

namespace dreskel {

struct ReaderFault {
    enum class Does { Fail, Stall, Vanish };
    ByteRange range;  // a read that touches it has the fault
    Does does = Does::Fail;
    int times = -1;      // how often, before the place reads well; -1: always
    double seconds = 0;  // how long a stall lasts
};

struct ReaderPlan {
    std::vector<ReaderFault> faults;
    std::uint64_t bytesPerSecond = 0;  // 0: as fast as the source below
    std::uint64_t vanishAfter = 0;     // bytes read since it was opened; 0: never
    std::string record;                // a file to which each read is added as "offset length ok|failed"
};

class FailingSource : public Source {
  public:
    FailingSource(std::shared_ptr<Source> under, ReaderPlan plan);
    FailingSource(std::shared_ptr<Source> under, const RangeSet& failing);

    std::uint64_t size() const override { return under_->size(); }
    std::uint32_t sectorSize() const override { return under_->sectorSize(); }
    const std::string& path() const override { return path_; }
    int descriptor() const override { return under_->descriptor(); }
    // A read that touches a failing place fails whole, as direct reads from a real device do.
    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override;

    void setPath(std::string path) { path_ = std::move(path); }
    std::uint64_t bytesRead() const { return bytesRead_; }
    std::uint64_t failures() const { return failures_; }

  private:
    int faultAt(ByteRange range) const;  // an errno, or 0; waits where the reader stalls
    void note(ByteRange range, bool failed) const;
    void keepToRate(std::size_t bytes) const;

    std::shared_ptr<Source> under_;
    std::string path_;
    ReaderPlan plan_;
    mutable LineLog record_;
    mutable std::mutex mutex_;
    mutable std::vector<int> left_;  // of each fault, how often it still strikes
    mutable std::chrono::steady_clock::time_point ready_{};
    mutable std::atomic<bool> vanished_{false};
    mutable std::atomic<std::uint64_t> bytesRead_{0};
    mutable std::atomic<std::uint64_t> failures_{0};
};

}  // namespace dreskel
