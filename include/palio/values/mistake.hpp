// What is wrong with a job, in words.
#pragma once

#include <set>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

namespace palio::job {

/// Where something stands in a job: line and column of a TOML file (JSON and --set have only the path).
struct Where {
  std::string source;  ///< file name, "<standard input>" or the option
  int line = 0, column = 0;
};

/// One mistake of meaning or spelling in a job.
struct Mistake {
  std::string id;  ///< stable, kebab-case
  Where where;
  std::string key;      ///< path of the key, "gear.motor_pinion.teeth"
  std::string message;  ///< what was given, what is allowed, what to do

  std::string text() const;
};

/// Mistakes as they are found, so that one run tells all of them.
class Mistakes {
 public:
  /// That a key is missing is no news where a mistake with it has been told, nor is what one value that several tables
  /// take over does to each of them alike.
  void note(const std::string& id, const Where& where, const std::string& key, const std::string& message);
  /// That a mistake with the key is known ("gear.a.module"), also for a misspelt one that was to be it.
  void know(const std::string& key) { told_.insert(key); }
  /// What is told of one table ("gear.a") is known of another that takes over from it.
  void hand_on(const std::string& from, const std::string& to);
  /// Whether a mistake with that key of the table ("gear.a", or [shared], from which it may come) is known.
  bool told(const std::string& table, std::string_view key) const;
  std::size_t count() const noexcept { return all_.size(); }
  /// \throws JobError with all of them, in the order of the file, where there are any
  void stop() const;

 private:
  std::vector<Mistake> all_;
  std::set<std::string> told_;
};

/// A job that cannot be taken as it is; carries all the mistakes found.
class JobError : public std::runtime_error {
 public:
  explicit JobError(std::vector<Mistake> mistakes);
  const std::vector<Mistake>& mistakes() const noexcept { return mistakes_; }

 private:
  std::vector<Mistake> mistakes_;
};

}  // namespace palio::job
