#include "campaign/folder_lock.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "base/errors.h"

namespace cvane::campaign {

FolderLock::FolderLock(const std::filesystem::path& folder) {
    const auto file = folder / "campaign.lock";
    fd_ = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
    if (fd_ < 0)
        throw base::InputError(fmt::format("cannot be written to ({}).", std::strerror(errno)), folder.string(), "Copy the campaign to a folder that you may write to.");
    if (::flock(fd_, LOCK_EX | LOCK_NB) != 0) {
        ::close(fd_);
        throw base::InputError("is open in another window or program.", folder.string(), "Close it there first.");
    }
}

FolderLock::~FolderLock() {
    if (fd_ >= 0) ::close(fd_);
}

}  // namespace cvane::campaign
