#include "bench/playing.h"

#include <cmath>
#include <cstdio>
#include <numeric>
#include <QElapsedTimer>
#include <QFile>
#include <QTest>
#include <random>

#include "desktop/looking.h"
#include "desktop/loupe/clip_view.h"
#include "desktop/loupe/playback.h"
#include "media/decoder_process.h"
#include "source/source.h"

namespace dreskel::bench {

bool playInPieces(const QString& clip, int pieces, const QString& folder) {
    constexpr qint64 kCluster = 32768;
    QFile file(clip);
    if (!file.open(QIODevice::ReadOnly)) return false;
    const auto bytes = file.readAll();
    const auto each = (bytes.size() / pieces / kCluster + 1) * kCluster;
    std::vector<qint64> order(static_cast<std::size_t>((bytes.size() + each - 1) / each));
    std::iota(order.begin(), order.end(), 0);
    std::shuffle(order.begin(), order.end(), std::mt19937(7));

    QByteArray card;
    Finding finding;
    finding.id = 1;
    finding.kind = Kind::Video;
    finding.format = "mp4";
    finding.condition = Condition::Whole;
    finding.pieces.resize(order.size());
    for (const auto number : order) {
        card.append(kCluster, '\x5a');
        const auto part = bytes.mid(number * each, each);
        finding.pieces[static_cast<std::size_t>(number)] = {PieceFrom::Card,
                                                            static_cast<std::uint64_t>(card.size()),
                                                            static_cast<std::uint64_t>(part.size()),
                                                            {},
                                                            {}};
        card += part;
        card.append((kCluster - card.size() % kCluster) % kCluster, '\0');
    }
    const auto image = folder + QStringLiteral("/clip-in-pieces.img");
    QFile out(image);
    if (!out.open(QIODevice::WriteOnly) || out.write(card) != card.size()) return false;
    out.close();
    const auto source = openSource(image.toStdString());
    if (!source) return false;

    Control control;
    media::DecoderProcess decoder(source.value());
    const auto facts = decoder.check(finding.pieces, "mp4", &control);
    const auto stills = decoder.frames(finding.pieces, "mp4", 12, 640, &control);
    if (!facts || !stills) return false;
    finding.description.frameRate = facts.value().frameRate;
    finding.description.duration = facts.value().duration;
    finding.decodedMap = facts.value().decodedMap;
    // As the loupe shows it.
    ClipView view;
    view.resize(1240, 740);
    std::vector<QImage> frames;
    std::vector<double> times;
    for (const auto& still : stills.value()) {
        frames.push_back(imageFrom(still.picture));
        times.push_back(still.at);
    }
    view.show(frames, times, finding);
    view.QWidget::show();
    Playback playback(source.value());
    int shown = 0;
    double worst = 0, last = -1, first = 0;
    QElapsedTimer clock;
    QObject::connect(&playback, &Playback::shown, [&](const QImage&, double at) {
        if (shown++ == 0) {
            clock.start();
            first = at;
        }
        worst = std::max(worst, std::abs(at - first - static_cast<double>(clock.nsecsElapsed()) / 1e9));
        last = at;
    });
    QObject::connect(&playback, &Playback::shown, &view, &ClipView::showMoment);
    const QSize size(static_cast<int>(facts.value().width.value_or(0)),
                     static_cast<int>(facts.value().height.value_or(0)));
    playback.play(finding, 0, view.sideFor(size));
    if (!QTest::qWaitFor([&] { return shown > 0 && !playback.playing(); }, 120000)) return false;
    std::printf(
        "%zu pieces: %d pictures of %.2f s shown in %.2f s, %d left out, at most %.0f ms from the clock\n",
        finding.pieces.size(), shown, last, static_cast<double>(clock.elapsed()) / 1e3, playback.leftOut(),
        worst * 1e3);
    return true;
}

}  // namespace dreskel::bench
