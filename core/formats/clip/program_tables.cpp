#include "formats/clip/program_tables.h"

#include <algorithm>

namespace dreskel {
namespace {

constexpr std::uint16_t kPrograms = 0, kReserved = 0x1f, kNoStream = 0x1fff;
constexpr std::uint8_t kProgramsId = 0, kMapId = 2;
constexpr std::uint8_t kClockOnly = 0xff;  // not a type: the stream that carries the clock
constexpr std::uint8_t kAvc = 0x1b, kHevc = 0x24;
constexpr std::size_t kSectionHead = 3, kCheck = 4;

std::uint16_t pidIn(ByteReader& reader) {
    return reader.u16() & 0x1fffU;
}

}  // namespace

bool ProgramTables::take(std::uint16_t pid, bool begins, Bytes payload) {
    const bool known = maps_.contains(pid);
    if (!begins || (pid != kPrograms && !known) || payload.empty()) return false;
    const auto section = slice(payload, std::size_t{1} + payload[0], payload.size());
    ByteReader reader(section);
    const auto id = reader.u8();
    const std::size_t length = reader.u16() & 0xfffU;
    const auto body = reader.take(length);
    if (id != (pid == kPrograms ? kProgramsId : kMapId)) return false;
    if (!reader.ok() || length < 5 + kCheck) {
        notAll_ = true;
        return false;
    }
    const auto inside = body.first(length - kCheck).subspan(5);
    if (pid == kPrograms) return programs(inside);
    streams(pid, inside);
    return false;
}

bool ProgramTables::programs(Bytes section) {
    ByteReader reader(section);
    const bool first = maps_.empty();
    bool others = false;
    while (reader.left() >= 4) {
        const auto number = reader.u16();
        const auto pid = pidIn(reader);
        if (number != 0) {
            others = maps_.emplace(pid, false).second || others;
        } else {
            streams_.emplace(pid, kClockOnly);
        }
    }
    return others && !first;
}

void ProgramTables::streams(std::uint16_t pid, Bytes section) {
    ByteReader reader(section);
    const auto clock = pidIn(reader);
    if (clock != kNoStream) streams_.emplace(clock, kClockOnly);
    reader.skip(reader.u16() & 0xfffU);
    while (reader.ok() && reader.left() >= 5) {
        const auto type = reader.u8();
        streams_[pidIn(reader)] = type;
        reader.skip(reader.u16() & 0xfffU);
    }
    if (reader.ok()) maps_[pid] = true;
}

bool ProgramTables::mayHold(std::uint16_t pid) const {
    const bool all = !notAll_ && !maps_.empty() &&
                     std::all_of(maps_.begin(), maps_.end(), [](const auto& map) { return map.second; });
    return !all || pid <= kReserved || pid == kNoStream || maps_.contains(pid) || streams_.contains(pid);
}

std::optional<PictureCoding> ProgramTables::codingOf(std::uint16_t pid) const {
    const auto found = streams_.find(pid);
    if (found == streams_.end()) return std::nullopt;
    if (found->second == kAvc) return PictureCoding::Avc;
    if (found->second == kHevc) return PictureCoding::Hevc;
    return std::nullopt;
}

}  // namespace dreskel
