// The entities of an ASCII DXF that outlines are drawn of.
#include <cstdlib>
#include <string>
#include <utility>

#include <fmt/format.h>

#include "chains.hpp"
#include "palio/angle.hpp"
#include "palio/math/extent.hpp"

namespace palio::drawn {
namespace {

double number(std::string_view value) {
  const double read = std::strtod(std::string(value.substr(0, 60)).c_str(), nullptr);
  if (!(std::abs(read) < 1e9))
    throw FileError(fmt::format("the DXF file holds \"{}\" where a place or a bulge stands", value.substr(0, 40)));
  return read;
}

/// Group codes with their values, up to the next thing.
struct Entity {
  std::string type;
  std::vector<std::pair<int, std::string_view>> groups;

  double at(int code, double otherwise = 0) const {
    for (const auto& [c, value] : groups) {
      if (c == code) return number(value);
    }
    return otherwise;
  }
  Vec2 point(int code) const { return {at(code), at(code + 10)}; }
  int flags(int code) const { return static_cast<int>(at(code)); }
};

/// All pairs of lines of the file.
class Groups {
 public:
  explicit Groups(std::string_view text) : text_(text) {}
  bool next(int& code, std::string_view& value) {
    std::string_view code_text;
    if (!line(code_text) || !line(value)) return false;
    code = std::atoi(std::string(code_text.substr(0, 12)).c_str());
    return true;
  }

 private:
  bool line(std::string_view& into) {
    if (at_ >= text_.size()) return false;
    const auto end = text_.find('\n', at_);
    into = text_.substr(at_, end == std::string_view::npos ? end : end - at_);
    if (!into.empty() && into.back() == '\r') into.remove_suffix(1);
    at_ = end == std::string_view::npos ? text_.size() : end + 1;
    return true;
  }
  std::string_view text_;
  std::size_t at_ = 0;
};

/// A rational B-spline by de Boor's steps.
class Spline {
 public:
  explicit Spline(const Entity& e) : degree_(e.flags(71)) {
    for (const auto& [code, value] : e.groups) {
      if (code == 40) knots_.push_back(number(value));
      if (code == 41) weights_.push_back(number(value));
      if (code == 10) poles_.emplace_back(number(value), 0);
      if (code == 20 && !poles_.empty()) poles_.back().y() = number(value);
    }
    weights_.resize(poles_.size(), 1);
    const auto p = static_cast<std::size_t>(std::max(degree_, 0));
    if (degree_ < 1 || degree_ > 25 || poles_.size() < p + 1 || knots_.size() != poles_.size() + p + 1)
      throw FileError(
          fmt::format("a SPLINE of {} poles, {} knots and degree {} is none: give it with its poles, not "
                      "only with the points it passes",
                      poles_.size(), knots_.size(), degree_));
    for (std::size_t i = 0; i + 1 < knots_.size(); ++i) {
      if (!(knots_[i] <= knots_[i + 1])) throw FileError("a SPLINE has knots that fall");
    }
    for (const double w : weights_) {
      if (!(w > 0)) throw FileError("a SPLINE has a weight that is not above 0");
    }
  }
  const std::vector<double>& knots() const { return knots_; }
  std::size_t first() const { return static_cast<std::size_t>(degree_); }
  std::size_t last() const { return poles_.size(); }
  int degree() const { return degree_; }

  /// On the span from knot `span` to the next.
  Along on(std::size_t span, double t) const {
    Vec3 d[26];
    const auto p = static_cast<std::size_t>(degree_);
    for (std::size_t j = 0; j <= p; ++j) {
      const std::size_t i = span - p + j;
      d[j] = weights_[i] * Vec3(poles_[i].x(), poles_[i].y(), 1);
    }
    Vec3 way = Vec3::Zero();  // the last step's two places make it
    for (std::size_t r = 1; r <= p; ++r) {
      const double last = knots_[span + 1] - knots_[span];
      if (r == p) way = static_cast<double>(p) / last * (d[p] - d[p - 1]);
      for (std::size_t j = p; j >= r; --j) {
        const std::size_t i = span - p + j;
        const double wide = knots_[i + p + 1 - r] - knots_[i], share = wide > 0 ? (t - knots_[i]) / wide : 0;
        d[j] = (1 - share) * d[j - 1] + share * d[j];
      }
    }
    const Vec2 at = d[p].head<2>() / d[p].z();
    return {at, (way.head<2>() - way.z() * at) / d[p].z()};
  }

 private:
  int degree_;
  std::vector<double> knots_, weights_;
  std::vector<Vec2> poles_;
};

struct Corner {
  Vec2 p;
  double bulge;
};

class DxfReader {
 public:
  explicit DxfReader(double chord_error) : chains_(chord_error) {}

  void take(const Entity& e) {
    // Seen from behind (an extrusion along −z), x runs the other way.
    const double side = e.at(230, 1) < 0 ? -1 : 1;
    const auto seen = [&](const Vec2& p) -> Vec2 { return unit_ * Vec2(side * p.x(), p.y()); };
    if (e.type == "LWPOLYLINE") {
      std::vector<Corner> corners;
      for (const auto& [code, value] : e.groups) {
        if (code == 10) corners.push_back({Vec2(number(value), 0), 0});
        if (code == 20 && !corners.empty()) corners.back().p.y() = number(value);
        if (code == 42 && !corners.empty()) corners.back().bulge = number(value);
      }
      for (Corner& c : corners)
        c.p = seen(c.p), c.bulge *= side;
      polyline(corners, (e.flags(70) & 1) != 0);
    } else if (e.type == "POLYLINE") {
      old_ = {}, old_closed_ = (e.flags(70) & 1) != 0, in_old_ = (e.flags(70) & (16 | 64)) == 0;
    } else if (e.type == "VERTEX" && in_old_) {
      if ((e.flags(70) & 16) == 0) old_.push_back({seen(e.point(10)), side * e.at(42)});  // 16: a pole of a spline
    } else if (e.type == "SEQEND" && in_old_) {
      polyline(old_, old_closed_);
      in_old_ = false;
    } else if (e.type == "LINE") {
      chains_.move_to(unit_ * e.point(10));
      chains_.line_to(unit_ * e.point(11));
    } else if (e.type == "ARC" || e.type == "CIRCLE") {
      const bool whole = e.type == "CIRCLE";
      const double from = whole ? 0 : e.at(50) * kPi / 180, to = whole ? 360 * kPi / 180 : e.at(51) * kPi / 180;
      double sweep = std::fmod(to - from, 2 * kPi);
      if (sweep <= 0) sweep += 2 * kPi;
      const Vec2 centre = e.point(10);
      chains_.move_to(seen(centre + from_polar(e.at(40), from)));
      chains_.arc_to(seen(centre), side * sweep);
    } else if (e.type == "ELLIPSE") {
      const Vec2 centre = e.point(10), major = e.point(11);
      const Vec2 minor = side * e.at(40, 1) * quarter_turn(major);
      const double from = e.at(41), to = e.at(42, 2 * kPi);
      double sweep = to - from;
      while (sweep <= 0)
        sweep += 2 * kPi;
      if (!(sweep < 7)) throw FileError("an ELLIPSE goes round more than once");
      const auto curve = [&](double t) -> Along {
        return {unit_ * (centre + std::cos(t) * major + std::sin(t) * minor),
                unit_ * (std::cos(t) * minor - std::sin(t) * major)};
      };
      chains_.move_to(curve(from).p);
      chains_.curve_to(curve, from, from + sweep, 4, Stroke::spline);
    } else if (e.type == "SPLINE") {
      const Spline s(e);
      bool begun = false;
      for (std::size_t k = s.first(); k < s.last(); ++k) {
        const double a = s.knots()[k], b = s.knots()[k + 1];
        if (!(a < b)) continue;
        const auto curve = [&](double t) -> Along {
          const Along on = s.on(k, t);
          return {unit_ * on.p, unit_ * on.way};
        };
        if (!begun) chains_.move_to(curve(a).p);
        begun = true;
        chains_.curve_to(curve, a, b, s.degree(), Stroke::spline);
      }
    } else {
      passed_over(e.type);
    }
  }

  void unit(double mm) { unit_ = mm; }
  Drawing finish() {
    Drawing all = chains_.finish();
    all.passed_over = std::move(passed_);
    return all;
  }

 private:
  void polyline(const std::vector<Corner>& corners, bool closed) {
    if (corners.size() < 2) return;
    chains_.move_to(corners.front().p);
    const std::size_t pieces = corners.size() - (closed ? 0 : 1);
    for (std::size_t i = 0; i < pieces; ++i)
      chains_.bulge_to(corners[(i + 1) % corners.size()].p, corners[i].bulge);
  }
  void passed_over(const std::string& type) {
    static const std::vector<std::string> kNothing{"POINT", "TEXT", "MTEXT", "DIMENSION", "VERTEX", "SEQEND"};
    const auto among = [&](const std::vector<std::string>& all) {
      return std::find(all.begin(), all.end(), type) != all.end();
    };
    if (!among(kNothing) && !among(passed_) && passed_.size() < 20) passed_.push_back(type.substr(0, 24));
  }

  Chains chains_;
  double unit_ = 1;
  std::vector<Corner> old_;
  bool in_old_ = false, old_closed_ = false;
  std::vector<std::string> passed_;
};

/// Of $INSUNITS, in mm; 0 where it names none that gears are drawn in.
double unit_of(std::string_view code) {
  switch (std::atoi(std::string(code.substr(0, 8)).c_str())) {
    case 1: return 25.4;
    case 4: return 1;
    case 5: return 10;
    case 6: return 1000;
    case 13: return 1e-3;
    default: return 0;
  }
}

}  // namespace

namespace {

/// What stands in ENTITIES, or anywhere in a file without sections, with a unit of so many mm.
Drawing entities_of(std::string_view text, double unit, double chord_error) {
  DxfReader reader(chord_error);
  reader.unit(unit);
  Groups groups(text);
  int code = 0;
  std::string_view value;
  const bool sections = text.find("ENTITIES") != std::string_view::npos;
  bool drawing = !sections, section_next = false;
  Entity entity;
  while (groups.next(code, value)) {
    if (code == 0) {
      if (drawing && !entity.type.empty()) reader.take(entity);
      entity = {};
      section_next = value == "SECTION";
      if (value == "ENDSEC" || value == "EOF") drawing = drawing && !sections;
      if (drawing && value != "SECTION" && value != "EOF" && value != "ENDSEC") entity.type = std::string(value);
    } else if (code == 2 && section_next) {
      drawing = value == "ENTITIES" || !sections;
      section_next = false;
    } else if (!entity.type.empty()) {
      entity.groups.emplace_back(code, value);
    }
  }
  if (drawing && !entity.type.empty()) reader.take(entity);
  return reader.finish();
}

}  // namespace

Drawing read_dxf(std::string_view text, double chord_error) {
  if (text.substr(0, 22).find("Binary DXF") != std::string_view::npos)
    throw FileError("this is a binary DXF; save it as text (ASCII) DXF");
  double unit = 0;
  bool unit_next = false;
  Groups groups(text);
  int code = 0;
  std::string_view value;
  while (groups.next(code, value) && !(code == 2 && value == "ENTITIES")) {
    if (code == 9) unit_next = value == "$INSUNITS";
    if (code == 70 && unit_next) unit = unit_of(value), unit_next = false;
  }
  // Programs write metres where nobody said anything: no gear is larger than a house.
  constexpr double kMetres = 1000, kHouse = 1e8;  // mm, mm²
  if (unit == kMetres) {
    Drawing all = entities_of(text, unit, chord_error * unit);
    if (!all.loops.empty() && all.loops.front().area > kHouse) unit = 0;
  }
  Drawing all = entities_of(text, unit > 0 ? unit : 1, chord_error);
  all.unit_told = unit > 0;
  return all;
}

}  // namespace palio::drawn
