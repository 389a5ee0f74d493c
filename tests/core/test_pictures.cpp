// The coded pictures of independent encoders, followed to their last bit: with every tool that they have,
// whole and with foreign bytes inside.
#include <QTest>
#include <random>
#include <utility>

#include "formats/clip/arithmetic.h"
#include "formats/clip/nal_bits.h"
#include "formats/clip/packed_pictures.h"
#include "formats/clip/picture_check.h"
#include "formats/clip/picture_trail.h"
#include "formats/clip/unescaped.h"
#include "formats/hevc/reference_set.h"
#include "formats/isobmff/boxes.h"
#include "formats/isobmff/item_check.h"
#include "formats/photo/area_check.h"
#include "tests/support/support.h"
#include "tests/support/units.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::uint64_t kPictures = 12;  // of each stream; see tests/fixtures/make

// The encoder's side of the arithmetic coder as the standard draws it (H.264, 9.3.4.2), bit by bit; it shares
// nothing with the decoder but the tables, which it asks a decoder for.
class ArithmeticEncoder {
  public:
    void encode(bool bit, bool likelier, std::uint32_t least) {
        range_ -= least;
        if (bit != likelier) {
            low_ += range_;
            range_ = least;
        }
        renormalise();
    }
    void bypass(bool bit) {
        low_ <<= 1;
        if (bit) low_ += range_;
        if (low_ >= 0x400) {
            put(true);
            low_ -= 0x400;
        } else if (low_ < 0x200) {
            put(false);
        } else {
            low_ -= 0x200;
            ++outstanding_;
        }
    }
    void terminate(bool over) {
        range_ -= 2;
        if (!over) return renormalise();
        low_ += range_;
        range_ = 2;
        renormalise();
        put((low_ >> 9 & 1) != 0);
        bits_.push_back((low_ >> 8 & 1) != 0);
        bits_.push_back(true);
    }
    std::uint32_t range() const { return range_; }
    Buffer bytes() const {
        Buffer all((bits_.size() + 7) / 8);
        for (std::size_t i = 0; i < bits_.size(); ++i) {
            if (bits_[i]) all[i / 8] = static_cast<std::uint8_t>(all[i / 8] | 0x80U >> i % 8);
        }
        return all;
    }

  private:
    void renormalise() {
        for (; range_ < 256; range_ <<= 1) {
            if (low_ < 256) {
                put(false);
            } else if (low_ >= 512) {
                low_ -= 512;
                put(true);
            } else {
                low_ -= 256;
                ++outstanding_;
            }
            low_ <<= 1;
        }
    }
    void put(bool bit) {
        if (!std::exchange(first_, false)) bits_.push_back(bit);
        for (; outstanding_ > 0; --outstanding_) bits_.push_back(!bit);
    }
    std::uint32_t low_ = 0, range_ = 510;
    std::uint32_t outstanding_ = 0;
    bool first_ = true;
    std::vector<bool> bits_;
};

bool isSlice(PictureCoding coding, Bytes unit) {
    return unitKind(coding, unit) == UnitKind::Slice;
}

bool beginsPicture(PictureCoding coding, Bytes unit) {
    return (unit[coding == PictureCoding::Avc ? 1 : 2] & 0x80) != 0;
}

// Two pictures each, behind all parameter sets that came by then, every unit behind its length.
std::vector<Buffer> samplesOf(PictureCoding coding, const Buffer& stream) {
    std::vector<Buffer> samples;
    Buffer sets, sample;
    int pictures = 0;
    const auto add = [](Buffer& to, Bytes unit) {
        for (int shift = 24; shift >= 0; shift -= 8)
            to.push_back(static_cast<std::uint8_t>(unit.size() >> shift));
        to.insert(to.end(), unit.begin(), unit.end());
    };
    for (const auto unit : unitsOf(stream)) {
        if (!isSlice(coding, unit)) {
            add(sets, unit);
            continue;
        }
        if (beginsPicture(coding, unit) && pictures++ % 2 == 0) {
            if (!sample.empty()) samples.push_back(std::move(sample));
            sample = sets;
        }
        add(sample, unit);
    }
    samples.push_back(std::move(sample));
    return samples;
}

}  // namespace

class TestPictures : public QObject {
    Q_OBJECT

    static void addStreams() {
        QTest::addColumn<QString>("name");
        const QDir folder(QStringLiteral(DRESKEL_FIXTURES "/structures"));
        const auto names = folder.entryList({QStringLiteral("pictures-*")});
        QVERIFY(names.size() > 12);
        for (const auto& name : names) QTest::newRow(qPrintable(name)) << name;
    }
    static PictureCoding codingOf(const QString& name) {
        return name.endsWith(QStringLiteral("h264")) ? PictureCoding::Avc : PictureCoding::Hevc;
    }
    static bool isFollowed(const QString& name) { return !name.contains(QStringLiteral("unfollowed")); }

  private Q_SLOTS:
    // Blocks as Sony's cameras write them: the largest and the smallest of sixteen samples, their places, the
    // others.
    void blocksOfSixteenSamplesAreTold() {
        std::mt19937 random(5);
        Buffer good;
        for (int block = 0; block < 4000; ++block) {
            const auto least = static_cast<std::uint32_t>(random() % 1500);
            const auto most = static_cast<std::uint32_t>(least + random() % 500);
            const auto first = static_cast<std::uint32_t>(random() % 16);
            const auto second = static_cast<std::uint32_t>((first + 1 + random() % 15) % 16);
            const std::uint32_t head = most | least << 11 | first << 22 | second << 26;
            for (int i = 0; i < 4; ++i) good.push_back(static_cast<std::uint8_t>(head >> 8 * i));
            for (int i = 0; i < 12; ++i) good.push_back(static_cast<std::uint8_t>(random()));
        }
        const auto checked = [](const Buffer& bytes, std::size_t portion) {
            AreaCheck check({{0, 0}, Area::Coding::Sixteens});
            for (std::size_t at = 0; at < bytes.size() && check.why().empty(); at += portion)
                check.give(slice(bytes, at, portion), at + portion >= bytes.size());
            return check;
        };
        for (const std::size_t portion : {std::size_t{65536}, std::size_t{4096}, std::size_t{1000}}) {
            const auto whole = checked(good, portion);
            QVERIFY2(whole.why().empty(), whole.why().c_str());
            QCOMPARE(whole.taken(), static_cast<std::uint64_t>(good.size()));
            auto bad = good;
            const auto noise = randomBytes(4096, 8);
            std::copy(noise.begin(), noise.end(), bad.begin() + 32768);
            const auto broken = checked(bad, portion);
            QVERIFY(!broken.why().empty());
            QVERIFY(broken.taken() >= 32768 - 16 && broken.taken() < 32768 + 512);
        }
    }
    void wholeOnesAreFollowedToTheEnd_data() { addStreams(); }
    void wholeOnesAreFollowedToTheEnd() {
        QFETCH(QString, name);
        const auto stream = mediaFile(name);
        const auto check = pictureCheck(codingOf(name), {});
        const auto fault = check->startCoded(stream);
        QVERIFY2(!fault, fault ? fault->why : "");
        QCOMPARE(check->pictures(), isFollowed(name) ? kPictures : 0);
    }
    void foreignBytesAreNoticed_data() { addStreams(); }
    void foreignBytesAreNoticed() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        if (!isFollowed(name)) return;
        const auto stream = mediaFile(name);
        const auto coding = codingOf(name);
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        std::mt19937 random(seedOf(name, 3));
        const auto check = pictureCheck(coding, {});
        int tried = 0;
        int unnoticed = 0;
        for (const auto unit : unitsOf(stream)) {
            if (!isSlice(coding, unit)) {
                QVERIFY(!check->unit(unit));
                continue;
            }
            for (int round = 0; round < tries(20) && unit.size() > 400 && beginsPicture(coding, unit);
                 ++round) {
                constexpr std::size_t kForeign = 64;
                const auto at = 60 + random() % (unit.size() - 130);
                const auto other = round % 2 == 0 ? randomBytes(kForeign, static_cast<unsigned>(random()))
                                                  : Buffer(photo.begin() + 50000 + round * 500,
                                                           photo.begin() + 50000 + round * 500 + kForeign);
                Buffer bent(unit.begin(), unit.end());
                std::copy(other.begin(), other.end(), bent.begin() + static_cast<std::ptrdiff_t>(at));
                const auto fault = check->unit(bent);
                ++tried;
                if (fault) QVERIFY(fault->byte >= at && fault->byte <= bent.size());
                // A picture of several slices is then not complete, which the next picture tells.
                if (!fault) ++unnoticed;
                check->endPicture();
            }
        }
        // By chance a stretch may fit (none of 45 000 did); tried often enough that one alone is not one in a
        // hundred.
        QVERIFY(tried >= tries(150));
        QVERIFY2(unnoticed * 100 <= tried, qPrintable(QStringLiteral("%1 of %2").arg(unnoticed).arg(tried)));
    }
    // Tried with other bytes here and there, again and again, it says each time what following it from its
    // beginning says.
    void aTrailSaysWhatStartingAnewSays_data() { addStreams(); }
    void aTrailSaysWhatStartingAnewSays() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        const auto coding = codingOf(name);
        const auto samples = samplesOf(coding, mediaFile(name));
        QVERIFY(samples.size() > 2);
        std::mt19937 random(seedOf(name, 4));
        int right = 0, wrong = 0;
        for (const auto& sample : samples) {
            const auto trail = pictureTrail(coding, {}, 4);
            auto kept = sample;  // is bent further and further, and sometimes right again
            for (int round = 0; round < tries(12); ++round) {
                const auto at = random() % kept.size();
                const auto count = std::min<std::size_t>(kept.size() - at, 1 + random() % 3000);
                const auto& other = samples[random() % samples.size()];
                switch (random() % 5) {
                    case 0: kept = sample; break;
                    case 1: kept.resize(at + 1); break;
                    case 2:
                        for (std::size_t i = at; i < at + count; ++i)
                            kept[i] = static_cast<std::uint8_t>(random());
                        break;
                    case 3:
                        for (std::size_t i = at; i < at + count; ++i) kept[i] = other[i % other.size()];
                        break;
                    default:
                        std::copy(sample.begin() + static_cast<std::ptrdiff_t>(std::min(at, sample.size())),
                                  sample.end(), std::back_inserter(kept));
                        kept.resize(sample.size());
                }
                const auto anew = pictureCheck(coding, {});
                const auto fault = anew->sample(kept, 4);
                const auto again = trail->follow(kept);
                QCOMPARE(again.fault.has_value(), fault.has_value());
                QCOMPARE(again.pictures, anew->pictures());
                if (fault) {
                    QCOMPARE(again.fault->byte, fault->byte);
                    QCOMPARE(again.fault->why, fault->why);
                }
                ++(fault ? wrong : right);
            }
        }
        QVERIFY(right > 0);
        QVERIFY(wrong > 0 || !isFollowed(name));
    }
    // Where a slice ends, a picture that goes on no further is not there as a whole.
    void aTrailNoticesThatSlicesAreMissing_data() { addStreams(); }
    void aTrailNoticesThatSlicesAreMissing() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        const auto coding = codingOf(name);
        int missing = 0;
        auto samples = samplesOf(coding, mediaFile(name));
        samples.resize(static_cast<std::size_t>(tries(static_cast<int>(samples.size()))));
        for (const auto& sample : samples) {
            const auto trail = pictureTrail(coding, {}, 4);
            for (std::size_t end = 0; end < sample.size();) {
                QCOMPARE(trail->follow(sample).fault.has_value(), false);
                end += 4 + (std::size_t{sample[end + 2]} << 8 | sample[end + 3]);
                const auto part = slice(sample, 0, end);
                const auto fault = pictureCheck(coding, {})->sample(part, 4);
                QCOMPARE(trail->follow(part).fault.has_value(), fault.has_value());
                if (fault) ++missing;
            }
        }
        QVERIFY(missing > 0 || !name.contains(QStringLiteral("slices")));
    }
    // Half a picture in a packetised stream, and then what may follow: its other half, or something else.
    void aPictureInHandShowsWhatBelongsToIt_data() { addStreams(); }
    void aPictureInHandShowsWhatBelongsToIt() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        if (!isFollowed(name)) return;
        const auto coding = codingOf(name);
        const bool avc = coding == PictureCoding::Avc;
        const Buffer head{0, 0, 1, 0xe0, 0, 0, 0x80, 0, 0};
        const Buffer delimiter = avc ? Buffer{0, 0, 0, 1, 9, 0xf0} : Buffer{0, 0, 0, 1, 0x46, 1, 0x50};
        std::vector<Buffer> pictures;
        Buffer sets;
        const auto units = mediaFile(name);
        for (const auto unit : unitsOf(units)) {
            const bool slice = isSlice(coding, unit);
            if (slice && beginsPicture(coding, unit)) {
                pictures.push_back(delimiter);
                pictures.back().insert(pictures.back().end(), sets.begin(), sets.end());
                sets.clear();
            }
            auto& to = slice ? pictures.back() : sets;
            to.insert(to.end(), {0, 0, 1});
            to.insert(to.end(), unit.begin(), unit.end());
        }
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        PackedPictures stream(coding);
        int foreign = 0, noticed = 0;
        for (std::size_t i = 0; i < pictures.size(); ++i) {
            const Bytes picture = pictures[i];
            const auto half = picture.size() / 2;
            auto first = head;
            first.insert(first.end(), picture.begin(), picture.begin() + static_cast<std::ptrdiff_t>(half));
            stream.take(true, first);
            const auto begun = stream;
            stream.take(false, picture.subspan(half));
            if (i < 2 || half < 700) continue;
            QCOMPARE(begun.holdsSoFar(), std::optional(true));
            for (int round = 0; round < 4; ++round) {
                auto with = begun;
                with.take(false, slice(photo, 50000 + 9000 * static_cast<std::size_t>(round), 8000));
                ++foreign;
                if (with.holdsSoFar() == false) ++noticed;
            }
            QCOMPARE(stream.holdsSoFar(), std::optional(true));
        }
        QVERIFY2(foreign > 0 && noticed * 10 >= foreign * 8,
                 qPrintable(QStringLiteral("%1 of %2").arg(noticed).arg(foreign)));
    }
    void aCutIsNoticed_data() { addStreams(); }
    void aCutIsNoticed() {
        QFETCH(QString, name);
        if (!isFollowed(name)) return;
        const auto stream = mediaFile(name);
        const auto coding = codingOf(name);
        const auto check = pictureCheck(coding, {});
        for (const auto unit : unitsOf(stream)) {
            if (!isSlice(coding, unit)) {
                check->unit(unit);
            } else if (unit.size() > 400 && beginsPicture(coding, unit)) {
                QVERIFY(check->unit(unit.first(unit.size() * 2 / 3)));
                check->endPicture();
            }
        }
    }
    void aMissingSliceIsNoticed_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"pictures-slices.h264", "pictures-slices.hevc"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void aMissingSliceIsNoticed() {
        QFETCH(QString, name);
        const auto stream = mediaFile(name);
        const auto coding = codingOf(name);
        for (int gone = 0; gone < 2; ++gone) {  // the last of a picture, and one in its middle
            const auto check = pictureCheck(coding, {});
            const auto units = unitsOf(stream);
            int ofPicture = 0;
            int faults = 0;
            for (std::size_t i = 0; i < units.size(); ++i) {
                const bool coded = isSlice(coding, units[i]);
                if (coded) ofPicture = beginsPicture(coding, units[i]) ? 0 : ofPicture + 1;
                const bool lastOfPicture = i + 1 == units.size() || !isSlice(coding, units[i + 1]) ||
                                           beginsPicture(coding, units[i + 1]);
                if (coded && ofPicture > 0 && (gone == 0 ? lastOfPicture : ofPicture == 1)) continue;
                faults += check->unit(units[i]) ? 1 : 0;
            }
            faults += check->endPicture() ? 1 : 0;
            QCOMPARE(faults, static_cast<int>(kPictures));
        }
    }
    void theArithmeticDecoderGivesBackWhatWasCoded() {
        std::mt19937 random(5);
        for (int round = 0; round < 40; ++round) {
            struct Coded {
                int kind = 0;  // with a context, by itself, the end
                std::size_t context = 0;
                bool bit = false;
            };
            std::vector<Coded> all;
            std::array<Context, 6> contexts{};
            for (auto& one : contexts) one = contextOf(static_cast<int>(1 + random() % 126));
            auto states = contexts;
            ArithmeticEncoder encoder;
            const auto count = 1 + random() % 3000;
            for (std::size_t i = 0; i < count; ++i) {
                Coded next{static_cast<int>(random() % 8 == 0), random() % states.size(), random() % 4 == 0};
                if (next.kind == 1) {
                    encoder.bypass(next.bit);
                } else {
                    auto& state = states[next.context];
                    encoder.encode(next.bit, (state & 1) != 0,
                                   ArithmeticDecoder::leastRange(state >> 1, encoder.range()));
                    state = ArithmeticDecoder::after(state, next.bit);
                }
                all.push_back(next);
                if (i % 7 == 0) {
                    encoder.terminate(false);
                    all.push_back({2, 0, false});
                }
            }
            encoder.terminate(true);
            const auto bytes = encoder.bytes();
            ArithmeticDecoder decoder(bytes, 0);
            for (const auto& one : all) {
                const bool got = one.kind == 0   ? decoder.decide(contexts[one.context])
                                 : one.kind == 1 ? decoder.bypass()
                                                 : decoder.terminate();
                QCOMPARE(got, one.bit);
            }
            QVERIFY(decoder.terminate());
            QVERIFY(decoder.endsClean());
            QCOMPARE(decoder.position(), bytes.size());
            QVERIFY(!decoder.overrun());
        }
    }
    void placesAreThoseOfTheEscapedBytes() {
        // 00 00 03 stands for 00 00 wherever what follows could be taken for a start code.
        const Buffer unit{0x65, 0x11, 0x00, 0x00, 0x03, 0x01, 0x22, 0x00, 0x00, 0x03, 0x00, 0x00, 0x03, 0x02};
        const Buffer plain{0x11, 0x00, 0x00, 0x01, 0x22, 0x00, 0x00, 0x00, 0x00, 0x02};
        QCOMPARE(unescaped(unit, 1), plain);
        for (std::size_t at = 0; at < plain.size(); ++at)
            QCOMPARE(unit[Unescaped(unit, 1).place(at)], plain[at]);
        QCOMPARE(Unescaped(unit, 1).place(plain.size()), unit.size());
        // Exp-Golomb codes (H.264, Table 9-2): 1, 010, 011, 00100, and signed 00101 and 00110.
        const Buffer codes{0b10100110, 0b01000010, 0b10011000};
        NalBits bits(codes);
        QCOMPARE(bits.ue(), 0U);
        QCOMPARE(bits.ue(), 1U);
        QCOMPARE(bits.ue(), 2U);
        QCOMPARE(bits.ue(), 3U);
        QCOMPARE(bits.se(), -2);
        QCOMPARE(bits.se(), 3);
        QVERIFY(bits.ok());
        const Buffer zeros(8);
        NalBits endless(zeros);
        endless.ue();
        QVERIFY(!endless.ok());
    }
    // What lies beside the tiles of a HEIF: what begins as it should and ends as it should, and nothing else.
    void whatIsWithAPictureIsLookedAt() {
        using isobmff::Item;
        const auto fine = [](Item::Coding coding, const Buffer& bytes) {
            Item item;
            item.coding = coding;
            return !isobmff::faultOf(item, bytes).has_value();
        };
        const auto of = [](std::string_view text) { return Buffer(text.begin(), text.end()); };
        const auto notes =
            of("<?xpacket begin='' id='W5M0'?><x:xmpmeta xmlns:x='adobe:ns:meta/'></x:xmpmeta>" +
               std::string(900, ' ') + "<?xpacket end='w'?>");
        QVERIFY(fine(Item::Coding::Notes, notes));
        auto padded = notes;
        padded.resize(padded.size() + 8, 0);
        QVERIFY(fine(Item::Coding::Notes, padded));
        padded.resize(padded.size() + 4096, 0);  // a blank cluster in place of the last
        QVERIFY(!fine(Item::Coding::Notes, padded));
        QVERIFY(!fine(Item::Coding::Notes, Buffer(notes.begin(), notes.end() - 30)));
        QVERIFY(!fine(Item::Coding::Notes, Buffer(notes.begin() + 120, notes.end())));
        auto foreign = notes;
        foreign[40] = 7;
        QVERIFY(!fine(Item::Coding::Notes, foreign));
        QVERIFY(fine(Item::Coding::Exif, of({"\0\0\0\6Exif\0\0MM\0*\0\0\0\x08", 18})));
        QVERIFY(!fine(Item::Coding::Exif, randomBytes(4096, 5)));
        const auto photo = mediaFile(QStringLiteral("grey.jpg"));
        QVERIFY(fine(Item::Coding::Jpeg, photo));
        QVERIFY(!fine(Item::Coding::Jpeg, Buffer(photo.begin(), photo.end() - 600)));
        QVERIFY(!fine(Item::Coding::Jpeg, randomBytes(4096, 6)));
    }
    void aSampleInAContainerIsFollowedByItsSettings() {
        const auto photo = mediaFile(QStringLiteral("tiles.heic"));
        isobmff::BoxWalk walk(photo);
        std::optional<isobmff::ItemIndex> index;
        while (const auto box = walk.next()) {
            if (box->type == isobmff::fourCc("meta")) index = isobmff::readItemIndex(box->body);
        }
        QVERIFY(index && index->items.size() == 13);
        for (const auto& tile : index->items) {
            if (!tile.coded()) continue;
            QCOMPARE(tile.extents.size(), std::size_t{1});
            const auto coded = slice(photo, tile.extents[0].offset, tile.extents[0].length);
            const auto check = pictureCheck(PictureCoding::Hevc, tile.settings);
            QVERIFY(!check->sample(coded, 4));
            QCOMPARE(check->pictures(), std::uint64_t{1});
            // A byte less is no whole sample, and one byte changed is noticed mostly.
            QVERIFY(check->sample(coded.first(coded.size() - 1), 4));
            Buffer bent(coded.begin(), coded.end());
            std::fill_n(bent.begin() + static_cast<std::ptrdiff_t>(bent.size() / 2), 40, std::uint8_t{0x5a});
            const auto fault = check->sample(bent, 4);
            QVERIFY(fault && fault->byte >= bent.size() / 2);
        }
    }
    void nothingIsSaidWithoutParameterSets() {
        for (const auto* name : {"pictures-slices.h264", "pictures-slices.hevc"}) {
            const auto stream = mediaFile(QString::fromLatin1(name));
            const auto coding = codingOf(QString::fromLatin1(name));
            const auto check = pictureCheck(coding, {});
            for (const auto unit : unitsOf(stream)) {
                if (isSlice(coding, unit)) QVERIFY(!check->unit(unit));
            }
            QVERIFY(!check->endPicture());
            QCOMPARE(check->pictures(), std::uint64_t{0});
        }
    }
};

QTEST_GUILESS_MAIN(TestPictures)
#include "test_pictures.moc"
