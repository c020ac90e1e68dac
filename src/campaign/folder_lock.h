#pragma once
#include <filesystem>

namespace cvane::campaign {

/// Holds a campaign for one program at a time. The system frees it when the program ends, however it ends.
class FolderLock {
  public:
    /// Throws InputError when another program has the campaign open, or the folder cannot be written.
    explicit FolderLock(const std::filesystem::path& folder);
    ~FolderLock();
    FolderLock(const FolderLock&) = delete;
    FolderLock& operator=(const FolderLock&) = delete;

  private:
    int fd_ = -1;
};

}  // namespace cvane::campaign
