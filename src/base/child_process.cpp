#include "base/child_process.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstring>
#include <fstream>
#include <sstream>

#include "base/errors.h"

namespace cvane::base {

pid_t startDetached(const std::vector<std::string>& command, const std::filesystem::path& outputFile,
                    const std::vector<std::string>& environment) {
    const int out = ::open(outputFile.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC | O_NONBLOCK,
                           0644);  // a pipe there must not hold us
    if (out < 0)
        throw InputError(fmt::format("cannot be written ({}).", std::strerror(errno)), outputFile.string(),
                         "Choose a folder that you may write to.");
    // Everything that allocates is done before fork: the child may only call async-signal-safe functions.
    std::vector<char*> argv;
    argv.reserve(command.size() + 1);
    for (const auto& a : command) argv.push_back(const_cast<char*>(a.c_str()));
    argv.push_back(nullptr);
    std::vector<char*> envp;
    envp.reserve(environment.size() + 1);
    for (const auto& e : environment) envp.push_back(const_cast<char*>(e.c_str()));
    for (char** e = environ; *e != nullptr; ++e) envp.push_back(*e);
    envp.push_back(nullptr);
    int failure[2];
    if (::pipe2(failure, O_CLOEXEC) != 0) {
        ::close(out);
        throw InputError("no pipe could be opened.", "", "Close some programs and try again.");
    }
    const pid_t pid = ::fork();
    if (pid == 0) {
        ::setsid();
        const int null = ::open("/dev/null", O_RDONLY);
        ::dup2(null, 0);
        ::dup2(out, 1);
        ::dup2(out, 2);
        ::execvpe(argv[0], argv.data(), envp.data());
        const int error = errno;
        [[maybe_unused]] auto n = ::write(failure[1], &error, sizeof error);
        ::_exit(127);
    }
    ::close(out);
    ::close(failure[1]);
    int error = 0;
    const bool failed = pid < 0 || ::read(failure[0], &error, sizeof error) == sizeof error;
    ::close(failure[0]);
    if (failed) {
        if (pid > 0) ::waitpid(pid, nullptr, 0);
        throw InputError(fmt::format("cannot be started ({}).", std::strerror(pid < 0 ? errno : error)), command[0],
                         "Check that it is installed.");
    }
    return pid;
}

unsigned long long processStart(pid_t pid) {
    std::ifstream in(fmt::format("/proc/{}/stat", pid));
    std::string line;
    if (!std::getline(in, line)) return 0;
    // The second field is the program's name in parentheses and may hold blanks; count from its end.
    std::istringstream rest(line.substr(line.rfind(')') + 2));
    std::string field;
    rest >> field;
    // One that has ended and that its starter has not collected works no more.
    if (field == "Z" || field == "X") return 0;
    for (int i = 4; i <= 22; ++i) rest >> field;
    return std::stoull(field);
}

bool isAlive(pid_t pid, unsigned long long start) {
    if (pid <= 0) return false;
    ::waitpid(pid, nullptr, WNOHANG);
    const auto now = processStart(pid);
    return now != 0 && now == start;
}

std::filesystem::path programFolder() {
    return std::filesystem::read_symlink("/proc/self/exe").parent_path();
}

}  // namespace cvane::base
