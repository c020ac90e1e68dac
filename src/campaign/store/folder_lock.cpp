#include "campaign/store/folder_lock.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <chrono>
#include <cstring>
#include <thread>

#include "base/errors.h"

namespace cvane::campaign {
namespace {
constexpr std::chrono::milliseconds kWait{20};
constexpr int kMostAttempts = 250;  // 5 s
}  // namespace

FolderLock::FolderLock(const std::filesystem::path& folder) {
    const auto file = folder / ".lock";
    fd_ = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
    if (fd_ < 0)
        throw base::InputError(fmt::format("cannot be written to ({}).", std::strerror(errno)), folder.string(),
                               "Copy the campaign to a folder that you may write to.");
    for (int tries = 0; ::flock(fd_, LOCK_EX | LOCK_NB) != 0; ++tries) {
        if (tries < kMostAttempts) {
            std::this_thread::sleep_for(kWait);
            continue;
        }
        ::close(fd_);
        throw base::InputError("is held by another program.", folder.string(), "Try again when that is done.");
    }
}

FolderLock::~FolderLock() {
    if (fd_ >= 0) ::close(fd_);
}

}  // namespace cvane::campaign
