#include "source/failing_source.h"

#include <cerrno>

namespace dreskel {

ReadOutcome FailingSource::read(std::uint64_t offset, MutableBytes into) const {
    // A read that touches a bad sector fails whole, as direct reads from a real device do.
    if (failing_.intersects({offset, into.size()})) {
        ++failures_;
        return {0, EIO};
    }
    const auto outcome = under_->read(offset, into);
    bytesRead_ += outcome.count;
    return outcome;
}

}  // namespace dreskel
