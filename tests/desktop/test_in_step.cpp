// A clip in pieces on the card is played with its sound in step: each second it flashes and beeps at once. A
// sound server that plays into nothing lets the test hear what comes out of it.
#include <cmath>
#include <QElapsedTimer>
#include <QProcess>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>

#include "desktop/loupe/playback.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr int kRate = 48000;
constexpr int kSeconds = 6;

// What the sound server's nothing is given, by the clock at which it came.
class Ear {
  public:
    explicit Ear(const QElapsedTimer& clock) : clock_(clock) {
        QObject::connect(&recorder_, &QProcess::readyReadStandardOutput, &recorder_, [this] { listen(); });
        recorder_.start(QStringLiteral("parec"),
                        {QStringLiteral("--device=heard.monitor"), QStringLiteral("--format=s16le"),
                         QStringLiteral("--rate=%1").arg(kRate), QStringLiteral("--channels=1"),
                         QStringLiteral("--latency-msec=10")});
    }
    ~Ear() {
        recorder_.kill();
        recorder_.waitForFinished();
    }
    // When something was heard after it had been quiet for half a second; seconds.
    std::vector<double> beeps;
    bool hears() const { return samples_ > 0; }

  private:
    void listen() {
        const auto got = recorder_.readAllStandardOutput();
        const double now = static_cast<double>(clock_.nsecsElapsed()) * 1e-9;
        const auto count = got.size() / 2;
        const auto* sample = reinterpret_cast<const std::int16_t*>(got.constData());
        for (qsizetype i = 0; i < count; ++i, ++samples_) {
            if (std::abs(static_cast<int>(sample[i])) < 2000) continue;
            if (samples_ - loudAt_ > kRate / 2) beeps.push_back(now - static_cast<double>(count - i) / kRate);
            loudAt_ = samples_;
        }
    }

    const QElapsedTimer& clock_;
    QProcess recorder_;
    qint64 samples_ = 0, loudAt_ = -kRate;
};

}  // namespace

class TestInStep : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QProcess server_;
    Finding clip_;
    std::shared_ptr<Source> source_;

  private Q_SLOTS:
    void initTestCase() {
        const auto socket = dir_.filePath(QStringLiteral("sound"));
        qputenv("PULSE_RUNTIME_PATH", dir_.path().toUtf8());
        qputenv("PULSE_SERVER", "unix:" + socket.toUtf8());
        server_.start(
            QStringLiteral("pulseaudio"),
            {QStringLiteral("-n"), QStringLiteral("--daemonize=no"), QStringLiteral("--exit-idle-time=-1"),
             QStringLiteral("-L"), QStringLiteral("module-null-sink sink_name=heard rate=%1").arg(kRate),
             QStringLiteral("-L"),
             QStringLiteral("module-native-protocol-unix auth-anonymous=1 socket=") + socket});
        QVERIFY(server_.waitForStarted());
        if (!QTest::qWaitFor([&] { return QFile::exists(socket); }, 20000))
            QSKIP("the sound server does not start here");

        const auto file = dir_.filePath(QStringLiteral("flash.mp4"));
        const auto made = command(
            QStringLiteral("ffmpeg"),
            {"-v",
             "error",
             "-y",
             "-f",
             "lavfi",
             "-i",
             QStringLiteral(
                 "color=black:s=640x360:r=30:d=%1,geq=lum='if(lt(mod(T,1),0.2),235,16)':cb=128:cr=128")
                 .arg(kSeconds),
             "-f",
             "lavfi",
             "-i",
             QStringLiteral("aevalsrc='if(lt(mod(t,1),0.2),0.7*sin(2*PI*880*t),0)':s=%1:d=%2")
                 .arg(kRate)
                 .arg(kSeconds),
             "-c:v",
             "libx264",
             "-bf",
             "2",
             "-pix_fmt",
             "yuv420p",
             "-c:a",
             "aac",
             file});
        QVERIFY2(made.exitCode == 0, qPrintable(made.err));
        // Halves, the second one in front of the first.
        QFile whole(file);
        QVERIFY(whole.open(QIODevice::ReadOnly));
        const auto bytes = whole.readAll();
        const auto half = bytes.size() / 2;
        QFile card(dir_.filePath(QStringLiteral("card.img")));
        QVERIFY(card.open(QIODevice::WriteOnly));
        card.write(bytes.mid(half) + QByteArray(4096, 'x') + bytes.left(half));
        card.close();
        const auto size = static_cast<std::uint64_t>(bytes.size());
        const auto first = static_cast<std::uint64_t>(half);
        clip_.id = 1;
        clip_.kind = Kind::Video;
        clip_.format = "mp4";
        clip_.description.duration = kSeconds;
        clip_.description.frameRate = 30;
        clip_.pieces = {{PieceFrom::Card, size - first + 4096, first, {}, {}},
                        {PieceFrom::Card, 0, size - first, {}, {}}};
        source_ = openSource(card.fileName().toStdString()).value();
    }
    void cleanupTestCase() {
        server_.terminate();
        if (!server_.waitForFinished(5000)) server_.kill();
        server_.waitForFinished();
    }

    void flashesAndBeepsAtOnce() {
        QElapsedTimer clock;
        clock.start();
        Ear ear(clock);
        QVERIFY2(QTest::qWaitFor([&] { return ear.hears(); }, 20000), server_.readAllStandardError());
        Playback playback(source_);
        std::vector<double> flashes;
        bool bright = false;
        QObject::connect(&playback, &Playback::shown, [&](const QImage& picture, double) {
            const bool now = qGray(picture.pixel(picture.width() / 2, picture.height() / 2)) > 128;
            if (now && !bright) flashes.push_back(static_cast<double>(clock.nsecsElapsed()) * 1e-9);
            bright = now;
        });
        playback.play(clip_, 0, 320);
        QVERIFY(QTest::qWaitFor([&] { return flashes.size() >= 2 && !playback.playing(); }, 60000));
        QTest::qWait(500);
        QCOMPARE(flashes.size(), std::size_t{kSeconds});
        QVERIFY2(ear.beeps.size() >= kSeconds - 1, qPrintable(QString::number(ear.beeps.size())));
        // Each with the beep that is nearest to it.
        std::vector<double> apart;
        QString text;
        for (const double flash : flashes) {
            const auto nearest = *std::min_element(
                ear.beeps.begin(), ear.beeps.end(),
                [flash](double a, double b) { return std::abs(a - flash) < std::abs(b - flash); });
            apart.push_back(nearest - flash);
            text += QStringLiteral(" %1 ms").arg(qRound(apart.back() * 1000));
        }
        qInfo("sound after picture by%s", qPrintable(text));
        // Beside other programs one picture may come late, or the player may have to wait once; most are in
        // step.
        std::sort(apart.begin(), apart.end(), [](double a, double b) { return std::abs(a) < std::abs(b); });
        QVERIFY2(std::abs(apart[apart.size() / 2]) < 0.06, qPrintable(text));
    }
};

QTEST_MAIN(TestInStep)
#include "test_in_step.moc"
