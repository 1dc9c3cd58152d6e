// The built tool in an empty folder. For tests of the tool.
#pragma once

#include <sys/wait.h>

#include <cstdlib>
#include <filesystem>
#include <string>

#include "palio/write/file.hpp"

namespace palio::test {

namespace fs = std::filesystem;

struct Ran {
  int status;
  std::string out, err;
};

/// An empty folder of its own for each test case.
class Folder {
 public:
  Folder()
      : path_(fs::temp_directory_path() /
              fs::path("palio-cli-" + std::to_string(::getpid()) + "-" + std::to_string(++count_))) {
    fs::create_directories(path_);
  }
  ~Folder() { fs::remove_all(path_); }
  std::string operator/(const std::string& name) const { return (path_ / name).string(); }

  /// Runs a shell line in the folder, with the built palio first on the path.
  Ran run(const std::string& line) const {
    const std::string command =
        "cd '" + path_.string() + "' && PATH='" PALIO_BIN "':$PATH; { " + line + " ; } >out.txt 2>err.txt";
    const int raw = std::system(command.c_str());
    Ran ran{WIFEXITED(raw) ? WEXITSTATUS(raw) : -1, write::read_file(*this / "out.txt"),
            write::read_file(*this / "err.txt")};
    fs::remove(*this / "out.txt");
    fs::remove(*this / "err.txt");
    return ran;
  }
  std::size_t files() const {
    return static_cast<std::size_t>(std::distance(fs::directory_iterator(path_), fs::directory_iterator()));
  }

 private:
  static inline int count_ = 0;
  fs::path path_;
};

}  // namespace palio::test
