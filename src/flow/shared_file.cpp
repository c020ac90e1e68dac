#include "flow/shared_file.h"

#include <mpi.h>

#include <algorithm>
#include <fstream>

#include "base/errors.h"

namespace cvane::flow {

/// MPI's file where there are several ranks; a process by itself may have no MPI.
struct SharedFile::Handle {
    MPI_File shared = MPI_FILE_NULL;
    std::ofstream own;
};

SharedFile::SharedFile(const std::filesystem::path& file, const Ranks& ranks)
    : file_(file), ranks_(ranks), handle_(std::make_unique<Handle>()) {
    // What is left of an earlier one would lie behind a shorter one's end.
    std::error_code ec;
    if (ranks.rank() == 0) std::filesystem::remove(file_, ec);
    if (ranks.size() == 1) {
        handle_->own.open(file_, std::ios::binary);
        bad_ = !handle_->own;
    } else {
        ranks.any(false);  // nobody opens it before it has been removed
        bad_ = MPI_File_open(MPI_COMM_WORLD, file_.c_str(), MPI_MODE_CREATE | MPI_MODE_WRONLY, MPI_INFO_NULL,
                             &handle_->shared) != MPI_SUCCESS;
    }
    if (ranks.any(bad_)) fail();
}

SharedFile::~SharedFile() {
    if (handle_->shared != MPI_FILE_NULL) MPI_File_close(&handle_->shared);
}

void SharedFile::write(std::uint64_t at, std::string_view bytes) {
    if (ranks_.size() == 1) {
        handle_->own.seekp(static_cast<std::streamoff>(at));
        handle_->own.write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
        bad_ = bad_ || !handle_->own;
        return;
    }
    // A length is an int.
    constexpr std::size_t kLongest = std::size_t{1} << 30;
    for (std::size_t done = 0; done < bytes.size();) {
        const std::size_t n = std::min(kLongest, bytes.size() - done);
        MPI_Status status;
        int written = 0;
        const bool good = MPI_File_write_at(handle_->shared, static_cast<MPI_Offset>(at + done), bytes.data() + done,
                                            static_cast<int>(n), MPI_BYTE, &status) == MPI_SUCCESS;
        if (good) MPI_Get_count(&status, MPI_BYTE, &written);
        bad_ = bad_ || !good || written != static_cast<int>(n);
        done += n;
    }
}

void SharedFile::close() {
    if (ranks_.size() == 1) {
        handle_->own.close();
        bad_ = bad_ || !handle_->own;
    } else {
        bad_ = MPI_File_sync(handle_->shared) != MPI_SUCCESS || bad_;
        bad_ = MPI_File_close(&handle_->shared) != MPI_SUCCESS || bad_;
    }
    if (ranks_.any(bad_)) fail();
}

void SharedFile::fail() const {
    std::error_code ec;
    if (ranks_.rank() == 0) std::filesystem::remove(file_, ec);
    throw base::InputError("could not be written.", file_.string(),
                           "Check the folder and the free space; nothing was lost.");
}

}  // namespace cvane::flow
