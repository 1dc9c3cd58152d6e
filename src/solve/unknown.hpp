// A value that is to be found, and where it may lie. Private to solve.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/values/values.hpp"

namespace palio::solve {

/// Continuous, or one of a list. A continuous one has a coordinate from 0 to 1, even in what it is: a size by its
/// logarithm, a signed length without bounds by an area sine, anything else plainly.
class Unknown {
 public:
  /// \param usual  about what it will be: the value by default, where the job has one
  Unknown(const job::Sought& sought, job::Units units, std::optional<double> usual);

  const std::string& path() const noexcept { return path_; }
  /// Its key alone: "module".
  std::string word() const { return path_.substr(path_.rfind('.') + 1); }
  /// What it may be, where that is a list: whole numbers, a series.
  const std::vector<double>& among() const noexcept { return among_; }
  bool continuous() const noexcept { return among_.empty(); }
  bool whole() const noexcept { return whole_; }
  bool length() const noexcept { return length_; }
  double least() const noexcept { return least_; }
  double greatest() const noexcept { return greatest_; }
  double number(double coordinate) const;
  double coordinate(double number) const;
  std::optional<double> usual() const noexcept { return usual_; }

 private:
  enum class Scale { plain, log, sinh };

  std::string path_;
  bool whole_, length_;
  double least_, greatest_;
  std::vector<double> among_;
  std::optional<double> usual_;
  Scale scale_ = Scale::plain;
};

}  // namespace palio::solve
