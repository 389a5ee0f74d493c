// Text and times as directories write them.
#pragma once

#include <cstdint>
#include <string>

namespace dreskel {

// UTF-8 of UTF-16; a lone surrogate becomes U+FFFD.
std::string utf8From(const std::u16string& text);

// "2026-05-02T07:41:10" of a DOS date and time with hundredths; empty when it is no date.
std::string isoFromDos(std::uint16_t date, std::uint16_t time, unsigned hundredths);

// 8.3 as it is shown: "MILL0017.JPG"; letters beyond ASCII become "_". `lower`: the byte at 12, bits 3 and 4.
std::string shortName(const std::uint8_t* eleven, std::uint8_t lower);

}  // namespace dreskel
