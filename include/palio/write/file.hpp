// Files are written whole or not at all: aside first, then renamed.
#pragma once

#include <string>
#include <string_view>

namespace palio::write {

/// What every file carries inside.
struct Stamp {
  std::string title;    ///< the job's
  std::string part;     ///< gear name, or "assembly"
  std::string version;  ///< palio's
  bool inches = false;  ///< unit of formats that follow the job's units
  std::string job{};    ///< the whole job, to be carried along; may be empty
  std::string note{};   ///< what was done to size, in words; may be empty
};

/// Writes `bytes` to `path` through a neighbouring temporary file. Folders are not made.
/// \throws FileError naming the path and the cause
void write_file(const std::string& path, std::string_view bytes);

/// The whole of a file. \throws FileError
std::string read_file(const std::string& path);

/// The name of the temporary file that stands for `path` while it is written; `replace` renames it.
std::string aside(const std::string& path);
void replace(const std::string& temporary, const std::string& path);

/// Text for the inside of XML and its attributes.
std::string xml_escaped(std::string_view text);

/// The time for a file's header (UTC), or that of SOURCE_DATE_EPOCH, so that the same job can give the same bytes.
std::string time_stamp();

/// Shortest decimal text that reads back the same double, without regard to the locale.
std::string digits(double value);

}  // namespace palio::write
