#include "copy/map_writer.h"

#include <fcntl.h>
#include <stdio.h>
#include <sys/file.h>
#include <sys/stat.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <sstream>

namespace dreskel {
namespace {

Error failed(const std::string& what, const std::string& path) {
    return {Fault::Failed, what + ": " + std::strerror(errno), path,
            "Check the room and the rights on the drive that takes the copy"};
}

// A value in the rest of its line; what would end the line early is left out.
std::string oneLine(std::string text) {
    std::erase_if(text, [](char letter) { return letter == '\n' || letter == '\r'; });
    return text;
}

std::string lineOf(const MapCell& cell) {
    std::ostringstream line;
    line << toWord(cell.state) << ' ' << cell.range.offset << ' ' << cell.range.length;
    if (cell.tries > 0) line << ' ' << cell.tries;
    line << '\n';
    return line.str();
}

std::string textOf(const MapContent& content) {
    std::ostringstream text;
    text << kMapFirstLine << "\npath " << oneLine(content.card.path) << '\n';
    if (!content.card.serial.empty()) text << "serial " << oneLine(content.card.serial) << '\n';
    text << "size " << content.card.size << "\nsector " << content.card.sectorSize << '\n';
    for (const auto& cell : content.map->cells()) {
        if (cell.state != Tried::Untried) text << lineOf(cell);
    }
    if (!content.sha256.empty()) text << "sha256 " << content.sha256 << '\n';
    return text.str();
}

bool writeAll(int fd, std::string_view text) {
    while (!text.empty()) {
        const auto count = ::write(fd, text.data(), text.size());
        if (count < 0 && errno == EINTR) continue;
        if (count <= 0) return false;
        text.remove_prefix(static_cast<std::size_t>(count));
    }
    return true;
}

}  // namespace

Result<std::unique_ptr<MapWriter>> MapWriter::open(const std::string& path, const MapContent& content) {
    UniqueFd lock(::open(path.c_str(), O_WRONLY | O_CREAT | O_CLOEXEC, 0644));
    if (!lock) return failed("The copy's map cannot be written", path);
    // Another one may have taken the name over between the opening and the lock.
    struct stat named {};
    struct stat opened {};
    const bool ours = ::flock(lock.get(), LOCK_EX | LOCK_NB) == 0 && ::stat(path.c_str(), &named) == 0 &&
                      ::fstat(lock.get(), &opened) == 0 && named.st_ino == opened.st_ino;
    if (!ours) {
        return Error{Fault::Failed, "This copy is being made by another Dreskel", path,
                     "Stop the other one first"};
    }
    std::unique_ptr<MapWriter> file(new MapWriter({}, path));
    if (auto written = file->rewrite(content); !written) return written.error();
    return file;
}

Status MapWriter::rewrite(const MapContent& content) {
    // Beside it and renamed, so that a kill leaves the old map or the new one.
    const auto fresh = path_ + ".new";
    UniqueFd fd(::open(fresh.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_APPEND | O_CLOEXEC, 0644));
    if (!fd || ::flock(fd.get(), LOCK_EX | LOCK_NB) != 0 || !writeAll(fd.get(), textOf(content)) ||
        ::fsync(fd.get()) != 0 || ::rename(fresh.c_str(), path_.c_str()) != 0)
        return failed("The copy's map cannot be written", path_);
    fd_ = std::move(fd);
    return Done{};
}

Status MapWriter::add(const MapCell& cell) {
    if (!writeAll(fd_.get(), lineOf(cell))) return failed("The copy's map cannot be written", path_);
    return Done{};
}

}  // namespace dreskel
