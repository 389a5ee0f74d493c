// The parts that tell sound from other data: waveforms over borders, blocks of samples, frames of FLAC, MPEG
// audio and AAC. On waves that the test makes, and frames written by encoders of its own.
#include <cmath>
#include <cstring>
#include <numbers>
#include <QTest>

#include "formats/isobmff/boxes.h"
#include "formats/isobmff/sample_table.h"
#include "formats/loud_noise.h"
#include "formats/riff/pcm_check.h"
#include "formats/riff/waveform.h"
#include "formats/sound/alac.h"
#include "formats/sound/flac_frame.h"
#include "formats/sound/frames.h"
#include "tests/support/bits.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;
using riff::PcmCheck;

namespace {

constexpr std::size_t kBlock = PcmCheck::kBlock;

// Three tones and a little noise, between -1 and 1, for any sample of any channel.
class Wave {
  public:
    explicit Wave(unsigned seed, double loudness = 0.3) : random_(seed), loudness_(loudness) {
        for (auto& tone : tones_) tone = 0.004 + static_cast<double>(random_() % 1000) / 9000;
    }
    double next(std::size_t frame, unsigned channel) {
        double sum = 0;
        for (std::size_t i = 0; i < tones_.size(); ++i)
            sum += std::sin(tones_[i] * static_cast<double>(frame) * 2 * std::numbers::pi * 0.1 + channel) /
                   static_cast<double>(i + 1);
        const double noise = static_cast<double>(random_() % 2001) / 1000 - 1;
        return loudness_ * (sum / 2 + 0.002 * noise);
    }

  private:
    std::mt19937 random_;
    std::array<double, 3> tones_{};
    double loudness_;
};

void putSample(Buffer& into, double value, const PcmCheck::Layout& layout) {
    if (layout.floating) {
        const auto sample = static_cast<float>(value);
        std::array<std::uint8_t, 4> bytes{};
        std::memcpy(bytes.data(), &sample, 4);
        into.insert(into.end(), bytes.begin(), bytes.end());
        return;
    }
    if (layout.bytesPerSample == 1) {
        into.push_back(static_cast<std::uint8_t>(std::lround(value * 127) + 128));
        return;
    }
    const auto most = std::pow(2.0, 8 * layout.bytesPerSample - 1) - 1;
    const auto sample = static_cast<std::int64_t>(std::llround(value * most));
    for (unsigned i = 0; i < layout.bytesPerSample; ++i)
        into.push_back(static_cast<std::uint8_t>(sample >> (8 * i)));
}

Buffer recording(std::size_t frames, const PcmCheck::Layout& layout, unsigned seed, double loudness = 0.3) {
    Wave wave(seed, loudness);
    Buffer bytes;
    for (std::size_t frame = 0; frame < frames; ++frame) {
        for (unsigned channel = 0; channel < layout.channels; ++channel)
            putSample(bytes, wave.next(frame, channel), layout);
    }
    return bytes;
}

const std::vector<std::pair<const char*, PcmCheck::Layout>> kLayouts{
    {"8 bit", {1, 1, false}},          {"16 bit", {2, 1, false}}, {"16 bit, stereo", {2, 2, false}},
    {"24 bit, stereo", {3, 2, false}}, {"32 bit", {4, 1, false}}, {"floats", {4, 2, true}},
    {"16 bit, six", {2, 6, false}}};

PcmCheck checked(const PcmCheck::Layout& layout, std::uint64_t dataAt, const Buffer& bytes,
                 std::size_t portion) {
    PcmCheck check(layout, dataAt);
    for (std::size_t at = 0; at < bytes.size(); at += portion) check.feed(slice(bytes, at, portion));
    check.finish();
    return check;
}

// Sums as RFC 9639 has them (9.1.8, 9.3), bit by bit.
std::uint32_t plainSum(Bytes bytes, int width, std::uint32_t polynomial) {
    std::uint32_t sum = 0;
    const auto top = 1U << (width - 1);
    for (const auto byte : bytes) {
        sum ^= std::uint32_t{byte} << (width - 8);
        for (int bit = 0; bit < 8; ++bit) sum = (sum & top) != 0 ? sum << 1 ^ polynomial : sum << 1;
        sum &= (top << 1) - 1;
    }
    return sum;
}

// Writes one frame of FLAC: subframes of a random kind with random numbers in them.
struct FlacWriter {
    std::mt19937& random;
    sound::FlacStream stream;
    std::uint32_t samples = 0;

    void residual(BitWriter& out, std::uint32_t order) {
        const auto wide = random() % 2 != 0;
        out.put(wide ? 1 : 0, 2);
        int partitions = 0;
        while (partitions < 3 && samples % (2U << partitions) == 0 && samples >> (partitions + 1) >= order)
            ++partitions;
        out.put(static_cast<std::uint64_t>(partitions), 4);
        for (std::uint32_t part = 0; part < 1U << partitions; ++part) {
            const auto count = (samples >> partitions) - (part == 0 ? order : 0);
            if (random() % 4 == 0) {  // as they are
                const auto bits = static_cast<int>(random() % 12);
                out.put(wide ? 31 : 15, wide ? 5 : 4);
                out.put(static_cast<std::uint64_t>(bits), 5);
                for (std::uint32_t i = 0; i < count; ++i) out.put(random(), bits);
                continue;
            }
            const auto parameter = static_cast<int>(random() % (wide ? 20 : 12));
            out.put(static_cast<std::uint64_t>(parameter), wide ? 5 : 4);
            for (std::uint32_t i = 0; i < count; ++i) {
                const auto zeros = random() % 30 == 0 ? random() % 70 : random() % 3;
                for (auto left = zeros; left > 0; --left) out.put(0, 1);
                out.put(1, 1);
                out.put(random(), parameter);
            }
        }
    }
    void subframe(BitWriter& out, int depth) {
        out.put(0, 1);
        const auto kind = random() % 4;
        const auto order = kind == 2   ? static_cast<std::uint32_t>(random() % 5)
                           : kind == 3 ? static_cast<std::uint32_t>(1 + random() % 32)
                                       : 0;
        out.put(kind == 2 ? 8 + order : kind == 3 ? 31 + order : kind, 6);
        const auto wasted = random() % 3 == 0 ? static_cast<int>(1 + random() % 3) : 0;
        out.put(wasted > 0 ? 1 : 0, 1);
        if (wasted > 0) out.put(1, wasted);
        depth -= wasted;
        const auto all = kind == 0 ? 1 : kind == 1 ? samples : order;
        for (std::uint32_t i = 0; i < all; ++i) out.put(random(), depth);
        if (kind == 3) {
            const auto precision = static_cast<int>(random() % 15);
            out.put(static_cast<std::uint64_t>(precision), 4);
            out.put(random(), 5);
            for (std::uint32_t i = 0; i < order; ++i) out.put(random(), precision + 1);
        }
        if (kind >= 2) residual(out, order);
    }
    Buffer write() {
        samples = static_cast<std::uint32_t>(64 + random() % 400);
        BitWriter out;
        out.put(0x7ffc, 15);
        out.put(0, 1);
        out.put(7, 4);  // the number of samples in sixteen bits
        out.put(random() % 2 == 0 ? 9 : 13, 4);
        const bool hertz = out.bytes()[2] % 16 == 13;
        const auto layout = stream.channels == 2 ? (random() % 2 == 0 ? 1 : 8 + random() % 3)
                                                 : std::uint64_t{stream.channels} - 1;
        out.put(layout, 4);
        out.put(stream.bits == 16 ? 4 : 6, 3);
        out.put(0, 1);
        out.put(0xc2, 8);  // its number, in two bytes
        out.put(0x80 + random() % 64, 8);
        out.put(samples - 1, 16);
        if (hertz) out.put(44100, 16);
        out.put(plainSum(out.bytes(), 8, 0x07), 8);
        for (std::uint32_t channel = 0; channel < stream.channels; ++channel) {
            const bool side = layout >= 8 && channel == (layout == 9 ? 0U : 1U);
            subframe(out, static_cast<int>(stream.bits) + (side ? 1 : 0));
        }
        while (out.bits() % 8 != 0) out.put(0, 1);
        out.put(plainSum(out.bytes(), 16, 0x8005), 16);
        return out.bytes();
    }
};

}  // namespace

class TestSoundParts : public QObject {
    Q_OBJECT

    static void addLayouts() {
        QTest::addColumn<std::size_t>("number");
        for (std::size_t i = 0; i < kLayouts.size(); ++i) QTest::newRow(kLayouts[i].first) << i;
    }

  private Q_SLOTS:
    // Wherever a recording is cut, it goes on; with other sound behind the cut it mostly shows.
    void waveformsGoOnOverBorders_data() { addLayouts(); }
    void waveformsGoOnOverBorders() {
        QFETCH(std::size_t, number);
        const auto layout = kLayouts[number].second;
        const auto frame = std::size_t{layout.bytesPerSample} * layout.channels;
        std::mt19937 random(21);
        int jumps = 0, tries = 0;
        for (unsigned seed = 0; seed < 12; ++seed) {
            const auto bytes = recording(6000, layout, seed);
            const auto other = recording(6000, layout, seed + 1000);
            for (int i = 0; i < 12; ++i) {
                const auto cut = frame * 1000 + random() % (frame * 3000);
                const auto phase = cut % frame;
                const auto before = slice(bytes, cut - frame * 900, frame * 900);
                const auto behind = slice(bytes, cut, frame * 900);
                const auto quiet = riff::suddenness(before, behind, layout, phase);
                if (quiet > 1) {
                    const auto seam = riff::seamOf(before, behind, layout, phase);
                    QVERIFY2(!seam || seam->jump < 3.5, qPrintable(QString::number(seam->jump)));
                }
                const auto stranger = slice(other, cut + frame * 700, frame * 900);
                ++tries;
                if (riff::suddenness(before, stranger, layout, phase) <= 1) continue;
                const auto seam = riff::seamOf(before, stranger, layout, phase);
                if (seam && seam->jump > 3.5) ++jumps;
            }
        }
        // Waves that meet by chance at the same height are too alike; eight bits hide much.
        QVERIFY2(jumps * (layout.bytesPerSample == 1 ? 20 : 2) > tries, qPrintable(QString::number(jumps)));
    }
    // What is looked at where it decides gives what all of it would.
    void suddennessIsThatOfAllSamples() {
        std::mt19937 random(22);
        int sudden = 0;
        for (int round = 0; round < 400; ++round) {
            std::vector<int> values(1000);
            int value = 0;
            for (auto& each : values) each = value += static_cast<int>(random() % 400) - 200;
            const bool jumps = round % 2 == 0;
            if (jumps) {
                const auto by = static_cast<int>(random() % 4000) - 2000;
                for (std::size_t i = 500; i < values.size(); ++i) values[i] += by;
            }
            Buffer bytes;
            for (const auto each : values) {
                bytes.push_back(static_cast<std::uint8_t>(each));
                bytes.push_back(static_cast<std::uint8_t>(each >> 8));
            }
            const auto bend = [&](std::size_t i) {
                const auto at = [&](std::size_t k) {
                    return static_cast<std::int16_t>(bytes[2 * k] | bytes[2 * k + 1] << 8) / 32768.0;
                };
                return std::abs(at(i) - 2 * at(i - 1) + at(i - 2));
            };
            double jump = 0, ahead = 0, after = 0;
            for (std::size_t i = 102; i < 900; ++i) {
                auto& part = i < 500 ? ahead : i < 503 ? jump : after;
                part = std::max(part, bend(i));
            }
            const auto quieter = std::min(ahead, after);
            const auto expected = jump > quieter ? jump / std::max(quieter, 0.5 / 32768) : 0.0;
            const auto found =
                riff::suddenness(slice(bytes, 0, 1000), slice(bytes, 1000, 1000), {2, 1, false}, 0);
            QVERIFY(std::abs(found - expected) < 1e-9);
            sudden += found > 0 ? 1 : 0;
        }
        QVERIFY(sudden > 100 && sudden < 300);
    }
    void tooLittleSoundIsNotJudged() {
        const PcmCheck::Layout layout{2, 1, false};
        const auto bytes = recording(1000, layout, 3);
        QCOMPARE(riff::suddenness(slice(bytes, 0, 100), slice(bytes, 100, 1000), layout, 0), 0.0);
        QCOMPARE(riff::suddenness(slice(bytes, 0, 1000), slice(bytes, 1000, 60), layout, 0), 0.0);
        QVERIFY(!riff::seamOf(slice(bytes, 0, 100), slice(bytes, 100, 1000), layout, 0));
        const Buffer silence(4000, 0);
        QVERIFY(!riff::seamOf(slice(silence, 0, 2000), slice(silence, 2000, 2000), layout, 0));
        QCOMPARE(riff::suddenness({}, {}, layout, 0), 0.0);
        QCOMPARE(riff::suddenness(slice(bytes, 0, 1000), slice(bytes, 1000, 1000), layout, 7), 0.0);
    }
    void whatARecordingDoesByItselfIsKnown() {
        const PcmCheck::Layout layout{2, 2, false};
        auto bytes = recording(1024, layout, 5);
        QVERIFY(riff::suddennessWithin(bytes, layout) < 3);
        // A click of both channels in its middle.
        for (std::size_t i = 2048; i < 2056; i += 2) bytes[i + 1] = 0x70;
        QVERIFY(riff::suddennessWithin(bytes, layout) > 10);
        QCOMPARE(riff::suddennessWithin(slice(bytes, 0, 400), layout), 0.0);
    }
    void noiseIsLoudAndNothingElse() {
        std::mt19937 random(23);
        for (const unsigned channels : {1U, 2U, 5U}) {
            std::vector<float> samples(2000);
            for (auto& sample : samples) sample = static_cast<float>(random() % 65536) / 32768.0F - 1.0F;
            QVERIFY(isLoudNoise(samples, channels));
            auto half = samples;
            for (auto& sample : half) sample *= 0.5F;
            QVERIFY(!isLoudNoise(half, channels));
            // Each sample much like the one of its channel before it: a recording, however loud.
            auto smooth = samples;
            for (std::size_t i = channels; i < smooth.size(); ++i)
                smooth[i] = smooth[i - channels] * 0.9F + smooth[i] * 0.3F;
            QVERIFY(!isLoudNoise(smooth, channels));
            QVERIFY(!isLoudNoise(std::span(samples).first(100), channels));
        }
        QVERIFY(!isLoudNoise({}, 1));
        QVERIFY(!isLoudNoise(std::vector<float>(500, 0.6F), 0));
    }
    // One block of noise is found where it lies, however the samples come in.
    void foreignBlocksAreFound_data() { addLayouts(); }
    void foreignBlocksAreFound() {
        QFETCH(std::size_t, number);
        const auto layout = kLayouts[number].second;
        constexpr std::uint64_t kDataAt = 44;
        auto bytes = recording(40000, layout, 31);
        QVERIFY(bytes.size() > 9 * kBlock);
        QVERIFY(!checked(layout, kDataAt, bytes, 1 << 20).foreignAt());
        const auto noise = randomBytes(kBlock, 32);
        std::copy(noise.begin(), noise.end(), bytes.begin() + 6 * kBlock - kDataAt);
        for (const std::size_t portion : {std::size_t{1 << 20}, std::size_t{1000}, std::size_t{4096}}) {
            const auto check = checked(layout, kDataAt, bytes, portion);
            QCOMPARE(check.foreignAt().value_or(0), std::uint64_t{6 * kBlock});
            const auto foreign = check.foreign();
            QVERIFY(foreign[6] && !foreign[5] && !foreign[7]);
        }
    }
    void blanksBetweenSoundAreForeign() {
        const PcmCheck::Layout layout{2, 1, false};
        auto bytes = recording(20000, layout, 41);
        const auto loud = bytes;
        std::fill(bytes.begin() + 4 * kBlock, bytes.begin() + 5 * kBlock, std::uint8_t{0});
        QCOMPARE(checked(layout, 0, bytes, 5000).foreignAt().value_or(0), std::uint64_t{4 * kBlock});
        // A pause is not: it begins and ends somewhere.
        bytes = loud;
        std::fill(bytes.begin() + 4 * kBlock - 700, bytes.begin() + 5 * kBlock + 900, std::uint8_t{0});
        QVERIFY(!checked(layout, 0, bytes, 5000).foreignAt());
    }
    void aRecordingWithoutALengthEndsWithItsSound() {
        const PcmCheck::Layout layout{2, 2, false};
        constexpr std::uint64_t kDataAt = 44;
        auto bytes = recording(15001, layout, 51);
        const auto end = kDataAt + bytes.size();
        for (const bool noisy : {false, true}) {
            auto longer = bytes;
            longer.resize((longer.size() + kDataAt + kBlock - 1) / kBlock * kBlock - kDataAt, 0);
            const auto more = noisy ? randomBytes(40 * kBlock, 52) : Buffer(40 * kBlock, 0);
            longer.insert(longer.end(), more.begin(), more.end());
            PcmCheck check(layout, kDataAt);
            bool over = false;
            for (std::size_t at = 0; at < longer.size() && !over; at += kBlock) {
                check.feed(slice(longer, at, kBlock));
                over = check.isOver();
            }
            QVERIFY(over);
            QVERIFY(check.soundEnds() <= end && check.soundEnds() + 8 >= end);
        }
        PcmCheck open(layout, kDataAt);
        open.feed(bytes);
        QVERIFY(!open.isOver());
    }
    // A whole frame by its own parsing, of every kind of subframe, with anything behind it.
    void flacFramesAreParsedToTheirEnd() {
        std::mt19937 random(61);
        for (int round = 0; round < 300; ++round) {
            FlacWriter writer{random, {44100, static_cast<std::uint32_t>(1 + random() % 4), 16, 0}};
            if (round % 3 == 0) writer.stream.bits = 24;
            const auto bytes = writer.write();
            auto more = bytes;
            const auto rest = randomBytes(100, static_cast<unsigned>(round));
            more.insert(more.end(), rest.begin(), rest.end());
            const auto frame = sound::readFlacFrame(more, writer.stream);
            QVERIFY(frame.outcome == sound::FlacOutcome::Good);
            QCOMPARE(frame.length, bytes.size());
            QCOMPARE(frame.samples, writer.samples);
            // One byte short, and one bit another.
            const auto cut = sound::readFlacFrame(Bytes(bytes).first(bytes.size() - 1), writer.stream);
            QVERIFY(cut.outcome == sound::FlacOutcome::TooShort);
            auto bent = more;
            bent[random() % bytes.size()] ^= static_cast<std::uint8_t>(1U << random() % 8);
            QVERIFY(sound::readFlacFrame(bent, writer.stream).outcome != sound::FlacOutcome::Good);
            auto other = writer.stream;
            other.channels += 1;
            QVERIFY(sound::readFlacFrame(more, other).outcome == sound::FlacOutcome::NotHere);
        }
        QVERIFY(sound::readFlacFrame({}, {}).outcome == sound::FlacOutcome::TooShort);
    }
    // Lengths by the formula of the standard (ISO/IEC 11172-3, 2.4.3.1).
    void mpegFramesSayHowLongTheyAre_data() {
        QTest::addColumn<quint32>("head");
        QTest::addColumn<quint32>("length");
        QTest::addColumn<quint32>("rate");
        QTest::addColumn<quint32>("samples");
        QTest::addColumn<quint32>("channels");
        QTest::newRow("layer III, 128 kbit/s") << 0xfffb9000U << 417U << 44100U << 1152U << 2U;
        QTest::newRow("padded") << 0xfffb9200U << 418U << 44100U << 1152U << 2U;
        QTest::newRow("320 kbit/s, 48 kHz") << 0xfffbe400U << 960U << 48000U << 1152U << 2U;
        QTest::newRow("layer II, 192 kbit/s") << 0xfffda400U << 576U << 48000U << 1152U << 2U;
        QTest::newRow("layer I, 384 kbit/s") << 0xffffc000U << 416U << 44100U << 384U << 2U;
        QTest::newRow("MPEG-2, 64 kbit/s, one") << 0xfff380c0U << 208U << 22050U << 576U << 1U;
        QTest::newRow("MPEG-2.5, 32 kbit/s") << 0xffe34000U << 208U << 11025U << 576U << 2U;
        QTest::newRow("no rate") << 0xfffb0000U << 0U << 0U << 0U << 0U;
        QTest::newRow("a rate that is none") << 0xfffbf000U << 0U << 0U << 0U << 0U;
        QTest::newRow("no frequency") << 0xfffb9c00U << 0U << 0U << 0U << 0U;
        QTest::newRow("no version") << 0xffeb9000U << 0U << 0U << 0U << 0U;
        QTest::newRow("no layer") << 0xfff99000U << 0U << 0U << 0U << 0U;
        QTest::newRow("no mark") << 0xfffb9002U << 0U << 0U << 0U << 0U;
    }
    void mpegFramesSayHowLongTheyAre() {
        QFETCH(quint32, head);
        QFETCH(quint32, length);
        QFETCH(quint32, rate);
        QFETCH(quint32, samples);
        QFETCH(quint32, channels);
        Buffer bytes;
        for (int i = 3; i >= 0; --i) bytes.push_back(static_cast<std::uint8_t>(head >> (8 * i)));
        const auto frame = sound::mpegFrame(bytes);
        QCOMPARE(frame.has_value(), length > 0);
        QVERIFY(!sound::mpegFrame(Bytes(bytes).first(3)));
        if (!frame) return;
        QCOMPARE(frame->length, length);
        QCOMPARE(frame->rate, rate);
        QCOMPARE(frame->samples, samples);
        QCOMPARE(frame->channels, channels);
    }
    void adtsFramesSayHowLongTheyAre() {
        for (const std::uint32_t length : {8U, 300U, 8191U}) {
            BitWriter out;
            out.put(0xfff1, 16);  // MPEG-4, no sum
            out.put(1, 2);        // low complexity
            out.put(4, 4);        // 44 100 Hz
            out.put(0, 1);
            out.put(2, 3);
            out.put(0, 4);
            out.put(length, 13);
            out.put(0x7ff, 11);
            out.put(0, 2);
            const auto frame = sound::adtsFrame(out.bytes());
            QVERIFY(frame);
            QCOMPARE(frame->length, length);
            QCOMPARE(frame->rate, 44100U);
            QCOMPARE(frame->samples, 1024U);
            QCOMPARE(frame->channels, 2U);
            auto bytes = out.bytes();
            bytes[2] = static_cast<std::uint8_t>((bytes[2] & 0xc3U) | 13U << 2);
            QVERIFY(!sound::adtsFrame(bytes));
        }
        // Shorter than its own head.
        QVERIFY(!sound::adtsFrame(Buffer{0xff, 0xf1, 0x50, 0x80, 0x00, 0xff, 0xfc}));
    }
    // Each of a recording's packets, as another program takes it apart.
    void framesAreAsLongAsAnotherReaderSays_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name :
             {"constant.mp3", "variable.mp3", "bare.mp3", "old.mp3", "late.mp3", "music.aac"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void framesAreAsLongAsAnotherReaderSays() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        const auto read = name.endsWith(QStringLiteral("aac")) ? sound::adtsFrame : sound::mpegFrame;
        const auto packets = packetsOf(name);
        QVERIFY2(packets.size() > 40, qPrintable(QString::number(packets.size())));
        for (const auto& packet : packets) {
            const auto frame = read(slice(file, packet.offset, 4096));
            QVERIFY2(frame, qPrintable(QString::number(packet.offset)));
            QCOMPARE(frame->length, packet.size);
        }
    }
    // From anywhere inside a run: past what only looks like a frame.
    void theFirstOfManyFramesIsFound() {
        const Buffer head{0xff, 0xfb, 0x90, 0x00};
        Buffer run;
        std::mt19937 random(71);
        for (int i = 0; i < 8; ++i) {
            auto frame = randomBytes(417, static_cast<unsigned>(i));
            std::replace(frame.begin(), frame.end(), std::uint8_t{0xff}, std::uint8_t{0xfe});
            std::copy(head.begin(), head.end(), frame.begin());
            run.insert(run.end(), frame.begin(), frame.end());
        }
        QVERIFY(sound::followed(run, sound::mpegFrame));
        for (int i = 0; i < 40; ++i) {
            const auto from = 1 + random() % 1500;
            auto part = Buffer(run.begin() + static_cast<std::ptrdiff_t>(from), run.end());
            const auto expected = (417 - from % 417) % 417;
            // A lonely head in front of it.
            if (expected > 20) std::copy(head.begin(), head.end(), part.begin() + 8);
            QCOMPARE(sound::firstFrameIn(part, sound::mpegFrame).value_or(9999), expected);
        }
        auto broken = run;
        broken[2 * 417 + 1] = 0;
        QVERIFY(!sound::followed(broken, sound::mpegFrame));
        QVERIFY(!sound::firstFrameIn(randomBytes(300, 3), sound::mpegFrame));
    }
    // Of samples of 24 bits the lowest eight lie plain in front of the codes: there anything may be.
    void packetsOfAppleLosslessEndWithTheirCodes_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("noticed");  // of a hundred
        QTest::newRow("16 bits") << QStringLiteral("alac-s16p.m4a") << 98;
        QTest::newRow("24 bits") << QStringLiteral("alac-s32p.m4a") << 20;
    }
    void packetsOfAppleLosslessEndWithTheirCodes() {
        QFETCH(QString, name);
        QFETCH(int, noticed);
        const auto file = mediaFile(name);
        ByteReader top(file);
        Bytes movie;
        while (movie.empty() && top.left() > 8) {
            const auto length = top.u32();
            const bool found = top.u32() == isobmff::fourCc("moov");
            const auto body = top.take(length - 8);
            if (found) movie = body;
        }
        const auto tracks = isobmff::readSamples(movie);
        QVERIFY(tracks && tracks->size() == 1);
        // The last box of that name holds the settings, behind its version.
        const std::string_view text(reinterpret_cast<const char*>(movie.data()), movie.size());
        const auto settings = alac::readSettings(movie.subspan(text.rfind("alac") + 8, 24));
        QVERIFY(settings);
        QCOMPARE(int{settings->bits}, name.contains(QStringLiteral("16")) ? 16 : 24);
        std::mt19937 random(12);
        int tried = 0, told = 0;
        for (const auto& sample : tracks->front().samples) {
            const auto packet = slice(file, sample.offset, sample.size);
            const auto* why = alac::followPacket(packet, *settings);
            QVERIFY2(why == nullptr, why);
            QVERIFY(alac::followPacket(packet.first(packet.size() - 3), *settings) != nullptr);
            for (int round = 0; round < 4 && packet.size() > 2000; ++round) {
                const auto foreign = randomBytes(800, static_cast<unsigned>(random()));
                Buffer bent(packet.begin(), packet.end());
                const auto at = 30 + random() % (bent.size() - foreign.size() - 40);
                std::copy(foreign.begin(), foreign.end(), bent.begin() + static_cast<std::ptrdiff_t>(at));
                ++tried;
                told += alac::followPacket(bent, *settings) != nullptr ? 1 : 0;
            }
        }
        QVERIFY(tried > 100);
        QVERIFY2(told * 100 >= tried * noticed, qPrintable(QStringLiteral("%1 of %2").arg(told).arg(tried)));
        QVERIFY(!alac::readSettings(slice(movie, 0, 20)));
        QVERIFY(alac::followPacket({}, *settings) != nullptr);
    }
};

QTEST_GUILESS_MAIN(TestSoundParts)
#include "test_sound_parts.moc"
