#include "scan/pass.h"

#include <algorithm>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

#include "source/tolerant_read.h"

namespace dreskel {
namespace {

struct Portion {
    std::vector<std::uint8_t> buffer;
    std::uint64_t offset = 0;
    std::size_t size = 0;
    std::vector<ByteRange> unreadable;
};

// Two bounded queues: filled portions go one way, empty ones come back.
class Belt {
  public:
    explicit Belt(std::size_t count) : empty_(count) {
        for (auto& portion : empty_) portion.buffer.resize(Pass::kPortion);
    }

    bool takeEmpty(Portion& into) { return take(empty_, into, true); }
    bool takeFull(Portion& into) { return take(full_, into, false); }
    void giveFull(Portion&& portion) { give(full_, std::move(portion)); }
    void giveEmpty(Portion&& portion) { give(empty_, std::move(portion)); }
    void finish() {  // no more full ones will come
        const std::lock_guard lock(mutex_);
        finished_ = true;
        changed_.notify_all();
    }
    void abandon() {
        const std::lock_guard lock(mutex_);
        abandoned_ = true;
        changed_.notify_all();
    }

  private:
    bool take(std::deque<Portion>& from, Portion& into, bool filling) {
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [&] { return abandoned_ || !from.empty() || (!filling && finished_); });
        if (abandoned_ || from.empty()) return false;
        into = std::move(from.front());
        from.pop_front();
        return true;
    }
    void give(std::deque<Portion>& to, Portion&& portion) {
        const std::lock_guard lock(mutex_);
        to.push_back(std::move(portion));
        changed_.notify_all();
    }

    std::mutex mutex_;
    std::condition_variable changed_;
    std::deque<Portion> empty_, full_;
    bool finished_ = false;
    bool abandoned_ = false;
};

}  // namespace

bool Pass::run(const Source& source, ByteRange span, Control& control, const Visit& visit) {
    Belt belt(4);
    std::thread reader([&] {
        Portion portion;
        for (auto at = span.offset; at < span.end() && belt.takeEmpty(portion);) {
            // The first read ends on a multiple of the portion, so that all others are aligned.
            const auto next = std::min(span.end(), (at / kPortion + 1) * kPortion);
            portion.offset = at;
            portion.size = static_cast<std::size_t>(next - at);
            portion.unreadable = readTolerant(source, at, MutableBytes(portion.buffer).first(portion.size));
            belt.giveFull(std::move(portion));
            at = next;
        }
        belt.finish();
    });
    bool complete = true;
    Portion portion;
    while (belt.takeFull(portion)) {
        if (!control.proceed()) {
            complete = false;
            belt.abandon();
            break;
        }
        visit(portion.offset, Bytes(portion.buffer).first(portion.size), portion.unreadable);
        belt.giveEmpty(std::move(portion));
    }
    reader.join();
    return complete;
}

}  // namespace dreskel
