// Files are written whole or not at all: aside first, then renamed.
#pragma once

#include <csignal>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace palio::write {

/// What every file carries inside.
struct Stamp {
  explicit Stamp() = default;  ///< filled by name alone: six texts in a row are easily swapped

  std::string title;    ///< the job's
  std::string part;     ///< gear name, or "assembly"
  std::string version;  ///< palio's
  bool inches = false;  ///< unit of formats that follow the job's units
  std::string job;      ///< the whole job, to be carried along; may be empty
  std::string note;     ///< what was done to size, in words; may be empty
};

/// Writes `bytes` to `path` through a neighbouring temporary file. Folders are not made.
/// \throws FileError naming the path and the cause
void write_file(const std::string& path, std::string_view bytes);

/// The whole of a file, up to `most` bytes.
/// \throws FileError also where it is larger, or no end of it comes (a device)
std::string read_file(const std::string& path, std::size_t most = std::size_t{1} << 31);

/// While it lives, signals that end the run wait: what is begun meanwhile is on a handler's list before they come.
class HeldSignals {
 public:
  HeldSignals() noexcept;
  HeldSignals(const HeldSignals&) = delete;
  HeldSignals& operator=(const HeldSignals&) = delete;
  ~HeldSignals();
  const sigset_t& before() const noexcept { return before_; }  ///< the mask that a child should have

 private:
  sigset_t before_;
};

/// Makes an empty file beside `path` that stands for it while it is written, under a name that no other run has;
/// `finish` gives it that name, `discard` removes it. \throws FileError
std::string begin_aside(const std::string& path);
void finish(const std::string& temporary, const std::string& path);
void discard(const std::string& temporary) noexcept;
/// Removes what was begun and not finished. May be called in a signal handler.
void discard_all() noexcept;

/// Text for the inside of XML and its attributes.
std::string xml_escaped(std::string_view text);

/// The time for a file's header (UTC), or that of SOURCE_DATE_EPOCH, so that the same job can give the same bytes.
/// \throws FileError where SOURCE_DATE_EPOCH is no such time
std::string time_stamp();
/// Seconds since 1970 that SOURCE_DATE_EPOCH gives, if it is set. \throws FileError where it is no such number
std::optional<std::int64_t> source_date();

/// Shortest decimal text that reads back the same double, without regard to the locale.
/// \throws FileError where the number is not finite: no file may hold one
std::string digits(double value);

}  // namespace palio::write
