// Flat pictures of bevel gears: cut through the axes, and the heel rolled out.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "bevel_shape.hpp"
#include "canvas.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/readings/report.hpp"
#include "scene.hpp"

namespace palio::view {

Meridian meridian(const body::ConicalBody& body) {
  const body::ConicalCore& core = body.core();
  const double R[2] = {core.inner, core.outer};
  const auto at = [&](double angle, double cone_distance) {
    const Vec3 p = body.at(angle, 0, cone_distance);
    return Vec2(p.x(), p.z());
  };
  Vec2 root[2], tip[2];
  for (const int e : {0, 1})
    root[e] = at(core.root_angle(R[e]), R[e]), tip[e] = at(core.tip_angle(R[e]), R[e]);
  double bore = 0;
  if (body.bore()) {
    for (const curve::Segment& s : body.bore()->period)
      bore = std::max(bore, s.first().norm());
    if (core.bore_radius > 0) bore = core.bore_radius;
  }
  Meridian m;
  m.blank = {{bore, body.front().z},
             {body.front().radius, body.front().z},
             root[0],
             root[1],
             {body.rear().radius, body.rear().z}};
  if (const auto hub = body.hub()) {
    if (hub->radius < body.rear().radius * (1 - math::kAlike)) m.blank.emplace_back(hub->radius, body.rear().z);
    m.blank.emplace_back(hub->radius, hub->z);
  }
  m.blank.emplace_back(bore, body.top());
  m.tooth = {root[0], tip[0], tip[1], root[1]};
  return m;
}

Vec2 developed(const gear::BevelGear& gear, double cone_angle, double azimuth) {
  const double delta = gear.spec().pitch_cone.radians(), R = gear.sizes().outer_cone_distance,
               h = R * std::tan(cone_angle - delta);
  if (std::cos(delta) < math::kAlike) return {h, R * azimuth};  // a crown gear rolls out into a rack
  const double r = R * std::tan(delta), angle = azimuth * std::cos(delta), half = std::sin(angle / 2);
  return {h * std::cos(angle) - 2 * r * half * half, (r + h) * std::sin(angle)};
}

std::vector<Vec2> developed_teeth(const gear::BevelGear& gear, double turn, double span) {
  const curve::Outline section = gear.section(gear.sizes().outer_cone_distance);
  const double pitch = section.pitch(), radius = gear.sizes().heel.pitch_diameter / 2;
  const int around = std::min(section.count / 2, static_cast<int>(span / radius / pitch) + 1),
            middle = static_cast<int>(std::lround(-turn / pitch));
  std::vector<Vec2> points;
  for (int copy = middle - around; copy <= middle + around; ++copy) {
    for (const curve::Segment& s : section.period) {
      constexpr int kPoints = 24;
      for (int i = 0; i < kPoints; ++i) {
        const Vec2 p = s.point(s.from + (s.to - s.from) * i / kPoints);
        points.push_back(developed(gear, 2 * std::atan(p.norm()), std::atan2(p.y(), p.x()) + copy * pitch + turn));
      }
    }
  }
  return points;
}

namespace {

/// A cut in a plane of the picture: the gear's axis along `along`, its teeth towards both sides.
struct Plane {
  Vec2 apex = Vec2::Zero(), along, across;
  Vec2 at(const Vec2& p, double side) const { return apex + p.y() * along + side * p.x() * across; }
};

void cut_gear(Canvas& canvas, const body::ConicalBody& body, const Plane& plane, const Color& line, const Color& fill) {
  const Meridian m = meridian(body);
  for (const double side : {1.0, -1.0}) {
    for (const auto& [points, tooth] : {std::pair{&m.blank, false}, {&m.tooth, true}}) {
      std::vector<Vec2> there;
      for (const Vec2& p : *points)
        there.push_back(plane.at(p, side));
      canvas.polygon(there, tooth ? kPaper : fill, line, 1.6);
      if (!tooth) canvas.hatched(there, line, 7 / canvas.scale(), 0.6);
    }
  }
  const double reach = 1.12 * body.top();
  canvas.line(plane.apex - 0.12 * reach * plane.along, plane.apex + reach * plane.along, kInk, 0.9, {11, 3, 2, 3});
}

/// Pitch, face and root cone on one side, each with a word where it is seen, down from the apex it runs to.
void cone_lines(Canvas& canvas, const gear::BevelGear& gear, const Plane& plane, double side, const Color& color) {
  const gear::BevelSizes& s = gear.sizes();
  const double delta = gear.spec().pitch_cone.radians(), R = s.outer_cone_distance;
  const auto along = [&](double apex, double angle, std::initializer_list<double> dash) {
    const Vec2 from(0, apex), to = from + (R * std::cos(delta) - apex) * 1.0 * Vec2(std::tan(angle), 1);
    if (std::abs(angle) < 1.45) canvas.line(plane.at(from, side), plane.at(to, side), color, 0.8, dash);
  };
  canvas.line(plane.apex, plane.at(1.06 * R * Vec2(std::sin(delta), std::cos(delta)), side), color, 1.1, {9, 3, 2, 3});
  along(s.face_apex, s.face_cone.radians(), {3, 3});
  along(s.root_apex, s.root_cone.radians(), {6, 3});
}

const body::ConicalBody body_of(const job::Gear& g) { return job::body(g).cones(); }

std::string angle_text(double radians) { return fmt::format("{:.4f}°", radians * 180 / kPi); }

void heading(Canvas& canvas, const job::Design& design, const std::string& what) {
  canvas.text({24, 26}, design.title.empty() ? what : design.title + "  ·  " + what, kInk, 1, 16, true);
}

/// What the words at the right take of the width.
double column(PictureSize size) { return std::min(400.0, 0.33 * size.width); }

/// Words in a column, with the sizes of one gear.
double list(Canvas& canvas, const job::Design& design, const job::Gear& g, double x, double y, const Color& color) {
  canvas.text({x, y}, fmt::format("{}, {} teeth", g.name, g.teeth.count()), color, 1, 14, true);
  y += 24;
  for (const auto& [key, word] : {std::pair{"pitch_cone_angle_deg", "pitch cone  ─ · ─"},
                                  {"face_cone_angle_deg", "face cone  · · · ·"},
                                  {"root_cone_angle_deg", "root cone  ─ ─ ─"},
                                  {"outer_cone_distance", "outer cone distance"},
                                  {"face_width", "face width"},
                                  {"outer_pitch_diameter", "outer pitch circle"},
                                  {"outer_tip_diameter", "outer tip circle"},
                                  {"crown_to_apex", "apex to outer tip edge"},
                                  {"mounting_distance", "mounting distance"}}) {
    canvas.text({x, y}, fmt::format("{}  {}", word, job::report_value(design, "gear." + g.name, key)), kInk, 1, 12.5);
    y += 20;
  }
  return y + 14;
}

/// Fits a box of the world into a part of the page.
void look(Canvas& canvas, const Vec2& low, const Vec2& high, const Vec2& from, const Vec2& to) {
  const Vec2 size = high - low, room = (to - from).cwiseMax(Vec2(40, 40));  // small pictures too show something
  canvas.look_at(0.5 * (low + high), std::min(room.x() / size.x(), room.y() / size.y()), 0.5 * (from + to));
}

}  // namespace

void paint_meridian(Canvas& canvas, const job::Gear& gear) {
  // The axis upright, the apex on top, the teeth open downwards.
  const Plane plane{Vec2::Zero(), Vec2(0, -1), Vec2(1, 0)};
  const body::ConicalBody body = body_of(gear);
  cut_gear(canvas, body, plane, kDriver, kDriverFill);
  for (const double side : {1.0, -1.0})
    cone_lines(canvas, gear.teeth.bevel(), plane, side, kInk);
  canvas.dot(Vec2::Zero(), 4, kBlack, true);
  canvas.text(canvas.to_page(Vec2::Zero()) + Vec2(14, -12), "apex", kBlack, 1);
}

std::string draw_bevel_gear(const job::Design& design, const job::Gear& g, const std::string& format,
                            PictureSize size) {
  Canvas canvas(format, size, design.title);
  const body::ConicalBody body = body_of(g);
  const gear::BevelGear& b = g.teeth.bevel();
  // Below it some teeth of the heel rolled out.
  const double reach = g.teeth.reach(), low = std::min(0.0, body.bottom());
  look(canvas, {-1.05 * reach, -body.top() - 2}, {1.05 * reach, -low + 2}, {50, 70},
       {size.width - column(size), size.height - 0.325 * size.height});
  paint_meridian(canvas, g);
  list(canvas, design, g, size.width - column(size) + 40, 90, kDriver);

  const double m = g.teeth.module(), wide = 11 * m;
  look(canvas, {-wide, -1.9 * m}, {wide, 1.7 * m}, {50, 0.73 * size.height}, {size.width - 50.0, size.height - 45.0});
  std::vector<Vec2> teeth;
  for (const Vec2& p : developed_teeth(b, 0, wide))
    teeth.emplace_back(-p.y(), p.x());
  teeth.emplace_back(teeth.back().x(), -3 * m), teeth.emplace_back(teeth.front().x(), -3 * m);
  canvas.polygon(teeth, kDriverFill, kDriver, 1.5);
  canvas.page_box({0, size.height - 42.0}, {static_cast<double>(size.width), 42}, kPaper);
  canvas.text({24, size.height - 22.0},
              fmt::format("heel rolled out; its teeth are {:.3g} µm wider on each flank at the tip than those of the "
                          "back-cone approximation",
                          1000 * gear::back_cone_deviation(b)),
              kInk, 1);
  heading(canvas, design, fmt::format("{}, {} teeth", g.name, g.teeth.count()));
  double y = 60;
  for (const Finding& f : gear::findings(b, "gear." + g.name)) {
    canvas.text({24, y}, fmt::format("{}: {}", name(f.kind().severity), f.kind().text_id), kInk, 1);
    y += 22;
  }
  return canvas.finish();
}

std::string draw_bevel_section(const job::Design& design, const job::Pair& pair, const std::string& format,
                               PictureSize size) {
  Canvas canvas(format, size, design.title);
  const job::Gear &g1 = design.gears[pair.driver], &g2 = design.gears[pair.driven];
  const body::ConicalBody first = body_of(g1), second = body_of(g2);
  // The plane of both axes: the driver's down, the driven's turned from it by the shaft angle; errors of mounting
  // included.
  const double angle = (pair.shaft_angle() + pair.error().shaft_angle).radians();
  const Plane driver{Vec2::Zero(), Vec2(0, -1), Vec2(1, 0)};
  const Vec2 along(std::sin(angle), -std::cos(angle));
  const Plane driven{Vec2(0, pair.error().driver) + pair.error().driven * along, along,
                     Vec2(-std::cos(angle), -std::sin(angle))};
  Box box(Vec2::Zero());
  for (const auto& [body, plane] : {std::pair{&first, &driver}, {&second, &driven}}) {
    const Meridian m = meridian(*body);
    for (const auto* points : {&m.blank, &m.tooth}) {
      for (const Vec2& p : *points) {
        for (const double side : {1.0, -1.0})
          box.extend(plane->at(p, side));
      }
    }
  }
  look(canvas, box.min(), box.max(), {50, 70}, {size.width - column(size), size.height - 60.0});
  cut_gear(canvas, second, driven, kDriven, kDrivenFill);
  cut_gear(canvas, first, driver, kDriver, kDriverFill);
  for (const double side : {1.0, -1.0}) {
    cone_lines(canvas, g1.teeth.bevel(), driver, side, kInk);
    cone_lines(canvas, g2.teeth.bevel(), driven, side, kInk);
  }
  canvas.dot(Vec2::Zero(), 4, kBlack, true);
  canvas.text(canvas.to_page(Vec2::Zero()) + Vec2(-12, -14), "apex", kBlack, -1);
  double y = list(canvas, design, g1, size.width - column(size) + 30, 80, kDriver);
  y = list(canvas, design, g2, size.width - column(size) + 30, y + 10, kDriven);
  heading(canvas, design, pair.name + ", cut through both axes");
  const auto [inner, outer] = pair::common_face(*pair.bevel());
  const double shown = pair.circumferential_backlash();
  canvas.text(
      {24, size.height - 24.0},
      fmt::format(
          "shaft angle {}   contact ratio {:.4f} at the heel, {:.4f} at the toe   backlash at the outer cone {:.4f} {}",
          angle_text(angle), pair.bevel()->contact_ratio(outer), pair.bevel()->contact_ratio(inner),
          shown / job::mm_per(design.units), job::symbol(design.units)),
      kInk, 1);
  return canvas.finish();
}

std::string draw_developed(const job::Design& design, const job::Pair& pair, const std::string& format,
                           PictureSize size) {
  Canvas canvas(format, size, design.title);
  const job::Gear &g1 = design.gears[pair.driver], &g2 = design.gears[pair.driven];
  const gear::BevelGear &b1 = g1.teeth.bevel(), &b2 = g2.teeth.bevel();
  const double m = g1.teeth.module(), scale = std::min(size.width / (13 * m), size.height / (8 * m));
  canvas.look_at(Vec2::Zero(), scale, {0.5 * size.width, 0.5 * size.height});
  const roll::Result rolled = job::rolled(pair, 8);
  const roll::Position& now = rolled.positions.front();
  const double driven = now.upper ? now.upper->driven : g2.phase, wide = 9 * m, deep = 6 * m;
  std::vector<Vec2> first, second;
  // The driver below, teeth up; the driven above it. The circumference runs to the left.
  for (const Vec2& p : developed_teeth(b1, now.driver - pair.direction().radians(), wide))
    first.emplace_back(-p.y(), p.x());
  for (const Vec2& p : developed_teeth(b2, driven - pair.direction().radians() - kPi, wide))
    second.emplace_back(p.y(), -p.x());
  for (auto* teeth : {&first, &second}) {
    const double sign = teeth == &first ? -1 : 1;
    teeth->emplace_back(teeth->back().x(), sign * deep), teeth->emplace_back(teeth->front().x(), sign * deep);
    canvas.polygon(*teeth, teeth == &first ? kDriverFill : kDrivenFill, teeth == &first ? kDriver : kDriven, 2);
  }
  const auto pitch_line = [&](const gear::BevelGear& b, double sign) {
    Vec2 before = Vec2::Zero();
    for (int i = -40; i <= 40; ++i) {
      const Vec2 p = developed(b, b.spec().pitch_cone.radians(), wide * i / 40 / (b.sizes().heel.pitch_diameter / 2)),
                 at(p.y() * -sign, p.x() * sign);
      if (i > -40) canvas.line(before, at, kInk, 0.9, {9, 3, 2, 3});
      before = at;
    }
  };
  pitch_line(b1, 1);
  pitch_line(b2, -1);
  // The path of contact as the driver's back cone shows it.
  const double R = pair::common_face(*pair.bevel())[1];
  const auto seen = [&](const Vec3& direction) {
    const Vec2 p = developed(b1, std::atan2(std::hypot(direction.x(), direction.y()), direction.z()),
                             std::atan2(direction.y(), direction.x()));
    return Vec2(-p.y(), p.x());
  };
  const auto [from, to] = pair.bevel()->path(R);
  Vec2 before = seen(pair.bevel()->path_direction(from - 0.6 * (to - from)));
  for (int i = 1; i <= 40; ++i) {
    const Vec2 at = seen(pair.bevel()->path_direction(from + (to - from) * (-0.6 + 2.2 * i / 40)));
    canvas.line(before, at, kBlack, 1.6, {10, 5});
    before = at;
  }
  for (const roll::Contact& c : now.touching_upper) {
    const Vec3 p = pair::contact_line(pair, c).front();
    const Vec3 turned = Eigen::AngleAxisd(-pair.direction().radians(), Vec3::UnitZ()) * p.normalized();
    canvas.dot(seen(turned), 5, kBlack, true);
    const Vec2 page = canvas.to_page(seen(turned));
    canvas.page_line(page, page + Vec2(-60, 40), kBlack, 0.8);
    canvas.text(page + Vec2(-62, 44), "contact", kBlack, -1);
  }
  canvas.page_box({0, 0}, {static_cast<double>(size.width), 46}, kPaper);
  canvas.page_box({0, size.height - 46.0}, {static_cast<double>(size.width), 46}, kPaper);
  canvas.text({24, size.height - 76.0}, fmt::format("{}, {} teeth", g1.name, g1.teeth.count()), kDriver, 1, 15, true);
  canvas.text({24, 70}, fmt::format("{}, {} teeth", g2.name, g2.teeth.count()), kDriven, 1, 15, true);
  heading(canvas, design, pair.name + ", heel rolled out into the plane");
  canvas.text({24, size.height - 24.0},
              fmt::format("dashed: path of contact, a great circle   backlash {:.4f} {}   wider than the back-cone "
                          "approximation at the tip: {:.2f} µm and {:.2f} µm",
                          pair.circumferential_backlash() / job::mm_per(design.units), job::symbol(design.units),
                          1000 * gear::back_cone_deviation(b1), 1000 * gear::back_cone_deviation(b2)),
              kInk, 1);
  return canvas.finish();
}

}  // namespace palio::view
