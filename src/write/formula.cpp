// Each curve writes its own equations: the letters are those of docs/theory/profile.md, the numbers those of the
// segment.
#include "palio/write/formula.hpp"

#include <cmath>
#include <vector>

#include <fmt/format.h>

#include "palio/write/file.hpp"

namespace palio::write {
namespace {

using curve::Segment;

/// Lines of "name = expression" that end in x and y; the expressions are C and Python alike.
using Steps = std::vector<std::pair<std::string, std::string>>;

std::string number(double v) { return v < 0 ? "(" + digits(v) + ")" : digits(v); }

/// x + iy = e^{i turn} (a ± i b) as two lines.
void rotated(Steps& s, const std::string& turn, const std::string& a, const std::string& b, int side, double centre) {
  s.push_back({"px", fmt::format("({})*cos({}) - ({})*sin({})", a, turn, b, turn)});
  s.push_back({"py", fmt::format("{}(({})*sin({}) + ({})*cos({}))", side < 0 ? "-" : "", a, turn, b, turn)});
  s.push_back({"x", fmt::format("px*cos({0}) - py*sin({0})", number(centre))});
  s.push_back({"y", fmt::format("px*sin({0}) + py*cos({0})", number(centre))});
}

struct Write {
  double unit;
  std::string length(double mm) const { return number(mm / unit); }

  Steps operator()(const curve::Involute& c) const {
    const std::string s = c.sense > 0 ? "+" : "-", o = c.sense > 0 ? "-" : "+",
                      a = fmt::format("{} {} t", number(c.start), s);
    return {{"x", fmt::format("{}*(cos({}) {} t*sin({}))", length(c.base_radius), a, s, a)},
            {"y", fmt::format("{}*(sin({}) {} t*cos({}))", length(c.base_radius), a, o, a)}};
  }
  Steps operator()(const curve::Trochoid& c) const {
    Steps s{{"Y", fmt::format("{} - {}*sin(t)", length(c.corner_height), length(c.corner_radius))},
            {"us", fmt::format("-Y*{}/tan(t)", number(c.cos_helix))},
            {"un", fmt::format("{} + {}*cos(t)", length(c.corner_offset), length(c.corner_radius))},
            {"w", fmt::format("(us - un/{})/{}", number(c.cos_helix), length(c.pitch_radius))}};
    rotated(s, "-w", length(c.pitch_radius) + " + Y", "us", c.side, c.centre);
    return s;
  }
  Steps operator()(const curve::CutterTrochoid& c) const {
    Steps s{{"cx", fmt::format("{} + {}*cos(t)", length(c.center_distance), length(c.corner_distance))},
            {"cy", fmt::format("{}*sin(t)", length(c.corner_distance))},
            {"n", fmt::format("sqrt((cx - {0})*(cx - {0}) + cy*cy)", length(c.pitch_radius))},
            {"qx", fmt::format("cx + {}*(cx - {})/n", length(c.corner_radius), length(c.pitch_radius))},
            {"qy", fmt::format("cy + {}*cy/n", length(c.corner_radius))}};
    rotated(s, fmt::format("{}*({} - t)", number(c.turns), number(c.corner_angle)), "qx", "qy", c.side, c.centre);
    return s;
  }
  // Directions, by the stereographic projection: x and y have no unit.
  Steps operator()(const curve::SphericalInvolute& c) const {
    const std::string sb = number(std::sin(c.base_cone)), cb = number(std::cos(c.base_cone));
    Steps s{{"s", fmt::format("t*{}", sb)},
            {"d", fmt::format("1 + {}*cos(s)", cb)},
            {"a", fmt::format("{}*cos(s)/d", sb)},
            {"b", "-sin(s)/d"}};
    rotated(s, "t", "a", "b", c.sense, c.start);
    return s;
  }
  Steps operator()(const curve::CrownTrochoid& c) const {
    const std::string sd = number(std::sin(c.pitch_cone)), cd = number(std::cos(c.pitch_cone)),
                      sg = number(std::cos(c.corner_depth)), cg = number(-std::sin(c.corner_depth)),
                      sr = number(std::sin(c.corner_radius)), cr = number(std::cos(c.corner_radius));
    Steps s{{"ci", fmt::format("{}*cos(t)", sg)},
            {"f", fmt::format("{}/sqrt(1 - ci*ci)", sr)},
            {"k", fmt::format("{} + f*ci", cr)},
            {"pi_", "k*ci - f"},
            {"pz", fmt::format("k*{}", cg)},
            {"d", fmt::format("1 + {}*pi_ - {}*pz", cd, sd)},
            {"a", fmt::format("({}*pi_ + {}*pz)/d", sd, cd)},
            {"b", fmt::format("k*{}*sin(t)/d", sg)}};
    rotated(s, fmt::format("({} - t)/{}", number(c.corner_angle), sd), "a", "b", c.side, c.centre);
    return s;
  }
  Steps operator()(const curve::Cycloid& c) const {
    const char *plus = c.outside ? "+" : "-", *minus = c.outside ? "-" : "+";
    const std::string r = length(c.pitch_radius), rho = length(c.rolling_radius), q = length(c.distance);
    Steps s{{"th", fmt::format("{}*t", number(c.rolling_radius / c.pitch_radius))},
            {"a", fmt::format("({0} {1} {2}) {3} {2}*cos(t) {3} {4}*sin(t/2)", r, plus, rho, minus, q)},
            {"b", fmt::format("-{}*sin(t) + {}*cos(t/2)", rho, q)}};
    if (!c.outside) s[1].second = fmt::format("({0} - {1}) + {1}*cos(t) + {2}*sin(t/2)", r, rho, q);
    rotated(s, "th", "a", "b", c.sense, c.start);
    return s;
  }
  Steps operator()(const curve::LobeCurve& c) const {
    const std::string R = length(c.circle_radius), E = length(c.eccentricity), N = number(c.rollers),
                      EN = length(c.eccentricity * c.rollers);
    Steps s{{"nx", fmt::format("{} - {}*cos(({} - 1)*t)", R, EN, N)},
            {"ny", fmt::format("-{}*sin(({} - 1)*t)", EN, N)},
            {"s", "sqrt(nx*nx + ny*ny)"},
            {"a", fmt::format("{} - {}*cos(({} - 1)*t) - {}*nx/s", R, E, N, length(c.roller_radius))},
            {"b", fmt::format("-{}*sin(({} - 1)*t) - {}*ny/s", E, N, length(c.roller_radius))}};
    rotated(s, "t", "a", "b", 1, c.start);
    return s;
  }
  Steps operator()(const curve::EllipticArc& c) const {
    return {{"x", fmt::format("{} + {}*cos(t) + {}*sin(t)", length(c.centre.x()), length(c.u.x()), length(c.v.x()))},
            {"y", fmt::format("{} + {}*cos(t) + {}*sin(t)", length(c.centre.y()), length(c.u.y()), length(c.v.y()))}};
  }
  Steps operator()(const curve::Arc& c) const {
    return {{"x", fmt::format("{} + {}*cos(t)", length(c.centre.x()), length(c.radius))},
            {"y", fmt::format("{} + {}*sin(t)", length(c.centre.y()), length(c.radius))}};
  }
  Steps operator()(const curve::Line& c) const {
    return {{"x", fmt::format("{} + t*{}", length(c.from.x()), length(c.to.x() - c.from.x()))},
            {"y", fmt::format("{} + t*{}", length(c.from.y()), length(c.to.y() - c.from.y()))}};
  }
};

const char* kind(const Segment& s) {
  static const char* names[] = {
      "involute of a circle, t = roll angle (rad)",
      "envelope of the rack tool's round corner, t = direction of its normal (rad)",
      "envelope of the pinion cutter's round corner, t = place of the corner about the cutter's axis (rad)",
      "spherical involute (its direction), t = roll angle (rad)",
      "envelope of a crown gear's round corner (its direction), t = place of the corner about the crown's axis (rad)",
      "cycloid, t = angle rolled by its circle (rad)",
      "edge of a lobed disc, t = once round for all lobes (rad)",
      "ellipse, t = its angle (rad)",
      "circle, t = polar angle about its centre (rad)",
      "straight line, t = 0 to 1"};
  return names[s.curve.index()];
}

}  // namespace

std::string identifier(const std::string& name) {
  std::string out;
  for (const char c : name)
    out += (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' ? c : '_';
  // A function's name gets "_flank_3" and the like behind, so it is no keyword; it must not begin with a digit.
  return out.empty() || (out[0] >= '0' && out[0] <= '9') ? "_" + out : out;
}

std::string formulas(const std::string& name, const curve::Outline& outline, const std::string& language, int pieces,
                     double mm_per_unit, const std::string& unit) {
  const bool c = language == "c", python = language == "python";
  const std::string remark = c ? "// " : python ? "# " : "";
  std::string text =
      fmt::format("{}{}, by palio: one period of {}, lengths in {}, angles in rad; material on the left\n", remark,
                  name, outline.count, unit);
  if (outline.shift != Vec2::Zero()) {
    text += fmt::format("{}the next period: the same, moved by ({}, {}) {}\n", remark,
                        digits(outline.shift.x() / mm_per_unit), digits(outline.shift.y() / mm_per_unit), unit);
  } else if (outline.count > 1) {
    text += fmt::format("{}the next period: the same, turned about the origin by {} rad\n", remark,
                        digits(outline.turn(1)));
  }
  if (c) text = "#include <math.h>\n" + text;
  if (python) text = "from math import cos, sin, sqrt, tan\n" + text;
  for (std::size_t i = 0; i < outline.period.size(); ++i) {
    const Segment& s = outline.period[i];
    const Steps steps = std::visit(Write{mm_per_unit}, s.curve);
    const std::string function = fmt::format("{}_{}_{}", identifier(name), curve::name(s.role), i + 1);
    text += fmt::format("\n{}{} {}: {}\n", remark, curve::name(s.role), i + 1, kind(s));
    if (c) {
      text += fmt::format("void {}(double t, double *x_out, double *y_out) {{\n", function);
      for (const auto& [left, right] : steps)
        text += fmt::format("  const double {} = {};\n", left, right);
      text += "  *x_out = x;\n  *y_out = y;\n}\n";
    } else if (python) {
      text += fmt::format("def {}(t):\n", function);
      for (const auto& [left, right] : steps)
        text += fmt::format("    {} = {}\n", left, right);
      text += "    return x, y\n";
    } else {
      for (const auto& [left, right] : steps)
        text += fmt::format("  {}(t) = {}\n", left, right);
    }
    for (int k = 0; k < pieces; ++k) {
      const auto at = [&](double share) { return s.from + (s.to - s.from) * (k + share) / pieces; };
      text += fmt::format("{}  t from {} to {}\n", remark, digits(at(0)), digits(at(1)));
      for (const double share : {0.0, 0.5, 1.0}) {
        const Vec2 p = s.point(at(share)) / mm_per_unit;
        text += fmt::format("{}    check: t = {}  x = {}  y = {}\n", remark, digits(at(share)), digits(p.x()),
                            digits(p.y()));
      }
    }
  }
  return text + "\n";
}

}  // namespace palio::write
