// Follows a lossless JPEG stream (ITU-T T.81, Annex H; SOF3), as DNG and several cameras' raw files hold
// their sensor data in, from its first byte to its end marker. It works out every sample, and says at
// which byte the data stopped making sense: no such code, a sample beyond the stated precision, data that end
// before or run on behind the last sample, rows that have nothing to do with those above.
//
// The bytes are pushed in, in any portions; a copy is a saved state that can be gone on with using other
// bytes. Not thread-safe. Memory: two rows of samples, and 50 KiB a Huffman table.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "base/bytes.h"
#include "formats/jpeg/bit_reader.h"
#include "formats/jpeg/huffman.h"
#include "formats/jpeg/row_continuity.h"
#include "formats/jpeg/row_seams.h"

namespace dreskel::jpeg {

class LosslessDecoder {
  public:
    enum class State { Hungry, Ended, Broken };

    // `most`: the largest sample that there can be, where that is known from elsewhere; encoders may state a
    // precision far beyond it. `at`: where in its file the stream stands.
    explicit LosslessDecoder(std::uint32_t most = UINT32_MAX, std::uint64_t at = 0)
        : most_(most), nextBorder_(RowSeams::kSmallestCluster - at % RowSeams::kSmallestCluster) {}

    // Takes the next bytes of the stream; `last` says that none follow. What stands behind the end is not
    // looked at.
    State feed(Bytes bytes, bool last);
    void lookClosely(bool closely) {
        continuity_.lookClosely(closely);
        seams_.lookClosely(closely);
    }
    State state() const { return state_; }
    // Ended: the first byte behind the stream. Otherwise how far the data make sense.
    std::uint64_t offset() const { return offset_; }
    const std::string& why() const { return why_; }

  private:
    enum class Step { More, Again, Stop };
    struct Part {
        std::uint8_t id = 0, table = 0;
        std::uint8_t units = 1;  // samples of it in an MCU
        // The last two rows, replaced from the left by the row in hand.
        std::vector<std::uint16_t> above, twoAbove;
    };

    std::size_t run(Bytes window, bool last);
    Step marker(Bytes window, std::size_t& at, bool last);
    bool segment(std::uint8_t code, Bytes body);
    bool readFrame(Bytes body);
    bool readHuffman(Bytes body);
    bool readScan(Bytes body);
    Step entropy(Bytes window, std::size_t& at, bool last);
    bool restart(Bytes window, std::size_t& position);
    const char* mcu(BitReader& bits);
    const char* sample(BitReader& bits, Part& part, int& value) const;
    int foretell(const Part& part) const;
    Step broken(std::uint64_t byte, const char* why);

    std::uint32_t most_;
    std::uint64_t nextBorder_;  // in the stream, of the file's smallest clusters
    State state_ = State::Hungry;
    std::uint64_t offset_ = 0;  // stream position of the first byte not consumed
    std::vector<std::uint8_t> carry_;
    std::string why_;

    bool started_ = false, inScan_ = false;
    std::uint32_t width_ = 0, height_ = 0;  // in MCUs
    int precision_ = 0, predictor_ = 0, pointShift_ = 0;
    int beyond_ = 0;           // what no sample reaches
    bool valuesKnown_ = true;  // with sampling the order of the samples differs between cameras
    std::vector<Part> parts_;  // of the frame, then in the order of the scan
    std::array<std::shared_ptr<const HuffmanTable>, 4> tables_;
    std::uint32_t restartInterval_ = 0;  // MCUs

    std::uint32_t column_ = 0, row_ = 0;
    RowContinuity continuity_;
    RowSeams seams_;
    std::uint64_t lastThatFollowed_ =
        0;                  // where the last row that went on with those above ended, in the stream
    bool firstRow_ = true;  // since the start or the last restart
    std::array<int, 4> left_{}, aboveLeft_{};
    std::uint32_t sinceRestart_ = 0, nextRestart_ = 0;
    int bitsUsed_ = 0;  // of the first byte of the next window
    std::uint32_t strayBytes_ = 0;
};

}  // namespace dreskel::jpeg
