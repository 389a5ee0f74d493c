// A job with as many files as wanted, made without a card to search: what is known of a wedding season's
// worth of photos, clips and recordings, with small pictures.
#pragma once

#include <cstddef>
#include <string>

namespace dreskel::bench {

// In `folder`, which must not hold one yet; the source is a sparse file beside it. False when it cannot be
// written.
bool makeManyFiles(const std::string& folder, std::size_t files);

}  // namespace dreskel::bench
