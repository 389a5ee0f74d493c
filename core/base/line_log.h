// A text file of our own that grows by whole lines: a kill leaves no part of one that was begun later.
#pragma once

#include <string>
#include <string_view>

#include "base/unique_fd.h"

namespace dreskel {

// Each line is one write. Not meant for two processes at a time.
class LineLog {
  public:
    LineLog() = default;
    // Makes the file when it is not there. `ok()` is false when that fails; errno says why.
    explicit LineLog(const std::string& path);
    bool ok() const { return static_cast<bool>(fd_); }
    // False when it could not be written; errno says why. The end of the line is added.
    bool add(std::string_view line);

  private:
    UniqueFd fd_;
};

}  // namespace dreskel
