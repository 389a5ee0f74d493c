// JPEG XL's entropy coding (ISO/IEC 18181-1, annex C): numbers in contexts, coded by prefix codes or by
// asymmetric numeral systems. Here only to follow what stands in front of a picture's sections.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

#include "formats/prefix_code.h"

namespace dreskel::jxl {

// How a token and some bits behind it make a number (C.2.3).
struct NumberSplit {
    int exponent = 0, high = 0, low = 0;
    bool read(LowBits& bits, int largestExponent);
    std::uint32_t number(std::uint32_t token, LowBits& bits) const;
};

// The distribution of one cluster of contexts, as an alias table (C.2.6).
class Distribution {
  public:
    static constexpr int kBits = 12;
    // Counts that sum up to 1 << kBits; `tableBits`: the table has as many entries.
    Distribution(const std::vector<std::uint32_t>& counts, int tableBits);
    std::uint32_t step(std::uint32_t& state) const;

  private:
    struct Entry {
        std::uint32_t cutoff = 0, offset = 0;
        std::uint32_t symbol = 0;  // behind the cutoff
        std::uint32_t frequency = 0, otherFrequency = 0;
    };
    int slotBits_;
    std::vector<Entry> table_;
};

// The codes of a run of numbers, as they are written in front of it (C.2.1).
class Codes {
  public:
    // `mayRepeat`: it may use repeats; what stands for a few numbers may not.
    static std::optional<Codes> read(LowBits& bits, std::size_t contexts, bool mayRepeat = true);
    // Only which contexts are coded alike.
    static bool passClusters(LowBits& bits, std::size_t contexts);

  private:
    friend class Numbers;
    bool readClusters(LowBits& bits, std::size_t contexts);
    bool readPrefixCodes(LowBits& bits);
    bool readDistributions(LowBits& bits, int tableBits);

    struct Repeats {  // LZ77 (C.2.2)
        bool used = false;
        std::uint32_t from = 0, least = 0;
        NumberSplit split;
    };
    Repeats repeats_;
    std::vector<std::uint8_t> clusters_;  // of each context; with repeats one more, of their distances
    std::size_t many_ = 1;                // clusters
    std::vector<NumberSplit> splits_;
    std::vector<PrefixCode> prefixes_;  // or:
    std::vector<Distribution> distributions_;
};

// The numbers themselves, one by one.
class Numbers {
  public:
    // Both have to outlive it.
    Numbers(const Codes& codes, LowBits& bits);
    std::uint32_t next(std::size_t context);
    // The state is back where an encoder starts from: nothing else ends so but by chance, if states are used.
    bool endsRight() const;
    bool proves() const { return !codes_.distributions_.empty(); }

  private:
    std::uint32_t token(std::size_t cluster);

    const Codes& codes_;
    LowBits& bits_;
    std::uint32_t state_ = 0;
    std::vector<std::uint32_t> said_;  // what repeats may take from
    std::uint64_t copyFrom_ = 0, copies_ = 0;
};

}  // namespace dreskel::jxl
