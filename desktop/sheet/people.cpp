#include "desktop/sheet/people.h"

#include <chrono>
#include <map>

#include "desktop/give_way.h"
#include "desktop/look/text.h"
#include "desktop/sheet/thumbnails.h"
#include "faces/face_finder.h"

namespace dreskel {

void People::look(const std::vector<std::shared_ptr<const Finding>>& files) {
    if (looking()) return;
    std::vector<std::shared_ptr<const Finding>> photos;
    for (const auto& file : files) {
        if (file && file->listed() && file->kind == Kind::Photo && !file->faces) photos.push_back(file);
    }
    stopping_ = false;
    thread_ = std::thread([this, photos = std::move(photos)] { run(photos); });
}

void People::stop() {
    stopping_ = true;
    if (thread_.joinable()) thread_.join();
}

void People::onEnd() {
    if (thread_.joinable()) thread_.join();
}

void People::run(const std::vector<std::shared_ptr<const Finding>>& photos) {
    using Clock = std::chrono::steady_clock;
    giveWay();
    const auto tell = [this, all = photos.size()](std::size_t done, bool last, const QString& trouble) {
        QMetaObject::invokeMethod(this, [this, done, all, last, trouble] {
            if (last) onEnd();
            Q_EMIT looked(done, all, trouble);
        });
    };
    auto finder = faces::FaceFinder::open();
    if (!finder) return tell(0, true, Text::ofCore(finder.error()));
    std::map<std::int64_t, std::uint32_t> seen;
    auto told = Clock::now();
    std::size_t done = 0;
    for (; done < photos.size() && !stopping_; ++done) {
        const auto& photo = *photos[done];
        const auto picture = uprightPreview(session_->preview(photo.id), photo.description.orientation);
        seen[photo.id] = finder.value().count(picture);
        if (Clock::now() - told < std::chrono::milliseconds(500)) continue;
        session_->setFaces(std::exchange(seen, {}));
        tell(done + 1, false, {});
        told = Clock::now();
    }
    session_->setFaces(seen);
    tell(done, true, {});
}

}  // namespace dreskel
