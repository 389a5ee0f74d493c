// What directories said, looked up by where files begin, and brought together with what was found there:
// names, folders, dates and true lengths. Where the two disagree the bytes decide, and that is noted.
#pragma once

#include <map>
#include <optional>
#include <vector>

#include "job/finding.h"
#include "volume/remembered.h"

namespace dreskel {

// What stands behind the last dot of a name, in lower case.
std::string lowerExtension(const std::string& name);

// Not thread-safe, but for `placesAt`, which may be called while nothing is added.
class DirectoryBook {
  public:
    void add(Remembered remembered);
    bool empty() const { return files_.empty(); }
    const std::vector<RememberedFile>& files() const { return files_; }
    const RangeSet& present() const { return present_; }
    const RangeSet& structures() const { return structures_; }

    // Where a file that begins at `start` lies, when a directory knows it to be in pieces.
    std::vector<ByteRange> placesAt(std::uint64_t start) const;

    // How long the lost file that begins at `start` was, as a directory has it; nothing when none knows of
    // one of this family, or when it cannot be that file, which is `proven` for so many bytes.
    std::optional<std::uint64_t> lengthAt(std::uint64_t start, const std::string& family,
                                          std::uint64_t proven) const;

    // Names a file that was found by its signature, and cuts or lengthens it to its true length. False when
    // no entry fits it.
    bool apply(Finding& finding) const;

    // A file that only a directory knows of, as it is listed before, and when nothing else is known of it;
    // nothing when it cannot be offered: no bytes of its own are left, or what should begin there does not.
    static Finding promised(const RememberedFile& file);

  private:
    const RememberedFile* fitting(const Finding& finding) const;

    std::vector<RememberedFile> files_;
    std::multimap<std::uint64_t, std::size_t> byStart_;
    RangeSet present_, structures_;
};

// Whether a name's extension is that of a format that signatures know.
bool isFormatsName(const std::string& name);

}  // namespace dreskel
