#include "bench/splicing.h"

#include <algorithm>
#include <cstdio>
#include <optional>
#include <QElapsedTimer>
#include <QFile>
#include <random>

#include "desktop/splice/splice_work.h"
#include "rebuild/photo_splice.h"
#include "source/card_view.h"
#include "source/source.h"

namespace dreskel::bench {

bool moveJoins(const QString& photo, const QString& folder) {
    constexpr std::uint32_t kCluster = 32768;
    QFile file(photo);
    if (!file.open(QIODevice::ReadOnly)) return false;
    const auto bytes = file.readAll();
    const auto third = bytes.size() / 3 / kCluster * kCluster;
    // The pieces with other bytes between them.
    std::mt19937 random(11);
    QByteArray card;
    std::vector<ByteRange> way;
    for (int i = 0; i < 3; ++i) {
        const auto part = bytes.mid(i * third, i < 2 ? third : -1);
        way.push_back({static_cast<std::uint64_t>(card.size()), static_cast<std::uint64_t>(part.size())});
        card += part;
        card.append((kCluster - card.size() % kCluster) % kCluster, '\0');
        for (std::uint32_t j = 0; j < 16 * kCluster; ++j) card.append(static_cast<char>(random()));
    }
    const auto image = folder + QStringLiteral("/photo-in-pieces.img");
    QFile out(image);
    if (!out.open(QIODevice::WriteOnly) || out.write(card) != card.size()) return false;
    out.close();
    const auto source = openSource(image.toStdString());
    if (!source) return false;
    CardView view(source.value());
    const Control control;
    const rebuild::Pool pool(view, {}, kCluster, 0, control);
    rebuild::PhotoSplice bench(view, pool, kCluster);
    QElapsedTimer clock;
    clock.start();
    const auto whole = bench.look(way, SpliceWork::kSide);
    const auto first = clock.nsecsElapsed();
    if (!whole.complete) return false;
    // Until the picture has changed, in part or whole, and until it is all there.
    std::vector<double> took, tookAll;
    const auto time = [&](const std::vector<ByteRange>& places) {
        std::optional<double> shown;
        const auto passed = [&] { return static_cast<double>(clock.nsecsElapsed()) / 1e6; };
        clock.start();
        bench.look(places, SpliceWork::kSide, {[&](const rebuild::SpliceLook&) {
                       if (!shown) shown = passed();
                   }});
        tookAll.push_back(passed());
        took.push_back(shown.value_or(tookAll.back()));
    };
    for (int i = 0; i < 100; ++i) {
        auto moved = way;
        auto& piece = moved[random() % 2];
        const auto by = 1 + random() % 8;
        piece.length = random() % 2 == 0 ? piece.length + by * kCluster : piece.length - by * kCluster;
        time(moved);
        time(way);
    }
    std::sort(took.begin(), took.end());
    std::sort(tookAll.begin(), tookAll.end());
    std::printf(
        "%lld bytes, %u rows, three pieces: first look %.0f ms; a join moved, or moved back: %.0f ms in the "
        "middle, %.0f ms of ten nine, %.0f ms at most; all of it after %.0f, %.0f, %.0f ms\n",
        static_cast<long long>(bytes.size()), whole.extent, static_cast<double>(first) / 1e6,
        took[took.size() / 2], took[took.size() * 9 / 10], took.back(), tookAll[tookAll.size() / 2],
        tookAll[tookAll.size() * 9 / 10], tookAll.back());
    return true;
}

}  // namespace dreskel::bench
