// Sensor data in differences to the sample of the same colour beside, in codes of up to twelve bits, as
// Nikon's and Pentax's raw files hold them (as LibRaw reads them). What a file says of its coding stands in
// its maker's note.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <vector>

#include "formats/jpeg/huffman.h"
#include "formats/photo/sensor_rows.h"

namespace dreskel {

struct DifferenceCoding final : SensorCoding {
    static constexpr int kLookBits = 12;
    using Codes = std::vector<jpeg::HuffmanTable::Code>;  // for each kLookBits bits; length 0: none

    std::uint32_t width = 0, height = 0;   // samples
    unsigned bits = 0;                     // of a sample
    std::array<std::uint16_t, 4> first{};  // what the first two samples of the first two rows differ from
    int beyond = 0;                        // what no sample reaches
    std::uint32_t split = 0;               // the row from which on other codes hold; 0: none
    // A symbol: the bits of a difference; in the upper half how many of them are left out.
    std::shared_ptr<const Codes> codes, codesBehindSplit;

    std::unique_ptr<SensorRows> rows(std::uint64_t at) const override;
};

bool isNikonNote(Bytes note);
// From the maker's note (Exif 2.32, tag 0x927c). Nothing when it states no such coding.
std::optional<DifferenceCoding> readNikonCoding(Bytes note, std::uint32_t width, std::uint32_t height,
                                                unsigned bits);

bool isPentaxNote(Bytes note);
// The same; `at`: where the note stands in the file, and in which order its bytes are where it does not say
// so itself.
std::optional<DifferenceCoding> readPentaxCoding(Bytes note, std::uint64_t at, Endian endian,
                                                 std::uint32_t width, std::uint32_t height, unsigned bits);

}  // namespace dreskel
