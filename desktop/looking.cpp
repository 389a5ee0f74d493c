#include "desktop/looking.h"

#include "desktop/give_way.h"
#include "desktop/look/text.h"
#include "desktop/loupe/photo_view.h"
#include "desktop/sheet/thumbnails.h"

namespace dreskel {
namespace {

constexpr int kFrames = 10;
constexpr int kFrameSide = 640;

}  // namespace

QImage imageFrom(const Picture& picture) {
    if (picture.width == 0 || picture.rgb.empty()) return {};
    return QImage(picture.rgb.data(), static_cast<int>(picture.width), static_cast<int>(picture.height),
                  static_cast<qsizetype>(picture.width) * 3, QImage::Format_RGB888)
        .copy();
}

Looking::Looking(std::shared_ptr<Source> source, QObject* parent)
    : QObject(parent), source_(std::move(source)), thread_([this] { run(); }) {}

Looking::~Looking() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        control_.stop();
        changed_.notify_all();
    }
    thread_.join();
}

void Looking::request(const Finding& finding, int side) {
    const std::lock_guard lock(mutex_);
    next_ = Request{finding, side};
    changed_.notify_all();
}

void Looking::run() {
    giveWay();
    media::DecoderProcess decoder(source_);
    for (;;) {
        Request request;
        {
            std::unique_lock lock(mutex_);
            changed_.wait(lock, [this] { return ending_ || next_; });
            if (ending_) return;
            request = std::move(*next_);
            next_.reset();
        }
        Looked looked;
        looked.id = request.finding.id;
        if (request.finding.kind == Kind::Photo) {
            auto photo =
                decoder.photo(request.finding.pieces, request.finding.format, request.side, &control_);
            if (photo) {
                const auto image = imageFrom(photo.value());
                looked.histogram = Histogram::of(image, request.finding);
                looked.photo = presented(image, request.finding);
            } else {
                looked.trouble = Text::ofCore(photo.error().what);
            }
        } else if (request.finding.kind == Kind::Video) {
            auto frames = decoder.frames(request.finding.pieces, request.finding.format, kFrames, kFrameSide,
                                         &control_);
            if (frames) {
                for (const auto& frame : frames.value()) {
                    looked.frames.push_back(
                        turned(imageFrom(frame.picture), request.finding.description.orientation));
                    looked.times.push_back(frame.at);
                }
                if (looked.frames.empty()) looked.trouble = Text::tr("No frame of this clip decodes");
            } else {
                looked.trouble = Text::ofCore(frames.error().what);
            }
        }
        Q_EMIT ready(looked);
    }
}

}  // namespace dreskel
