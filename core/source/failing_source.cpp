#include "source/failing_source.h"

#include <algorithm>
#include <cerrno>
#include <thread>

namespace dreskel {
namespace {

ReaderPlan planOf(const RangeSet& failing) {
    ReaderPlan plan;
    for (const auto& range : failing.ranges()) plan.faults.push_back({range, ReaderFault::Does::Fail, -1, 0});
    return plan;
}

}  // namespace

FailingSource::FailingSource(std::shared_ptr<Source> under, ReaderPlan plan)
    : under_(std::move(under)), path_(under_->path()), plan_(std::move(plan)) {
    for (const auto& fault : plan_.faults) left_.push_back(fault.times);
    if (!plan_.record.empty()) record_ = LineLog(plan_.record);
}

FailingSource::FailingSource(std::shared_ptr<Source> under, const RangeSet& failing)
    : FailingSource(std::move(under), planOf(failing)) {}

int FailingSource::faultAt(ByteRange range) const {
    double wait = 0;
    int error = 0;
    {
        const std::lock_guard lock(mutex_);
        for (std::size_t i = 0; i < plan_.faults.size(); ++i) {
            const auto& fault = plan_.faults[i];
            if (left_[i] == 0 || !fault.range.overlaps(range)) continue;
            if (left_[i] > 0) --left_[i];
            switch (fault.does) {
                case ReaderFault::Does::Fail: error = EIO; break;
                case ReaderFault::Does::Stall: wait += fault.seconds; break;
                case ReaderFault::Does::Vanish: vanished_ = true; break;
            }
        }
        if (plan_.vanishAfter > 0 && bytesRead_ >= plan_.vanishAfter) vanished_ = true;
    }
    if (vanished_) return ENODEV;
    if (wait > 0) std::this_thread::sleep_for(std::chrono::duration<double>(wait));
    return error;
}

void FailingSource::note(ByteRange range, bool failed) const {
    if (!record_.ok()) return;
    record_.add(std::to_string(range.offset) + " " + std::to_string(range.length) +
                (failed ? " failed" : " ok"));
}

void FailingSource::keepToRate(std::size_t bytes) const {
    if (plan_.bytesPerSecond == 0) return;
    using namespace std::chrono;
    steady_clock::time_point until;
    {
        const std::lock_guard lock(mutex_);
        const duration<double> needed(static_cast<double>(bytes) / static_cast<double>(plan_.bytesPerSecond));
        ready_ = std::max(ready_, steady_clock::now()) + duration_cast<steady_clock::duration>(needed);
        until = ready_;
    }
    std::this_thread::sleep_until(until);
}

ReadOutcome FailingSource::read(std::uint64_t offset, MutableBytes into) const {
    if (const int error = faultAt({offset, into.size()}); error != 0) {
        ++failures_;
        note({offset, into.size()}, true);
        return {0, error};
    }
    const auto outcome = under_->read(offset, into);
    keepToRate(outcome.count);
    bytesRead_ += outcome.count;
    note({offset, outcome.count}, false);
    return outcome;
}

}  // namespace dreskel
