#include "base/line_log.h"

#include <fcntl.h>

#include <cerrno>

namespace dreskel {

LineLog::LineLog(const std::string& path)
    : fd_(::open(path.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0644)) {}

bool LineLog::add(std::string_view line) {
    std::string text(line);
    text.push_back('\n');
    for (std::string_view rest = text; !rest.empty();) {
        const auto count = ::write(fd_.get(), rest.data(), rest.size());
        if (count < 0 && errno == EINTR) continue;
        if (count <= 0) return false;
        rest.remove_prefix(static_cast<std::size_t>(count));
    }
    return true;
}

}  // namespace dreskel
