// Text that belongs to a photo or a clip: XMP files (ISO 16684-1) and SubRip subtitles, in which cameras and
// drones keep the place and the settings of each second.
#include <algorithm>
#include <charconv>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kSidecarPortion = 64 * 1024;
constexpr std::size_t kLargestPacket = 16 << 20;
constexpr std::size_t kLargestBlock = 16 * 1024;
constexpr std::uint64_t kSidecarSector = 512;
constexpr std::string_view kByteOrderMark = "\xef\xbb\xbf";

std::string_view textOf(Bytes bytes) {
    std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    if (text.starts_with(kByteOrderMark)) text.remove_prefix(kByteOrderMark.size());
    return text;
}

// Others than tabulators and line ends.
bool isControl(char letter) {
    const auto code = static_cast<unsigned char>(letter);
    return (code < 0x20 && letter != '\n' && letter != '\r' && letter != '\t') || code == 0x7f;
}

bool isText(std::string_view text) {
    return std::none_of(text.begin(), text.end(), isControl);
}

bool isPacket(std::string_view text) {
    if (text.starts_with("<?xpacket begin=") || text.starts_with("<x:xmpmeta")) return true;
    return text.starts_with("<?xml ") && text.substr(0, 1024).find("<x:xmpmeta") != std::string_view::npos;
}

// "00:01:02,345" in seconds.
std::optional<double> timeAt(std::string_view text) {
    if (text.size() < 12 || text[2] != ':' || text[5] != ':' || (text[8] != ',' && text[8] != '.'))
        return std::nullopt;
    int parts[4] = {};
    const std::size_t places[] = {0, 3, 6, 9};
    for (int i = 0; i < 4; ++i) {
        const auto* from = text.data() + places[i];
        const auto* to = from + (i == 3 ? 3 : 2);
        if (std::from_chars(from, to, parts[i]).ptr != to) return std::nullopt;
    }
    return parts[0] * 3600.0 + parts[1] * 60.0 + parts[2] + parts[3] / 1000.0;
}

struct Subtitle {
    std::size_t length = 0;  // with the empty line behind it
    unsigned number = 0;
    double until = 0;  // seconds
};

std::size_t lineEnd(std::string_view text, std::size_t at) {
    const auto end = text.find('\n', at);
    return end == std::string_view::npos ? text.size() : end + 1;
}

// The one at the front; nothing when there is none, or when `text` ends inside of its first two lines.
std::optional<Subtitle> subtitleAt(std::string_view text) {
    Subtitle found;
    const auto digits = std::from_chars(text.data(), text.data() + text.size(), found.number);
    const auto line = lineEnd(text, 0);
    const auto counted = static_cast<std::size_t>(digits.ptr - text.data());
    if (counted == 0 || line > counted + 2 || line < counted + 1) return std::nullopt;
    const auto times = text.substr(line, 29);
    const auto until =
        times.size() == 29 && times.substr(12, 5) == " --> " ? timeAt(times.substr(17)) : std::nullopt;
    if (!until || !timeAt(times)) return std::nullopt;
    found.until = *until;
    for (auto at = lineEnd(text, line); at < text.size();) {
        const auto next = lineEnd(text, at);
        const auto content = text.substr(at, next - at);
        if (!isText(content)) {
            // The line that the file ends with, when nothing but zeros is behind it, or at a sector's end.
            const auto shown = static_cast<std::size_t>(
                std::find_if(content.begin(), content.end(), isControl) - content.begin());
            found.length = at + shown;
            return found;
        }
        at = next;
        if (content == "\n" || content == "\r\n") {
            found.length = at;
            return found;
        }
    }
    found.length = text.size();
    return found;
}

class PacketWalk : public Walk {
  public:
    PacketWalk() : Walk(kSidecarPortion) {}

  private:
    void visit(Bytes bytes, bool last) override {
        const std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
        const bool wrapped = textOf(bytes).starts_with("<?xpacket");
        const std::string_view mark = wrapped ? "<?xpacket end=" : "</x:xmpmeta>";
        auto at = text.find(mark);
        auto end = at == std::string_view::npos ? at : wrapped ? text.find("?>", at) : at + mark.size() - 2;
        if (end == std::string_view::npos) {
            if (last || bytes.size() >= kLargestPacket || !isText(textOf(bytes))) return close();
            return ask(bytes.size() * 4);
        }
        end += 2;
        if (!isText(textOf(bytes.first(end)))) return close();
        while (end < text.size() && (text[end] == '\n' || text[end] == '\r')) ++end;
        accept();
        advance(end);
        close();
    }
    void describe(Measured& into) override {
        into.format = "xmp";
        into.kind = Kind::Sidecar;
        into.needsDecoder = false;
        into.condition = Condition::Whole;
        into.decoded = 1;
    }
};

class SubtitleWalk : public Walk {
  public:
    SubtitleWalk() : Walk(kSidecarPortion) {}

  private:
    void visit(Bytes bytes, bool last) override {
        const std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
        std::size_t at = position() == 0 && text.starts_with(kByteOrderMark) ? kByteOrderMark.size() : 0;
        while (last ? at < text.size() : at + kLargestBlock < text.size()) {
            if (const auto line = text.find_first_not_of("\r\n", at); line != at) {
                at = std::min(line, text.size());
                continue;
            }
            const auto next = subtitleAt(text.substr(at));
            if (!next || (count_ > 0 && next->number != number_ + 1)) {
                advance(at);
                return close();
            }
            number_ = next->number;
            until_ = next->until;
            at += next->length;
            ++count_;
            accept();
            if (text[at - 1] != '\n' && at < text.size()) {  // its last line was never ended
                const auto line = text.rfind('\n', at - 1) + 1;
                const auto sector = (position() + at) / kSidecarSector * kSidecarSector;
                const bool slack = text[at] == 0 && (position() + at) % kSidecarSector != 0;
                cut_ = !slack && sector > position() + line;
                if (cut_) at = static_cast<std::size_t>(sector - position());
                advance(at);
                return close();
            }
        }
        advance(at);
        if (last) close();
    }
    void describe(Measured& into) override {
        into.format = "srt";
        into.kind = Kind::Sidecar;
        into.description.duration = until_;
        into.needsDecoder = false;
        into.condition = cut_ ? Condition::Partial : Condition::Whole;
        if (cut_) into.why = "it ends within a line";
        into.decoded = 1;
    }

    unsigned number_ = 0, count_ = 0;
    double until_ = 0;
    bool cut_ = false;  // something else follows within a line
};

}  // namespace

const Format& xmpFormat() {
    static const PlainFormat format(
        "xmp", {{"xmp", Kind::Sidecar, "xmp"}}, [](Bytes head) { return isPacket(textOf(head)); },
        makeMeasure<PacketWalk>);
    return format;
}

const Format& subtitleFormat() {
    static const PlainFormat format(
        "srt", {{"srt", Kind::Sidecar, "srt"}},
        [](Bytes head) {
            const auto first = subtitleAt(textOf(head));
            return first && first->number <= 1;
        },
        makeMeasure<SubtitleWalk>);
    return format;
}

}  // namespace dreskel
