// Measures that Dreskel holds itself to, printed as ratios taken in one run. See docs/measures.md.
#pragma once

#include <string>

namespace dreskel::bench {

// The signature pass against a plain sequential read of the same image, cold and cached. `image` is read
// only.
void passRatio(const std::string& image);
// A copy against dd with the same size of blocks, and with a search on top of it against the copy alone.
void copyRatio(const std::string& image, const std::string& folder);
// Peak memory of a whole scan of a sparse image of `gib` GiB, made in `folder`.
void memory(const std::string& folder, unsigned gib);
// The whole scan with every check, in MB/s.
void wholeScan(const std::string& image, const std::string& folder);

}  // namespace dreskel::bench
