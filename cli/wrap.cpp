// Text that fits a terminal's width.
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>

#include "shell.hpp"

namespace palio::cli {
namespace {

constexpr std::size_t kNarrowest = 40;       // columns below which nothing is wrapped any more
constexpr std::size_t kDescriptionsAt = 30;  // where the parser's help begins its descriptions

/// Columns that a text takes: bytes that go on with a character take none.
std::size_t columns(const std::string& text) {
  return static_cast<std::size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0) != 0x80; }));
}

std::vector<std::string> split(const std::string& text, char at) {
  std::vector<std::string> pieces;
  std::size_t from = 0;
  for (std::size_t end = text.find(at); end != std::string::npos; end = text.find(at, from)) {
    pieces.push_back(text.substr(from, end - from));
    from = end + 1;
  }
  pieces.push_back(text.substr(from));
  return pieces;
}

/// One line as several, all but the first behind `indent` blanks.
std::string wrapped_line(const std::string& line, std::size_t indent, std::size_t width) {
  const std::vector<std::string> words = split(line, ' ');
  std::string done, last = words.front();
  for (std::size_t k = 1; k < words.size(); ++k) {
    const std::size_t taken = columns(last);
    if (words[k].empty() || taken <= indent || taken + 1 + columns(words[k]) <= width) {
      last += " " + words[k];
      continue;
    }
    done += last.substr(0, last.find_last_not_of(' ') + 1) + "\n";
    last = std::string(indent, ' ') + words[k];
  }
  return done + last;
}

/// Where the description of a line of help begins, to put what follows under it.
std::size_t description_of(const std::string& line) {
  const std::size_t text = line.find_first_not_of(' ');
  if (text == std::string::npos) return 0;
  const bool at_column = line.size() > kDescriptionsAt && line[kDescriptionsAt - 1] == ' ';
  if (text >= kDescriptionsAt) return kDescriptionsAt;
  return at_column && text <= 2 ? kDescriptionsAt : text + 2;
}

}  // namespace

std::string wrapped_help(const std::string& help, std::size_t width) {
  if (width < kNarrowest) return help;
  std::string text;
  bool examples = false;
  for (const std::string& line : split(help, '\n')) {
    examples = examples || line.rfind("Example", 0) == 0 || line.rfind("Begin with", 0) == 0;
    if (line.empty()) examples = false;
    text += (examples ? line : wrapped_line(line, description_of(line), width)) + "\n";
  }
  text.pop_back();
  return text;
}

std::string wrapped(const std::string& message, std::size_t width) {
  if (width < kNarrowest) return message;
  std::string text;
  for (const std::string& line : split(message, '\n')) {
    const std::size_t begins = std::min(line.find_first_not_of(' '), line.size());
    text += wrapped_line(line, begins + 2, width) + "\n";
  }
  text.pop_back();
  return text;
}

std::size_t terminal_width(int descriptor) {
  winsize size{};
  if (::isatty(descriptor) == 0 || ::ioctl(descriptor, TIOCGWINSZ, &size) != 0) return 0;
  return size.ws_col;
}

}  // namespace palio::cli
