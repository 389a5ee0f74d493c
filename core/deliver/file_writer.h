// Writing one file so that it can be relied on: under a temporary name, flushed to the medium, read back past
// the cache where the filesystem allows, compared, and only then given its name. Never overwrites anything.
#pragma once

#include <cstdint>
#include <functional>
#include <string>

#include "base/control.h"
#include "base/result.h"
#include "source/card_view.h"

namespace dreskel {

// Every file that is being written is called so, with the number of the process behind it.
inline constexpr const char* kWritingPrefix = ".dreskel-writing-";

// Whether a file of this name was being written by a process that is gone.
bool isAbandoned(const std::string& name);
// Removes those that lie in a folder, not those in folders below it.
void removeAbandoned(const std::string& folder);

// Tells bytes from others that a drive may give back instead: 128 bits that cost nothing beside the writing
// (XXH3). What is said of a file to others is its SHA-256, which is computed of what is read back, once these
// agree: as slow as it is on many machines, it is computed once.
struct Check {
    std::uint64_t low = 0, high = 0;
    bool operator==(const Check&) const = default;
};

struct Written {
    std::string temporary;  // path
    Check check;            // of what was to be written
    std::uint64_t size = 0;
};

// Whether the filesystem there flushes everything written to it at once, so that many small files need not be
// flushed one by one. Said of those only that are known to; network folders and filesystems in user space are
// not.
bool flushesAtOnce(const std::string& folder);

// Everything that was written to the filesystem of this folder.
Status flushAll(const std::string& folder);

// The names in it, which on some filesystems are not on the medium before.
void flushFolder(const std::string& folder);

// Creates a new file beside `target` and writes the bytes to it. On any failure the file is removed again. It
// has still to be flushed.
Result<Written> writeTemporary(PieceReader& bytes, const std::string& target, Control& control,
                               const std::function<void(std::uint64_t)>& wrote);

Status flushTemporary(const Written& written);

// Reads the file back and compares. Its SHA-256 (hex), or Fault::Failed when a single byte differs.
Result<std::string> verifyTemporary(const Written& written, Control& control);

// The SHA-256 of what the medium holds of a file of `size` bytes; Fault::Failed when there are fewer.
Result<std::string> sha256OnMedium(const std::string& path, std::uint64_t size, Control& control);

// When it was last changed, in seconds since 1970. A drive that cannot keep it costs nothing else.
void setModified(const Written& written, std::int64_t seconds);

// Gives the file its name; fails when something of that name has come into being. Removes the temporary then.
Status giveName(const Written& written, const std::string& target);

// Writes a small file of our own (a manifest) the same way: flushed, and never over an existing one.
Status writeText(const std::string& path, const std::string& text);

}  // namespace dreskel
