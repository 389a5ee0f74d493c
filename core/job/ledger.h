// The account of every sector of a card: each byte is in one of these, and they add up to the card's size.
#pragma once

#include <cstdint>
#include <vector>

#include "job/job.h"

namespace dreskel {

struct Ledger {
    std::uint64_t files = 0;       // of listed files, each byte once
    std::uint64_t structures = 0;  // boot sectors, allocation tables, folders
    std::uint64_t blank = 0;       // stretches of at least 16 KiB of one and the same byte
    std::uint64_t unreadable = 0;
    std::uint64_t unexplained = 0;
    std::vector<ByteRange> unexplainedAt;  // where that is, in order
    std::uint64_t notLookedAt = 0;         // outside the span that was asked for, or not reached yet
    std::uint64_t claimedTwice = 0;        // by two listed files; told, and counted once above

    std::uint64_t total() const {
        return files + structures + blank + unreadable + unexplained + notLookedAt;
    }
};

Ledger ledgerOf(const Job& job);

}  // namespace dreskel
