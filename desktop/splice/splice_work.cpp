#include "desktop/splice/splice_work.h"
#include "desktop/look/text.h"

namespace dreskel {

SpliceWork::SpliceWork(std::shared_ptr<Session> session, QObject* parent)
    : QObject(parent), session_(std::move(session)) {
    qRegisterMetaType<std::shared_ptr<Splicing>>();
    qRegisterMetaType<rebuild::SpliceLook>();
    qRegisterMetaType<rebuild::Followers>();
    qRegisterMetaType<std::vector<ByteRange>>();
}

void SpliceWork::begin(std::int64_t id) {
    thread_ = std::thread([this, id] { run(id); });
}

SpliceWork::~SpliceWork() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        control_->stop();
        changed_.notify_all();
    }
    if (thread_.joinable()) thread_.join();
}

void SpliceWork::ask(const Way& way, std::size_t upTo) {
    put({way, upTo, std::nullopt});
}

void SpliceWork::askCut(std::uint32_t row) {
    put({{}, 0, row});
}

void SpliceWork::put(Wish wish) {
    const std::lock_guard lock(mutex_);
    control_->stop();
    next_ = std::move(wish);
    changed_.notify_all();
}

void SpliceWork::run(std::int64_t id) {
    const auto opening = control_;
    const auto splicing = Splicing::open(*session_, id, *opening);
    if (!splicing) {
        Q_EMIT refused(Text::ofCore(splicing.error()));
        return;
    }
    Q_EMIT opened(splicing.value());
    for (;;) {
        Wish wish;
        std::shared_ptr<Control> control;
        {
            std::unique_lock lock(mutex_);
            changed_.wait(lock, [this] { return ending_ || next_; });
            if (ending_) return;
            wish = std::move(*next_);
            next_.reset();
            control = control_ = std::make_shared<Control>();
        }
        auto& bench = *splicing.value();
        if (wish.row) {
            Q_EMIT cut(bench.cutAtRow(*wish.row));
            continue;
        }
        Q_EMIT looked(bench.look(wish.way, kSide));
        const Way upTo(wish.way.begin(),
                       wish.way.begin() + static_cast<std::ptrdiff_t>(std::min(wish.upTo, wish.way.size())));
        auto followers = bench.followers(upTo, kFollowerSide, *control);
        if (control->stopped()) continue;
        Q_EMIT followed(followers);
    }
}

}  // namespace dreskel
