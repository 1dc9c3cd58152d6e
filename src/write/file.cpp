#include "palio/write/file.hpp"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <filesystem>

#include <fmt/format.h>

#include "palio/error.hpp"

namespace palio::write {
namespace {

[[noreturn]] void fail(const std::string& path, const char* what) {
  const int code = errno;
  throw FileError(fmt::format("{}: cannot {}: {}", path, what, std::strerror(code)));
}

}  // namespace

namespace {

/// Names of files that were begun, in plain memory: a signal handler reads them.
constexpr int kOpen = 16, kLongest = 4096;
char begun[kOpen][kLongest];

}  // namespace

HeldSignals::HeldSignals() noexcept {
  sigset_t held;
  ::sigemptyset(&held);
  for (const int signal : {SIGINT, SIGTERM, SIGHUP})
    ::sigaddset(&held, signal);
  ::pthread_sigmask(SIG_BLOCK, &held, &before_);
}

HeldSignals::~HeldSignals() { ::pthread_sigmask(SIG_SETMASK, &before_, nullptr); }

std::string begin_aside(const std::string& path) {
  static int number = 0;
  const HeldSignals held;
  for (int tries = 0; tries < 100; ++tries) {
    std::string name = fmt::format("{}.part-{}-{}", path, ::getpid(), ++number);
    // Never through a link, never what is there already: another run may be writing beside us.
    const int file = ::open(name.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC | O_NOFOLLOW, 0666);
    if (file < 0 && errno == EEXIST) continue;
    if (file < 0) fail(path, "write");
    ::close(file);
    for (char* slot = begun[0]; slot < begun[0] + sizeof begun; slot += kLongest) {
      if (*slot != 0 || name.size() >= kLongest) continue;
      std::memcpy(slot + 1, name.c_str() + 1, name.size());
      *slot = name[0];  // last: now it counts
      break;
    }
    return name;
  }
  throw FileError(fmt::format("{}: no name is left beside it for a temporary file", path));
}

namespace {

void forget(const std::string& name) noexcept {
  for (auto& slot : begun) {
    if (name == slot) slot[0] = 0;
  }
}

}  // namespace

void discard(const std::string& temporary) noexcept {
  ::unlink(temporary.c_str());
  forget(temporary);
}

void discard_all() noexcept {
  for (auto& slot : begun) {
    if (slot[0] != 0) ::unlink(slot);
    slot[0] = 0;
  }
}

void finish(const std::string& temporary, const std::string& path) {
  if (std::rename(temporary.c_str(), path.c_str()) != 0) {
    const int code = errno;
    discard(temporary);
    errno = code;
    fail(path, "rename the finished file to this name");
  }
  forget(temporary);
}

void write_file(const std::string& path, std::string_view bytes) {
  const std::string temporary = begin_aside(path);
  std::FILE* file = std::fopen(temporary.c_str(), "wb");
  bool whole = file && std::fwrite(bytes.data(), 1, bytes.size(), file) == bytes.size();
  int code = errno;
  if (file && std::fclose(file) != 0) {
    if (whole) code = errno;
    whole = false;
  }
  if (!whole) {
    discard(temporary);
    errno = code;
    fail(path, "write");
  }
  finish(temporary, path);
}

std::string read_file(const std::string& path, std::size_t most) {
  if (std::filesystem::is_directory(path)) throw FileError(fmt::format("{}: is a folder, not a file", path));
  std::FILE* file = std::fopen(path.c_str(), "rb");
  if (!file) fail(path, "read");
  std::string bytes;
  char block[1 << 16];
  std::size_t got = 0;
  while (bytes.size() <= most && (got = std::fread(block, 1, sizeof block, file)) > 0)
    bytes.append(block, got);
  const int code = errno;
  const bool failed = std::ferror(file) != 0;
  std::fclose(file);
  errno = code;
  if (failed) fail(path, "read");
  if (bytes.size() > most)
    throw FileError(fmt::format("{}: is longer than the {} bytes that are read here", path, most));
  return bytes;
}

std::string xml_escaped(std::string_view text) {
  std::string out;
  for (const char c : text) {
    switch (c) {
      case '&': out += "&amp;"; break;
      case '<': out += "&lt;"; break;
      case '>': out += "&gt;"; break;
      case '"': out += "&quot;"; break;
      case '\'': out += "&#39;"; break;
      default:
        out +=
            static_cast<unsigned char>(c) < 32 && c != '\n' && c != '\t' && c != '\r' ? '?' : c;  // no XML holds these
    }
  }
  return out;
}

std::string digits(double value) {
  if (!std::isfinite(value)) throw FileError("a number that would be written is not finite; nothing is written");
  char buffer[32];
  const auto end = std::to_chars(buffer, buffer + sizeof buffer, value == 0 ? 0.0 : value);
  return {buffer, end.ptr};
}

std::optional<std::int64_t> source_date() {
  const char* fixed = std::getenv("SOURCE_DATE_EPOCH");
  if (!fixed) return std::nullopt;
  constexpr std::int64_t kYear10000 = 253402300800;
  std::int64_t seconds = 0;
  const char* end = fixed + std::strlen(fixed);
  const auto [read, error] = std::from_chars(fixed, end, seconds);
  if (error != std::errc() || read != end || seconds < 0 || seconds >= kYear10000) {
    throw FileError(
        fmt::format("SOURCE_DATE_EPOCH is \"{}\", but whole seconds since 1970 are allowed, up to the year 9999; unset "
                    "it or mend it",
                    fixed));
  }
  return seconds;
}

std::string time_stamp() {
  const std::time_t when = source_date().value_or(std::time(nullptr));
  std::tm parts{};
  ::gmtime_r(&when, &parts);
  char buffer[32];
  std::strftime(buffer, sizeof buffer, "%Y-%m-%dT%H:%M:%S", &parts);
  return buffer;
}

}  // namespace palio::write
