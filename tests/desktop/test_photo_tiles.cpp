// A photo at its full size, whatever that is, turned as its file says: what the loupe shows one to one is
// what an independent decoder makes of the file.
#include <QBuffer>
#include <QImageReader>
#include <QPainter>
#include <QRandomGenerator>
#include <QTemporaryDir>
#include <QTest>

#include "desktop/main_window.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// Strokes as fine as a pixel all over it, and light from one side.
QImage drawing(int width, int height, quint32 seed) {
    QImage picture(width, height, QImage::Format_RGB32);
    QPainter painter(&picture);
    QLinearGradient light(0, 0, width, 0.3 * height);
    light.setColorAt(0, QColor(20, 30, 40));
    light.setColorAt(1, QColor(230, 240, 250));
    painter.fillRect(picture.rect(), light);
    QRandomGenerator random(seed);
    for (int i = 0; i < width / 6; ++i) {
        painter.setPen(QPen(QColor::fromRgb(random.generate()), 1 + random.bounded(3)));
        painter.drawLine(random.bounded(width), random.bounded(height), random.bounded(width),
                         random.bounded(height));
    }
    return picture;
}

QByteArray jpegOf(const QImage& picture, char orientation) {
    QByteArray bytes;
    QBuffer into(&bytes);
    into.open(QIODevice::WriteOnly);
    picture.save(&into, "jpg", 92);
    // Exif 2.32, 4.6.4: a directory of one entry, 0x0112.
    const char exif[] =
        "\xff\xe1\x00\x22"
        "Exif\0\0MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0";
    QByteArray segment(exif, sizeof exif - 1);
    segment += orientation;
    segment += QByteArray(6, '\0');
    bytes.insert(2, segment);
    return bytes;
}

double difference(const QImage& one, const QImage& other) {
    double sum = 0;
    for (int y = 0; y < one.height(); ++y) {
        for (int x = 0; x < one.width(); ++x) {
            const auto a = one.pixel(x, y);
            const auto b = other.pixel(x, y);
            sum +=
                std::abs(qRed(a) - qRed(b)) + std::abs(qGreen(a) - qGreen(b)) + std::abs(qBlue(a) - qBlue(b));
        }
    }
    return sum / 3 / one.width() / one.height();
}

}  // namespace

class TestPhotoTiles : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::unique_ptr<MainWindow> window_;
    struct Photo {
        QByteArray file;
        std::uint64_t at = 0;
    };
    std::map<QString, Photo> photos_;

    PhotoView& view() { return window_->job()->loupe().photo(); }
    static Buffer buffer(const QByteArray& bytes) { return {bytes.begin(), bytes.end()}; }

  private Q_SLOTS:
    void initTestCase() {
        qputenv("XDG_CONFIG_HOME", dir_.path().toUtf8());
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        photos_[QStringLiteral("as it is")].file = jpegOf(drawing(4000, 3000, 1), 1);
        photos_[QStringLiteral("turned")].file = jpegOf(drawing(3600, 2700, 2), 6);
        photos_[QStringLiteral("mirrored and turned")].file = jpegOf(drawing(3200, 2400, 3), 5);
        // More than a message of the worker holds: 96 million pixels.
        photos_[QStringLiteral("very large")].file = jpegOf(drawing(12000, 8000, 4), 1);
        ImageBuilder image(4096);
        for (auto& [name, photo] : photos_) photo.at = image.add(buffer(photo.file));
        const auto card = dir_.filePath(QStringLiteral("BENCH-04.img"));
        image.write(card);
        window_ = std::make_unique<MainWindow>();
        window_->resize(1280, 800);
        window_->show();
        window_->openSource(card);
        QVERIFY(QTest::qWaitFor([&] { return window_->job() != nullptr; }, 60000));
        auto& job = *window_->job();
        job.startSearch();
        QVERIFY(QTest::qWaitFor([&] { return job.feed().overview().progress.state == ScanState::Finished; },
                                120000));
        QTRY_COMPARE(job.sheet().shown(), photos_.size());
    }
    void cleanupTestCase() { window_.reset(); }

    void oneToOneIsWhatTheFileHolds_data() {
        QTest::addColumn<QString>("name");
        for (const auto& [name, photo] : photos_) QTest::newRow(qPrintable(name)) << name;
    }
    void oneToOneIsWhatTheFileHolds() {
        QFETCH(QString, name);
        auto& photo = photos_[name];
        QBuffer from(&photo.file);
        QImageReader::setAllocationLimit(512);
        QImageReader reader(&from, "jpg");
        reader.setAutoTransform(true);
        const auto truth = reader.read().convertToFormat(QImage::Format_RGB32);
        QVERIFY(!truth.isNull());

        auto& job = *window_->job();
        for (const auto id : job.sheet().shownIds()) {
            if (job.feed().find(id)->pieces.front().offset == photo.at) job.sheet().setCurrent(id);
        }
        QTRY_COMPARE(view().id(), job.sheet().current());
        QTest::qWait(500);  // the draft
        QTest::keyClick(&job.loupe(), Qt::Key_Z);
        // Its middle, and then a part that is dragged there.
        QPoint middle(truth.width() / 2, truth.height() / 2);
        for (const auto& drag : {QPoint(0, 0), QPoint(300, 200), QPoint(-160, 240)}) {
            const QPoint hold(view().width() / 2, view().height() / 2);
            QTest::mousePress(&view(), Qt::LeftButton, {}, hold);
            QTest::mouseMove(&view(), hold + drag / 2);
            QTest::mouseMove(&view(), hold + drag);
            QTest::mouseRelease(&view(), Qt::LeftButton, {}, hold + drag);
            middle -= drag;
            const auto corner = QPointF(view().width() / 2.0, view().height() / 2.0) - QPointF(middle);
            const auto expected =
                truth.copy(QRect(-QPoint(qRound(corner.x()), qRound(corner.y())), view().size()));
            const auto apart = [&] {
                return difference(view().grab().toImage().convertToFormat(QImage::Format_RGB32), expected);
            };
            QVERIFY2(QTest::qWaitFor([&] { return apart() < 3; }, 20000),
                     qPrintable(QString::number(apart())));
            // A pixel beside it there is another picture.
            const auto beside = expected.copy(1, 0, expected.width(), expected.height());
            QVERIFY(difference(expected, beside) > 4);
        }
        // The whole of it again, right side up.
        QTest::keyClick(&job.loupe(), Qt::Key_F);
        QTest::qWait(300);
        const auto size = truth.size().scaled(view().size(), Qt::KeepAspectRatio);
        const QRect place(QPoint((view().width() - size.width()) / 2, (view().height() - size.height()) / 2),
                          size);
        const auto coarse = [](const QImage& picture) {
            return picture.scaled(48, 48, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
        };
        const auto fitted = coarse(view().grab().toImage().copy(place).convertToFormat(QImage::Format_RGB32));
        const auto whole = coarse(truth);
        QVERIFY2(difference(fitted, whole) < 8, qPrintable(QString::number(difference(fitted, whole))));
        QVERIFY(difference(fitted, whole.mirrored(true, false)) > 12);
        QVERIFY(difference(fitted, whole.mirrored(true, true)) > 12);
    }
};

QTEST_MAIN(TestPhotoTiles)
#include "test_photo_tiles.moc"
