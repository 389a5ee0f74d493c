// MPEG transport streams (ISO/IEC 13818-1, 2.4.3): packets of 188 bytes, or of 192 with the time of arrival
// in front as camcorders write them.
#include <map>
#include <utility>

#include "formats/clip/packed_pictures.h"
#include "formats/clip/picture_clock.h"
#include "formats/clip/program_tables.h"
#include "formats/clip/recorder_time.h"
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kPacket = 188, kTimedPacket = 192;
constexpr std::uint8_t kSync = 0x47;
constexpr std::size_t kTransportPortion = 1024 * kTimedPacket;
constexpr std::uint64_t kLeastTransportPackets = 40;
constexpr std::uint64_t kUnit = 32;  // timed packets, 6144 bytes
constexpr std::uint64_t kTransportSector = 512;
constexpr std::uint16_t kTable = 0, kNull = 0x1fff;
constexpr std::size_t kBeginning = 16384;
constexpr double kTicks = 90000;                           // of the clock, a second
constexpr std::uint64_t kLongestTransportSilence = 90000;  // ticks
// Of the time of arrival in front of a packet: its bits, a second, and packets after which it is believed;
// not all that write it know the time.
constexpr std::uint32_t kArrivalBits = 0x3fffffff, kArrivalSecond = 27000000;
constexpr unsigned kSteadyArrivals = 64;

// How far in front of the sync byte a packet begins; nothing when `head` holds no run of packets.
std::optional<std::size_t> prefixIn(Bytes head) {
    for (const std::size_t prefix : {std::size_t{0}, kTimedPacket - kPacket}) {
        bool all = true;
        std::size_t packets = 0;
        for (auto at = prefix; at < head.size() && all; at += kPacket + prefix, ++packets)
            all = head[at] == kSync;
        if (all && packets >= 2) return prefix;
    }
    return std::nullopt;
}

std::uint16_t pidOf(Bytes packet) {
    return static_cast<std::uint16_t>((packet[1] & 0x1fU) << 8 | packet[2]);
}

class TransportWalk : public Walk {
  public:
    TransportWalk() : Walk(kTransportPortion) {}

  private:
    void visit(Bytes bytes, bool last) override;
    void describe(Measured& into) override;
    bool takesAny() const override { return true; }
    std::uint64_t misfits() const override {
        auto all = jumps_ + clockJumps_ + strangers_ + wrongPictures_;
        for (const auto& [pid, clock] : pictureClocks_) all += clock.jumps();
        return all;
    }
    std::uint64_t contradictions() const override { return wrongPictures_; }
    // At the pictures in hand; see PackedPictures.
    void lookClosely(bool closely) override {
        for (auto& [pid, pictures] : packed_) pictures.lookAtThisOne(closely);
    }
    std::optional<bool> holdsSoFar() const override {
        std::optional<bool> all;
        for (const auto& [pid, pictures] : packed_) {
            if (const auto holds = pictures.holdsSoFar()) all = all.value_or(true) && *holds;
        }
        return all;
    }
    // Recordings of whole units only: others rarely end with a cluster.
    bool mayEnd() const override { return *prefix_ > 0 && packets_ % kUnit == 0; }
    bool hasClock() const override { return true; }
    double longestStep() const override {
        auto longest = static_cast<double>(longestStep_) / kTicks;
        for (const auto& [pid, clock] : pictureClocks_) longest = std::max(longest, clock.misfit());
        return longest;
    }
    bool recordTimesGoOn() const override { return arrivalsGoOn_; }
    void forgetSteps() override {
        longestStep_ = 0;
        firstArrival_ = true;
        for (auto& [pid, clock] : pictureClocks_) clock.forget();
    }
    std::optional<double> firstTime() const override { return first_; }
    void followClock(Bytes packet);
    void arrived(std::uint32_t when);
    // What tells whose a packet is beside counters: whether its stream is one of the program's, when its
    // picture is to be shown, and the picture itself.
    void followPictures(Bytes packet);
    void end(Bytes rest);
    // Whether the counters say that another recording begins with this packet.
    bool beginsAnother(Bytes packet, std::uint64_t at) const;
    void follow(Bytes packet);
    // The beginning of the first picture stream, in which camcorders write when it was taken.
    void gather(Bytes packet);

    std::uint16_t pictures_ = kNull;  // the stream whose beginning is gathered
    std::vector<std::uint8_t> beginning_;
    std::optional<std::size_t> prefix_;
    std::uint64_t packets_ = 0, jumps_ = 0, clockJumps_ = 0, longestStep_ = 0;
    std::map<std::uint16_t, std::uint64_t> clocks_;  // ticks, by stream
    std::optional<double> first_;                    // seconds
    std::map<std::uint16_t, std::uint8_t> counters_;
    std::uint64_t strangers_ = 0, wrongPictures_ = 0;
    std::uint32_t arrival_ = 0, longestArrival_ = 0;  // the time, and the longest step while it is believed
    unsigned steadyArrivals_ = 0;
    bool firstArrival_ = false, arrivalsGoOn_ = false;  // since forgetSteps()
    ProgramTables tables_;
    std::map<std::uint16_t, PictureClock> pictureClocks_;
    std::map<std::uint16_t, PackedPictures> packed_;
};

bool TransportWalk::beginsAnother(Bytes packet, std::uint64_t at) const {
    if (pidOf(packet) != kTable || at % kTransportSector != 0 || at == 0) return false;
    const auto known = counters_.find(kTable);
    return known != counters_.end() && (packet[3] & 15U) != ((known->second + 1U) & 15U);
}

void TransportWalk::follow(Bytes packet) {
    const auto pid = pidOf(packet);
    const bool payload = (packet[3] & 0x10U) != 0;
    const bool extra = (packet[3] & 0x20U) != 0;
    const bool told = extra && packet[4] > 0 && (packet[5] & 0x80U) != 0;  // a jump that is announced
    if (pid == kNull || !payload) return;
    const auto counter = static_cast<std::uint8_t>(packet[3] & 15U);
    const auto known = counters_.find(pid);
    if (known != counters_.end() && !told && counter != ((known->second + 1U) & 15U) &&
        counter != known->second)
        ++jumps_;
    counters_[pid] = counter;
}

// The program clock reference (2.4.3.5), which comes ten times a second.
void TransportWalk::followClock(Bytes packet) {
    const bool extra = (packet[3] & 0x20U) != 0 && packet[4] >= 7;
    if (!extra || (packet[5] & 0x10U) == 0) return;
    const auto at = [&](std::size_t i) { return std::uint64_t{packet[i]}; };
    const auto now = at(6) << 25 | at(7) << 17 | at(8) << 9 | at(9) << 1 | at(10) >> 7;
    const auto known = clocks_.find(pidOf(packet));
    const bool told = (packet[5] & 0x80U) != 0;
    if (known != clocks_.end() && !told &&
        (now < known->second || now - known->second > kLongestTransportSilence))
        ++clockJumps_;
    if (known != clocks_.end() && now > known->second)
        longestStep_ = std::max(longestStep_, now - known->second);
    clocks_[pidOf(packet)] = now;
    if (!first_) first_ = static_cast<double>(now) / kTicks;
}

void TransportWalk::arrived(std::uint32_t when) {
    const auto step = (when - arrival_) & kArrivalBits;
    const bool steady = step > 0 && step < kArrivalSecond;
    const bool believed = steadyArrivals_ >= kSteadyArrivals;
    if (!steady && believed) ++clockJumps_;
    if (std::exchange(firstArrival_, false))
        arrivalsGoOn_ = believed && step > 0 && step <= 2 * longestArrival_;
    longestArrival_ = steady ? std::max(longestArrival_, step) : 0;
    steadyArrivals_ = steady ? steadyArrivals_ + 1 : 0;
    arrival_ = when;
}

void TransportWalk::followPictures(Bytes packet) {
    const auto pid = pidOf(packet);
    if (!tables_.mayHold(pid)) ++strangers_;
    if ((packet[3] & 0x10U) == 0) return;
    const bool begins = (packet[1] & 0x40U) != 0;
    const auto payload = slice(packet, 4 + ((packet[3] & 0x20U) != 0 ? 1U + packet[4] : 0U), kPacket);
    if (tables_.take(pid, begins, payload)) ++strangers_;
    const auto coding = tables_.codingOf(pid);
    if (!coding) return;
    if (begins) pictureClocks_[pid].take(payload);
    const auto right = packed_.try_emplace(pid, *coding).first->second.take(begins, payload);
    if (right && !*right) ++wrongPictures_;
}

void TransportWalk::gather(Bytes packet) {
    if (beginning_.size() >= kBeginning || (packet[3] & 0x10U) == 0) return;
    const std::size_t extra = (packet[3] & 0x20U) != 0 ? 1U + packet[4] : 0;
    const auto payload = slice(packet, 4 + extra, kPacket);
    // A packetised stream of pictures begins so (2.4.3.7; stream identifiers 0xe0 to 0xef).
    const bool begins = (packet[1] & 0x40U) != 0 && payload.size() > 4 &&
                        startsWith(payload, {"\0\0\1", 3}) && (payload[3] & 0xf0U) == 0xe0U;
    if (pictures_ == kNull && begins) pictures_ = pidOf(packet);
    if (pidOf(packet) == pictures_) beginning_.insert(beginning_.end(), payload.begin(), payload.end());
}

void TransportWalk::visit(Bytes bytes, bool last) {
    if (!prefix_) prefix_ = prefixIn(bytes.first(std::min<std::size_t>(bytes.size(), 4096)));
    if (!prefix_) return breakOff("no packets");
    const auto size = kPacket + *prefix_;
    std::size_t at = 0;
    while (at + size <= bytes.size()) {
        const auto packet = bytes.subspan(at + *prefix_, kPacket);
        if (packet[0] != kSync) {
            advance(at);
            return end(bytes.subspan(at));
        }
        if (beginsAnother(packet, position() + at)) {
            advance(at);
            return close();
        }
        if (*prefix_ > 0) arrived(ByteReader(bytes.subspan(at)).u32() & kArrivalBits);
        follow(packet);
        followClock(packet);
        followPictures(packet);
        gather(packet);
        if (++packets_ == kLeastTransportPackets) accept();
        at += size;
    }
    advance(at);
    if (last) end({});
}

void TransportWalk::end(Bytes rest) {
    // Camcorders write whole units, and half of these end where a border may be.
    mayEnd() ? close() : closeRun(kPacket + *prefix_, rest);
}

void TransportWalk::describe(Measured& into) {
    into.format = *prefix_ == 0 ? "ts" : "m2ts";
    into.kind = Kind::Video;
    into.mediaData.push_back({0, into.length});
    into.description.taken = recorderTime(beginning_);
    if (jumps_ > 0 && into.condition != Condition::Partial) {
        into.condition = Condition::Partial;
        into.why = "packets are missing or foreign: the counters jump " + std::to_string(jumps_) + " times";
    }
}

bool looksLikeTransport(Bytes head) {
    const auto prefix = prefixIn(head);
    if (!prefix || head.size() < *prefix + 4) return false;
    // A recording begins with its tables, or with what a recorder says of itself.
    const auto packet = head.subspan(*prefix);
    const auto pid = pidOf(packet);
    const bool begins = (packet[1] & 0x40U) != 0;
    return begins && (pid == kTable || pid == 0x10 || pid == 0x11 || pid == 0x12 || pid == 0x1f);
}

std::optional<std::size_t> firstTransportRecord(Bytes bytes) {
    for (const auto size : {kPacket, kTimedPacket}) {
        for (std::size_t first = 0; first < size && first + 4 * size < bytes.size(); ++first) {
            bool all = true;
            for (auto at = first; at < bytes.size() && all; at += size) all = bytes[at] == kSync;
            // The time of arrival is a part of the packet behind it.
            if (all && size == kPacket) return first;
            if (all) return (first + size - (kTimedPacket - kPacket)) % size;
        }
    }
    return std::nullopt;
}

}  // namespace

const Format& transportFormat() {
    static const PlainFormat format(
        "transport", {{"m2ts", Kind::Video, "m2ts", {"mts"}}, {"ts", Kind::Video, "ts", {"tod"}}},
        looksLikeTransport, makeMeasure<TransportWalk>, true, firstTransportRecord);
    return format;
}

}  // namespace dreskel
