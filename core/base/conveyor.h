// Two threads with a few items going round between them: one fills, the other uses.
#pragma once

#include <condition_variable>
#include <deque>
#include <memory>
#include <mutex>
#include <thread>

namespace dreskel {

// Calls `fill(item)` in a thread of its own and `use(item)` in the calling thread, on `count` items that are
// used again and again, in order. Blocks until `fill` gives false, what it has filled before being used
// still, or until `use` gives false.
template <typename Item, typename Fill, typename Use>
void convey(std::size_t count, Fill fill, Use use) {
    std::mutex mutex;
    std::condition_variable changed;
    std::deque<std::unique_ptr<Item>> empty;
    std::deque<std::unique_ptr<Item>> full;
    bool noMore = false;
    for (std::size_t i = 0; i < count; ++i) empty.push_back(std::make_unique<Item>());

    std::thread filler([&] {
        for (;;) {
            std::unique_ptr<Item> item;
            {
                std::unique_lock lock(mutex);
                changed.wait(lock, [&] { return noMore || !empty.empty(); });
                if (noMore) return;
                item = std::move(empty.front());
                empty.pop_front();
            }
            const bool filled = fill(*item);
            const std::lock_guard lock(mutex);
            if (filled) {
                full.push_back(std::move(item));
            } else {
                noMore = true;
            }
            changed.notify_all();
        }
    });
    for (;;) {
        std::unique_ptr<Item> item;
        {
            std::unique_lock lock(mutex);
            changed.wait(lock, [&] { return noMore || !full.empty(); });
            if (full.empty()) break;
            item = std::move(full.front());
            full.pop_front();
        }
        const bool goOn = use(*item);
        const std::lock_guard lock(mutex);
        empty.push_back(std::move(item));
        if (!goOn) {
            noMore = true;
            full.clear();
        }
        changed.notify_all();
    }
    filler.join();
}

}  // namespace dreskel
