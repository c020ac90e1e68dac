#include "section/polar/batch.h"

#include <atomic>
#include <exception>
#include <mutex>
#include <thread>

#include "base/errors.h"

namespace cvane::section {

std::vector<std::vector<PolarPoint>> computeBatch(const std::vector<std::shared_ptr<const PanelFlow>>& sections,
                                                  const std::vector<BatchJob>& jobs, const OnBatchPoint& onPoint,
                                                  unsigned cores) {
    for (const BatchJob& j : jobs) checkCase(j.what);
    if (cores == 0) cores = std::max(1u, std::thread::hardware_concurrency());
    std::vector<std::vector<PolarPoint>> out(jobs.size());
    std::atomic<std::size_t> next{0};
    std::atomic<bool> stop{false};
    std::mutex telling;
    std::exception_ptr failure;
    const auto work = [&] {
        for (std::size_t k = next++; k < jobs.size() && !stop; k = next++) {
            try {
                out[k] = computePolar(*sections[jobs[k].section], jobs[k].what, [&](const PolarPoint& p) {
                    if (stop) return false;
                    const std::lock_guard lock(telling);
                    return !onPoint || onPoint(k, p);
                });
            } catch (...) {
                const std::lock_guard lock(telling);
                if (!failure) failure = std::current_exception();
                stop = true;
            }
        }
    };
    std::vector<std::thread> others;
    for (unsigned i = 1; i < cores && i < jobs.size(); ++i) others.emplace_back(work);
    work();
    for (std::thread& t : others) t.join();
    if (failure) std::rethrow_exception(failure);
    return out;
}

}  // namespace cvane::section
