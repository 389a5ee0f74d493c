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
    nextPart_.reset();
    changed_.notify_all();
}

void Looking::requestPart(const Finding& finding, const media::DecoderProcess::PhotoPart& part) {
    const std::lock_guard lock(mutex_);
    nextPart_ = PartRequest{finding, part};
    changed_.notify_all();
}

Looked Looking::look(media::DecoderProcess& decoder, const Request& request) {
    const auto& finding = request.finding;
    Looked looked;
    looked.id = finding.id;
    if (finding.kind == Kind::Photo) {
        const auto photo = decoder.photo(finding.pieces, finding.format, request.side, &control_);
        if (photo) {
            const auto image = imageFrom(photo.value());
            looked.histogram = Histogram::of(image, finding);
            looked.photo = presented(image, finding);
        } else {
            looked.trouble = Text::ofCore(photo.error().what);
        }
    } else if (finding.kind == Kind::Video) {
        const auto frames = decoder.frames(finding.pieces, finding.format, kFrames, kFrameSide, &control_);
        if (frames) {
            for (const auto& frame : frames.value()) {
                looked.frames.push_back(turned(imageFrom(frame.picture), finding.description.orientation));
                looked.times.push_back(frame.at);
            }
            if (looked.frames.empty()) looked.trouble = Text::tr("No frame of this clip decodes");
        } else {
            looked.trouble = Text::ofCore(frames.error().what);
        }
    }
    return looked;
}

LookedPart Looking::lookAtPart(media::DecoderProcess& decoder, const PartRequest& request) {
    LookedPart looked{request.finding.id, request.part, {}, {}};
    const auto seen =
        decoder.photoPart(request.finding.pieces, request.finding.format, request.part, &control_);
    if (!seen) return looked;
    looked.picture = imageFrom(seen.value().picture).convertToFormat(QImage::Format_RGB32);
    looked.full = QSize(static_cast<int>(seen.value().fullWidth), static_cast<int>(seen.value().fullHeight));
    return looked;
}

void Looking::run() {
    giveWay();
    media::DecoderProcess decoder(source_);
    for (;;) {
        std::optional<Request> request;
        std::optional<PartRequest> part;
        {
            std::unique_lock lock(mutex_);
            changed_.wait(lock, [this] { return ending_ || next_ || nextPart_; });
            if (ending_) return;
            request = std::exchange(next_, std::nullopt);
            if (!request) part = std::exchange(nextPart_, std::nullopt);
        }
        if (request) Q_EMIT ready(look(decoder, *request));
        if (part) Q_EMIT partReady(lookAtPart(decoder, *part));
    }
}

}  // namespace dreskel
