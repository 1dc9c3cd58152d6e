// Outlines of one's own, drawn in a file beside the job or written in it as a path: windows, pockets, plates.
#include <algorithm>
#include <cctype>
#include <filesystem>

#include "palio/angle.hpp"
#include "palio/curve/profile.hpp"
#include "palio/drawn/drawing.hpp"
#include "palio/error.hpp"
#include "palio/write/file.hpp"
#include "resolver.hpp"

namespace palio::job {
namespace {

constexpr std::size_t kShown = 60;    // letters of a path in a message
constexpr double kChordError = 1e-3;  // of points along them, which tell inside from outside [mm]

/// A name in a job is that of a file beside it.
std::string beside(const std::string& job, const std::string& name) {
  return (std::filesystem::path(job).parent_path() / name).string();
}

/// "dxf" of "window.DXF".
std::string ending(const std::string& name) {
  std::string text = std::filesystem::path(name).extension().string();
  std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return std::tolower(c); });
  return text.empty() ? text : text.substr(1);
}

/// \throws FileError
std::string read_beside(const Value& name) {
  try {
    constexpr std::size_t kLongest = 50000000;  // bytes
    return write::read_file(beside(name.where.source, name.text), kLongest);
  } catch (const FileError& e) {
    throw FileError(fmt::format("cannot be read ({})", e.what()));
  }
}

/// In how many others each lies.
std::vector<int> depths(const std::vector<drawn::Loop>& loops) {
  std::vector<int> all;
  all.reserve(loops.size());
  for (const drawn::Loop& l : loops)
    all.push_back(static_cast<int>(std::count_if(loops.begin(), loops.end(), [&](const drawn::Loop& other) {
      return &other != &l && other.area > l.area && other.holds(l.points.front());
    })));
  return all;
}

}  // namespace

std::optional<drawn::Drawing> Resolver::drawing_of(const Settings& v, const std::string& group, const std::string& path,
                                                   double& unit_mm) {
  const Value *file = v.find(group + "drawing"), *letters = v.find(group + "path"), *unit = v.find(group + "unit");
  const auto refused = [&](const char* id, const Where& where, const std::string& key, const std::string& why) {
    note(id, where, path + key, why);
    return std::nullopt;
  };
  if (file && letters)
    return refused("too-much", letters->where, ".path", "stands beside a drawing; drop one of the two");
  if (!file && !letters) {
    if (const Value* any = v.any_below(group))
      note("missing-key", any->where, path, "needs a drawing (\"window.dxf\"), or a path (\"M10 0 L20 5 L20 -5 Z\")");
    return std::nullopt;
  }
  const double said = unit && unit->text == "in" ? 25.4 : 1;
  try {
    if (letters) {
      unit_mm = said;
      return drawn::read_path(letters->text, kChordError);
    }
    const std::string format = ending(file->text);
    const bool svg = format == "svg";
    if (!svg && format != "dxf")
      return refused("bad-value", file->where, ".drawing",
                     fmt::format("is \"{}\"; a drawing is a .dxf or a .svg", file->text));
    const std::string text = read_beside(*file);
    drawn::Drawing drawing = svg ? drawn::read_svg(text, kChordError) : drawn::read_dxf(text, kChordError);
    if (!drawing.unit_told && !unit)
      return refused(
          "missing-key", file->where, ".unit",
          fmt::format("is missing: {} does not say what its numbers are; give \"mm\" or \"in\"", file->text));
    if (drawing.unit_told && unit)
      return refused("no-meaning", unit->where, ".unit",
                     "has no meaning: the drawing says itself what its numbers are; take it out");
    unit_mm = drawing.unit_told ? 1 : said / (svg ? drawn::kSvgUnit : 1);
    return drawing;
  } catch (const FileError& e) {
    return refused("bad-drawing", (file ? file : letters)->where, file ? ".drawing" : ".path",
                   fmt::format("is \"{}\": {}", (file ? file : letters)->text.substr(0, kShown), e.what()));
  }
}

std::vector<curve::Outline> Resolver::drawn_outlines(const Settings& v, const std::string& group,
                                                     const std::string& path, bool holes) {
  double unit_mm = 1;
  const std::optional<drawn::Drawing> drawing = drawing_of(v, group, path, unit_mm);
  if (!drawing) return {};
  const bool in_file = v.find(group + "drawing") != nullptr;
  const Value& said = *v.find(group + (in_file ? "drawing" : "path"));
  const auto refused = [&](const std::string& why) {
    note("bad-drawing", said.where, path + (in_file ? ".drawing" : ".path"),
         fmt::format("is \"{}\", {}", said.text.substr(0, kShown), why));
    return std::vector<curve::Outline>{};
  };
  if (drawing->open > 0)
    return refused(fmt::format("and {} of its chains of lines do not close; join their ends", drawing->open));
  if (drawing->loops.empty()) return refused("and no closed outline is drawn in it");
  const std::vector<int> within = depths(drawing->loops);
  if (!holes && (std::count(within.begin(), within.end(), 0) != 1 ||
                 std::any_of(within.begin(), within.end(), [](int n) { return n > 1; })))
    return refused("but a plate has one outline, with what is cut out within it");
  const Vec2 way(v.number(group + "x", 0), v.number(group + "y", 0));
  const double angle = v.number(group + "angle", 0) * kPi / 180;
  std::vector<curve::Outline> all;
  for (std::size_t i = 0; i < drawing->loops.size(); ++i) {
    const drawn::Loop& loop = drawing->loops[i];
    if (loop.crosses_itself())
      return refused(fmt::format("whose outline about ({:.6g}, {:.6g}) crosses or touches itself", loop.centre.x(),
                                 loop.centre.y()));
    curve::Outline outline = curve::turned(curve::moved(curve::scaled(loop.outline(), unit_mm), way), angle);
    // The outermost bounds a hole, or the plate itself.
    all.push_back((within[i] % 2 == 0) == holes ? curve::reversed(outline) : std::move(outline));
  }
  return all;
}

std::vector<body::Cutout> Resolver::cutouts_of(const Settings& v, const std::string& prefix) {
  std::vector<body::Cutout> all;
  for (const std::string& i : items(v, "cutouts")) {
    const std::vector<curve::Outline> loops = drawn_outlines(v, i, prefix + ".cutouts", true);
    body::Cutout cut{{}, v.number(i + "depth", 0), v.text(i + "face") != "bottom"};
    const bool stands = std::any_of(loops.begin(), loops.end(), [](const curve::Outline& o) { return !o.clockwise; });
    if (stands && cut.depth == 0) {
      note("bad-drawing", v.any_below(i)->where, prefix + ".cutouts",
           "has an outline within another: cut right through, what lies there would fall out; give a depth, or take it "
           "out of the drawing");
      continue;
    }
    const int count = static_cast<int>(v.number(i + "count", 1));
    for (int k = 0; k < count; ++k) {
      for (const curve::Outline& o : loops)
        cut.loops.push_back(curve::turned(o, 2 * kPi * k / count));
    }
    if (!loops.empty()) all.push_back(std::move(cut));
  }
  return all;
}

}  // namespace palio::job
