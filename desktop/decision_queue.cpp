#include "desktop/decision_queue.h"

#include "desktop/give_way.h"

namespace dreskel {
namespace {

constexpr std::size_t kAtOnce = 500;

}  // namespace

DecisionQueue::DecisionQueue(std::shared_ptr<Session> session)
    : session_(std::move(session)), thread_([this] { run(); }) {}

DecisionQueue::~DecisionQueue() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        changed_.notify_all();
    }
    thread_.join();
}

bool DecisionQueue::mayAtOnce(std::size_t files) {
    const std::lock_guard lock(mutex_);
    return files <= kAtOnce && waiting_.empty();
}

void DecisionQueue::later(std::function<void()> work) {
    const std::lock_guard lock(mutex_);
    waiting_.push_back(std::move(work));
    changed_.notify_all();
}

void DecisionQueue::store(const Decisions& decisions) {
    for (auto at = decisions.begin(); at != decisions.end();) {
        Decisions some;
        for (; at != decisions.end() && some.size() < kAtOnce; ++at) some.insert(some.end(), *at);
        session_->decide(some);
    }
}

void DecisionQueue::settle() {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [this] { return waiting_.empty(); });
}

void DecisionQueue::run() {
    giveWay();
    std::unique_lock lock(mutex_);
    for (;;) {
        changed_.wait(lock, [this] { return ending_ || !waiting_.empty(); });
        if (waiting_.empty()) return;
        const auto work = waiting_.front();
        lock.unlock();
        work();
        lock.lock();
        waiting_.pop_front();
        changed_.notify_all();
    }
}

}  // namespace dreskel
