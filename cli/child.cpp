#include "child.hpp"

#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>

namespace palio::cli {

bool write_all(int pipe, const void* bytes, std::size_t size) {
  const char* at = static_cast<const char*>(bytes);
  while (size > 0) {
    const ssize_t n = ::write(pipe, at, size);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) return false;
    at += n;
    size -= static_cast<std::size_t>(n);
  }
  return true;
}

std::string read_all(int pipe, std::size_t most) {
  std::string all;
  char block[1 << 16];
  while (all.size() < most) {
    const ssize_t n = ::read(pipe, block, sizeof block);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) break;
    all.append(block, static_cast<std::size_t>(n));
  }
  return all;
}

int wait_for(pid_t child) {
  int status = 0;
  while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
  }
  return status;
}

}  // namespace palio::cli
