#include "outline.hpp"

#include <fmt/format.h>

#include "palio/error.hpp"

namespace palio::cli {
bool is_outline(const std::string& path) { return foreign::can_read(format_of(path)); }

std::vector<foreign::Toothed> load_outlines(const std::string& path) {
  const std::string bytes = write::read_file(path);
  const foreign::Drawing drawing = [&] {
    try {
      return foreign::read(bytes, format_of(path));
    } catch (const FileError& e) {
      throw FileError(fmt::format("{}: {}", path, e.what()));
    }
  }();
  std::vector<foreign::Toothed> all = foreign::find_all_teeth(drawing);
  if (!all.empty()) return all;
  throw FileError(fmt::format(
      "{}: none of its {} closed outlines has teeth: its radius about its middle should go up and down once a tooth, "
      "4 teeth or more, all of one size{}",
      path, drawing.loops.size(),
      drawing.open > 0 ? fmt::format(" ({} chains of lines do not close: join them)", drawing.open) : ""));
}

foreign::Toothed load_outline(const std::string& path) { return load_outlines(path).front(); }

}  // namespace palio::cli
