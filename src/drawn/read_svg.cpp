// Paths and basic shapes of an SVG (SVG 1.1, chapters 7 to 9).
#include <cctype>
#include <cstdlib>
#include <cstring>
#include <optional>
#include <string>

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <pugixml.hpp>

#include "chains.hpp"
#include "palio/angle.hpp"

namespace palio::drawn {
namespace {

using Transform = Eigen::Affine2d;
constexpr int kDeepestNest = 200;

/// Numbers, flags and letters of a path, a list of points or a transformation.
class Scanner {
 public:
  explicit Scanner(const char* text) : at_(text) {}
  bool done() { return skip(), *at_ == 0; }
  /// The letter that stands here, if one does.
  char letter() {
    skip();
    return std::isalpha(static_cast<unsigned char>(*at_)) ? *at_++ : '\0';
  }
  bool number_next() { return skip(), std::strchr("+-.0123456789", *at_) != nullptr && *at_ != 0; }
  double number() {
    skip();
    char* end = nullptr;
    const double x = std::strtod(at_, &end);
    if (*at_ == 0) throw FileError("a path in the SVG file ends where a number should stand");
    if (end == at_ || !(std::abs(x) < 1e9))
      throw FileError(fmt::format("the SVG file holds \"{}\" where a number stands", std::string(at_).substr(0, 20)));
    at_ = end;
    return x;
  }
  Vec2 point() {
    const double x = number();
    return {x, number()};
  }
  /// Flags of arcs may stand without anything between them.
  bool flag() {
    skip();
    if (*at_ != '0' && *at_ != '1') throw FileError("an arc of a path in the SVG file has no flag 0 or 1");
    return *at_++ == '1';
  }
  std::string word() {
    skip();
    const char* from = at_;
    while (std::isalpha(static_cast<unsigned char>(*at_)))
      ++at_;
    return {from, at_};
  }
  void pass(char c) {
    skip();
    if (*at_ == c) ++at_;
  }

 private:
  void skip() {
    while (*at_ != 0 && (std::isspace(static_cast<unsigned char>(*at_)) || *at_ == ','))
      ++at_;
  }
  const char* at_;
};

Transform transform_of(const char* text) {
  Transform all = Transform::Identity();
  Scanner s(text);
  while (!s.done()) {
    const std::string word = s.word();
    if (word.empty())
      throw FileError(fmt::format("the SVG file has a transformation \"{}\"", std::string(text).substr(0, 60)));
    s.pass('(');
    std::vector<double> v;
    while (s.number_next())
      v.push_back(s.number());
    s.pass(')');
    Transform one = Transform::Identity();
    if (word == "matrix" && v.size() == 6) {
      one.matrix() << v[0], v[2], v[4], v[1], v[3], v[5], 0, 0, 1;
    } else if (word == "translate" && !v.empty()) {
      one.translate(Vec2(v[0], v.size() > 1 ? v[1] : 0));
    } else if (word == "scale" && !v.empty()) {
      one.scale(Vec2(v[0], v.size() > 1 ? v[1] : v[0]));
    } else if (word == "rotate" && (v.size() == 1 || v.size() == 3)) {
      const Vec2 about = v.size() == 3 ? Vec2(v[1], v[2]) : Vec2(0, 0);
      one.translate(about).rotate(v[0] * kPi / 180).translate(-about);
    } else if (word == "skewX" && v.size() == 1) {
      one.matrix()(0, 1) = std::tan(v[0] * kPi / 180);
    } else if (word == "skewY" && v.size() == 1) {
      one.matrix()(1, 0) = std::tan(v[0] * kPi / 180);
    } else {
      throw FileError(fmt::format("the SVG file has a transformation \"{}\"", std::string(text).substr(0, 60)));
    }
    all = all * one;
  }
  return all;
}

/// A length in mm, of a number with its unit; without one in user units.
std::optional<double> length_of(const char* text) {
  char* end = nullptr;
  const double x = std::strtod(text, &end);
  if (end == text || !(std::abs(x) < 1e9)) return std::nullopt;
  const std::string unit(end);
  for (const auto& [name, mm] :
       {std::pair{"mm", 1.0}, {"cm", 10.0}, {"in", 25.4}, {"pt", 25.4 / 72}, {"pc", 25.4 / 6}}) {
    if (unit == name) return x * mm;
  }
  return std::nullopt;
}

class SvgReader {
 public:
  explicit SvgReader(double chord_error) : chains_(chord_error) {}

  void take(const pugi::xml_node& node, const Transform& above, int depth) {
    if (depth > kDeepestNest) throw FileError(fmt::format("the SVG file is nested more than {} deep", kDeepestNest));
    static const std::vector<std::string> kUnseen{"defs",    "symbol",   "clipPath", "mask",  "marker",
                                                  "pattern", "metadata", "title",    "style", "script"};
    for (const pugi::xml_node& child : node.children()) {
      if (child.type() != pugi::node_element) continue;
      const std::string full = child.name(),
                        name = full.substr(full.find(':') == std::string::npos ? 0 : full.find(':') + 1);
      if (std::find(kUnseen.begin(), kUnseen.end(), name) != kUnseen.end()) continue;
      to_ = above * transform_of(child.attribute("transform").value());
      const auto number = [&](const char* key) { return child.attribute(key).as_double(0); };
      if (name == "path") {
        path(child.attribute("d").value());
      } else if (name == "polygon" || name == "polyline") {
        Scanner s(child.attribute("points").value());
        bool begun = false;
        while (s.number_next()) {
          const Vec2 p = s.point();
          begun ? chains_.line_to(to_ * p) : chains_.move_to(to_ * p);
          begun = true;
        }
        if (name == "polygon" && begun) chains_.close();
      } else if (name == "line") {
        chains_.move_to(to_ * Vec2(number("x1"), number("y1")));
        chains_.line_to(to_ * Vec2(number("x2"), number("y2")));
      } else if (name == "rect") {
        const Vec2 p(number("x"), number("y")), size(number("width"), number("height"));
        chains_.move_to(to_ * p);
        for (const Vec2& q : {Vec2(p.x() + size.x(), p.y()), Vec2(p + size), Vec2(p.x(), p.y() + size.y()), p})
          chains_.line_to(to_ * q);
      } else if (name == "circle" || name == "ellipse") {
        const Vec2 centre(number("cx"), number("cy"));
        const Vec2 radii = name == "circle" ? Vec2(number("r"), number("r")) : Vec2(number("rx"), number("ry"));
        ellipse(centre, radii, 0, 0, 2 * kPi, true);
      } else if (name == "g" || name == "svg" || name == "a" || name == "switch") {
        take(child, Transform(to_), depth + 1);
      } else if (passed_.size() < 20 && std::find(passed_.begin(), passed_.end(), name) == passed_.end()) {
        passed_.push_back(name.substr(0, 24));
      }
    }
  }
  /// The letters of a path alone, which stands under no transformation.
  void take_path(const char* letters) { path(letters); }
  Drawing finish() {
    Drawing all = chains_.finish();
    all.passed_over = std::move(passed_);
    return all;
  }

 private:
  void ellipse(const Vec2& centre, const Vec2& radii, double turn, double from, double sweep, bool begin) {
    const Eigen::Matrix2d m = to_.linear();
    const auto curve = [&](double t) -> Along {
      return {to_ * Vec2(centre + turned(Vec2(radii.x() * std::cos(t), radii.y() * std::sin(t)), turn)),
              m * turned(Vec2(-radii.x() * std::sin(t), radii.y() * std::cos(t)), turn)};
    };
    if (begin) chains_.move_to(curve(from).p);
    // Circles stay circles where the transformation is alike in all directions.
    const double size = m.norm(), turns = m.determinant() > 0 ? 1 : -1;
    const bool alike = std::abs(m(0, 0) - turns * m(1, 1)) + std::abs(m(0, 1) + turns * m(1, 0)) < 1e-12 * size;
    if (alike && radii.x() == radii.y())
      chains_.arc_to(to_ * centre, turns * sweep);
    else
      chains_.curve_to(curve, from, from + sweep, 4, radii.x() == radii.y() ? Stroke::arc : Stroke::spline);
  }

  /// Of the notation by ends (SVG 1.1, F.6.5).
  void arc(const Vec2& from, Vec2 radii, double degrees, bool large, bool forwards, const Vec2& to) {
    radii = radii.cwiseAbs();
    if (radii.x() == 0 || radii.y() == 0 || from == to) {
      chains_.line_to(to_ * to);
      return;
    }
    const double turn = degrees * kPi / 180;
    const Vec2 half = turned(Vec2(0.5 * (from - to)), -turn), over = half.cwiseQuotient(radii);
    const double reach = over.squaredNorm();
    if (reach > 1) radii *= std::sqrt(reach);
    const Vec2 q = half.cwiseQuotient(radii);
    const double off = std::sqrt(std::max(0.0, 1 / q.squaredNorm() - 1)) * (large == forwards ? -1 : 1);
    const Vec2 unit_centre = off * Vec2(q.y(), -q.x());
    const Vec2 centre = turned(Vec2(unit_centre.cwiseProduct(radii)), turn) + 0.5 * (from + to);
    const Vec2 a = q - unit_centre, b = -q - unit_centre;
    const double start = std::atan2(a.y(), a.x());
    double sweep = std::atan2(a.x() * b.y() - a.y() * b.x(), a.dot(b));
    if (forwards && sweep < 0) sweep += 2 * kPi;
    if (!forwards && sweep > 0) sweep -= 2 * kPi;
    ellipse(centre, radii, turn, start, sweep, false);
  }

  void bezier(const std::vector<Vec2>& poles) {
    const auto curve = [&](double t) -> Along {
      std::vector<Vec2> d = poles;
      Vec2 way = Vec2::Zero();
      for (std::size_t n = d.size() - 1; n > 0; --n) {
        if (n == 1) way = d[1] - d[0];
        for (std::size_t i = 0; i < n; ++i)
          d[i] = (1 - t) * d[i] + t * d[i + 1];
      }
      return {to_ * d[0], to_.linear() * way};
    };
    chains_.curve_to(curve, 0, 1, static_cast<int>(poles.size()) - 1, Stroke::spline);
  }

  void path(const char* text) {
    Scanner s(text);
    Vec2 at = Vec2::Zero(), start = at, handle = at;
    char command = 0, before = 0;
    bool open = false;
    while (!s.done()) {
      if (const char letter = s.letter()) {
        command = letter;
      } else if (command == 0 || !s.number_next() || command == 'Z' || command == 'z') {
        throw FileError(fmt::format("a path in the SVG file is no path: \"{}\"", std::string(text).substr(0, 40)));
      }
      const bool relative = std::islower(static_cast<unsigned char>(command)) != 0;
      const char kind = static_cast<char>(std::toupper(static_cast<unsigned char>(command)));
      const Vec2 base = relative ? at : Vec2(0, 0);
      const auto begin = [&] {
        if (!open) chains_.move_to(to_ * at);
        open = true;
      };
      const auto mirrored = [&](const char* kinds) {
        return std::strchr(kinds, before) && before ? Vec2(2 * at - handle) : at;
      };
      Vec2 next_handle = at;
      switch (kind) {
        case 'M':
          at = base + s.point();
          start = at, open = false;
          command = relative ? 'l' : 'L';
          break;
        case 'L':
          begin();
          at = base + s.point();
          chains_.line_to(to_ * at);
          break;
        case 'H':
          begin();
          at.x() = base.x() + s.number();
          chains_.line_to(to_ * at);
          break;
        case 'V':
          begin();
          at.y() = base.y() + s.number();
          chains_.line_to(to_ * at);
          break;
        case 'C':
        case 'S': {
          begin();
          const Vec2 first = kind == 'C' ? Vec2(base + s.point()) : mirrored("CS");
          next_handle = base + s.point();
          const Vec2 to = base + s.point();
          bezier({at, first, next_handle, to});
          at = to;
          break;
        }
        case 'Q':
        case 'T': {
          begin();
          next_handle = kind == 'Q' ? Vec2(base + s.point()) : mirrored("QT");
          const Vec2 to = base + s.point();
          bezier({at, next_handle, to});
          at = to;
          break;
        }
        case 'A': {
          begin();
          const Vec2 radii = s.point();
          const double turn = s.number();
          const bool large = s.flag(), forwards = s.flag();
          const Vec2 to = base + s.point();
          arc(at, radii, turn, large, forwards, to);
          at = to;
          break;
        }
        case 'Z':
          if (open) chains_.close();
          at = start, open = false;
          break;
        default: throw FileError(fmt::format("a path in the SVG file has the command \"{}\"", command));
      }
      handle = kind == 'C' || kind == 'S' || kind == 'Q' || kind == 'T' ? next_handle : at;
      before = kind;
    }
  }

  Chains chains_;
  Transform to_ = Transform::Identity();
  std::vector<std::string> passed_;
};

}  // namespace

Drawing read_path(const std::string& data, double chord_error) {
  SvgReader reader(chord_error);
  reader.take_path(data.c_str());
  return reader.finish();
}

Drawing read_svg(std::string_view text, double chord_error) {
  pugi::xml_document document;
  const pugi::xml_parse_result parsed = document.load_buffer(text.data(), text.size());
  const pugi::xml_node root = document.document_element();
  if (!parsed || std::string_view(root.name()).find("svg") == std::string_view::npos)
    throw FileError(fmt::format("this is no SVG: {}", parsed ? "its root is no svg element" : parsed.description()));
  // User units to mm, y upwards.
  const std::optional<double> wide = length_of(root.attribute("width").value());
  double unit = kSvgUnit;
  bool told = false;
  if (wide) {
    Scanner box(root.attribute("viewBox").value());
    std::vector<double> v;
    while (box.number_next())
      v.push_back(box.number());
    unit = v.size() == 4 && v[2] > 0 ? *wide / v[2] : kSvgUnit;
    told = true;
  }
  Transform up = Transform::Identity();
  up.scale(Vec2(unit, -unit));
  SvgReader reader(chord_error);
  reader.take(root, up, 0);
  Drawing all = reader.finish();
  all.unit_told = told;
  return all;
}

}  // namespace palio::drawn
