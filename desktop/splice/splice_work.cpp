#include "desktop/splice/splice_work.h"
#include "desktop/look/text.h"

namespace dreskel {

SpliceWork::SpliceWork(std::shared_ptr<Session> session, QObject* parent)
    : QObject(parent), session_(std::move(session)) {
    qRegisterMetaType<std::shared_ptr<Splicing>>();
    qRegisterMetaType<rebuild::SpliceLook>();
    qRegisterMetaType<rebuild::Followers>();
    qRegisterMetaType<std::vector<rebuild::SpliceFrame>>();
    qRegisterMetaType<rebuild::Cut>();
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

std::uint64_t SpliceWork::ask(const Way& way, std::size_t upTo) {
    return put({way, upTo, std::nullopt, std::nullopt, 0});
}

std::uint64_t SpliceWork::askLender(std::size_t lender) {
    return put({{}, 0, std::nullopt, lender, 0});
}

void SpliceWork::askWithout(const rebuild::SpliceLook::Stretch& stretch) {
    put({{}, 0, stretch, std::nullopt, 0});
}

std::uint64_t SpliceWork::put(Wish wish) {
    const std::lock_guard lock(mutex_);
    control_->stop();
    next_ = std::move(wish);
    next_->number = ++last_;
    changed_.notify_all();
    return last_;
}

std::vector<std::uint32_t> SpliceWork::timesOf(const rebuild::SpliceLook& look, std::size_t upTo) {
    const bool atJoin = upTo > 0 && upTo - 1 < look.joinsAt.size();
    // Of one without joins: its middle.
    const auto join = atJoin ? look.joinsAt[upTo - 1] : upTo == 0 ? look.reached / 2 : look.reached;
    std::vector<std::uint32_t> times{join > kStep ? join - kStep : 0, join + kStep / 2};
    for (std::uint32_t i = 0; i < kAlong; ++i)
        times.push_back(static_cast<std::uint32_t>(std::uint64_t{look.extent} * (2 * i + 1) / (2 * kAlong)));
    return times;
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
        if (wish.without) {
            Q_EMIT cut(bench.without(*wish.without));
            continue;
        }
        if (wish.lender) {
            const auto look = bench.lookWith(*wish.lender);
            Q_EMIT looked(wish.number, look);
            Q_EMIT framed(wish.number, bench.framesWith(*wish.lender, timesOf(look, 0), kFrameSide));
            continue;
        }
        const auto look = bench.look(
            wish.way, kSide, {[&](const rebuild::SpliceLook& soFar) { Q_EMIT looked(wish.number, soFar); }});
        Q_EMIT looked(wish.number, look);
        if (bench.measure() == rebuild::Splicer::Measure::Milliseconds) {
            const auto times = SpliceWork::timesOf(look, wish.upTo);
            Q_EMIT framed(wish.number, bench.frames(wish.way, times, kFrameSide));
            if (control->stopped()) continue;
        }
        const Way upTo(wish.way.begin(),
                       wish.way.begin() + static_cast<std::ptrdiff_t>(std::min(wish.upTo, wish.way.size())));
        auto followers = bench.followers(upTo, kFollowerSide, *control);
        if (control->stopped()) continue;
        Q_EMIT followed(wish.number, followers);
    }
}

}  // namespace dreskel
