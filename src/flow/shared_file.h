#pragma once
#include <filesystem>
#include <memory>
#include <string_view>

#include "flow/ranks.h"

namespace cvane::flow {

/// A file that all ranks write into, each at places of its own.
class SharedFile {
  public:
    /// Makes it anew. Collective. Throws InputError on every rank: one of them cannot.
    SharedFile(const std::filesystem::path& file, const Ranks& ranks);
    ~SharedFile();
    SharedFile(const SharedFile&) = delete;
    SharedFile& operator=(const SharedFile&) = delete;
    /// Not collective; whether it worked is told by close().
    void write(std::uint64_t at, std::string_view bytes);
    /// Collective. Throws InputError on every rank: one of them could not write.
    void close();

  private:
    struct Handle;
    [[noreturn]] void fail() const;
    const std::filesystem::path file_;
    const Ranks& ranks_;
    std::unique_ptr<Handle> handle_;
    bool bad_ = false;
};

}  // namespace cvane::flow
