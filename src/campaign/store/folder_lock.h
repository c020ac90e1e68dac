#pragma once
#include <filesystem>

namespace cvane::campaign {

/// Holds a folder for one program at a time, for the short while in which something in it is looked at and then
/// replaced. The system frees it when the program ends, however it ends.
class FolderLock {
  public:
    /// Waits for another that holds it. Throws InputError: it is held for seconds, the folder cannot be written.
    explicit FolderLock(const std::filesystem::path& folder);
    ~FolderLock();
    FolderLock(const FolderLock&) = delete;
    FolderLock& operator=(const FolderLock&) = delete;

  private:
    int fd_ = -1;
};

}  // namespace cvane::campaign
