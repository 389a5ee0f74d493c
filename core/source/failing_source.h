// A stand-in for a card that cannot be read everywhere: the bytes of another source, with sectors that
// always fail. Counts what is asked of it, so that a test can show that nothing is read twice.
#pragma once

#include <atomic>
#include <memory>

#include "base/range.h"
#include "source/source.h"

namespace dreskel {

class FailingSource : public Source {
  public:
    FailingSource(std::shared_ptr<Source> under, RangeSet failing)
        : under_(std::move(under)), failing_(std::move(failing)) {}

    std::uint64_t size() const override { return under_->size(); }
    std::uint32_t sectorSize() const override { return under_->sectorSize(); }
    const std::string& path() const override { return under_->path(); }
    int descriptor() const override { return under_->descriptor(); }
    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override;

    std::uint64_t bytesRead() const { return bytesRead_; }
    std::uint64_t failures() const { return failures_; }

  private:
    std::shared_ptr<Source> under_;
    RangeSet failing_;
    mutable std::atomic<std::uint64_t> bytesRead_{0};
    mutable std::atomic<std::uint64_t> failures_{0};
};

}  // namespace dreskel
