#pragma once
#include <chrono>
#include <string>

namespace cvane::base {

/// How long a job will still take, judged from its progress so far. Starts counting when made.
class TimeLeft {
  public:
    /// @param fraction  progress from 0 to 1
    /// @return "about 12 s left", or nothing where it is too early to say
    std::string words(double fraction) const;
    /// The same for a known time since the start [s].
    static std::string words(double fraction, double seconds);
    static std::string about(double seconds);  ///< "about 3 min"
    /// "about 12 s left", min or h.
    static std::string wordsFor(double secondsLeft);

  private:
    std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
};

}  // namespace cvane::base
