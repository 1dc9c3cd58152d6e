#include "palio/write/file.hpp"

#include <unistd.h>

#include <cerrno>
#include <charconv>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <filesystem>
#include <fstream>
#include <iterator>

#include <fmt/format.h>

#include "palio/error.hpp"

namespace palio::write {
namespace {

[[noreturn]] void fail(const std::string& path, const char* what) {
  const int code = errno;
  throw FileError(fmt::format("{}: cannot {}: {}", path, what, std::strerror(code)));
}

}  // namespace

std::string aside(const std::string& path) { return fmt::format("{}.part-{}", path, ::getpid()); }

void replace(const std::string& temporary, const std::string& path) {
  if (std::rename(temporary.c_str(), path.c_str()) != 0) {
    const int code = errno;
    std::remove(temporary.c_str());
    errno = code;
    fail(path, "rename the finished file to this name");
  }
}

void write_file(const std::string& path, std::string_view bytes) {
  const std::string temporary = aside(path);
  std::FILE* file = std::fopen(temporary.c_str(), "wb");
  if (!file) fail(path, "write");
  const bool written = std::fwrite(bytes.data(), 1, bytes.size(), file) == bytes.size();
  const int code = errno;
  const bool closed = std::fclose(file) == 0;
  if (!written || !closed) {
    if (!written) errno = code;
    const int kept = errno;
    std::remove(temporary.c_str());
    errno = kept;
    fail(path, "write");
  }
  replace(temporary, path);
}

std::string read_file(const std::string& path) {
  if (std::filesystem::is_directory(path)) throw FileError(fmt::format("{}: is a folder, not a file", path));
  std::ifstream in(path, std::ios::binary);
  if (!in) fail(path, "read");
  return {std::istreambuf_iterator<char>(in), {}};
}

std::string xml_escaped(std::string_view text) {
  std::string out;
  for (const char c : text) {
    switch (c) {
      case '&': out += "&amp;"; break;
      case '<': out += "&lt;"; break;
      case '>': out += "&gt;"; break;
      case '"': out += "&quot;"; break;
      default: out += c;
    }
  }
  return out;
}

std::string digits(double value) {
  char buffer[32];
  const auto end = std::to_chars(buffer, buffer + sizeof buffer, value == 0 ? 0.0 : value);
  return {buffer, end.ptr};
}

std::string time_stamp() {
  std::time_t when = std::time(nullptr);
  if (const char* fixed = std::getenv("SOURCE_DATE_EPOCH")) when = std::strtoll(fixed, nullptr, 10);
  char buffer[32];
  std::strftime(buffer, sizeof buffer, "%Y-%m-%dT%H:%M:%S", std::gmtime(&when));
  return buffer;
}

}  // namespace palio::write
