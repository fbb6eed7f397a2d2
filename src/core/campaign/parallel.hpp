// Work that falls into independent parts, done by several threads. What comes of it does not depend on how many.
#pragma once

#include <atomic>
#include <exception>
#include <functional>
#include <mutex>
#include <thread>
#include <vector>

namespace vyard::campaign {

struct Work {
    unsigned threads = 1;
    /// Asked between parts; when it says so, no further part is begun.
    std::function<bool()> ended;
    /// Called after each part, by one thread at a time, with how many are done.
    std::function<void(std::size_t done, std::size_t of)> progress;
};

/// Calls part(i) for each i below `count`, each once. An exception of a part is thrown again here, the first that came.
template <class Part>
void in_parallel(std::size_t count, const Work& work, Part part) {
    std::atomic<std::size_t> next = 0, done = 0;
    std::mutex one;
    std::exception_ptr failure;
    const auto run = [&] {
        while (true) {
            const std::size_t i = next.fetch_add(1);
            if (i >= count) return;
            try {
                {
                    const std::lock_guard lock(one);
                    if (failure || (work.ended && work.ended())) return;
                }
                part(i);
                const std::size_t now = done.fetch_add(1) + 1;
                if (!work.progress) continue;
                const std::lock_guard lock(one);
                work.progress(now, count);
            } catch (...) {
                const std::lock_guard lock(one);
                if (!failure) failure = std::current_exception();
                return;
            }
        }
    };
    std::vector<std::thread> others;
    for (unsigned t = 1; t < work.threads; ++t) others.emplace_back(run);
    run();
    for (std::thread& t : others) t.join();
    if (failure) std::rethrow_exception(failure);
}

}  // namespace vyard::campaign
