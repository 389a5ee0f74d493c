// The codes that media are written in, bit by bit: what the readers find is what the plain way of each
// standard, or an encoder made for the test, says is there.
#include <deque>
#include <QTest>

#include "formats/clip/arithmetic.h"
#include "formats/clip/nal_bits.h"
#include "formats/clip/unescaped.h"
#include "formats/jpeg/sequential.h"
#include "formats/prefix_code.h"
#include "tests/support/bits.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// A prefix code: lengths of codes, of a tree that is split at random; one place is left free, as T.81 has it.
std::vector<int> randomLengths(std::size_t symbols, int longest, bool oneFree, std::mt19937& random) {
    std::vector<int> leaves{0};
    while (leaves.size() < symbols + (oneFree ? 1 : 0)) {
        const auto at = random() % leaves.size();
        if (leaves[at] == longest) continue;
        leaves.push_back(++leaves[at]);
    }
    std::sort(leaves.begin(), leaves.end());
    leaves.resize(symbols);
    return leaves;
}

// A table of a JPEG as a DHT segment has it, and the plain way to write with it.
struct Table {
    std::array<std::uint8_t, 16> counts{};
    Buffer symbols;
    std::array<std::pair<std::uint32_t, int>, 256> codes{};  // code and length by symbol

    Table(Buffer all, std::mt19937& random) : symbols(std::move(all)) {
        std::shuffle(symbols.begin(), symbols.end(), random);
        const auto lengths = randomLengths(symbols.size(), 16, true, random);
        std::uint32_t code = 0;
        for (std::size_t i = 0; i < symbols.size(); ++i) {
            if (i > 0) code = (code + 1) << (lengths[i] - lengths[i - 1]);
            codes[symbols[i]] = {code, lengths[i]};
            ++counts[static_cast<std::size_t>(lengths[i] - 1)];
        }
    }
    jpeg::HuffmanTable made() const { return *jpeg::HuffmanTable::make(counts, symbols); }
    void write(BitWriter& out, std::uint8_t symbol) const {
        out.put(codes[symbol].first, codes[symbol].second);
    }
};

Table dcTable(std::mt19937& random) {
    Buffer symbols;
    for (std::uint8_t size = 0; size <= 11; ++size) symbols.push_back(size);
    return {symbols, random};
}
Table acTable(std::mt19937& random) {
    Buffer symbols{0x00, 0xf0};
    for (unsigned run = 0; run < 16; ++run) {
        for (unsigned size = 1; size <= 10; ++size)
            symbols.push_back(static_cast<std::uint8_t>(run << 4 | size));
    }
    return {symbols, random};
}

// A value of so many bits (T.81, F.1.2.1).
void writeValue(BitWriter& out, int value, int size) {
    out.put(static_cast<std::uint64_t>(value < 0 ? value + (1 << size) - 1 : value), size);
}
int sizeOf(int value) {
    int size = 0;
    while (std::abs(value) >> size != 0) ++size;
    return size;
}

// Random MCUs of two components, the first of two blocks side by side.
struct RandomScan {
    explicit RandomScan(std::mt19937& source) : random(source) {}

    std::mt19937& random;
    Table dc = dcTable(random), ac = acTable(random);
    jpeg::HuffmanTable madeDc = dc.made(), madeAc = ac.made();
    BitWriter out;
    std::uint32_t wide = 7;
    std::vector<std::vector<std::int16_t>> values{2};  // of each component, in the order of coding
    std::vector<std::size_t> ends;                     // bits, of each MCU

    static constexpr int kMostDc = 1000;

    void block(std::size_t component, int& prediction) {
        const int value = static_cast<int>(random() % (2 * kMostDc)) - kMostDc;
        const int size = sizeOf(value - prediction);
        dc.write(out, static_cast<std::uint8_t>(size));
        writeValue(out, value - prediction, size);
        prediction = value;
        values[component].push_back(static_cast<std::int16_t>(value));
        for (unsigned k = 1; k < 64;) {
            const auto run = static_cast<unsigned>(random() % 7 == 0 ? random() % 40 : random() % 3);
            if (k + run > 63 || random() % 12 == 0) {
                ac.write(out, 0);
                return;
            }
            for (unsigned left = run; left > 15; left -= 16) ac.write(out, 0xf0);
            const auto bits = static_cast<int>(1 + random() % 10);
            ac.write(out, static_cast<std::uint8_t>((run & 15) << 4 | static_cast<unsigned>(bits)));
            out.put(random(), bits);
            k += run + 1;
        }
    }
    void fill(std::size_t mcus) {
        std::array<int, 2> predictions{};
        for (std::size_t i = 0; i < mcus; ++i) {
            block(0, predictions[0]);
            block(0, predictions[0]);
            block(1, predictions[1]);
            ends.push_back(out.bits());
        }
    }
    jpeg::SequentialScan scan(std::vector<std::int16_t>& first, std::vector<std::int16_t>& second) const {
        const auto rows = ends.size() / wide + 1;
        first.assign(rows * wide * 2, 0);
        second.assign(rows * wide, 0);
        jpeg::SequentialScan scan;
        scan.count = 2;
        scan.mcusWide = wide;
        scan.parts[0] = {&madeDc, &madeAc, kMostDc, 2, 1, first.data(), std::size_t{wide} * 2};
        scan.parts[1] = {&madeDc, &madeAc, kMostDc, 1, 1, second.data(), wide};
        return scan;
    }
};

// The encoder that ITU-T H.264 describes beside its decoder (9.3.4.2 to 9.3.4.5).
class ArithmeticEncoder {
  public:
    void decide(Context& context, bool bit) {
        const auto least = ArithmeticDecoder::leastRange(context >> 1, range_);
        range_ -= least;
        if (bit != ((context & 1) != 0)) {
            low_ += range_;
            range_ = least;
        }
        context = ArithmeticDecoder::after(context, bit);
        normalise();
    }
    void bypass(bool bit) {
        low_ <<= 1;
        if (bit) low_ += range_;
        carry(1024, 512);
    }
    void golomb(std::uint32_t value, unsigned order) {
        while (value >= 1U << order) {
            bypass(true);
            value -= 1U << order++;
        }
        bypass(false);
        while (order-- > 0) bypass((value >> order & 1) != 0);
    }
    void terminate(bool end) {
        range_ -= 2;
        if (!end) return normalise();
        low_ += range_;
        range_ = 2;
        normalise();
        put((low_ >> 9 & 1) != 0);
        out_.put((low_ >> 7 & 3) | 1, 2);
    }
    const BitWriter& out() const { return out_; }

  private:
    void carry(std::uint32_t most, std::uint32_t least) {
        if (low_ >= most) {
            low_ -= most;
            put(true);
        } else if (low_ < least) {
            put(false);
        } else {
            low_ -= least;
            ++outstanding_;
        }
    }
    void normalise() {
        for (; range_ < 256; range_ <<= 1) {
            carry(512, 256);
            low_ <<= 1;
        }
    }
    void put(bool bit) {
        if (!std::exchange(first_, false)) out_.put(bit ? 1 : 0, 1);
        for (; outstanding_ > 0; --outstanding_) out_.put(bit ? 0 : 1, 1);
    }

    BitWriter out_;
    std::uint32_t low_ = 0, range_ = 510;
    int outstanding_ = 0;
    bool first_ = true;
};

}  // namespace

class TestCodes : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    // Taken in any portions, they are the same bits, and the reader knows where it stands.
    void bitsAreReadInAnyPortions() {
        std::mt19937 random(3);
        for (const std::size_t size : {std::size_t{0}, std::size_t{1}, std::size_t{7}, std::size_t{8},
                                       std::size_t{9}, std::size_t{1000}}) {
            const auto bytes = randomBytes(size, static_cast<unsigned>(random()));
            jpeg::BitReader reader(bytes);
            std::size_t at = 0;
            while (at < size * 8) {
                const auto count = std::min(1 + random() % 16, size * 8 - at);
                std::uint32_t expected = 0;
                for (std::size_t i = at; i < at + count; ++i)
                    expected = expected << 1 | (bytes[i / 8] >> (7 - i % 8) & 1U);
                reader.fill();
                QCOMPARE(reader.take(static_cast<int>(count)), expected);
                at += count;
                const auto mark = reader.mark();
                if (at < size * 8) QCOMPARE(mark.byte * 8 + static_cast<std::size_t>(mark.bitsUsed), at);
                QVERIFY(!reader.overrun());
            }
            reader.fill();
            reader.take(1);
            QVERIFY(reader.overrun());
        }
    }
    void manyBitsArePassedAtOnce() {
        std::mt19937 random(4);
        const auto bytes = randomBytes(4000, 11);
        jpeg::BitReader reader(bytes);
        std::size_t at = 0;
        while (at + 700 < bytes.size() * 8) {
            const auto count = random() % 640;
            reader.dropMany(static_cast<int>(count));
            at += count;
            reader.fill();
            std::uint32_t expected = 0;
            for (std::size_t i = at; i < at + 32; ++i)
                expected = expected << 1 | (bytes[i / 8] >> (7 - i % 8) & 1U);
            QCOMPARE(reader.top(), expected);
        }
    }
    // Of bytes with many 0xff: every clean byte, and where it stood.
    void stuffingIsTakenOut() {
        std::mt19937 random(5);
        jpeg::CodedSegment segment;
        for (int round = 0; round < 200; ++round) {
            Buffer window, clean;
            std::vector<std::size_t> places;
            for (auto count = random() % 300; count > 0; --count) {
                const auto byte = static_cast<std::uint8_t>(random() % 3 == 0 ? 0xff : random());
                places.push_back(window.size());
                clean.push_back(byte);
                window.push_back(byte);
                if (byte == 0xff) window.push_back(0);
            }
            const auto marker = random() % 2 == 0;
            const auto end = window.size();
            if (marker) window.insert(window.end(), {0xff, 0xd9, 0x12, 0xff, 0x00});
            segment.load(window);
            QVERIFY(std::equal(clean.begin(), clean.end(), segment.clean().begin(), segment.clean().end()));
            QCOMPARE(segment.endsAtMarker(), marker);
            for (std::size_t i = 0; i < clean.size(); ++i) QCOMPARE(segment.inWindow(i), places[i]);
            QCOMPARE(segment.inWindow(clean.size()), end);
            for (std::size_t place = 0; place <= end; ++place) {
                const auto behind = std::lower_bound(places.begin(), places.end(), place) - places.begin();
                QCOMPARE(segment.fromWindow(place), static_cast<std::size_t>(behind));
            }
        }
        // What a 0xff at the end of the window means shows only with what follows.
        segment.load(Buffer{1, 2, 0xff});
        QCOMPARE(segment.clean().size(), std::size_t{2});
        QVERIFY(!segment.endsAtMarker());
    }
    void longRunsOfZerosAreNoticed() {
        jpeg::CodedSegment segment;
        auto bytes = Buffer(60000, 0x55);
        segment.load(bytes);
        QCOMPARE(segment.blankFrom(), SIZE_MAX);
        std::fill(bytes.begin() + 20001, bytes.begin() + 20001 + 16383, std::uint8_t{0});
        segment.load(bytes);
        QCOMPARE(segment.blankFrom(), SIZE_MAX);
        bytes[20001 + 16383] = 0;
        segment.load(bytes);
        QCOMPARE(segment.blankFrom(), std::size_t{20001});
    }
    // Every symbol of random tables, by look-up and by the way for long codes.
    void huffmanCodesAreLookedUp() {
        std::mt19937 random(6);
        for (int round = 0; round < 60; ++round) {
            const auto table = round % 2 == 0 ? acTable(random) : dcTable(random);
            const auto made = table.made();
            for (const auto symbol : table.symbols) {
                const auto [code, length] = table.codes[symbol];
                const auto top = code << (32 - length) | (static_cast<std::uint32_t>(random()) >> length);
                const auto looked = made.look(top);
                const auto found = looked.length > 0 ? looked : made.slow(top);
                QCOMPARE(int{found.length}, length);
                QCOMPARE(found.symbol, symbol);
                if (length <= jpeg::HuffmanTable::kLookBits) QVERIFY(looked.length > 0);
            }
            // The code of nothing but ones is none.
            QCOMPARE(int{made.slow(~0U).length}, 0);
        }
    }
    void tablesThatAreNoPrefixCodeAreRefused() {
        std::array<std::uint8_t, 16> counts{};
        QVERIFY(jpeg::HuffmanTable::make(counts, {}));
        counts[0] = 2;
        QVERIFY(jpeg::HuffmanTable::make(counts, Buffer{1, 2}));
        counts[0] = 3;
        QVERIFY(!jpeg::HuffmanTable::make(counts, Buffer{1, 2, 3}));
        counts = {};
        counts[2] = 4;
        QVERIFY(!jpeg::HuffmanTable::make(counts, Buffer{1, 2, 3}));
        QVERIFY(!jpeg::HuffmanTable::make(counts, Buffer{1, 2, 3, 4, 5}));
        QVERIFY(!jpeg::HuffmanTable::make(Bytes(counts).first(15), Buffer{1, 2, 3, 4}));
    }
    // Many in a row and one by one they end at the same bits, with the same values.
    void mcusArePassedInARow() {
        std::mt19937 random(7);
        for (int round = 0; round < 40; ++round) {
            RandomScan written(random);
            written.fill(150);
            auto bytes = written.out.bytes();
            bytes.resize(bytes.size() + 32, 0xff);
            std::vector<std::int16_t> first, second;
            const auto scan = written.scan(first, second);
            jpeg::BitReader bits(bytes);
            bits.fill();
            jpeg::DcPredictions predictions{};
            const auto limit = random() % bytes.size();
            auto passed = jpeg::passMcus(bits, scan, predictions, 0, 150, limit);
            QVERIFY(passed == 150 || bits.position() >= limit);
            QVERIFY(passed > 0 || limit <= 8);
            while (passed < 150) {
                if (random() % 3 == 0) {
                    QVERIFY(jpeg::passMcu(bits, scan, predictions, passed) == nullptr);
                    ++passed;
                } else {
                    passed += jpeg::passMcus(bits, scan, predictions, passed, 1 + random() % 9, SIZE_MAX);
                }
                const auto mark = bits.mark();
                QCOMPARE(mark.byte * 8 + static_cast<std::size_t>(mark.bitsUsed), written.ends[passed - 1]);
            }
            QVERIFY(passed == 150);
            QVERIFY(std::equal(written.values[0].begin(), written.values[0].end(), first.begin()));
            QVERIFY(std::equal(written.values[1].begin(), written.values[1].end(), second.begin()));
        }
    }
    // Where data go wrong or end, those in front of it count and nothing of the one itself.
    void aRowOfMcusEndsInFrontOfWhatIsWrong() {
        std::mt19937 random(8);
        int faults = 0;
        for (int round = 0; round < 60; ++round) {
            RandomScan written(random);
            written.fill(40);
            const auto hit = 3 + random() % 30;
            auto bytes = written.out.bytes();
            const bool cut = round % 2 == 0;
            if (cut) {
                bytes.resize((written.ends[hit] - 1) / 8);
            } else {
                // Ones to the end are an impossible code.
                std::fill(bytes.begin() + static_cast<std::ptrdiff_t>(written.ends[hit - 1] / 8 + 1),
                          bytes.end(), std::uint8_t{0xff});
            }
            std::vector<std::int16_t> first, second;
            const auto scan = written.scan(first, second);
            jpeg::BitReader bits(bytes);
            bits.fill();
            jpeg::DcPredictions predictions{};
            const auto passed = jpeg::passMcus(bits, scan, predictions, 0, 40, SIZE_MAX);
            QVERIFY(passed >= (cut ? hit : hit - 1) && passed <= hit + 1);
            const auto mark = bits.mark();
            if (passed <= hit && passed > 0)
                QCOMPARE(mark.byte * 8 + static_cast<std::size_t>(mark.bitsUsed), written.ends[passed - 1]);
            QCOMPARE(predictions[1], passed == 0 ? 0 : int{written.values[1][passed - 1]});
            const auto* wrong = jpeg::passMcu(bits, scan, predictions, passed);
            QVERIFY(wrong != nullptr || bits.overrun());
            faults += wrong != nullptr ? 1 : 0;
        }
        QVERIFY(faults > 20);
    }
    void brightnessHasBounds() {
        std::mt19937 random(9);
        RandomScan written(random);
        for (int i = 0; i < 20; ++i) {
            // A difference of 900 each time: the second MCU is too bright.
            written.dc.write(written.out, 10);
            writeValue(written.out, 900, 10);
            written.ac.write(written.out, 0);
            written.ends.push_back(0);
        }
        std::vector<std::int16_t> first, second;
        auto scan = written.scan(first, second);
        scan.count = 1;
        scan.parts[0].wide = 1;
        jpeg::BitReader bits(written.out.bytes());
        bits.fill();
        jpeg::DcPredictions predictions{};
        QCOMPARE(jpeg::passMcus(bits, scan, predictions, 0, 20, SIZE_MAX), std::uint64_t{1});
        QCOMPARE(std::string(jpeg::passMcu(bits, scan, predictions, 1)), std::string(jpeg::kTooBright));
    }
    void expGolombNumbersAreRead() {
        std::mt19937 random(10);
        BitWriter out;
        std::deque<std::uint32_t> numbers;
        for (int i = 0; i < 3000; ++i) {
            const auto number = static_cast<std::uint32_t>(random()) >> (1 + random() % 31);
            numbers.push_back(number);
            out.golomb(number);
        }
        NalBits bits(out.bytes());
        for (std::size_t i = 0; i < numbers.size(); ++i) {
            if (i % 2 == 0) {
                QCOMPARE(bits.ue(), numbers[i]);
                continue;
            }
            const auto number = std::int64_t{numbers[i]};
            QCOMPARE(std::int64_t{bits.se()}, number % 2 != 0 ? (number + 1) / 2 : -(number / 2));
        }
        QVERIFY(bits.ok());
        QCOMPARE(bits.position(), out.bits());
        // Thirty-two zeros are none.
        const Buffer zeros(8, 0);
        NalBits none(zeros);
        QCOMPARE(none.ue(), 0U);
        QVERIFY(!none.ok());
        NalBits behind(zeros);
        behind.skip(65);
        QVERIFY(!behind.ok());
        QCOMPARE(behind.u(4), 0U);
    }
    void emulationPreventionIsTakenOut() {
        std::mt19937 random(11);
        for (int round = 0; round < 200; ++round) {
            Buffer plain, unit{0x65, 0x88};
            std::vector<std::size_t> places;
            int zeros = 0;
            for (auto count = random() % 200; count > 0; --count) {
                const auto byte = static_cast<std::uint8_t>(random() % 2 == 0 ? random() % 4 : random());
                if (zeros == 2 && byte <= 3) {
                    unit.push_back(3);
                    zeros = 0;
                }
                places.push_back(unit.size());
                plain.push_back(byte);
                unit.push_back(byte);
                zeros = byte == 0 ? zeros + 1 : 0;
            }
            QCOMPARE(unescaped(unit, 2), plain);
            const Unescaped whole(unit, 2);
            QVERIFY(std::ranges::equal(whole.bytes(), plain));
            for (std::size_t i = 0; i < places.size(); ++i) {
                QCOMPARE(whole.place(i), places[i]);
                QCOMPARE(whole.before(places[i]), i);
            }
            QCOMPARE(whole.place(places.size()), unit.size());
            QCOMPARE(whole.before(unit.size()), plain.size());
            QCOMPARE(unescaped(unit, 2, 10),
                     Buffer(plain.begin(), plain.begin() + static_cast<std::ptrdiff_t>(
                                                               std::min<std::size_t>(10, plain.size()))));
        }
    }
    // Decisions, bits as they are, numbers and ends in any order come out as they went in.
    void arithmeticCodingGoesBothWays() {
        std::mt19937 random(12);
        for (int round = 0; round < 60; ++round) {
            struct Step {
                int kind = 0;
                std::size_t context = 0;
                std::uint32_t value = 0;
            };
            std::vector<Step> steps;
            std::array<Context, 20> contexts{};
            for (auto& context : contexts) context = contextOf(static_cast<int>(1 + random() % 126));
            const auto before = contexts;
            ArithmeticEncoder encoder;
            const auto skew = 1 + random() % 30;  // few ones, or many: all states are reached
            for (auto count = random() % 3000; count > 0; --count) {
                Step step{static_cast<int>(random() % 10), random() % contexts.size(),
                          random() % skew == 0 ? 1U : 0U};
                if (step.kind == 9) {
                    step.value = static_cast<std::uint32_t>(random() % 5000);
                    encoder.golomb(step.value, 3);
                } else if (step.kind == 8) {
                    encoder.terminate(false);
                } else if (step.kind == 7) {
                    step.value = static_cast<std::uint32_t>(random() & 1);
                    encoder.bypass(step.value != 0);
                } else {
                    encoder.decide(contexts[step.context], step.value != 0);
                }
                steps.push_back(step);
            }
            encoder.terminate(true);
            auto bytes = encoder.out().bytes();
            const auto size = bytes.size();
            const Buffer in = round % 2 == 0 ? bytes : [&] {
                auto more = bytes;
                more.resize(size + 20, 0xa5);
                return more;
            }();
            ArithmeticDecoder decoder(in, 0);
            auto now = before;
            for (const auto& step : steps) {
                if (step.kind == 9)
                    QCOMPARE(decoder.exponentialGolomb(3).value_or(~0U), step.value);
                else if (step.kind == 8)
                    QVERIFY(!decoder.terminate());
                else if (step.kind == 7)
                    QCOMPARE(decoder.bypass(), step.value != 0);
                else
                    QCOMPARE(decoder.decide(now[step.context]), step.value != 0);
            }
            QVERIFY(decoder.terminate());
            QVERIFY(decoder.endsClean());
            QVERIFY(!decoder.overrun());
            QCOMPARE(decoder.position(), size);
            QVERIFY(now == contexts);
        }
    }
    void arithmeticDecodingBehindTheEndIsNoticed() {
        const auto bytes = randomBytes(40, 13);
        ArithmeticDecoder decoder(bytes, 0);
        Context context = contextOf(20);
        int count = 0;
        for (; count < 5000 && !decoder.overrun(); ++count) decoder.decide(context);
        QVERIFY(decoder.overrun());
        QVERIFY(!decoder.endsClean());
        ArithmeticEncoder endless;
        for (int i = 0; i < 30; ++i) endless.bypass(true);
        endless.terminate(true);
        ArithmeticDecoder none(endless.out().bytes(), 0);
        QVERIFY(!none.exponentialGolomb(0));
    }
    // From the low end of each byte, with codes of any lengths, each written bit by bit from its first.
    void prefixCodesFromTheLowEnd() {
        std::mt19937 random(14);
        for (int round = 0; round < 80; ++round) {
            const auto symbols = 2 + random() % 280;
            auto lengths = randomLengths(symbols, PrefixCode::kLongest, false, random);
            std::vector<std::uint32_t> codes(symbols);
            std::uint32_t code = 0;
            for (std::size_t i = 0; i < symbols; ++i) {
                if (i > 0) code = (code + 1) << (lengths[i] - lengths[i - 1]);
                codes[i] = code;
            }
            // Symbols of equal lengths keep their order; others may lie between them.
            std::vector<std::uint8_t> all;
            std::vector<std::size_t> symbolOf;
            for (std::size_t i = 0; i < symbols; ++i) {
                for (auto unused = random() % 3; unused > 0; --unused) all.push_back(0);
                symbolOf.push_back(all.size());
                all.push_back(static_cast<std::uint8_t>(lengths[i]));
            }
            const auto made = PrefixCode::make(all);
            QVERIFY(made);
            Buffer bytes;
            std::size_t used = 0;
            std::vector<std::size_t> written;
            for (int i = 0; i < 500; ++i) {
                const auto which = random() % symbols;
                written.push_back(which);
                for (int bit = lengths[which] - 1; bit >= 0; --bit, ++used) {
                    if (used % 8 == 0) bytes.push_back(0);
                    bytes.back() =
                        static_cast<std::uint8_t>(bytes.back() | (codes[which] >> bit & 1) << used % 8);
                }
            }
            LowBits bits(bytes);
            for (const auto which : written)
                QCOMPARE(made->read(bits), static_cast<std::uint32_t>(symbolOf[which]));
            QVERIFY(bits.ok());
            QCOMPARE(bits.used(), std::uint64_t{used});
            bits.skip(8);
            QVERIFY(!bits.ok());
            // One code more, or one less, is no code.
            auto more = all;
            more.push_back(static_cast<std::uint8_t>(lengths.back()));
            QVERIFY(!PrefixCode::make(more));
            if (symbols > 2) {
                auto less = all;
                less[symbolOf.back()] = 0;
                QVERIFY(!PrefixCode::make(less));
            }
        }
    }
};

QTEST_GUILESS_MAIN(TestCodes)
#include "test_codes.moc"
