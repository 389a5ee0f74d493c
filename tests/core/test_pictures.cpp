// The coded pictures of independent encoders, followed to their last bit: with every tool that they have,
// whole and with foreign bytes inside.
#include <QTest>

#include "formats/clip/picture_check.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::uint64_t kPictures = 12;  // of each stream; see tests/fixtures/make

std::vector<Bytes> unitsOf(const Buffer& stream) {
    std::vector<std::size_t> places;
    for (std::size_t at = 0; at + 3 <= stream.size(); ++at) {
        if (stream[at] == 0 && stream[at + 1] == 0 && stream[at + 2] == 1) places.push_back(at + 3);
    }
    std::vector<Bytes> units;
    for (std::size_t i = 0; i < places.size(); ++i) {
        auto end = i + 1 < places.size() ? places[i + 1] - 3 : stream.size();
        while (end > places[i] && stream[end - 1] == 0) --end;
        units.push_back(slice(stream, places[i], end - places[i]));
    }
    return units;
}

bool isSlice(PictureCoding coding, Bytes unit) {
    return unitKind(coding, unit) == UnitKind::Slice;
}

bool beginsPicture(PictureCoding coding, Bytes unit) {
    return (unit[coding == PictureCoding::Avc ? 1 : 2] & 0x80) != 0;
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
        QFETCH(QString, name);
        if (!isFollowed(name)) return;
        const auto stream = mediaFile(name);
        const auto coding = codingOf(name);
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        std::mt19937 random(static_cast<unsigned>(qHash(name, 3)));
        const auto check = pictureCheck(coding, {});
        int tried = 0;
        int unnoticed = 0;
        for (const auto unit : unitsOf(stream)) {
            if (!isSlice(coding, unit)) {
                QVERIFY(!check->unit(unit));
                continue;
            }
            for (int round = 0; round < 6 && unit.size() > 400 && beginsPicture(coding, unit); ++round) {
                constexpr std::size_t kForeign = 64;
                const auto at = 60 + random() % (unit.size() - 130);
                const auto other = round % 2 == 0 ? randomBytes(kForeign, static_cast<unsigned>(random()))
                                                  : Buffer(photo.begin() + 50000 + round * 1000,
                                                           photo.begin() + 50000 + round * 1000 + kForeign);
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
        QVERIFY(tried >= 24);
        // By chance a stretch may fit; it takes more than one in a hundred to be a defect.
        QVERIFY2(unnoticed * 100 <= tried, qPrintable(QStringLiteral("%1 of %2").arg(unnoticed).arg(tried)));
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
