#include "solve/memory_watch.h"

#include <sys/mman.h>
#include <unistd.h>

#include <atomic>
#include <chrono>
#include <csignal>
#include <new>
#include <thread>

namespace cvane::solve {
namespace {
constexpr std::size_t kLittle = std::size_t{256} << 10;
// Made before memory is short: to say that it is must take none.
std::string theWords;
std::atomic_flag ending = ATOMIC_FLAG_INIT;

bool memoryIsOut() {
    void* asked = ::mmap(nullptr, kLittle, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
    if (asked == MAP_FAILED) return true;
    ::munmap(asked, kLittle);
    return false;
}

// Only what needs no memory: an MPI_Abort has been seen to wait for some.
[[noreturn]] void end() {
    if (ending.test_and_set())
        for (;;) ::pause();  // another thread is at it
    [[maybe_unused]] const auto n = ::write(STDOUT_FILENO, theWords.data(), theWords.size());
    ::usleep(300000);  // until mpiexec has passed it on: this end ends that too
    ::_exit(1);
}

// A library that does not look at what malloc answers ends in one of these.
void onSignal(int signal) {
    if (memoryIsOut()) end();
    std::signal(signal, SIG_DFL);
    std::raise(signal);
}
}  // namespace

void endWhenMemoryIsOut(std::string lastWords) {
    theWords = std::move(lastWords);
    std::set_new_handler(end);
    for (const int signal : {SIGSEGV, SIGBUS, SIGABRT}) std::signal(signal, onSignal);
    std::thread([] {
        for (;; std::this_thread::sleep_for(std::chrono::milliseconds(200)))
            if (memoryIsOut()) end();
    }).detach();
}

}  // namespace cvane::solve
