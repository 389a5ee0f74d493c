// Frames of VP8 and VP9 by an independent encoder, followed to their last bit: whole, cut and with foreign
// bytes inside.
#include <memory>
#include <QTest>
#include <random>

#include "formats/vp8/stream_check.h"
#include "formats/vp9/stream_check.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// The frames of an IVF file: behind 32 bytes each has its length in front, and its time.
std::vector<Buffer> framesOf(const QString& name) {
    const auto file = mediaFile(name);
    std::vector<Buffer> frames;
    ByteReader reader(Bytes(file).subspan(32), Endian::Little);
    while (reader.left() > 12) {
        const auto length = reader.u32();
        reader.skip(8);
        const auto frame = reader.take(length);
        frames.emplace_back(frame.begin(), frame.end());
    }
    return frames;
}

std::unique_ptr<PictureCheck> checkFor(const QString& name) {
    if (name.contains(QStringLiteral("vp8"))) return std::make_unique<vp8::StreamCheck>();
    return std::make_unique<vp9::StreamCheck>();
}

std::unique_ptr<PictureCheck> copyOf(const PictureCheck& check) {
    if (const auto* vp8 = dynamic_cast<const vp8::StreamCheck*>(&check))
        return std::make_unique<vp8::StreamCheck>(*vp8);
    return std::make_unique<vp9::StreamCheck>(dynamic_cast<const vp9::StreamCheck&>(check));
}

// Of a stream that was followed up to this frame, which is another one: whether anything is noticed in it or
// behind it.
bool isNoticed(const PictureCheck& upTo, const std::vector<Buffer>& frames, std::size_t at,
               const Buffer& instead) {
    const auto check = copyOf(upTo);
    if (check->unit(instead)) return true;
    for (auto i = at + 1; i < frames.size(); ++i) {
        if (check->unit(frames[i])) return true;
    }
    return false;
}

}  // namespace

class TestFrames : public QObject {
    Q_OBJECT

    static void addStreams() {
        QTest::addColumn<QString>("name");
        const QDir folder(QStringLiteral(DRESKEL_FIXTURES "/structures"));
        const auto names = folder.entryList({QStringLiteral("frames-*.ivf")});
        QVERIFY(names.size() >= 12);
        for (const auto& name : names) QTest::newRow(qPrintable(name)) << name;
    }

  private Q_SLOTS:
    void wholeOnesAreFollowedToTheEnd_data() { addStreams(); }
    void wholeOnesAreFollowedToTheEnd() {
        QFETCH(QString, name);
        const auto frames = framesOf(name);
        QVERIFY(frames.size() >= 4);
        const auto check = checkFor(name);
        for (const auto& frame : frames) {
            const auto fault = check->unit(frame);
            QVERIFY2(!fault, fault ? fault->why : "");
        }
        QCOMPARE(check->pictures(), static_cast<std::uint64_t>(frames.size()));
    }
    void foreignBytesAreNoticed_data() { addStreams(); }
    void foreignBytesAreNoticed() {
        QFETCH(QString, name);
        const auto frames = framesOf(name);
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        std::mt19937 random(seedOf(name, 7));
        const auto check = checkFor(name);
        int tried = 0, unnoticed = 0;
        for (std::size_t i = 0; i < frames.size(); ++i) {
            constexpr std::size_t kForeign = 64;
            for (int round = 0; round < 6 && frames[i].size() > 4 * kForeign; ++round) {
                auto bent = frames[i];
                const auto at = 40 + random() % (bent.size() - kForeign - 50);
                const auto other = round % 2 == 0 ? randomBytes(kForeign, static_cast<unsigned>(random()))
                                                  : Buffer(photo.begin() + 50000 + round * 500,
                                                           photo.begin() + 50000 + round * 500 + kForeign);
                std::copy(other.begin(), other.end(), bent.begin() + static_cast<std::ptrdiff_t>(at));
                ++tried;
                unnoticed += isNoticed(*check, frames, i, bent) ? 0 : 1;
            }
            QVERIFY(!check->unit(frames[i]));
        }
        // Where they end with the picture by chance, they pass.
        QVERIFY(tried >= 20);
        QVERIFY2(unnoticed * 20 <= tried, qPrintable(QStringLiteral("%1 of %2").arg(unnoticed).arg(tried)));
    }
    void aCutIsNoticed_data() { addStreams(); }
    void aCutIsNoticed() {
        QFETCH(QString, name);
        const auto frames = framesOf(name);
        const auto check = checkFor(name);
        for (std::size_t i = 0; i < frames.size(); ++i) {
            const auto left = frames[i].size() < 100 ? frames[i].size() : frames[i].size() - 40;
            const Buffer cut(frames[i].begin(), frames[i].begin() + static_cast<std::ptrdiff_t>(left));
            QVERIFY(left == frames[i].size() || isNoticed(*check, frames, i, cut));
            auto longer = frames[i];
            const Buffer more(40, 0x55);
            longer.insert(longer.end(), more.begin(), more.end());
            QVERIFY(isNoticed(*check, frames, i, longer));
            QVERIFY(!check->unit(frames[i]));
        }
    }
    // A frame that is missing leaves others behind it that are coded by what it would have said.
    void aMissingFrameIsNoticed_data() { addStreams(); }
    void aMissingFrameIsNoticed() {
        QFETCH(QString, name);
        // These learn nothing from each other.
        if (name.contains(QStringLiteral("resilient")) || name.contains(QStringLiteral("vp8"))) return;
        auto frames = framesOf(name);
        frames.erase(frames.begin() + 1);
        const auto check = checkFor(name);
        bool noticed = false;
        for (const auto& frame : frames) noticed = noticed || check->unit(frame).has_value();
        QVERIFY(noticed);
    }
    // Behind a damaged frame nothing is said before the next one that builds on no other.
    void anotherBeginningIsTaken_data() { addStreams(); }
    void anotherBeginningIsTaken() {
        QFETCH(QString, name);
        const auto frames = framesOf(name);
        const auto check = checkFor(name);
        const Buffer cut(frames[0].begin(), frames[0].end() - 40);
        QVERIFY(check->unit(cut));
        QVERIFY(!check->unit(frames[1]));
        QCOMPARE(check->pictures(), std::uint64_t{1});
        for (const auto& frame : frames) QVERIFY(!check->unit(frame));
        QCOMPARE(check->pictures(), static_cast<std::uint64_t>(frames.size()) + 1);
    }
    void whatIsNoFrameIsTold() {
        vp8::StreamCheck vp8;
        vp9::StreamCheck vp9;
        const auto noise = randomBytes(4096, 3);
        QVERIFY(vp8.unit(Buffer{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}));
        // Before anything begins there is nothing to judge.
        QVERIFY(!vp9.unit(noise));
        QCOMPARE(vp9.pictures(), std::uint64_t{0});
        const auto frames = framesOf(QStringLiteral("frames-vp9-fast.ivf"));
        QVERIFY(!vp9.unit(frames[0]));
        // An index of frames that lie outside of the packet.
        QVERIFY(vp9.unit(Buffer{0x82, 0, 0, 0xc9, 9, 0, 9, 0, 0xc9}));
    }
    // A few bytes may state the largest picture, whose blocks take none of them.
    void aLargePictureOfNoBytesTakesNoTime() {
        vp8::StreamCheck vp8;
        Buffer frame{0x10, 2, 0, 0x9d, 1, 0x2a, 0xff, 0x3f, 0xff, 0x3f};
        frame.resize(40, 0);
        QElapsedTimer timer;
        timer.start();
        for (int i = 0; i < 20; ++i) vp8.unit(frame);
        QVERIFY2(timer.elapsed() < 4000, qPrintable(QString::number(timer.elapsed())));
    }
};

QTEST_GUILESS_MAIN(TestFrames)
#include "test_frames.moc"
