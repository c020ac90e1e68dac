#include "solve/memory_watch.h"

#include <fcntl.h>
#include <sys/mman.h>
#include <unistd.h>

#include <atomic>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <new>
#include <thread>

namespace cvane::solve {
namespace {
constexpr std::size_t kLittle = std::size_t{256} << 10;
// Fields of some hundred thousand cells: what a library that fell over may have been refused.
constexpr std::size_t kMuch = std::size_t{64} << 20;
// Made before memory is short: to say that it is must take none.
std::string theWords;
int theFile = STDOUT_FILENO;
std::atomic_flag ending = ATOMIC_FLAG_INIT;

bool isRefused(std::size_t bytes) {
    void* asked = ::mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
    if (asked == MAP_FAILED) return true;
    ::munmap(asked, bytes);
    return false;
}

// Only what needs no memory: an MPI_Abort has been seen to wait for some.
[[noreturn]] void end() {
    if (ending.test_and_set())
        for (;;) ::pause();  // another thread is at it
    [[maybe_unused]] const auto n = ::write(theFile, theWords.data(), theWords.size());
    ::usleep(300000);  // until mpiexec has passed it on, where it went that way: this end ends that too
    ::_exit(1);
}

// A library that does not look at what malloc answers ends in one of these.
void onSignal(int signal) {
    if (isRefused(kMuch)) end();
    std::signal(signal, SIG_DFL);
    std::raise(signal);
}

// And one that looks leaves by exit(), as MPI does when it has no memory for a message.
void onExit(int status, void*) {
    if (status != 0 && isRefused(kMuch)) end();
}
}  // namespace

void endWhenMemoryIsOut(std::string lastWords, const std::filesystem::path& file) {
    theWords = "\n" + std::move(lastWords);
    if (const int given = ::open(file.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC | O_NONBLOCK); given >= 0)
        theFile = given;
    std::set_new_handler(end);
    ::on_exit(onExit, nullptr);
    for (const int signal : {SIGSEGV, SIGBUS, SIGABRT}) std::signal(signal, onSignal);
    std::thread([] {
        for (;; std::this_thread::sleep_for(std::chrono::milliseconds(200)))
            if (isRefused(kLittle)) end();
    }).detach();
}

}  // namespace cvane::solve
