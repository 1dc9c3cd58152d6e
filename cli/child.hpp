// Talking with a process of our own: film's encoder, the reader of strangers' STEP files.
#pragma once

#include <sys/types.h>

#include <cstddef>
#include <string>

namespace palio::cli {

/// Whether the pipe took all of it; a signal in between does not count.
bool write_all(int pipe, const void* bytes, std::size_t size);

/// What comes until the other side closes, or until there are `most` bytes.
std::string read_all(int pipe, std::size_t most = static_cast<std::size_t>(-1));

/// Waits for its end; the status is that of waitpid.
int wait_for(pid_t child);

}  // namespace palio::cli
