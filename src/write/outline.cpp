#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "arcs.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/formats.hpp"

namespace palio::write {
namespace {

/// A loop as the data of an SVG path, its points as `at` places them; the box grows by what it lies within.
template <class At>
std::string path_data(const PlacedLoop& placed, At at, Box& box) {
  const std::vector<curve::BulgedPoint>& points = placed.loop.points;
  std::string data = fmt::format("M{} {}", digits(at(0).x()), digits(at(0).y()));
  for (std::size_t i = 0; i + (placed.open ? 1 : 0) < points.size(); ++i) {
    const Vec2 p = at(i), q = at((i + 1) % points.size());
    const double bulge = points[i].bulge;
    hold_bulged(box, p, -bulge, q);  // SVG's y points down, which turns the sense
    if (is_straight(p, bulge, q)) {
      data += fmt::format(" L{} {}", digits(q.x()), digits(q.y()));
    } else {
      data += fmt::format(" A{0} {0} 0 {1} {2} {3} {4}", digits(curve::circle_of(p, bulge, q).radius),
                          std::abs(bulge) > 1 ? 1 : 0, bulge > 0 ? 0 : 1, digits(q.x()), digits(q.y()));
    }
  }
  return data + (placed.open ? "" : "Z");
}

/// Text on a sheet as SVG, in a unit; as wide as it says, whatever font there is.
std::string written(const Label& l, double unit) {
  constexpr double kCapitals = 0.72;  // of a font's size
  return fmt::format(
      "      <text x=\"{}\" y=\"{}\" font-size=\"{}\" textLength=\"{}\" lengthAdjust=\"spacingAndGlyphs\">{}</text>\n",
      digits(l.from.x() / unit), digits(-l.from.y() / unit), digits(l.height / kCapitals / unit),
      digits(l.width / unit), xml_escaped(l.text));
}

}  // namespace

Corners corners_of(const std::vector<PlacedLoop>& loops) {
  Box box;
  for (const PlacedLoop& l : loops) {
    const auto& points = l.loop.points;
    const auto at = [&](std::size_t i) { return l.placement.of(points[i % points.size()].p); };
    for (std::size_t i = 0; i < points.size(); ++i)
      hold_bulged(box, at(i), points[i].bulge, at(i + 1));
  }
  return box.empty() ? Corners{Vec2::Zero(), Vec2::Zero()} : Corners{box.low(), box.high()};
}

std::string svg(const std::vector<PlacedLoop>& loops, const Stamp& stamp, const std::optional<SheetOfStock>& sheet) {
  const double unit = stamp.inches ? 25.4 : 1.0;
  const char* name = stamp.inches ? "in" : "mm";
  Box box;
  double deviation = 0;
  std::string paths;
  int number = 0;
  for (std::size_t i = 0; i < loops.size(); ++i) {
    const PlacedLoop& placed = loops[i];
    deviation = std::max(deviation, placed.loop.deviation);
    if (i == 0 || loops[i - 1].part != placed.part) {
      paths +=
          fmt::format("{}    <g>\n      <title>{}</title>\n", i == 0 ? "" : "    </g>\n", xml_escaped(placed.part));
    }
    const auto at = [&](std::size_t k) -> Vec2 {
      const Vec2 p = placed.placement.of(placed.loop.points[k].p);
      return {p.x() / unit, -p.y() / unit};
    };
    paths += fmt::format("      <path id=\"{}_{}\" d=\"{}\"/>\n", xml_escaped(placed.layer()), ++number,
                         path_data(placed, at, box));
  }
  if (!loops.empty()) paths += "    </g>\n";
  const double margin = 0.02 * (box.high() - box.low()).maxCoeff();
  Vec2 least = box.low() - Vec2(margin, margin), greatest = box.high() + Vec2(margin, margin);
  if (sheet) {
    least = Vec2(0, -sheet->depth / unit), greatest = Vec2(sheet->width / unit, 0);
    paths += "    <g fill=\"#1f4e8c\" stroke=\"none\" font-family=\"sans-serif\">\n      <title>label</title>\n";
    for (const Label& l : sheet->labels)
      paths += written(l, unit);
    paths += "    </g>\n";
  }
  // The page around the paths needs no more than this.
  const auto page = [](double length) {
    constexpr double kSteps = 1e4;
    return digits(std::round(length * kSteps) / kSteps);
  };
  return with_job(
      fmt::format(
          "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"
          "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0}{6}\" height=\"{1}{6}\" viewBox=\"{2} {3} {0} {1}\">\n"
          "  <title>{4}</title>\n"
          "  <metadata>palio {5}; part {7}; 1:1 in {6}; arcs within {8} mm of the exact curves{10}{11}</metadata>\n"
          "  <g fill=\"none\" stroke=\"#3a3a40\" stroke-width=\"{9}\">\n",
          page(greatest.x() - least.x()), page(greatest.y() - least.y()), page(least.x()), page(least.y()),
          xml_escaped(stamp.title), stamp.version, name, xml_escaped(stamp.part), digits(deviation), digits(0.1 / unit),
          stamp.note.empty() ? "" : "; ", xml_escaped(stamp.note)) +
          paths + "  </g>\n</svg>\n",
      "svg", stamp.job);
}

Written csv(const std::vector<curve::Outline>& outlines, double chord_error, const Stamp& stamp) {
  const double unit = stamp.inches ? 25.4 : 1.0;
  std::string text = "loop,segment,role,x,y\n";
  double deviation = 0;
  for (std::size_t loop = 0; loop < outlines.size(); ++loop) {
    const curve::Outline& outline = outlines[loop];
    std::vector<curve::Chords> chords;
    for (const curve::Segment& s : outline.period) {
      chords.push_back(curve::flatten(s, chord_error));
      deviation = std::max(deviation, chords.back().deviation);
    }
    std::size_t number = 0;
    for (int copy = 0; copy < outline.count; ++copy) {
      for (std::size_t i = 0; i < outline.period.size(); ++i, ++number) {
        const curve::Segment s = outline.segment(copy, i);
        // An arc's parameter is its polar angle, which turning the segment shifts.
        const double shift = s.from - outline.period[i].from;
        for (const double t : chords[i].at) {
          const Vec2 p = s.point(t + shift);
          text += fmt::format("{},{},{},{},{}\n", loop, number, curve::name(s.role), digits(p.x() / unit),
                              digits(p.y() / unit));
        }
      }
    }
  }
  return {std::move(text), deviation};
}

Written csv_of_directions(const curve::Outline& outline, double radius, double chord_error, const Stamp& stamp) {
  const double unit = stamp.inches ? 25.4 : 1.0;
  // A length of the projection is at most 2 R of its size on the sphere.
  std::vector<curve::Chords> chords;
  double deviation = 0;
  for (const curve::Segment& s : outline.period) {
    chords.push_back(curve::flatten(s, chord_error / (2 * radius)));
    deviation = std::max(deviation, 2 * radius * chords.back().deviation);
  }
  std::string text = "loop,segment,role,x,y,z\n";
  std::size_t number = 0;
  for (int copy = 0; copy < outline.count; ++copy) {
    for (std::size_t i = 0; i < outline.period.size(); ++i, ++number) {
      for (const double t : chords[i].at) {
        const Vec2 p = turned(outline.period[i].point(t), outline.turn(copy));
        const double k = radius / unit / (1 + p.squaredNorm());
        text += fmt::format("0,{},{},{},{},{}\n", number, curve::name(outline.period[i].role), digits(2 * k * p.x()),
                            digits(2 * k * p.y()), digits(k * (1 - p.squaredNorm())));
      }
    }
  }
  return {std::move(text), deviation};
}

}  // namespace palio::write
