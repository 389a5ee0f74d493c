#include "base/user_files.h"

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace dreskel {

std::string configurationFile(const std::string& name) {
    const char* set = std::getenv("XDG_CONFIG_HOME");
    const char* home = std::getenv("HOME");
    const std::string folder = set != nullptr && *set != '\0'
                                   ? std::string(set)
                                   : std::string(home == nullptr ? "." : home) + "/.config";
    return folder + "/dreskel/" + name;
}

Status replaceUserFile(const std::string& path, const std::string& text, const std::string& what) {
    const std::filesystem::path target(path);
    const auto beside = path + ".new";
    std::error_code failed;
    if (target.has_parent_path()) std::filesystem::create_directories(target.parent_path(), failed);
    std::ofstream file(beside, std::ios::binary | std::ios::trunc);
    file << text;
    file.close();
    if (file) std::filesystem::rename(beside, target, failed);
    if (file && !failed) return Done{};
    return Error{
        Fault::Failed,
        what + " cannot be written: " + (failed ? failed.message() : std::string(std::strerror(errno))), path,
        "Check the room and the permissions there"};
}

}  // namespace dreskel
