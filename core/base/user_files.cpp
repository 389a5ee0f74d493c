#include "base/user_files.h"

#include <cstdlib>

namespace dreskel {

std::string configurationFile(const std::string& name) {
    const char* set = std::getenv("XDG_CONFIG_HOME");
    const char* home = std::getenv("HOME");
    const std::string folder = set != nullptr && *set != '\0'
                                   ? std::string(set)
                                   : std::string(home == nullptr ? "." : home) + "/.config";
    return folder + "/dreskel/" + name;
}

}  // namespace dreskel
