// Follows a JPEG stream (ITU-T T.81) from its first byte, decoding the entropy-coded data of baseline,
// extended and progressive Huffman images without rebuilding samples. It says at which MCU and at which byte
// the data stopped making sense.
//
// The bytes are pushed in, in any portions. Between two calls of feed() the decoder can be copied: the copy
// is a saved state that can be gone on with using other bytes, which is what joining fragments needs. A copy
// shares nothing with its origin but the DcPlanes it was given.
//
// Not thread-safe; different decoders may run in different threads. Memory: about 160 KiB, and 8 bytes a
// block for progressive images.
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
#include "formats/jpeg/sequential.h"

namespace dreskel::jpeg {

struct Component {
    std::uint8_t id = 0;
    std::uint8_t h = 1, v = 1;  // sampling factors
    std::uint8_t quantTable = 0;
    std::uint8_t dcTable = 0, acTable = 0;
    std::uint32_t blocksWide = 0, blocksHigh = 0;  // that hold samples of the picture
    std::uint32_t paddedWide = 0, paddedHigh = 0;  // rounded up to whole MCUs
};

struct Frame {
    std::uint8_t precision = 0;  // bits a sample
    std::uint32_t width = 0, height = 0;
    bool progressive = false;
    std::uint32_t mcusWide = 0, mcusHigh = 0;
    std::vector<Component> components;
};

// The DC value of every block as samples 0-255 (one eighth of the picture in each direction), filled in as
// decoding goes. Owned by the caller, and must outlive the decoder and its copies.
struct DcPlanes {
    struct Plane {
        std::uint32_t width = 0, height = 0;
        std::vector<std::int16_t> dc;  // quantised
        std::uint16_t quant = 1;
    };
    std::vector<Plane> planes;
    // The MCU of the first scan that was reached at each multiple of kMarkStep bytes of the file, from the
    // first such multiple inside the scan on: where a file that lies in pieces may have its joins.
    static constexpr std::uint64_t kMarkStep = 4096;
    std::vector<std::uint64_t> marks;
    // Bytes between such a multiple and the stream's beginning, which may lie inside another file.
    std::uint64_t phase = 0;
    std::uint64_t steps(std::uint64_t byte) const {
        return (byte + phase) / kMarkStep;
    }  // byte of the stream
    std::uint64_t byteOf(std::uint64_t step) const { return step * kMarkStep - phase; }

    // The MCU in which a byte of the file stands that is such a multiple, where decoding has come so far.
    // `scanStart`: where the first scan's data begin.
    std::optional<std::uint64_t> mcuAt(std::uint64_t scanStart, std::uint64_t byte) const {
        if (byte <= scanStart || (byte + phase) % kMarkStep != 0) return std::nullopt;
        const auto index = steps(byte) - (steps(scanStart) + 1);
        return index < marks.size() ? std::optional(marks[index]) : std::nullopt;
    }

    // A later scan, of AC coefficients of one component (progressive images): how many of them it tells not
    // to be zero in each block, and the same marks. Where it refines what earlier scans told, also how many
    // were known before.
    struct Later {
        std::size_t component = 0;
        std::uint64_t firstMark = 0;  // in steps, from the start of the stream; 0: its data have not begun
        std::vector<std::uint64_t> marks;
        std::vector<std::uint8_t> busy, known;  // row by row, as far as was decoded; known: or empty
    };
    static constexpr std::size_t kMostLater = 12;  // encoders write eight
    std::vector<Later> later;

    // How far decoding was, to take it up again from there; what was noted since is forgotten.
    struct Place {
        std::size_t marks = 0, later = 0, laterMarks = 0;
    };
    Place place() const {
        return {marks.size(), later.size(), later.empty() ? 0 : later.back().marks.size()};
    }
    void goBackTo(const Place& place) {
        marks.resize(std::min(marks.size(), place.marks));
        later.resize(std::min(later.size(), place.later));
        if (!later.empty()) later.back().marks.resize(std::min(later.back().marks.size(), place.laterMarks));
    }
};

// Which coefficients of each block of a component are not zero, one bit each. Copies share what neither has
// changed.
class NotZero {
  public:
    explicit NotZero(std::size_t blocks) : chunks_((blocks + kChunk - 1) / kChunk) {}
    std::uint64_t& operator[](std::size_t block) {
        auto& chunk = chunks_[block / kChunk];
        if (!chunk) {
            chunk = std::make_shared<Chunk>();
        } else if (chunk.use_count() > 1) {
            chunk = std::make_shared<Chunk>(*chunk);
        }
        return (*chunk)[block % kChunk];
    }

  private:
    static constexpr std::size_t kChunk = 1024;
    using Chunk = std::array<std::uint64_t, kChunk>;
    std::vector<std::shared_ptr<Chunk>> chunks_;
};

// Where and why the data stopped making sense.
struct Break {
    std::uint64_t byte = 0;  // from the start of the stream
    std::uint64_t mcu = 0;   // of the scan
    std::uint32_t scan = 0;  // counted from 1; 0: before the first scan
    std::string why;
};

class StreamDecoder {
  public:
    enum class State { Hungry, Ended, Broken };

    explicit StreamDecoder(DcPlanes* planes = nullptr) : planes_(planes) {}

    // Takes the next bytes of the stream; `last` says that none follow. Bytes after the end or the break are
    // not looked at.
    State feed(Bytes bytes, bool last);

    State state() const { return state_; }
    bool hasFrame() const { return hasFrame_; }
    const Frame& frame() const { return frame_; }
    std::uint32_t scans() const { return scans_; }
    // Where the first scan's coded data begins; 0 before it.
    std::uint64_t codedDataAt() const { return codedDataAt_; }
    // Ended: the first byte after the end marker. Broken: the break. Hungry: what is decoded so far.
    std::uint64_t offset() const { return offset_; }
    // In the header: where the segment in hand begins, and where the next marker must stand.
    std::uint64_t segmentAt() const { return segmentAt_; }
    std::uint64_t nextMarker() const { return offset_ + skip_; }
    const Break& breakPoint() const { return break_; }
    // Entropy coding that is not decoded here (arithmetic, lossless): followed by its markers only.
    bool skimmed() const { return skim_; }
    bool restarts() const { return restartInterval_ > 0; }
    // 0 to 7, of the restart marker that is due next.
    std::uint32_t nextRestart() const { return nextRestart_; }
    // Decoding stands between two bytes, not within something that was not complete.
    bool betweenBytes() const { return carry_.empty(); }
    // Within a scan, and the last MCU ended with a whole byte.
    bool betweenMcus() const { return inScan_ && carry_.empty() && bitsUsed_ == 0; }
    // Of the scan in hand, how many are decoded.
    std::uint64_t mcu() const { return mcu_; }
    // Within a scan of a sequential image: how its MCUs are coded.
    SequentialScan sequentialScan() const;
    // Share of the picture's blocks whose (first) data decoded, 0 to 1.
    double decodedShare() const;
    const std::vector<std::string>& notes() const { return notes_; }

  private:
    enum class Step { More, Again, Stop };

    struct ScanComponent {
        std::size_t index = 0;
        int dcPrediction = 0;
        int mostDc = 0;  // more than that, either way, is brighter than white or darker than black
    };

    std::size_t run(Bytes window, bool last);
    Step marker(Bytes window, std::size_t& at, bool last);
    bool segment(std::uint8_t code, Bytes body);
    bool readFrame(std::uint8_t code, Bytes body, std::string& why);
    bool readQuant(Bytes body, std::string& why);
    bool readHuffman(Bytes body, std::string& why);
    bool readScan(Bytes body, std::string& why);
    // Zero bits are blocks as even as their neighbours in this scan, as an encoder that makes its own tables
    // may have it. By other tables they are coefficients that no picture has by the hundred: the data have
    // ended there.
    bool zerosAreEven() const;
    // Where the scan in hand notes its marks, if it does; the first of them, in steps.
    std::vector<std::uint64_t>* marksOfScan();
    std::uint64_t firstMarkOfScan();
    Step entropy(Bytes window, std::size_t& at, bool last);
    Step skim(Bytes window, std::size_t& at, bool last);
    Step restart(Bytes window, std::size_t& position, bool last);
    bool mcu(BitReader& bits, const SequentialScan& scan);
    DcPredictions predictions() const;
    void predict(const DcPredictions& predictions);
    // Progressive: no bit of any coefficient is left to be told by a further scan (G.1.1.1). Encoders tell
    // all.
    bool toldAll() const;
    // Of a component, in the first `mcus` of the scan in hand.
    std::uint64_t blocksIn(const Component& component, std::uint64_t mcus) const;
    void passed(std::uint64_t mcus);  // counts them
    bool progressiveMcu(BitReader& bits, std::uint32_t x, std::uint32_t y);
    bool block(BitReader& bits, ScanComponent& part, std::uint32_t x, std::uint32_t y);
    bool dcFirst(BitReader& bits, ScanComponent& part, const Component& component, std::uint32_t x,
                 std::uint32_t y);
    bool acFirst(BitReader& bits, const Component& component, std::uint64_t& history);
    bool acRefine(BitReader& bits, const Component& component, std::uint64_t& history);
    Step broken(std::uint64_t byte, std::string why);

    State state_ = State::Hungry;
    std::uint64_t offset_ = 0;  // stream position of the first byte not consumed
    std::vector<std::uint8_t> carry_;

    bool started_ = false;
    bool hasFrame_ = false;
    bool skim_ = false;
    bool inScan_ = false;
    bool afterScan_ = false;
    std::uint64_t segmentAt_ = 0;
    std::uint64_t skip_ = 0;  // bytes of a segment that is passed over
    Frame frame_;
    std::array<std::array<std::uint16_t, 64>, 4> quant_{};
    std::array<bool, 4> hasQuant_{};
    std::array<std::shared_ptr<const HuffmanTable>, 4> dcTables_, acTables_;
    std::uint32_t restartInterval_ = 0;  // MCUs

    std::uint32_t scans_ = 0;
    std::uint64_t codedDataAt_ = 0;
    std::array<ScanComponent, 4> parts_{};
    std::size_t partCount_ = 0;
    std::uint64_t mcu_ = 0, mcus_ = 0;
    std::uint32_t sinceRestart_ = 0;
    std::uint32_t nextRestart_ = 0;
    std::uint32_t scanWide_ = 0;  // MCUs across in this scan
    int spectralStart_ = 0, spectralEnd_ = 63, approxHigh_ = 0, approxLow_ = 0;
    std::uint32_t endOfBandRun_ = 0;
    bool noting_ = false;  // the scan is the last of planes_->later
    int bitsUsed_ = 0;     // of the first byte of the next window
    std::uint32_t strayBytes_ = 0;

    // Progressive: of each component's coefficients, how many low bits have not been told.
    static constexpr std::uint8_t kUntold = 255;
    std::array<std::array<std::uint8_t, 64>, 4> bitsLeft_{};
    // Progressive, of each component from the first scan of its AC coefficients on.
    std::vector<std::optional<NotZero>> history_;
    std::vector<std::uint64_t> blocksDone_;
    std::string reason_;
    Break break_;
    std::vector<std::string> notes_;
    DcPlanes* planes_;
};

}  // namespace dreskel::jpeg
