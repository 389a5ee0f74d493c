// What a good photo lends to one of the same camera whose beginning is gone: its header, with the tables that
// the coded data cannot be read without; and coded data to stand for the blocks that are missing (ITU-T
// T.81, B.2, F.1.2).
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "base/bytes.h"

namespace dreskel::jpeg {

class Lender {
  public:
    struct Code {
        std::uint16_t bits = 0;
        std::uint8_t length = 0;  // 0: there is no such code
    };
    struct Part {  // of an MCU
        int blocks = 1;
        int quant = 1;  // what a step of its brightness is worth
        std::array<Code, 16> dc{};
        std::array<Code, 256> ac{};
    };

    // From the first bytes of a photo up to its coded data. Nothing for progressive and other codings that
    // need more than one scan, and for what is no photo. `name` is for telling.
    static std::optional<Lender> read(Bytes head, std::string name);

    const std::string& name() const { return name_; }
    std::uint32_t width() const { return width_; }
    std::uint32_t height() const { return height_; }
    std::uint32_t mcusWide() const { return mcusWide_; }
    std::uint32_t mcusHigh() const { return mcusHigh_; }
    std::uint32_t mcuHeight() const { return mcuHeight_; }  // pixels
    std::uint32_t restartInterval() const { return restartInterval_; }
    const std::vector<Part>& parts() const { return parts_; }
    int blocksOfMcu() const;
    // All that decoding depends on: the same for photos that differ in size only.
    const std::string& coding() const { return coding_; }

    // The same with the camera held upright, or the other way.
    Lender turned() const;

    // From the start marker to the coded data, for a picture of another height. Of what says when, where and
    // by which camera it was taken nothing is in it.
    std::vector<std::uint8_t> header(std::uint32_t height) const;

  private:
    void measure();
    bool readFrame(Bytes body);
    bool readQuant(Bytes body);
    bool readTables(Bytes body);
    bool readScan(Bytes body);

    std::string name_, coding_;
    std::uint32_t width_ = 0, height_ = 0, mcusWide_ = 0, mcusHigh_ = 0, mcuWidth_ = 8, mcuHeight_ = 8;
    std::uint32_t restartInterval_ = 0;
    std::vector<Part> parts_;
    std::array<int, 4> quant_{};
    std::vector<std::uint8_t> quantOf_;  // by component
    std::array<std::array<Code, 16>, 4> dc_{};
    std::array<std::array<Code, 256>, 4> ac_{};
    std::vector<std::uint8_t> header_;
    std::size_t heightAt_ = 0;  // in header_
    std::vector<std::uint8_t> componentIds_;
};

// Blocks that stand for missing ones, drawn as bands so that nobody takes them for picture.
struct Filling {
    std::uint64_t first = 0;  // of the picture, where the filling begins: in front of it other data stand
    std::uint64_t mcus = 0;   // of the picture, up to the one it does not fill whole any more
    int blocks = 0;           // and so many of that
    int bits = 0;             // of its last byte that it ends with; 0: it ends with a whole one
    // By component, quantised: the brightness that the first block behind it counts from.
    std::array<int, 4> level{};
    // By component, quantised: what its own first block counts from.
    std::array<int, 4> before{};
};

struct Filled {
    std::vector<std::uint8_t> bytes;  // coded data, whole bytes
    std::uint8_t begun = 0;           // the bits of the last byte, at its upper end
};

// Nothing when it cannot be written so: the tables lack the codes, or there is no block to write it into.
std::optional<Filled> fill(const Lender& lender, const Filling& filling);

}  // namespace dreskel::jpeg
