#include "desktop/sheet/flipping.h"

#include <algorithm>

#include "desktop/looking.h"
#include "desktop/sheet/thumbnails.h"
#include "media/decoder_process.h"

namespace dreskel {
namespace {

constexpr int kPictures = 12;
constexpr int kFlippedSide = 400;
constexpr int kRestMilliseconds = 220;

}  // namespace

Flipping::Flipping(Feed& feed, QObject* parent)
    : QObject(parent),
      feed_(feed),
      decode_(
          // The worker is started with the first clip, and stays.
          [decoder = std::shared_ptr<media::DecoderProcess>(), session = feed.sharedSession(),
           control = control_](const std::shared_ptr<const Finding>& finding) mutable {
              if (!decoder) decoder = std::make_shared<media::DecoderProcess>(session->source());
              Frames frames{finding->id, {}};
              const auto decoded =
                  decoder->frames(finding->pieces, finding->format, kPictures, kFlippedSide, control.get());
              if (!decoded) return frames;
              for (const auto& frame : decoded.value())
                  frames.pictures.push_back(
                      turned(imageFrom(frame.picture), finding->description.orientation));
              return frames;
          },
          [this](Frames frames) {
              frames_ = std::move(frames);
              Q_EMIT changed();
          }) {
    rest_.setSingleShot(true);
    rest_.setInterval(kRestMilliseconds);
    connect(&rest_, &QTimer::timeout, this, [this] {
        const auto* finding = feed_.find(id_);
        if (finding != nullptr) decode_.ask(std::make_shared<const Finding>(*finding));
    });
}

void Flipping::point(std::int64_t id, double along) {
    along_ = std::clamp(along, 0.0, 1.0);
    if (id != id_) {
        id_ = id;
        id != 0 && frames_.id != id ? rest_.start() : rest_.stop();
    }
    Q_EMIT changed();
}

const QImage* Flipping::picture() const {
    if (id_ == 0 || frames_.id != id_ || frames_.pictures.empty()) return nullptr;
    const auto count = frames_.pictures.size();
    return &frames_
                .pictures[std::min(count - 1, static_cast<std::size_t>(along_ * static_cast<double>(count)))];
}

}  // namespace dreskel
