// Sensor data as Nikon's raw files hold them: differences of samples in Huffman codes, row by row, as LibRaw
// reads them. What a file says of its coding stands in its maker's note.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/bytes.h"
#include "formats/jpeg/bit_reader.h"
#include "formats/jpeg/huffman.h"
#include "formats/jpeg/row_continuity.h"

namespace dreskel::tiff {

struct NikonCoding {
    std::uint32_t width = 0, height = 0;   // samples
    unsigned bits = 0;                     // of a sample
    std::array<std::uint16_t, 4> first{};  // what the first two samples of the first two rows differ from
    int beyond = 0;                        // what no sample reaches
    std::uint32_t split = 0;               // the row from which on other codes hold; 0: none
    std::shared_ptr<const jpeg::HuffmanTable> codes, codesBehindSplit;
};

bool isNikonNote(Bytes note);
// From the maker's note (Exif 2.32, tag 0x927c). Nothing when it states no such coding.
std::optional<NikonCoding> readNikonCoding(Bytes note, std::uint32_t width, std::uint32_t height,
                                           unsigned bits);

// A plain value: a copy is a state to go on from with other bytes. Memory: two rows.
class NikonRows {
  public:
    enum class State { Hungry, Ended, Broken, NotUnderstood };

    explicit NikonRows(std::shared_ptr<const NikonCoding> coding);
    State feed(Bytes bytes, bool last);
    void lookClosely(bool closely) { continuity_.lookClosely(closely); }
    std::uint64_t offset() const { return offset_; }  // how far the data make sense
    const std::string& why() const { return why_; }

  private:
    std::size_t run(Bytes window, bool last);
    const char* sample(jpeg::BitReader& bits);
    void broken(std::uint64_t byte, const char* why);

    std::shared_ptr<const NikonCoding> coding_;
    State state_ = State::Hungry;
    std::uint64_t offset_ = 0, behind_ = 0, lastThatFollowed_ = 0;
    std::vector<std::uint8_t> carry_;
    int bitsUsed_ = 0;  // of the first byte of the carry
    std::uint32_t row_ = 0, column_ = 0;
    std::array<std::array<int, 2>, 2> down_{};
    std::array<int, 2> along_{};
    std::vector<std::uint16_t> above_, twoAbove_;
    jpeg::RowContinuity continuity_;
    std::string why_;
};

}  // namespace dreskel::tiff
