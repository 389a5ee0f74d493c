#include "volume/names.h"

#include <array>
#include <cstdio>

namespace dreskel {

std::string utf8From(const std::u16string& text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        std::uint32_t code = text[i];
        if (code >= 0xd800 && code < 0xdc00 && i + 1 < text.size() && text[i + 1] >= 0xdc00 &&
            text[i + 1] < 0xe000) {
            code = 0x10000 + ((code - 0xd800) << 10) + (text[++i] - 0xdc00U);
        } else if (code >= 0xd800 && code < 0xe000) {
            code = 0xfffd;
        }
        const auto put = [&](std::uint32_t byte) { out.push_back(static_cast<char>(byte)); };
        if (code < 0x80) {
            put(code);
        } else if (code < 0x800) {
            put(0xc0 | code >> 6);
            put(0x80 | (code & 0x3f));
        } else if (code < 0x10000) {
            put(0xe0 | code >> 12);
            put(0x80 | (code >> 6 & 0x3f));
            put(0x80 | (code & 0x3f));
        } else {
            put(0xf0 | code >> 18);
            put(0x80 | (code >> 12 & 0x3f));
            put(0x80 | (code >> 6 & 0x3f));
            put(0x80 | (code & 0x3f));
        }
    }
    return out;
}

std::string isoFromDos(std::uint16_t date, std::uint16_t time, unsigned hundredths) {
    const unsigned day = date & 31U;
    const unsigned month = date >> 5 & 15U;
    const unsigned hour = time >> 11;
    const unsigned minute = time >> 5 & 63U;
    const unsigned second = (time & 31U) * 2 + (hundredths < 200 ? hundredths / 100 : 0);
    if (day == 0 || month == 0 || month > 12 || hour > 23 || minute > 59 || second > 59) return {};
    std::array<char, 40> text{};
    std::snprintf(text.data(), text.size(), "%04u-%02u-%02uT%02u:%02u:%02u", 1980U + (date >> 9), month, day,
                  hour, minute, second);
    return text.data();
}

std::string shortName(const std::uint8_t* eleven, std::uint8_t lower) {
    const auto part = [&](int from, int length, bool small) {
        std::string text;
        for (int i = from; i < from + length; ++i) {
            auto letter = eleven[i];
            if (letter >= 0x80) letter = '_';
            if (small && letter >= 'A' && letter <= 'Z') letter = static_cast<std::uint8_t>(letter + 32);
            text.push_back(static_cast<char>(letter));
        }
        const auto end = text.find_last_not_of(' ');
        text.resize(end == std::string::npos ? 0 : end + 1);
        return text;
    };
    const auto name = part(0, 8, (lower & 8) != 0);
    const auto extension = part(8, 3, (lower & 16) != 0);
    return extension.empty() ? name : name + "." + extension;
}

}  // namespace dreskel
