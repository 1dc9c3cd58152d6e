#include "means.hpp"

#include <filesystem>

namespace palio::make {

void save_stl(const body::TriangleMesh& mesh, const write::Stamp& stamp, const Means& means, File& file) {
  const write::Written stl = write::stl(mesh, stamp);
  means.save(file.path, stl.bytes);
  file.deviation = stl.deviation, file.bytes = stl.bytes.size();
  file.triangles = mesh.triangles.size(), file.volume = body::volume(mesh);
  file.extent = write::box_of(mesh.vertices).sizes();
}

void save_step(const std::vector<write::StepPart>& solids, const write::Stamp& stamp, double tolerance,
               const Means& means, File& file) {
  const write::StepMade made = step_of(means)(solids, stamp, tolerance, file.path);
  file.deviation = made.deviation, file.volume = made.volume;
  std::error_code unread;
  const auto length = std::filesystem::file_size(file.path, unread);
  if (!unread) file.bytes = length;
}

void save_loops(const std::vector<write::PlacedLoop>& loops, const write::Stamp& stamp, const Means& means, File& file,
                const std::optional<write::SheetOfStock>& sheet) {
  const std::string bytes = file.format == "dxf" ? write::dxf(loops, stamp, sheet) : write::svg(loops, stamp, sheet);
  means.save(file.path, bytes);
  file.bytes = bytes.size();
  const write::Corners box = write::corners_of(loops);
  const Vec2 size = box.high - box.low;
  file.extent = Vec3(size.x(), size.y(), 0);
  for (const write::PlacedLoop& l : loops) {
    (l.open ? file.chains : file.loops) += 1;
    file.deviation = std::max(file.deviation.value_or(0), l.loop.deviation);
  }
}

void check_only(const std::vector<std::string>& only, const std::vector<std::string>& known,
                const std::string& allowed) {
  for (const std::string& name : only) {
    if (std::find(known.begin(), known.end(), name) == known.end())
      throw InvalidParameter("only", name, allowed, "choose one of those");
  }
}

}  // namespace palio::make
