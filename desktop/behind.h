// Work that takes longer than a frame: done in a thread of its own, always the latest of what was asked for.
// What was overtaken before it was begun is not done.
#pragma once

#include <condition_variable>
#include <functional>
#include <mutex>
#include <optional>
#include <QObject>
#include <thread>

#include "desktop/give_way.h"

namespace dreskel {

template <typename Request, typename Answer>
class Behind {
  public:
    // `work` runs in the thread, or in now(), never in both at once; `tell` in the thread that made this.
    Behind(std::function<Answer(const Request&)> work, std::function<void(Answer)> tell)
        : work_(std::move(work)), tell_(std::move(tell)), thread_([this] { run(); }) {}
    ~Behind() {
        {
            const std::lock_guard lock(mutex_);
            ending_ = true;
            changed_.notify_all();
        }
        thread_.join();
    }
    Behind(const Behind&) = delete;
    Behind& operator=(const Behind&) = delete;

    void ask(Request request) {
        const std::lock_guard lock(mutex_);
        next_ = std::move(request);
        ++asked_;
        changed_.notify_all();
    }
    // For what is shorter than a frame. Answers to what was asked before are not told any more.
    Answer now(const Request& request) {
        {
            const std::lock_guard lock(mutex_);
            next_.reset();
            floor_ = ++asked_;
        }
        const std::lock_guard lock(working_);
        return work_(request);
    }

  private:
    void run() {
        giveWay();
        for (;;) {
            Request request;
            std::uint64_t number = 0;
            {
                std::unique_lock lock(mutex_);
                changed_.wait(lock, [this] { return ending_ || next_; });
                if (ending_) return;
                request = std::move(*next_);
                next_.reset();
                number = asked_;
            }
            std::optional<Answer> answer;
            {
                const std::lock_guard lock(working_);
                answer = work_(request);
            }
            // What is posted to an object that is gone is dropped.
            QMetaObject::invokeMethod(&here_, [this, number, told = std::move(*answer)]() mutable {
                {
                    const std::lock_guard lock(mutex_);
                    if (number < floor_) return;
                }
                tell_(std::move(told));
            });
        }
    }

    std::function<Answer(const Request&)> work_;
    std::function<void(Answer)> tell_;
    std::mutex working_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<Request> next_;
    std::uint64_t asked_ = 0;
    std::uint64_t floor_ = 0;  // answers to what was asked before are not told
    bool ending_ = false;
    QObject here_;  // goes before the thread does
    std::thread thread_;
};

}  // namespace dreskel
