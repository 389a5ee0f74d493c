// ASF, and WMV and WMA in it (Microsoft, "Advanced Systems Format", revision 01.20): objects, each a GUID and
// a length.
#include <algorithm>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

using namespace std::string_view_literals;

constexpr auto kHeader = "\x30\x26\xb2\x75\x8e\x66\xcf\x11\xa6\xd9\x00\xaa\x00\x62\xce\x6c"sv;
constexpr auto kData = "\x36\x26\xb2\x75\x8e\x66\xcf\x11\xa6\xd9\x00\xaa\x00\x62\xce\x6c"sv;
constexpr auto kSimpleIndex = "\x90\x08\x00\x33\xb1\xe5\xcf\x11\x89\xf4\x00\xa0\xc9\x03\x49\xcb"sv;
constexpr auto kIndex = "\xd3\x29\xe2\xd6\xda\x35\xd1\x11\x90\x34\x00\xa0\xc9\x03\x49\xbe"sv;
constexpr auto kMediaIndex = "\xf8\x03\xb1\xfe\xad\x12\x64\x4c\x84\x0f\x2a\x1d\x2f\x7a\xd4\x8c"sv;
constexpr auto kTimecodeIndex = "\xd0\x3f\xb7\x3c\x4a\x0c\x03\x48\x95\x3d\xed\xf7\xb6\x22\x8f\x0c"sv;
constexpr auto kFileProperties = "\xa1\xdc\xab\x8c\x47\xa9\xcf\x11\x8e\xe4\x00\xc0\x0c\x20\x53\x65"sv;
constexpr auto kVideoStream = "\xc0\xef\x19\xbc\x4d\x5b\xcf\x11\xa8\xfd\x00\x80\x5f\x5c\x44\x2b"sv;
constexpr std::size_t kAsfHead = 64 * 1024;

class AsfWalk : public Walk {
  public:
    AsfWalk() : Walk(kAsfHead) {}

  private:
    void visit(Bytes bytes, bool last) override {
        ByteReader reader(bytes, Endian::Little);
        reader.skip(16);
        const auto length = reader.u64();
        if (packet_ > 0 && data_.length > 0 && position() < data_.end()) return packets(bytes);
        if (position() == 0) {
            header(slice(bytes, 0, length));
            accept();
            return advance(length);
        }
        if (startsWith(bytes, kData)) {
            if (length < 50 || broadcast_) {
                breakOff("the recording was never closed: it does not say how long it is");
                return;
            }
            data_ = {position() + 50, length - 50};
            if (packet_ == 0) return advance(length);
            ask(std::max<std::size_t>(kAsfHead / packet_, 1) * packet_);
            return advance(50);
        }
        for (const auto index : {kSimpleIndex, kIndex, kMediaIndex, kTimecodeIndex}) {
            if (startsWith(bytes, index) && reader.ok() && length >= 24) return advance(length);
        }
        if (data_.length > 0) return close();
        breakOff(last ? "the card ends before the file does" : "no data follow");
    }
    // Each packet begins with what it says of its error correction (revision 01.20, section 5.2.1).
    void packets(Bytes bytes) {
        const auto here = slice(bytes, 0, data_.end() - position());
        for (std::size_t at = 0; at + packet_ <= here.size(); at += packet_) {
            if (!startsWith(here.subspan(at), {"\x82\0\0", 3}))
                damage("packets of it are foreign", position() + at);
        }
        advance(here.size());
    }
    void header(Bytes bytes) {
        const auto all = std::string_view(reinterpret_cast<const char*>(bytes.data()), bytes.size());
        video_ = all.find(kVideoStream) != std::string_view::npos;
        const auto facts = all.find(kFileProperties);
        if (facts == std::string_view::npos) return;
        ByteReader reader(bytes.subspan(facts), Endian::Little);
        reader.skip(64);
        const auto duration = reader.u64();  // hundreds of nanoseconds, with what is buffered first
        reader.skip(8);
        const auto preroll = reader.u64();  // milliseconds
        broadcast_ = (reader.u32() & 1U) != 0;
        const auto least = reader.u32();
        const auto most = reader.u32();
        if (reader.ok() && least == most && least >= 64 && least <= kAsfHead) packet_ = least;
        const auto seconds = static_cast<double>(duration) / 1e7 - static_cast<double>(preroll) / 1e3;
        if (reader.ok() && seconds > 0 && seconds < 1e6) seconds_ = seconds;
    }
    bool mayEnd() const override { return data_.length > 0 && position() >= data_.end(); }
    void describe(Measured& into) override {
        into.format = video_ ? "wmv" : "wma";
        into.kind = video_ ? Kind::Video : Kind::Audio;
        into.description.duration = seconds_;
        if (data_.length > 0) into.mediaData.push_back(data_);
    }

    std::size_t packet_ = 0;  // bytes of each; 0: they differ
    bool video_ = false, broadcast_ = false;
    std::optional<double> seconds_;
    ByteRange data_;
};

bool looksLikeAsf(Bytes head) {
    if (!startsWith(head, kHeader)) return false;
    ByteReader reader(head.subspan(16), Endian::Little);
    const auto length = reader.u64();
    const auto count = reader.u32();
    return length > 30 && length < (4U << 20) && count < 100 && reader.u8() == 1 && reader.u8() == 2;
}

}  // namespace

const Format& asfFormat() {
    static const PlainFormat format("asf",
                                    {{"wmv", Kind::Video, "wmv", {"asf"}}, {"wma", Kind::Audio, "wma"}},
                                    looksLikeAsf, makeMeasure<AsfWalk>);
    return format;
}

}  // namespace dreskel
