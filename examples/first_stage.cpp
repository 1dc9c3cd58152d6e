// A stage from teeth and backlash: built, rolled in one call, set at other distances, and its wheel written as STL.
#include <cstdio>
#include <palio/design/design.hpp>
#include <palio/make/make.hpp>

using namespace palio;

int main() {
  const job::Values values = job::Values::read(R"(
      title = "Roof vent, first stage"
      shared = { kind = "spur", module = 1.5, face_width = 12 }
      [gear]
      motor_pinion = { teeth = 17, profile_shift = 0.18, bore = 4.5 }
      drum_wheel = { teeth = 43, profile_shift = 0.09, bore = 8 }
      [pair.first_stage]
      driver = "motor_pinion"
      driven = "drum_wheel"
      backlash = 0.14)",
                                               "first stage");
  const job::Design stage = job::resolve(values);
  const double distance = stage.pairs[0].center_distance;
  for (const double off : {0.2, 0.1, 0.0, -0.1, -0.2}) {
    const job::Design mounted = job::resolve(values.with("pair.first_stage.mounted_center_distance", distance + off));
    const job::Pair& pair = mounted.pairs[0];
    const roll::Result result = job::rolled(pair);
    std::printf("%.4f mm: %s, play %.6f mm (formula %.6f)\n", distance + off, roll::name(result.verdict).data(),
                result.play->min * pair.working_pitch_diameters()[1] / 2, pair.circumferential_backlash());
  }
  make::Request request;
  request.formats = {"stl"}, request.only = {"drum_wheel"};
  for (const make::File& file : make::make(stage, request, make::into("parts")))
    std::printf("%s: %zu triangles within %.4f mm\n", file.path.c_str(), file.triangles, file.deviation);
}
