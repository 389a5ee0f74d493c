// Work in parts that do not depend on one another, on every core.
#pragma once

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cstddef>
#include <thread>
#include <vector>

namespace dreskel {

// Threads that so many parts are worth.
inline std::size_t threadsFor(std::size_t parts) {
    constexpr std::size_t kMost = 8;
    return std::clamp<std::size_t>(std::thread::hardware_concurrency(), 1,
                                   std::clamp(parts, std::size_t{1}, kMost));
}

// Calls `work(part, thread)` once for each part, the first ones first, with `thread` below threadsFor(parts);
// meanwhile, on the calling thread, `tell(done)` some times a second. Returns when all is done.
template <class Work, class Tell>
void onEveryCore(std::size_t parts, Work&& work, Tell&& tell) {
    std::atomic<std::size_t> next = 0, done = 0;
    std::vector<std::thread> threads;
    for (std::size_t thread = 0; thread < threadsFor(parts) && parts > 0; ++thread) {
        threads.emplace_back([&, thread] {
            for (auto part = next++; part < parts; part = next++) {
                work(part, thread);
                ++done;
            }
        });
    }
    while (done < parts) {
        tell(done.load());
        std::this_thread::sleep_for(std::chrono::milliseconds(50));
    }
    for (auto& thread : threads) thread.join();
}

}  // namespace dreskel
