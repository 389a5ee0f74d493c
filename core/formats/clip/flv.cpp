// FLV (Adobe, "Video File Format Specification" 10.1): tags, each followed by its own length.
#include <algorithm>
#include <bit>
#include <string>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kFlvHead = 16;
constexpr std::size_t kScript = 8192;  // of the first tag, for what the file says of itself

// A number in onMetaData (AMF 0, 2.2: a marker of 0 and a double), wherever in the array it stands.
std::optional<double> stated(Bytes script, std::string_view name) {
    std::string key{'\0', static_cast<char>(name.size())};
    key += name;
    key += '\0';
    const auto at = std::search(script.begin(), script.end(), key.begin(), key.end());
    const auto from = static_cast<std::size_t>(at - script.begin()) + key.size();
    ByteReader reader(script.subspan(std::min(from, script.size())));
    const auto value = std::bit_cast<double>(reader.u64());
    if (!reader.ok() || !(value > 0) || value > 1e15) return std::nullopt;
    return value;
}

class FlvWalk : public Walk {
  public:
    FlvWalk() : Walk(kFlvHead) {}

  private:
    void visit(Bytes bytes, bool) override {
        ByteReader reader(bytes);
        if (position() == 0) {
            ask(kScript);
            return advance(9);
        }
        // The length of the tag before, then the next tag's type and length.
        const auto before = reader.u32();
        if (!reader.ok() || before != length_) {
            return breakOff("a tag is not followed by its length");
        }
        const auto type = reader.u8();
        const auto length = reader.u24();
        reader.skip(4);
        const auto stream = reader.u24();
        const bool tag = reader.ok() && (type == 8 || type == 9 || type == 18) && stream == 0;
        if (!tag) {
            advance(4);
            if (size_ && static_cast<double>(position()) < *size_)
                return breakOff("it ends before the length that its header states");
            return size_ ? close() : closeRun(length_, bytes.subspan(4));
        }
        if (tags_ == 0) {
            ask(kFlvHead);
            if (type == 18) size_ = stated(slice(bytes, 15, length), "filesize");
        }
        if (++tags_ >= 3) accept();
        if (type == 9)
            seconds_ = (ByteReader(bytes.subspan(8)).u24() | std::uint32_t{bytes[11]} << 24) / 1000.0;
        length_ = 11 + length;
        advance(std::uint64_t{4} + length_);
    }
    void describe(Measured& into) override {
        into.format = "flv";
        into.kind = Kind::Video;
        if (seconds_ > 0) into.description.duration = seconds_;
        into.mediaData.push_back({13, into.length - 13});
    }

    std::uint32_t length_ = 0;
    int tags_ = 0;
    double seconds_ = 0;
    std::optional<double> size_;
};

}  // namespace

const Format& flvFormat() {
    static const PlainFormat format(
        "flv", {{"flv", Kind::Video, "flv"}},
        [](Bytes head) {
            return startsWith(head, "FLV\x01") && head.size() > 13 && (head[4] & 0xfaU) == 0 &&
                   startsWith(head.subspan(5), {"\0\0\0\x9\0\0\0\0", 8});
        },
        makeMeasure<FlvWalk>);
    return format;
}

}  // namespace dreskel
