#include "formats/jpeg/lender.h"

#include <algorithm>
#include <array>

#include "formats/jpeg/huffman.h"

namespace dreskel::jpeg {
namespace {

constexpr std::size_t kLongestJfif = 32;

// Annex C: codes of one length follow each other.
template <std::size_t N>
bool makeCodes(Bytes counts, Bytes symbols, std::array<Lender::Code, N>& codes) {
    codes = {};
    std::uint32_t code = 0;
    std::size_t index = 0;
    for (std::size_t length = 1; length <= 16; ++length) {
        for (unsigned i = 0; i < counts[length - 1]; ++i, ++code, ++index) {
            if (code >= (1U << length) || symbols[index] >= N) return false;
            codes[symbols[index]] = {static_cast<std::uint16_t>(code), static_cast<std::uint8_t>(length)};
        }
        code <<= 1;
    }
    return true;
}

void append(std::vector<std::uint8_t>& to, Bytes bytes) {
    to.insert(to.end(), bytes.begin(), bytes.end());
}

}  // namespace

std::optional<Lender> Lender::read(Bytes head, std::string name) {
    Lender lender;
    lender.name_ = std::move(name);
    lender.header_ = {0xff, 0xd8};
    std::size_t at = 2;
    if (!startsWith(head, {"\xff\xd8", 2})) return std::nullopt;
    for (;;) {
        while (at + 1 < head.size() && head[at] == 0xff && head[at + 1] == 0xff) ++at;
        if (at + 4 > head.size() || head[at] != 0xff) return std::nullopt;
        const auto code = head[at + 1];
        const auto length = static_cast<std::size_t>(head[at + 2] << 8 | head[at + 3]);
        if (length < 2 || at + 2 + length > head.size()) return std::nullopt;
        const auto segment = head.subspan(at, 2 + length);
        const auto body = segment.subspan(4);
        at += segment.size();
        const bool keeps = code == 0xdb || code == 0xc4 || code == 0xdd || code == 0xda || code == 0xc0 ||
                           code == 0xc1 || code == 0xee || (code == 0xe0 && length <= kLongestJfif) ||
                           (code == 0xe2 && startsWith(body, "ICC_PROFILE"));
        if (code == 0xc0 || code == 0xc1) lender.heightAt_ = lender.header_.size() + 5;
        if (keeps) append(lender.header_, segment);
        switch (code) {
            case 0xc0:
            case 0xc1:
                if (!lender.readFrame(body)) return std::nullopt;
                break;
            case 0xdb:
                if (!lender.readQuant(body)) return std::nullopt;
                break;
            case 0xc4:
                if (!lender.readTables(body)) return std::nullopt;
                break;
            case 0xdd:
                if (body.size() < 2) return std::nullopt;
                lender.restartInterval_ = static_cast<std::uint32_t>(body[0] << 8 | body[1]);
                break;
            case 0xda: return lender.readScan(body) ? std::optional(std::move(lender)) : std::nullopt;
            default:
                // Any other coding (Annex B, table B.1).
                if (code >= 0xc2 && code <= 0xcf) return std::nullopt;
        }
    }
}

bool Lender::readFrame(Bytes body) {
    ByteReader reader(body);
    const auto precision = reader.u8();
    height_ = reader.u16();
    width_ = reader.u16();
    const auto count = reader.u8();
    if (precision != 8 || height_ == 0 || width_ == 0 || count == 0 || count > 4) return false;
    std::uint32_t across = 1, down = 1;
    for (int i = 0; i < count; ++i) {
        componentIds_.push_back(reader.u8());
        const auto sampling = reader.u8();
        quantOf_.push_back(reader.u8());
        const std::uint32_t h = sampling >> 4, v = sampling & 15;
        if (!reader.ok() || h < 1 || h > 4 || v < 1 || v > 4 || quantOf_.back() > 3) return false;
        // A component by itself is not interleaved: its MCU is one block (A.2.2).
        Part part;
        part.blocks = count == 1 ? 1 : static_cast<int>(h * v);
        parts_.push_back(part);
        if (count > 1) {
            across = std::max(across, h);
            down = std::max(down, v);
        }
        coding_ += static_cast<char>(sampling);
    }
    mcuWidth_ = 8 * across;
    mcuHeight_ = 8 * down;
    measure();
    return true;
}

void Lender::measure() {
    mcusWide_ = (width_ + mcuWidth_ - 1) / mcuWidth_;
    mcusHigh_ = (height_ + mcuHeight_ - 1) / mcuHeight_;
}

Lender Lender::turned() const {
    auto other = *this;
    std::swap(other.width_, other.height_);
    other.measure();
    other.header_[heightAt_ + 2] = static_cast<std::uint8_t>(other.width_ >> 8);
    other.header_[heightAt_ + 3] = static_cast<std::uint8_t>(other.width_);
    return other;
}

bool Lender::readQuant(Bytes body) {
    ByteReader reader(body);
    while (reader.left() > 0) {
        const auto kind = reader.u8();
        const auto values = reader.take((kind >> 4) == 0 ? 64 : 128);
        if (!reader.ok() || (kind >> 4) > 1 || (kind & 15) > 3) return false;
        quant_[kind & 15] = (kind >> 4) == 0 ? values[0] : values[0] << 8 | values[1];
    }
    return true;
}

bool Lender::readTables(Bytes body) {
    return eachHuffmanTable(body, [&](bool ac, std::size_t number, Bytes counts, Bytes symbols) {
        return ac ? makeCodes(counts, symbols, ac_[number]) : makeCodes(counts, symbols, dc_[number]);
    });
}

bool Lender::readScan(Bytes body) {
    ByteReader reader(body);
    if (parts_.empty() || reader.u8() != parts_.size()) return false;
    for (std::size_t i = 0; i < parts_.size(); ++i) {
        const auto id = reader.u8();
        const auto tables = reader.u8();
        if (!reader.ok() || id != componentIds_[i] || (tables >> 4) > 3 || (tables & 15) > 3) return false;
        auto& part = parts_[i];
        part.dc = dc_[tables >> 4];
        part.ac = ac_[tables & 15];
        part.quant = std::max(1, quant_[quantOf_[i]]);
        if (part.dc[0].length == 0 || part.ac[0].length == 0) return false;
        for (const auto& code : part.dc) coding_ += static_cast<char>(code.length);
        for (const auto& code : part.ac) coding_ += static_cast<char>(code.length);
    }
    coding_ += ' ' + std::to_string(restartInterval_);
    return true;
}

int Lender::blocksOfMcu() const {
    int blocks = 0;
    for (const auto& part : parts_) blocks += part.blocks;
    return blocks;
}

std::vector<std::uint8_t> Lender::header(std::uint32_t height) const {
    auto bytes = header_;
    bytes[heightAt_] = static_cast<std::uint8_t>(height >> 8);
    bytes[heightAt_ + 1] = static_cast<std::uint8_t>(height);
    return bytes;
}

}  // namespace dreskel::jpeg
