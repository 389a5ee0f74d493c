// Photos whose beginning is gone: what is left of them comes back as a picture, with the header of a good
// photo of the same settings; and nothing comes of what is no photo.
#include <QTemporaryDir>
#include <QTest>

#include "formats/jpeg/lender.h"
#include "formats/jpeg/stream_decoder.h"
#include "session/session.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::size_t kCluster = 32768;

struct Seen {
    jpeg::Frame frame;
    jpeg::DcPlanes planes;
    bool ended = false;
};

Seen decoded(const Buffer& bytes) {
    Seen seen;
    jpeg::StreamDecoder decoder(&seen.planes);
    decoder.feed(bytes, true);
    seen.frame = decoder.frame();
    seen.ended = decoder.state() == jpeg::StreamDecoder::State::Ended;
    return seen;
}

}  // namespace

class TestHeadless : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;

    struct Searched {
        std::vector<Finding> listed;
        std::shared_ptr<Session> session;
    };
    Searched search(const Buffer& card, const std::vector<std::string>& references = {}) {
        const auto path = dir_.filePath(QStringLiteral("%1.img").arg(++number_));
        writeFile(path, card);
        auto session = Session::open(path.toStdString(),
                                     dir_.filePath(QStringLiteral("job%1").arg(number_)).toStdString());
        if (!session) qFatal("%s", session.error().sentence().c_str());
        ScanOptions options;
        options.references = references;
        session.value()->startScan(options);
        const auto outcome = session.value()->wait();
        if (!outcome) qFatal("%s", outcome.error().sentence().c_str());
        return {session.value()->listed(), session.value()};
    }
    static Buffer bytesOf(const Buffer& card, const Finding& finding) {
        Buffer all;
        for (const auto& piece : finding.pieces) {
            const auto& from = piece.from == PieceFrom::Made ? *piece.made : card;
            const auto begin = from.begin() + static_cast<std::ptrdiff_t>(piece.offset);
            all.insert(all.end(), begin, begin + static_cast<std::ptrdiff_t>(piece.length));
        }
        return all;
    }
    // A card with a part of a photo on it, from one cluster to another (0: to its end), between noise.
    static Buffer cardWith(const Buffer& photo, std::size_t from, std::size_t to, const Buffer& good) {
        ImageBuilder image(kCluster);
        image.addNoise(kCluster, 3);
        if (!good.empty()) image.add(good);
        image.addNoise(2 * kCluster, 4);
        const auto end = to == 0 ? photo.size() : to * kCluster;
        image.add({photo.begin() + static_cast<std::ptrdiff_t>(from * kCluster),
                   photo.begin() + static_cast<std::ptrdiff_t>(end)});
        image.addGap(kCluster);
        image.addNoise(kCluster, 5);
        return image.bytes();
    }
    static const Finding* partialOf(const std::vector<Finding>& listed) {
        for (const auto& finding : listed) {
            if (finding.condition == Condition::Partial) return &finding;
        }
        return nullptr;
    }

  private Q_SLOTS:
    // Filling of every length, ending with every bit, is coded data that the decoder takes.
    void fillingDecodes_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"baseline-420.jpg", "baseline-422.jpg", "optimised-444.jpg", "grey.jpg",
                                 "restart-row.jpg", "restart-five.jpg", "other-encoder.jpg"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void fillingDecodes() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        const auto lender = jpeg::Lender::read(file, "a test");
        QVERIFY(lender.has_value());
        const auto all = std::uint64_t{lender->mcusWide()} * lender->mcusHigh();
        const auto filled = jpeg::fill(*lender, {0, all, 0, 0, {}, {}});
        if (filled) {
            auto bytes = lender->header(lender->height());
            bytes.insert(bytes.end(), filled->bytes.begin(), filled->bytes.end());
            bytes.insert(bytes.end(), {0xff, 0xd9});
            QVERIFY(decoded(bytes).ended);
        }
        for (int bits = 0; bits < 8; ++bits) {
            const auto some = jpeg::fill(*lender, {0, lender->mcusWide() - 1, 1, bits, {20, -3, 4, 0}, {}});
            QVERIFY2(some.has_value(), qPrintable(name + QString::number(bits)));
            auto bytes = lender->header(lender->height());
            bytes.insert(bytes.end(), some->bytes.begin(), some->bytes.end());
            jpeg::StreamDecoder decoder;
            decoder.feed(bytes, false);
            QCOMPARE(decoder.state(), jpeg::StreamDecoder::State::Hungry);
        }
    }
    void whatNeedsSeveralScansIsNoLender() {
        QVERIFY(!jpeg::Lender::read(mediaFile(QStringLiteral("progressive.jpg")), ""));
        QVERIFY(!jpeg::Lender::read(randomBytes(5000, 9), ""));
        const auto file = mediaFile(QStringLiteral("baseline-420.jpg"));
        for (std::size_t length = 0; length < 700; length += 7)
            jpeg::Lender::read(Bytes(file).first(length), "");
    }
    void comesBackWithoutItsBeginning_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("from");
        QTest::addColumn<bool>("lent");
        QTest::newRow("4:2:0") << QStringLiteral("baseline-420.jpg") << 5 << false;
        QTest::newRow("4:2:2, lent") << QStringLiteral("baseline-422.jpg") << 19 << true;
        QTest::newRow("grey") << QStringLiteral("grey.jpg") << 2 << false;
        QTest::newRow("a restart marker a row") << QStringLiteral("restart-row.jpg") << 6 << false;
        QTest::newRow("one every five") << QStringLiteral("restart-five.jpg") << 4 << true;
        QTest::newRow("another encoder") << QStringLiteral("other-encoder.jpg") << 3 << false;
    }
    void comesBackWithoutItsBeginning() {
        QFETCH(QString, name);
        QFETCH(int, from);
        QFETCH(bool, lent);
        const auto photo = mediaFile(name);
        const auto good = dir_.filePath(name);
        writeFile(good, photo);
        const auto card = cardWith(photo, static_cast<std::size_t>(from), 0, lent ? Buffer() : photo);
        const auto found = search(card, lent ? std::vector{good.toStdString()} : std::vector<std::string>());
        QCOMPARE(found.listed.size(), lent ? std::size_t{1} : std::size_t{2});
        const auto* rest = partialOf(found.listed);
        QVERIFY(rest != nullptr);
        QVERIFY(rest->decoded > 0.2 && rest->decoded < 0.99);
        QVERIFY(rest->why.find("its beginning is gone") != std::string::npos);
        QCOMPARE(rest->pieces.size(), std::size_t{2});
        QVERIFY(rest->pieces[0].from == PieceFrom::Made && !rest->pieces[0].why.empty());
        // All but what lies before the first block or restart marker of the part that is left.
        const auto left = photo.size() - static_cast<std::size_t>(from) * kCluster;
        QVERIFY(rest->pieces[1].length + 3000 > left && rest->pieces[1].length <= left);

        const auto picture = decoded(bytesOf(card, *rest));
        const auto truth = decoded(photo);
        QVERIFY(picture.ended);
        QCOMPARE(picture.frame.width, truth.frame.width);
        QCOMPARE(picture.frame.height, truth.frame.height);
        // Where the picture is the photo's, it differs by one and the same brightness.
        const auto& a = picture.planes.planes[0];
        const auto& b = truth.planes.planes[0];
        const auto all = a.dc.size();
        const auto share = static_cast<std::size_t>(static_cast<double>(all) * rest->decoded);
        const int shift = a.dc[all - 1] - b.dc[all - 1];
        std::size_t same = 0;
        for (auto i = all - share; i < all; ++i) same += a.dc[i] - b.dc[i] == shift ? 1 : 0;
        // A few blocks at the joint may be another's: the row in which it begins is counted whole here.
        QVERIFY2(same + 4 * a.width > share, qPrintable(QStringLiteral("%1 of %2").arg(same).arg(share)));
        // A search that is asked again has nothing to add.
        found.session->startScan({});
        QVERIFY(found.session->wait().ok());
        QCOMPARE(found.session->listed().size(), found.listed.size());
    }
    // A stretch in its middle is overwritten: what is above and what is below it are one picture again, with
    // the same brightness difference all over the part below.
    void comesBackTorn_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("by");
        QTest::addColumn<int>("length");
        QTest::newRow("noise") << QStringLiteral("baseline-420.jpg") << QStringLiteral("noise") << 8192;
        QTest::newRow("zeros, own tables")
            << QStringLiteral("optimised-444.jpg") << QStringLiteral("zeros") << 20480;
        QTest::newRow("zeros") << QStringLiteral("baseline-422.jpg") << QStringLiteral("zeros") << 65536;
        QTest::newRow("a photo's bytes")
            << QStringLiteral("baseline-422.jpg") << QStringLiteral("photo") << 40960;
        QTest::newRow("a restart marker a row")
            << QStringLiteral("restart-row.jpg") << QStringLiteral("photo") << 8192;
        QTest::newRow("one every five")
            << QStringLiteral("restart-five.jpg") << QStringLiteral("noise") << 4096;
        QTest::newRow("grey") << QStringLiteral("grey.jpg") << QStringLiteral("noise") << 4096;
        QTest::newRow("another encoder")
            << QStringLiteral("other-encoder.jpg") << QStringLiteral("photo") << 16384;
    }
    void comesBackTorn() {
        QFETCH(QString, name);
        QFETCH(QString, by);
        QFETCH(int, length);
        const auto whole = mediaFile(name);
        const auto at = whole.size() / 5 * 2 / 4096 * 4096;
        auto photo = whole;
        const auto foreign = by == QLatin1String("noise")   ? randomBytes(static_cast<std::size_t>(length), 8)
                             : by == QLatin1String("zeros") ? Buffer(static_cast<std::size_t>(length))
                                                            : mediaFile(QStringLiteral("fine.jpg"));
        std::copy_n(foreign.begin() + (by == QLatin1String("photo") ? 40960 : 0), length,
                    photo.begin() + static_cast<std::ptrdiff_t>(at));
        const auto card = cardWith(photo, 0, 0, {});
        const auto found = search(card);
        QCOMPARE(found.listed.size(), std::size_t{1});
        const auto& torn = found.listed[0];
        QCOMPARE(torn.condition, Condition::Partial);
        QVERIFY2(torn.why.find("a part of its middle is gone") != std::string::npos, torn.why.c_str());
        QVERIFY(torn.decoded > 0.5 && torn.decoded < 1);

        const auto picture = decoded(bytesOf(card, torn));
        const auto truth = decoded(whole);
        QVERIFY(picture.ended);
        QCOMPARE(picture.frame.height, truth.frame.height);
        const auto& a = picture.planes.planes[0];
        const auto& b = truth.planes.planes[0];
        const auto all = a.dc.size();
        const int shift = a.dc[all - 1] - b.dc[all - 1];
        std::size_t above = 0, below = 0;
        while (above < all && a.dc[above] == b.dc[above]) ++above;
        while (below < all && a.dc[all - 1 - below] - b.dc[all - 1 - below] == shift) ++below;
        // The rows in which it breaks and goes on are counted whole by neither.
        QVERIFY2(
            static_cast<double>(above) > 0.25 * static_cast<double>(all) &&
                static_cast<double>(above + below + 8 * a.width) > torn.decoded * static_cast<double>(all),
            qPrintable(QStringLiteral("%1 + %2 of %3, %4").arg(above).arg(below).arg(all).arg(torn.decoded)));
        found.session->startScan({});
        QVERIFY(found.session->wait().ok());
        QCOMPARE(found.session->listed().size(), std::size_t{1});
        QCOMPARE(found.session->listed()[0].size(), torn.size());
    }
    // What the technician set counts for more than what could be made of it.
    void whatWasSetIsNotMended() {
        const auto whole = mediaFile(QStringLiteral("baseline-420.jpg"));
        auto photo = whole;
        const auto noise = randomBytes(8192, 8);
        std::copy(noise.begin(), noise.end(), photo.begin() + 5 * kCluster);
        const auto found = search(cardWith(photo, 0, 0, {}));
        QCOMPARE(found.listed.size(), std::size_t{1});
        const auto& torn = found.listed[0];
        QVERIFY(torn.why.find("a part of its middle is gone") != std::string::npos);
        QVERIFY(found.session->setSplice(torn.id, {{torn.start(), 5 * kCluster}}).ok());
        QVERIFY(found.session->wait().ok());
        const auto set = found.session->finding(torn.id);
        QVERIFY(set.has_value() && set->evidence.decided);
        for (const auto& piece : set->pieces) QVERIFY(piece.from == PieceFrom::Card);
        QVERIFY(set->size() <= 5 * kCluster);
    }
    // Without its end too: as many rows as there are, at a place of their own.
    void comesBackWithoutEnds() {
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        const auto card = cardWith(photo, 12, 40, photo);
        const auto found = search(card);
        QCOMPARE(found.listed.size(), std::size_t{2});
        const auto* middle = partialOf(found.listed);
        QVERIFY(middle != nullptr);
        QVERIFY(middle->why.find("how far down in the picture") != std::string::npos);
        QCOMPARE(middle->pieces.size(), std::size_t{3});
        QVERIFY(middle->pieces[2].from == PieceFrom::Made);
        QVERIFY(middle->description.height < 1600U);
        QCOMPARE(middle->description.width, std::optional<std::uint32_t>(2400));
    }
    // Without a photo to lend its tables, nothing is made up.
    void nothingComesOfItAlone() {
        const auto photo = mediaFile(QStringLiteral("baseline-420.jpg"));
        QVERIFY(search(cardWith(photo, 5, 0, {})).listed.empty());
        const auto other = mediaFile(QStringLiteral("optimised-444.jpg"));
        const auto found = search(cardWith(photo, 5, 0, other));
        QCOMPARE(found.listed.size(), std::size_t{1});
        QCOMPARE(found.listed[0].condition, Condition::Whole);
    }
};

QTEST_GUILESS_MAIN(TestHeadless)
#include "test_headless.moc"
