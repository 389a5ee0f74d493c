#include "formats/clip/recorder_time.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <optional>
#include <string_view>
#include <vector>

namespace dreskel {
namespace {

using namespace std::string_view_literals;

constexpr auto kMark = "\x17\xee\x8c\x60\xf8\x4d\x11\xd9\x8c\xd6\x08\x00\x20\x0c\x9a\x66MDPM"sv;
constexpr std::size_t kRecord = 5, kMostRecords = 64;

// Without the bytes that keep start codes apart (ITU-T H.264, 7.4.1).
std::vector<std::uint8_t> unescaped(Bytes bytes) {
    std::vector<std::uint8_t> plain;
    plain.reserve(bytes.size());
    for (std::size_t at = 0; at < bytes.size(); ++at) {
        const bool keeps = at >= 2 && bytes[at] == 3 && bytes[at - 1] == 0 && bytes[at - 2] == 0;
        if (!keeps) plain.push_back(bytes[at]);
    }
    return plain;
}

std::optional<int> decimal(std::uint8_t bcd, int most) {
    const int high = bcd >> 4, low = bcd & 15;
    const int value = high * 10 + low;
    return high > 9 || low > 9 || value > most ? std::nullopt : std::optional(value);
}

}  // namespace

std::string recorderTime(Bytes stream) {
    const auto all = std::string_view(reinterpret_cast<const char*>(stream.data()), stream.size());
    // The identifier itself holds two zeros at most side by side with a byte above 3, so it is never escaped.
    const auto at = all.find(kMark);
    if (at == std::string_view::npos) return {};
    const auto note = unescaped(slice(stream, at + kMark.size(), 1 + kMostRecords * kRecord + kMostRecords));
    std::optional<Bytes> day, time;
    for (std::size_t i = 0; !note.empty() && i < std::min<std::size_t>(note[0], kMostRecords); ++i) {
        const auto record = slice(note, 1 + i * kRecord, kRecord);
        if (record.size() < kRecord) break;
        if (record[0] == 0x18) day = record;
        if (record[0] == 0x19) time = record;
    }
    if (!day || !time) return {};
    const auto century = decimal((*day)[2], 99), year = decimal((*day)[3], 99),
               month = decimal((*day)[4], 12);
    const auto date = decimal((*time)[1], 31), hour = decimal((*time)[2], 23);
    const auto minute = decimal((*time)[3], 59), second = decimal((*time)[4], 59);
    if (!century || !year || !month || !date || !hour || !minute || !second) return {};
    if (*century < 19 || *month == 0 || *date == 0) return {};
    std::array<char, 40> text{};
    std::snprintf(text.data(), text.size(), "%02d%02d-%02d-%02dT%02d:%02d:%02d", *century, *year, *month,
                  *date, *hour, *minute, *second);
    return text.data();
}

}  // namespace dreskel
