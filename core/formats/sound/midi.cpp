// Standard MIDI files (MIDI Association, RP-001): a head, then tracks, each followed event by event.
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kMidiHead = 32;
constexpr std::uint64_t kLargestTrack = 16 << 20;

// A number of seven bits a byte, at most four bytes.
std::uint32_t variableNumber(ByteReader& reader) {
    std::uint32_t number = 0;
    for (int i = 0; i < 4; ++i) {
        const auto byte = reader.u8();
        number = number << 7 | (byte & 0x7fU);
        if (byte < 0x80) break;
    }
    return number;
}

// Whether the events fill the track, and its end is the last of them.
bool isTrack(Bytes track) {
    ByteReader reader(track);
    std::uint8_t running = 0;
    while (reader.left() > 0) {
        variableNumber(reader);
        if (reader.left() == 0) return false;
        std::uint8_t status = track[reader.position()];
        if (status >= 0x80) {
            reader.skip(1);
        } else if (running == 0) {
            return false;
        } else {
            status = running;
        }
        if (status == 0xff) {
            const auto kind = reader.u8();
            const auto length = variableNumber(reader);
            reader.skip(length);
            if (kind == 0x2f) return reader.ok() && length == 0 && reader.left() == 0;
            running = 0;
        } else if (status == 0xf0 || status == 0xf7) {
            reader.skip(variableNumber(reader));
            running = 0;
        } else if (status > 0xf0) {
            return false;
        } else {
            running = status;
            const int values = (status & 0xe0U) == 0xc0U ? 1 : 2;
            for (int i = 0; i < values; ++i) {
                if (reader.u8() >= 0x80) return false;
            }
        }
        if (!reader.ok()) return false;
    }
    return false;
}

class MidiWalk : public Walk {
  public:
    MidiWalk() : Walk(kMidiHead) {}

  private:
    void visit(Bytes bytes, bool last) override {
        ByteReader reader(bytes);
        const auto name = reader.take(4);
        const std::uint64_t length = reader.u32();
        if (position() == 0) {
            reader.skip(2);
            tracks_ = reader.u16();
            return advance(8 + length);
        }
        if (!reader.ok() || !startsWith(name, "MTrk"))
            return breakOff(last ? "the card ends before the file does" : "a track is missing");
        if (length > kLargestTrack) return breakOff("a track of impossible length");
        if (bytes.size() < 8 + length && !last) return ask(static_cast<std::size_t>(8 + length));
        if (bytes.size() < 8 + length) return breakOff("the card ends before the file does");
        accept();
        if (!isTrack(bytes.subspan(8, static_cast<std::size_t>(length))))
            damage("a track of it holds foreign events");
        ask(kMidiHead);
        advance(8 + length);
        if (--tracks_ == 0) close();
    }
    void describe(Measured& into) override {
        into.format = "mid";
        into.kind = Kind::Audio;
        into.description.codec = "MIDI";
        // Notes, not sound: there is nothing to decode beyond what was walked.
        into.needsDecoder = false;
        if (into.condition != Condition::Partial) {
            into.condition = Condition::Whole;
            into.decoded = 1;
        }
    }

    int tracks_ = 0;
};

}  // namespace

const Format& midiFormat() {
    static const PlainFormat format(
        "mid", {{"mid", Kind::Audio, "mid", {"midi"}}},
        [](Bytes head) {
            return startsWith(head, {"MThd\0\0\0\6\0", 9}) && head.size() >= 14 && head[9] <= 2 &&
                   (head[10] | head[11]) != 0;
        },
        makeMeasure<MidiWalk>);
    return format;
}

}  // namespace dreskel
