// What palio throws. A gear that can be built but is doubtful is no error: it is a finding (gear/finding.hpp).
#pragma once

#include <stdexcept>
#include <string>

namespace palio {

/// The question makes no sense: a value outside its range, or values that contradict each other.
/// `what()` reads "NAME is VALUE, but ALLOWED; REMEDY".
class InvalidParameter : public std::invalid_argument {
 public:
  /// \param name     the parameter's name: the key of the job file wherever there is one
  /// \param given    the value given, with its unit
  /// \param allowed  what is allowed, as a clause ("the tool allows at most 0.318")
  /// \param remedy   what to do
  InvalidParameter(std::string name, std::string given, std::string allowed, std::string remedy);

  const std::string& name() const noexcept { return name_; }
  const std::string& given() const noexcept { return given_; }
  const std::string& allowed() const noexcept { return allowed_; }
  const std::string& remedy() const noexcept { return remedy_; }

 private:
  std::string name_, given_, allowed_, remedy_;
};

/// The method failed on a question that makes sense. The message carries what is needed to run it again.
class NoConvergence : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// Reading or writing a file failed; the message names the path and the cause.
class FileError : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

}  // namespace palio
