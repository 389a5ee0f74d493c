// What the sheet shows and in what order, without a window.
#include <QBuffer>
#include <QPainter>
#include <QSet>
#include <QTest>

#include "desktop/look/look.h"
#include "desktop/sheet/arrangement.h"
#include "desktop/sheet/thumbnails.h"
#include "media/likeness.h"

using namespace dreskel;

class TestArrangement : public QObject {
    Q_OBJECT
    std::vector<Finding> files_;
    Index index_;

    std::int64_t add(Kind kind, const std::string& taken, const std::string& camera,
                     Condition condition = Condition::Whole) {
        Finding finding;
        finding.id = static_cast<std::int64_t>(files_.size()) + 1;
        finding.kind = kind;
        finding.description.taken = taken;
        finding.description.camera = camera;
        finding.condition = condition;
        finding.evidence.range = {1000000 - static_cast<std::uint64_t>(finding.id) * 1000, 500};
        files_.push_back(finding);
        return finding.id;
    }
    Arrangement arrangement(ArrangeBy by, const Filter& filter = {}, OrderBy order = OrderBy::AsArranged) {
        const auto all = std::make_shared<JobFiles>();
        for (const auto& file : files_) all->push_back(std::make_shared<const Finding>(file));
        return arrange(index_, {all, by, order, filter});
    }
    std::vector<Group> arranged(ArrangeBy by, const Filter& filter = {}) {
        return arrangement(by, filter).groups;
    }
    static std::size_t count(const std::vector<Group>& groups) {
        std::size_t sum = 0;
        for (const auto& group : groups) sum += group.ids.size();
        return sum;
    }

  private Q_SLOTS:
    void init() {
        files_.clear();
        add(Kind::Photo, "2026-05-02T07:45:00", "Orrery K2");
        add(Kind::Video, "2026-05-02T08:20:00Z", "Orrery K2");  // a zone, 35 minutes later: the same shoot
        add(Kind::Photo, "2026-05-02T09:10:00", "Halden F1");   // 50 minutes later: another
        add(Kind::Audio, "", "", Condition::Partial);
        add(Kind::Photo, "2026-05-04T23:50:00", "Orrery K2", Condition::Broken);
        add(Kind::Photo, "2026-05-05T00:10:00+02:00", "Orrery K2");  // over midnight
        add(Kind::Photo, "not a date", "");
        files_[6].inside = 1;
    }
    // The note of an undated recorder stands behind the photo that it belongs to, and counts with its shoot.
    void whatBelongsToAFileStandsBehindIt() {
        files_[3].belongsTo = 1;
        files_[4].belongsTo = 1;
        const auto shoots = arranged(ArrangeBy::Shoot);
        QVERIFY(shoots.front().ids == (std::vector<std::int64_t>{1, 4, 5, 2}));
        QVERIFY2(shoots.front().detail.contains(QStringLiteral("1 recording")),
                 qPrintable(shoots.front().detail));
        QCOMPARE(count(shoots), std::size_t{6});
        // Where a fact of each decides it stands where that says.
        QVERIFY(arrangement(ArrangeBy::Shoot, {}, OrderBy::Damage).groups.front().ids != shoots.front().ids);
        // Without its file it stands alone.
        Filter sound;
        sound.photos = false;
        QCOMPARE(count(arranged(ArrangeBy::Shoot, sound)), std::size_t{2});
    }
    void typedWordsAndLimitsNarrow() {
        files_[1].description.duration = 61;
        files_[1].pieces = {{PieceFrom::Card, 0, 3000000, {}}};
        const auto ids = [&](const char* typed) {
            Filter filter;
            filter.typed = Narrowing(QString::fromUtf8(typed));
            std::vector<std::int64_t> all;
            for (const auto& group : arranged(ArrangeBy::Place, filter))
                all.insert(all.end(), group.ids.begin(), group.ids.end());
            std::sort(all.begin(), all.end());
            return all;
        };
        using Ids = std::vector<std::int64_t>;
        QCOMPARE(ids("halden"), (Ids{3}));
        QCOMPARE(ids("ORRERY saturday"), (Ids{1, 2}));
        QCOMPARE(ids("2026-05-0"), (Ids{1, 2, 3, 5, 6}));
        QCOMPARE(ids(">2MB"), (Ids{2}));
        QCOMPARE(ids("orrery <2mb"), (Ids{1, 5, 6}));
        QCOMPARE(ids(">1min"), (Ids{2}));
        QCOMPARE(ids("<30s"), Ids{});
        QCOMPARE(ids("#5"), (Ids{5}));
        QCOMPARE(ids("#1,5-6"), (Ids{1, 5, 6}));
        QCOMPARE(ids("#1-"), Ids{});
        QCOMPARE(ids("broken photo"), (Ids{5}));
        QCOMPARE(ids("  ").size(), std::size_t{6});
        QCOMPARE(Narrowing(QStringLiteral("halden may >2MB")).sentence(),
                 QStringLiteral("with “halden” and “may”, larger than 2.00 MB"));
    }
    void shootsEndWithAPause() {
        const auto groups = arranged(ArrangeBy::Shoot);
        QCOMPARE(groups.size(), std::size_t{4});
        QVERIFY(groups[0].ids == (std::vector<std::int64_t>{1, 2}));
        QCOMPARE(groups[0].title, QStringLiteral("Saturday 2 May 2026, 07:45 to 08:20"));
        QCOMPARE(groups[0].detail, QStringLiteral("Orrery K2, 1 photo, 1 clip"));
        QVERIFY(groups[1].ids == (std::vector<std::int64_t>{3}));
        QVERIFY(groups[2].ids == (std::vector<std::int64_t>{5, 6}));
        QVERIFY(groups[2].title.contains(QStringLiteral("to 5 May")));
        QCOMPARE(groups[3].title, QStringLiteral("No date known"));
    }
    void nothingIsLostOrShownTwice() {
        for (const auto by : {ArrangeBy::Shoot, ArrangeBy::Place, ArrangeBy::Camera, ArrangeBy::Condition}) {
            const auto groups = arranged(by);
            QCOMPARE(count(groups), std::size_t{6});  // the embedded one stays out
            QSet<std::int64_t> seen;
            for (const auto& group : groups) {
                QVERIFY(!group.ids.empty() && !group.title.isEmpty());
                for (const auto id : group.ids) {
                    QVERIFY(!seen.contains(id));
                    seen.insert(id);
                }
            }
        }
        QVERIFY(arranged(ArrangeBy::Place)[0].ids.front() == 6);  // lies first on the card
        QCOMPARE(arranged(ArrangeBy::Camera).back().title, QStringLiteral("Camera not known"));
        QCOMPARE(arranged(ArrangeBy::Condition).size(), std::size_t{3});
    }
    void filtersCombine() {
        const Filter photos{.clips = false, .sound = false, .others = false};
        QCOMPARE(count(arranged(ArrangeBy::Shoot, photos)), std::size_t{4});
        QCOMPARE(count(arranged(ArrangeBy::Shoot, {.onlyDamaged = true})), std::size_t{2});
        auto damaged = photos;
        damaged.onlyDamaged = true;
        QCOMPARE(count(arranged(ArrangeBy::Shoot, damaged)), std::size_t{1});
        // What is neither photo, clip nor sound.
        const auto all = count(arranged(ArrangeBy::Shoot, {}));
        files_[0].kind = Kind::Sidecar;
        QCOMPARE(count(arranged(ArrangeBy::Shoot, {})), all);
        QCOMPARE(count(arranged(ArrangeBy::Shoot, {.others = false})), all - 1);
        QVERIFY(arranged(ArrangeBy::Shoot, {.photos = false, .clips = false, .sound = false, .others = false})
                    .empty());
    }
    // Each count is what choosing it leaves: chosen, it is what is shown.
    void countsAreWhatChoosingLeaves() {
        files_[0].decision.kept = true;
        files_[2].decision = {.leftOut = true, .rating = 4, .note = {}};
        files_[4].description.width = files_[4].description.height = 4000;
        files_[1].description.duration = 75;
        std::size_t tried = 0;
        for (const auto& base : {Filter{}, Filter{.sound = false}, Filter{.onlyDamaged = true}}) {
            const auto before = arrangement(ArrangeBy::Place, base);
            for (const auto facet : kAllFacets) {
                for (const auto& offered : before.counts[static_cast<std::size_t>(facet)]) {
                    auto filter = base;
                    filter.chosen[static_cast<std::size_t>(facet)].insert(offered.value.key);
                    const auto after = arrangement(ArrangeBy::Place, filter);
                    QCOMPARE(after.files, offered.files);
                    QCOMPARE(count(after.groups), offered.files);
                    // Beside what is chosen, the others on its side keep their numbers.
                    QCOMPARE(after.counts[static_cast<std::size_t>(facet)].size(),
                             before.counts[static_cast<std::size_t>(facet)].size());
                    ++tried;
                }
            }
        }
        QVERIFY(tried > 30);
        Filter two;
        two.chosen[static_cast<std::size_t>(Facet::Camera)] = {QStringLiteral("Orrery K2"),
                                                               QStringLiteral("Halden F1")};
        QCOMPARE(arrangement(ArrangeBy::Place, two).files, std::size_t{5});
        two.chosen[static_cast<std::size_t>(Facet::Day)] = {QStringLiteral("2026-05-02")};
        QCOMPARE(arrangement(ArrangeBy::Place, two).files, std::size_t{3});
        two.span = ByteRange{998000, 600};  // where the second lies
        files_[1].pieces = {{PieceFrom::Card, 998000, 500, {}}};
        QCOMPARE(arrangement(ArrangeBy::Place, two).files, std::size_t{1});
        two.among = QSet<std::int64_t>{3};
        QCOMPARE(arrangement(ArrangeBy::Place, two).files, std::size_t{0});
    }
    void theOrderUnderAHeadingIsTheOneAskedFor() {
        const auto ids = [&](OrderBy order) {
            return arrangement(ArrangeBy::Place, {}, order).groups.at(0).ids;
        };
        using Ids = std::vector<std::int64_t>;
        for (auto& file : files_) {
            file.pieces = {{PieceFrom::Card, 0, static_cast<std::uint64_t>(file.id * 100 % 700), {}}};
            file.decoded = file.condition == Condition::Whole ? 1 : 0.4;
        }
        files_[3].name = "A.WAV";
        files_[0].name = "B.JPG";
        files_[5].decision.rating = 5;
        QCOMPARE(ids(OrderBy::AsArranged), (Ids{6, 5, 4, 3, 2, 1}));
        QCOMPARE(ids(OrderBy::Time), (Ids{1, 2, 3, 5, 6, 4}));
        QCOMPARE(ids(OrderBy::Size), (Ids{6, 5, 4, 3, 2, 1}));
        QCOMPARE(ids(OrderBy::Name), (Ids{4, 1, 6, 5, 3, 2}));
        QCOMPARE(ids(OrderBy::Damage), (Ids{5, 4, 6, 3, 2, 1}));
        QCOMPARE(ids(OrderBy::Rating), (Ids{6, 5, 4, 3, 2, 1}));
    }
    void picturesAreTurnedAsTheFileSays() {
        // A marked corner goes where each of Exif's eight orientations says.
        QImage image(3, 2, QImage::Format_RGB32);
        image.fill(Qt::black);
        image.setPixelColor(0, 0, Qt::white);
        const QPoint expected[8] = {{0, 0}, {2, 0}, {2, 1}, {0, 1}, {0, 0}, {1, 0}, {1, 2}, {0, 2}};
        for (int orientation = 1; orientation <= 8; ++orientation) {
            const auto result = turned(image, orientation);
            QCOMPARE(result.size(), orientation < 5 ? QSize(3, 2) : QSize(2, 3));
            QVERIFY2(result.pixelColor(expected[orientation - 1]) == QColor(Qt::white),
                     qPrintable(QString::number(orientation)));
        }
        QCOMPARE(turned(image, 99), image);
    }
    void numbersAreReadableAndNeverFlatter() {
        QCOMPARE(look::conditionText(Condition::Partial, 0.9999), QStringLiteral("partial, 99.9 % decodes"));
        QCOMPARE(look::conditionText(Condition::Partial, 0.505), QStringLiteral("partial, 50 % decodes"));
        QCOMPARE(look::durationText(72.4), QStringLiteral("1:12"));
        QCOMPARE(look::durationText(3723), QStringLiteral("1:02:03"));
        QCOMPARE(look::takenText("2026-05-05T07:58:21+02:00"), QStringLiteral("5 May 2026, 07:58:21"));
        QCOMPARE(look::takenText(""), QString());
    }
    // A picture is known again when it is smaller and coarser, one beside it is a neighbour, another is not.
    void likenessKnowsAPictureAgain() {
        const auto painted = [](int scene, int shift, double light) {
            QImage image(1200, 800, QImage::Format_RGB888);
            QPainter painter(&image);
            QLinearGradient sky(0, 0, scene == 0 ? 0 : 1200, 800);
            sky.setColorAt(0, scene == 0 ? QColor(90, 140, 220) : QColor(60, 30, 20));
            sky.setColorAt(1, scene == 0 ? QColor(60, 110, 50) : QColor(230, 180, 60));
            painter.fillRect(image.rect(), sky);
            painter.setBrush(scene == 0 ? QColor(140, 110, 80) : QColor(30, 60, 140));
            painter.drawRect(300 + shift, 200, 400, 500);
            painter.drawEllipse(800 + shift, 450, 260, 260);
            painter.end();
            for (int y = 0; y < image.height(); ++y) {
                auto* line = image.scanLine(y);
                for (int x = 0; x < image.width() * 3; ++x)
                    line[x] = static_cast<uchar>(std::clamp(line[x] * light, 0.0, 255.0));
            }
            return image;
        };
        const auto likeness = [](const QImage& image) {
            const auto plain = image.convertToFormat(QImage::Format_RGB888);
            Picture picture{
                static_cast<std::uint32_t>(plain.width()), static_cast<std::uint32_t>(plain.height()), {}};
            for (int y = 0; y < plain.height(); ++y)
                picture.rgb.insert(picture.rgb.end(), plain.constScanLine(y),
                                   plain.constScanLine(y) + plain.width() * 3);
            return media::likenessOf(picture).value();
        };
        const auto mill = painted(0, 0, 1);
        QByteArray bytes;
        QBuffer buffer(&bytes);
        buffer.open(QIODevice::WriteOnly);
        QVERIFY(
            mill.scaled(300, 200, Qt::IgnoreAspectRatio, Qt::SmoothTransformation).save(&buffer, "JPEG", 40));
        const auto again = likeness(QImage::fromData(bytes));
        const auto first = likeness(mill);
        QVERIFY2(media::apart(first, again) <= media::kSamePicture,
                 qPrintable(QString::number(media::apart(first, again))));
        const auto neighbour = media::apart(first, likeness(painted(0, 90, 0.85)));
        QVERIFY2(neighbour > media::kSamePicture && neighbour <= media::kAlike,
                 qPrintable(QString::number(neighbour)));
        const auto other = media::apart(first, likeness(painted(1, 0, 1)));
        QVERIFY2(other > media::kAlike, qPrintable(QString::number(other)));
        QImage even(200, 200, QImage::Format_RGB888);
        even.fill(Qt::gray);
        QVERIFY(!media::likenessOf(
            {200, 200, std::vector<std::uint8_t>(even.constBits(), even.constBits() + 120000)}));
        QVERIFY(!media::likenessOf({200, 200, {}}));
    }
    void anUnreadablePreviewIsNoCrash() {
        const Preview junk{{1, 2, 3, 4}, {}};
        const auto cell = drawThumbnail(files_[0], junk, {120, 80});
        QCOMPARE(cell.size(), QSize(120, 80));
        QVERIFY(drawThumbnail(files_[3], {{}, {5}}, {120, 80}).size() == QSize(120, 80));
    }
};

QTEST_MAIN(TestArrangement)
#include "test_arrangement.moc"
