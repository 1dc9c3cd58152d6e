// Where a reading is to be seen on the teeth: the lines that a picture draws over them.
#pragma once

#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "palio/readings/reading.hpp"

namespace palio::job {

struct MarkLine {
  Vec2 from, to;  ///< [mm]
};
struct MarkArc {
  Vec2 centre;
  double radius;
  double from, to;  ///< [rad]; 2π apart: a circle
};
using Trace = std::variant<MarkLine, MarkArc>;

double length(const Trace& trace);                 ///< [mm]
Vec2 along(const Trace& trace, double share);      ///< the point at that share of its length, 0 to 1
Vec2 direction(const Trace& trace, double share);  ///< unit vector on from there
bool is_circle(const Trace& trace);                ///< a whole one

/// What is measured, and thin lines that lead to it.
struct Mark {
  /// Across the axis: of a gear in its own frame, of a pair in the world. Meridian: a half plane through the axis of a
  /// bevel gear, x away from the axis, y along it from the apex.
  enum class Plane { across, meridian };
  Plane plane = Plane::across;
  std::vector<Trace> measured{}, guides{};
};

/// The mark of one reading, by its path; none where it has no one place on the teeth.
/// \throws InvalidParameter "path"  where the job has no such reading
std::optional<Mark> mark_of(const Design& design, const std::string& path);

/// A reading with its mark and the words for it.
struct Marked {
  std::string path;    ///< "gear.motor_pinion.tip_diameter"
  ReadingOf of;        ///< a gear or a pair
  std::string name;    ///< "motor_pinion"
  std::string label;   ///< "tip circle"
  std::string symbol;  ///< "d_a", or empty
  std::string meaning;
  std::string value;     ///< "⌀ 36.0000 mm (r 18.0000 mm)"
  std::string worked;    ///< the formula with this job's numbers, and what comes of it
  std::string drawn;     ///< what stands beside the mark: the number, of a table the length that is marked
  std::string measured;  ///< what the mark measures in the plane shown, where that differs from the value
  Mark mark;
};

/// What a word marks in a job: the first gear or pair that has it, or the one that a path names.
/// \throws InvalidParameter "word"  where it is no reading, or has no place on the teeth
Marked marked(const std::string& word, const Design& design);

}  // namespace palio::job
