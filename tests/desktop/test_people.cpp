// Photos with people in them, found as a person would: by the row in the panel, and by what looks alike.
#include <cmath>
#include <QBuffer>
#include <QImage>
#include <QTemporaryDir>
#include <QTest>

#include "desktop/main_window.h"
#include "faces/face_finder.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// A drawn face, as dark and light lie on one, before a wall; `size`: half of its width, as a share of the
// height.
QImage drawnFace(int width, int height, double size, unsigned seed) {
    std::mt19937 random(seed);
    const auto noise = [&random] { return static_cast<double>(random() % 11) - 5.0; };
    const double unit = size * height;
    QImage image(width, height, QImage::Format_RGB32);
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
            const double u = (x - width / 2.0) / unit, v = (y - height * 0.45) / unit;
            const auto blot = [&](double atU, double atV, double wideU, double wideV) {
                return std::exp(-(std::pow((u - atU) / wideU, 2) + std::pow((v - atV) / wideV, 2)) / 2);
            };
            double light = 150 + 20 * std::sin(x / 17.0) + 15 * std::cos(y / 23.0) + noise();
            if (std::pow(u / 1.15, 2) + std::pow((v + 0.25) / 1.35, 2) < 1) light = 45;  // hair
            if (std::abs(u) < 0.45 && v > 0.9 && v < 1.9) light = 140;                   // neck
            const double within = std::pow(u / 0.92, 2) + std::pow((v - 0.05) / 1.25, 2);
            if (within < 1 && v > -0.72) {
                light = 195 - 45 * within + noise();
                for (const double side : {-1.0, 1.0}) {
                    light -= 95 * blot(side * 0.42, -0.22, 0.17, 0.10);  // the eyes
                    light -= 70 * blot(side * 0.42, -0.44, 0.22, 0.06);  // the brows
                    light += 18 * blot(side * 0.5, 0.2, 0.2, 0.2);       // the cheeks
                }
                light += 35 * blot(0, -0.05, 0.09, 0.28) - 55 * blot(0, 0.27, 0.17, 0.05);  // the nose
                light += 20 * blot(0, -0.62, 0.4, 0.12) - 70 * blot(0, 0.58, 0.28, 0.07);   // forehead, mouth
            }
            const int value = std::clamp(static_cast<int>(light), 0, 255);
            image.setPixel(x, y, qRgb(value, value * 9 / 10, value * 8 / 10));
        }
    }
    return image;
}

Buffer jpegOf(const QImage& image) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!image.save(&buffer, "JPG", 90)) qFatal("no JPEG");
    return {bytes.begin(), bytes.end()};
}

}  // namespace

class TestPeople : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString card_;
    std::set<std::uint64_t> withFaces_;
    std::uint64_t scaledAt_ = 0, originalAt_ = 0;

    static QTreeWidgetItem* row(NarrowPanel& panel, const QString& side, const QString& front) {
        for (int i = 0; i < panel.topLevelItemCount(); ++i) {
            auto* top = panel.topLevelItem(i);
            if (top->isHidden() || top->text(0) != side) continue;
            for (int child = 0; child < top->childCount(); ++child) {
                if (!top->child(child)->isHidden() && top->child(child)->text(0).startsWith(front))
                    return top->child(child);
            }
        }
        return nullptr;
    }
    static void click(NarrowPanel& panel, QTreeWidgetItem* item) {
        item->parent()->setExpanded(true);
        panel.scrollToItem(item);
        QTest::mouseClick(panel.viewport(), Qt::LeftButton, {}, panel.visualItemRect(item).center());
    }
    std::unique_ptr<MainWindow> opened() {
        auto window = std::make_unique<MainWindow>();
        window->show();
        window->openSource(card_);
        if (!QTest::qWaitFor([&] { return window->job() != nullptr; }, 60000)) qFatal("it does not open");
        return window;
    }

  private Q_SLOTS:
    void initTestCase() {
        qputenv("XDG_CONFIG_HOME", dir_.path().toUtf8());
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        card_ = dir_.filePath(QStringLiteral("FAIR-02.img"));
        ImageBuilder image;
        for (unsigned i = 0; i < 3; ++i) {
            image.addGap(8192);
            withFaces_.insert(image.add(jpegOf(drawnFace(900, 640, 0.12 + 0.06 * i, i + 1))));
        }
        for (const auto* name : {"baseline-420.jpg", "progressive.jpg", "picture.png", "optimised-444.jpg"}) {
            image.addGap(8192);
            const auto at = image.add(mediaFile(QString::fromLatin1(name)));
            if (originalAt_ == 0) originalAt_ = at;
        }
        QImage original;
        const auto bytes = mediaFile(QStringLiteral("baseline-420.jpg"));
        QVERIFY(original.loadFromData(bytes.data(), static_cast<int>(bytes.size())));
        image.addGap(8192);
        scaledAt_ = image.add(jpegOf(original.scaled(original.size() / 2)));
        image.write(card_);
    }
    void theyAreSeenNarrowedToAndKept() {
        {
            auto window = opened();
            auto* job = window->job();
            job->startSearch();
            QVERIFY(QTest::qWaitFor(
                [&] { return job->feed().overview().progress.state == ScanState::Finished; }, 120000));
            QTRY_COMPARE(job->sheet().shown(), std::size_t{8});
            QTest::keyClick(&job->sheet(), Qt::Key_N);
            auto& panel = job->narrowing();
            QTRY_VERIFY(row(panel, QStringLiteral("People, a guess"), QStringLiteral("not looked for yet")) !=
                        nullptr);
            click(panel, row(panel, QStringLiteral("People, a guess"), QStringLiteral("look for faces")));
            QTRY_VERIFY_WITH_TIMEOUT(
                job->message().startsWith(QStringLiteral("Looked for faces in 8 photos")), 30000);
            QTRY_VERIFY(row(panel, QStringLiteral("People, a guess"), QStringLiteral("faces seen")) !=
                        nullptr);
            // Nothing is left to look for.
            QTRY_VERIFY(row(panel, QStringLiteral("People, a guess"), QStringLiteral("look for faces")) ==
                        nullptr);
            QCOMPARE(row(panel, QStringLiteral("People, a guess"), QStringLiteral("faces seen"))->text(1),
                     QStringLiteral("3"));
            click(panel, row(panel, QStringLiteral("People, a guess"), QStringLiteral("faces seen")));
            QTRY_COMPARE(job->sheet().shown(), std::size_t{3});
            for (const auto id : job->sheet().shownIds())
                QVERIFY(withFaces_.contains(job->feed().find(id)->start()));
        }
        // What was seen is known when the job is opened again.
        auto window = opened();
        QTRY_COMPARE(window->job()->sheet().shown(), std::size_t{8});
        for (const auto& finding : window->job()->feed().files())
            QCOMPARE(finding->faces.value_or(99) > 0, withFaces_.contains(finding->start()));
    }
    void whatLooksAlikeComesNearestFirst() {
        auto window = opened();
        auto* job = window->job();
        QTRY_COMPARE(job->sheet().shown(), std::size_t{8});
        for (const auto& finding : job->feed().files()) {
            if (finding->start() == originalAt_) job->sheet().setCurrent(finding->id);
        }
        QTest::keyClick(&job->sheet(), Qt::Key_L);
        QTRY_VERIFY(job->choices().filter().among.has_value());
        QTRY_VERIFY(job->sheet().shown() >= 2 && job->sheet().shown() < 8);
        const auto& apart = job->choices().filter().apart;
        const auto& shown = job->sheet().shownIds();
        QVERIFY(std::is_sorted(shown.begin(), shown.end(),
                               [&](auto a, auto b) { return apart.value(a, 1) < apart.value(b, 1); }));
        QCOMPARE(apart.value(shown.front(), 1), 0.0);
        QCOMPARE(job->feed().find(shown.front())->start(), originalAt_);
        // The same picture in another size is as good as the same.
        const auto scaled = std::find_if(shown.begin(), shown.end(),
                                         [&](auto id) { return job->feed().find(id)->start() == scaledAt_; });
        QVERIFY(scaled != shown.end());
        QVERIFY(apart.value(*scaled, 1) < media::kSamePicture);
    }
    void noPictureHasNoFace() {
        auto finder = faces::FaceFinder::open();
        QVERIFY(finder.ok());
        QCOMPARE(finder.value().count({}), 0U);
        QCOMPARE(finder.value().count({4, 4, std::vector<std::uint8_t>(7)}), 0U);
    }
};

QTEST_MAIN(TestPeople)
#include "test_people.moc"
