#pragma once
#include <stdexcept>
#include <string>

namespace cvane::base {

/// Something the user can mend: what is wrong, where, and what to do, together one or two clear sentences.
class InputError : public std::runtime_error {
  public:
    InputError(std::string what, std::string where, std::string whatToDo)
        : std::runtime_error((where.empty() ? "" : where + ": ") + what + (whatToDo.empty() ? "" : " " + whatToDo)),
          what_(std::move(what)),
          where_(std::move(where)),
          whatToDo_(std::move(whatToDo)) {}
    const std::string& problem() const { return what_; }
    const std::string& where() const { return where_; }
    const std::string& whatToDo() const { return whatToDo_; }

  private:
    std::string what_, where_, whatToDo_;
};

/// Thrown out of a long job when its progress callback returned false. Nothing half-made is left behind.
class Cancelled : public std::runtime_error {
  public:
    Cancelled() : std::runtime_error("cancelled") {}
};

}  // namespace cvane::base
