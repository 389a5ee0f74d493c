// Whose bytes are whose. Files whose ranges overlap are settled by evidence, so that no byte is counted
// twice: previews stay inside their parents, a file that lies where another one stopped making sense keeps
// its bytes, and what is left of the other is said.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <set>
#include <vector>

#include "job/job.h"
#include "source/card_view.h"

namespace dreskel {

// Not thread-safe.
class Claims {
  public:
    explicit Claims(const CardView& card) : card_(card) {}

    // A file as its own walk and check left it; `finding.evidence` must be filled in.
    void add(Finding finding);
    // Lets `change` alter a file's facts; those it gives true for are settled anew.
    void revise(const std::function<bool(Finding&)>& change);
    // Takes a file out again; those it overlapped are settled anew.
    void remove(std::int64_t id);
    // Settles what was added since the last call and returns every finding that this changed.
    std::vector<Finding> settle();
    const std::map<std::int64_t, Finding>& all() const { return findings_; }
    // The file that a candidate has become already, when it is examined a second time.
    std::optional<std::int64_t> at(const Candidate& candidate) const;
    // Files with the very same bytes as an earlier one are marked so. Returns those that were.
    std::vector<Finding> markDuplicates(CardView& card);

  private:
    std::vector<std::int64_t> component(std::int64_t id) const;
    void settleComponent(const std::vector<std::int64_t>& ids);
    std::vector<const Finding*> overlapping(ByteRange range) const;

    const CardView& card_;
    std::map<std::int64_t, Finding> findings_;
    std::map<std::uint64_t, std::vector<std::int64_t>> byStart_;
    std::vector<std::int64_t> long_;  // those that reach further than kNear; few
    std::set<std::int64_t> dirty_;
};

}  // namespace dreskel
