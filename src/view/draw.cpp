#include "palio/view/draw.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include <fmt/format.h>

#include "canvas.hpp"
#include "palio/pair/line_of_action.hpp"
#include "palio/readings/report.hpp"
#include "scene.hpp"

namespace palio::view {
namespace {

struct NamedCircle {
  std::string name;
  double diameter;
};

std::string diameter(const job::Design& design, double mm) {
  return fmt::format("⌀{:.3f} {}", mm / job::mm_per(design.units), job::symbol(design.units));
}

void circles(Canvas& canvas, const Vec2& at, const std::vector<NamedCircle>& all) {
  for (const NamedCircle& r : all) {
    const double radius = r.diameter / 2;
    if (r.name == "base")
      canvas.circle(at, radius, kGrey, 1, {6, 4});
    else if (r.name == "root")
      canvas.circle(at, radius, kGrey, 1, {2, 3});
    else if (r.name == "tip")
      canvas.circle(at, radius, kGrey, 1, {});
    else
      canvas.circle(at, radius, kInk, 1, {11, 3, 2, 3});
  }
}

/// Labels in a column at page x `edge`, each with a leader to its circle where it leaves the gear in that direction.
void circle_labels(Canvas& canvas, const job::Design& design, const Vec2& at, const std::vector<NamedCircle>& all,
                   double direction, double edge, const Color& color) {
  const int side = std::cos(direction) < 0 ? -1 : 1;
  const Vec2 middle = canvas.to_page(at);
  for (std::size_t i = 0; i < all.size(); ++i) {
    const double slot = static_cast<double>(i) - 0.5 * static_cast<double>(all.size() - 1);
    const double angle = direction - side * slot * 0.17;
    const Vec2 foot = canvas.to_page(at + from_polar(all[i].diameter / 2, angle));
    const Vec2 label(edge, middle.y() + slot * 26);
    canvas.page_line(foot, {label.x() - side * 4, label.y()}, kGrey, 0.8);
    canvas.text(label, fmt::format("{} {}", all[i].name, diameter(design, all[i].diameter)), color, side);
  }
}

/// Outermost first, so that the leaders of their labels do not cross.
std::vector<NamedCircle> sorted(std::vector<NamedCircle> all) {
  std::sort(all.begin(), all.end(), [](const NamedCircle& a, const NamedCircle& b) { return a.diameter > b.diameter; });
  return all;
}

/// Of teeth without a base circle; of a lantern only the circle that its pins stand on.
std::vector<NamedCircle> plain_circles(const job::Gear& g, double pitch) {
  if (g.teeth.is_lantern()) return {{"pitch", pitch}};
  return sorted({{"tip", g.teeth.tip_diameter()}, {"pitch", pitch}, {"root", g.teeth.root_diameter()}});
}

std::vector<NamedCircle> gear_circles(const job::Gear& g) {
  if (g.teeth.is_cycloidal()) return plain_circles(g, g.teeth.reference_diameter());
  const auto& s = g.teeth.gear().sizes();
  return sorted({{"tip", s.tip_diameter},
                 {"reference", s.reference_diameter},
                 {"base", s.base_diameter},
                 {"root", s.root_diameter}});
}

/// None for a rack.
std::vector<NamedCircle> running_circles(const job::Gear& g, double working) {
  if (g.teeth.is_rack()) return {};
  if (g.teeth.is_cycloidal()) return plain_circles(g, working);
  const auto& s = g.teeth.gear().sizes();
  return sorted({{"tip", s.tip_diameter}, {"pitch", working}, {"base", s.base_diameter}, {"root", s.root_diameter}});
}

void title(Canvas& canvas, const job::Design& design, const std::string& what) {
  canvas.text({24, 26}, design.title.empty() ? what : design.title + "  ·  " + what, kInk, 1, 16, true);
}

std::string named(const job::Gear& g) {
  const bool leaves = g.teeth.is_cycloidal() && g.teeth.cycloidal().form() == gear::CycloidalForm::clock &&
                      g.teeth.cycloidal().clock().spec().pinion;
  return fmt::format("{}, {} {}", g.name, g.teeth.count(), g.teeth.is_lantern() ? "pins" : leaves ? "leaves" : "teeth");
}

/// What the facts line and titles say of the section.
std::string section_note(const job::Pair& pair) {
  return pair.parallel() && pair.parallel()->driver().helix_angle().radians() != 0 ? ", section at mid-face" : "";
}

std::string draw_rack(const job::Design& design, const job::Gear& g, const std::string& format, PictureSize size) {
  Canvas canvas(format, size, design.title);
  const auto& s = g.teeth.rack().sizes();
  job::Gear alone = g;
  alone.axis = Vec2::Zero(), alone.facing = 0;
  const double middle = g.teeth.count() % 2 == 0 ? g.teeth.rack().pitch() / 2 : 0;
  canvas.look_at({middle, 0.5 * (s.tip_height - s.base_height)}, (size.width - 120) / s.length,
                 {0.5 * size.width, 0.42 * size.height});
  paint_gear(canvas, alone, 0, true, 1.6);
  title(canvas, design, named(g));
  double y = 0.66 * size.height;
  for (const auto& [key, word] : {std::pair{"normal_module", "module"},
                                  {"normal_pressure_angle_deg", "pressure angle"},
                                  {"transverse_pitch", "pitch"},
                                  {"length", "length"},
                                  {"normal_tooth_thickness", "tooth thickness"},
                                  {"tip_height", "tips above the reference line"},
                                  {"root_height", "roots"},
                                  {"base_height", "back below the reference line"},
                                  {"face_width", "face width"}}) {
    canvas.text({0.36 * size.width, y}, fmt::format("{}  {}", word, job::report_value(design, "gear." + g.name, key)),
                kInk, 1);
    y += 24;
  }
  return canvas.finish();
}

/// The two as they stand in the pair: a rack as its gear meets it.
std::array<job::Gear, 2> as_met(const job::Design& design, const job::Pair& pair) {
  std::array<job::Gear, 2> met{design.gears[pair.driver], design.gears[pair.driven]};
  for (const int i : {0, 1})
    met[i].axis = pair.gears()[i].axis, met[i].phase = pair.gears()[i].phase;
  return met;
}

/// Half the size of a box that holds a member; of a rack no more than the mate needs.
Vec2 half_size(const job::Gear& g, double most) {
  if (!g.teeth.is_rack()) return {g.teeth.reach(), g.teeth.reach()};
  const double along = std::min(g.teeth.reach() / 2, most), across = 1.3 * g.teeth.rack().sizes().base_height;
  return {std::abs(std::cos(g.facing)) * along + std::abs(std::sin(g.facing)) * across,
          std::abs(std::sin(g.facing)) * along + std::abs(std::cos(g.facing)) * across};
}

void hold(Box& box, const job::Gear& g, double most) {
  box.extend(g.axis - half_size(g, most)), box.extend(g.axis + half_size(g, most));
}

}  // namespace

void paint_gear(Canvas& canvas, const job::Gear& g, double q, bool driver, double width) {
  const Color &line = driver ? kDriver : kDriven, &fill = driver ? kDriverFill : kDrivenFill;
  if (g.teeth.is_rack()) {
    canvas.outline(g.teeth.outline(), g.axis - from_polar(q, g.facing), g.facing, fill, line, width);
    const Vec2 along = from_polar(g.teeth.rack().sizes().length, g.facing);
    canvas.line(g.axis - along, g.axis + along, kInk, 0.8, {11, 3, 2, 3});
    return;
  }
  // What a cut through the plate shows, then the edges above and below it.
  const body::Body body = job::body(g).layers();
  const std::vector<std::size_t> cut = body::section(body, g.teeth.face_width() / 2);
  for (const bool hole : {false, true}) {
    for (const std::size_t l : cut) {
      if (body.loops[l].outline.clockwise == hole)
        canvas.outline(body.loops[l].outline, g.axis, q, hole ? kPaper : fill, line, width);
    }
  }
  // A hub within a recess stands in what the hole took away.
  for (const std::size_t l : cut) {
    if (!body.loops[l].outline.clockwise && body.loops[l].feature == "web")
      canvas.outline(body.loops[l].outline, g.axis, q, fill, line, width);
  }
  for (const std::size_t l : cut) {
    if (body.loops[l].outline.clockwise && body::of_bore(body.loops[l]))
      canvas.outline(body.loops[l].outline, g.axis, q, kPaper, line, width);
  }
  for (std::size_t l = 0; l < body.loops.size(); ++l) {
    if (std::find(cut.begin(), cut.end(), l) == cut.end())
      canvas.outline(body.loops[l].outline, g.axis, q, {0, 0, 0, 0}, line, 0.6 * width);
  }
  const double cross_size = g.teeth.internal() ? 2 * g.teeth.module() : 0.06 * g.teeth.root_diameter();
  canvas.line(g.axis - Vec2(cross_size, 0), g.axis + Vec2(cross_size, 0), kInk, 0.8);
  canvas.line(g.axis - Vec2(0, cross_size), g.axis + Vec2(0, cross_size), kInk, 0.8);
}

Box box_of(const job::Gear& gear) {
  Box box;
  hold(box, gear, gear.teeth.reach());
  return box;
}

Box box_of(const job::Design& design, const job::Pair& pair) {
  const std::array<job::Gear, 2> met = as_met(design, pair);
  const auto& [driver, driven] = met;
  double most = 0;
  for (const job::Gear* g : {&driver, &driven})
    most = g->teeth.is_rack() ? most : std::max(most, 2.2 * g->teeth.reach());
  Box box;
  for (const job::Gear* g : {&driver, &driven})
    hold(box, *g, most);
  return box;
}

void look_at_pair(Canvas& canvas, const job::Design& design, const job::Pair& pair) {
  const Box box = box_of(design, pair);
  const Vec2 &low = box.min(), &high = box.max();
  const double scale = std::min((canvas.width() - 0.35 * canvas.width()) / (high.x() - low.x()),
                                (canvas.height() - 0.16 * canvas.height()) / (high.y() - low.y()));
  canvas.look_at(0.5 * (low + high), scale, {0.5 * canvas.width(), 0.5 * canvas.height() + 6});
}

void paint_pair(Canvas& canvas, const job::Design& design, const job::Pair& pair, double driver_at, double driven_at,
                const std::vector<std::vector<Vec2>>& paths, const std::vector<roll::Contact>& contacts, double width) {
  const std::array<job::Gear, 2> met = as_met(design, pair);
  const auto& [driver, driven] = met;
  // A ring first: its pinion stands in it.
  if (driver.teeth.internal()) paint_gear(canvas, driver, driver_at, true, width);
  paint_gear(canvas, driven, driven_at, false, width);
  if (!driver.teeth.internal()) paint_gear(canvas, driver, driver_at, true, width);
  const auto working = pair.working_pitch_diameters();
  circles(canvas, driver.axis, running_circles(driver, working[0]));
  circles(canvas, driven.axis, running_circles(driven, working[1]));
  for (const std::vector<Vec2>& path : paths)
    canvas.polyline(path, kBlack, 1.8, {10, 5});
  if (pair.cycloidal()) {
    // The circles that roll, where the path lies on them.
    for (const pair::ContactArc& arc : pair::contact_arcs(pair, true))
      canvas.circle(arc.centre, arc.radius, kGrey, 1, {6, 4});
  } else {
    if (!driver.teeth.is_rack() && !driver.teeth.internal()) canvas.dot(paths[0].front(), 4.5, kBlack, false);
    if (!driven.teeth.is_rack() && !driven.teeth.internal()) canvas.dot(paths[0].back(), 4.5, kBlack, false);
  }
  for (const roll::Contact& c : contacts)
    canvas.dot(c.point, 4.5, kBlack, true);
}

void paint_start(Canvas& canvas, const job::Design& design, const job::Pair& pair, const pair::Start& now,
                 const std::vector<std::vector<Vec2>>& paths, double width) {
  std::vector<roll::Contact> contacts = now.position.touching_upper;
  if (contacts.empty() && now.position.upper) contacts.push_back(*now.position.upper);
  paint_pair(canvas, design, pair, now.driver, now.driven, paths, contacts, width);
}

std::string draw_gear(const job::Design& design, const job::Gear& g, const std::string& format, PictureSize size) {
  if (g.teeth.is_rack()) return draw_rack(design, g, format, size);
  if (g.teeth.is_bevel()) return draw_bevel_gear(design, g, format, size);
  Canvas canvas(format, size, design.title);
  const double tip = g.teeth.reach();
  const double scale = std::min((size.height - 110) / (2 * tip), (size.width - 560) / (2 * tip));
  job::Gear alone = g;
  alone.axis = Vec2::Zero();
  canvas.look_at(Vec2::Zero(), scale, {0.5 * size.width - 120, 0.5 * size.height + 16});
  paint_gear(canvas, alone, kPi / 2, true, 1.6);
  circles(canvas, Vec2::Zero(), gear_circles(g));
  const double edge = canvas.to_page({tip, 0}).x() + 60;
  circle_labels(canvas, design, Vec2::Zero(), gear_circles(g), 0, edge, kInk);
  title(canvas, design, named(g) + (g.teeth.helix_angle().radians() != 0 ? ", section at mid-face" : ""));

  // What a person checks first, below the circles.
  const std::string subject = "gear." + g.name;
  double y = 0.5 * size.height + 110;
  using Words = std::vector<std::pair<const char*, const char*>>;
  static const Words involute{{"normal_module", "module"},
                              {"normal_pressure_angle_deg", "pressure angle"},
                              {"profile_shift", "profile shift (modules)"},
                              {"normal_tooth_thickness", "tooth thickness"},
                              {"tip_thickness", "tip thickness"},
                              {"root_form_diameter", "root form"},
                              {"face_width", "face width"}};
  // Of these each form has its own.
  static const Words cycloidal{{"normal_module", "module"},
                               {"face_rolling_radius", "circle of the faces, radius"},
                               {"flank_rolling_radius", "circle of the flanks, radius"},
                               {"addendum", "addendum"},
                               {"addendum_arc_radius", "arc of the addendum"},
                               {"tooth_width", "tooth width"},
                               {"tip_thickness", "tip thickness"},
                               {"pin_diameter", "pin diameter"},
                               {"pin_gap", "between pins"},
                               {"plate_diameter", "end plates"},
                               {"face_width", "face width"}};
  for (const auto& [key, word] : g.teeth.is_cycloidal() ? cycloidal : involute) {
    const std::string value = job::report_value(design, subject, key);
    if (value.empty()) continue;
    canvas.text({edge, y}, fmt::format("{}  {}", word, value), kInk, 1);
    y += 24;
  }
  y = 70;
  for (const Finding& f : gear::findings(g.teeth, subject)) {
    canvas.text({24, y}, fmt::format("{}: {}", name(f.kind().severity), f.kind().text_id), kInk, 1);
    y += 22;
  }
  return canvas.finish();
}

std::string draw_pair(const job::Design& design, const job::Pair& pair, const std::string& format, PictureSize size) {
  const std::array<job::Gear, 2> met = as_met(design, pair);
  const auto& [driver, driven] = met;
  Canvas canvas(format, size, design.title);
  look_at_pair(canvas, design, pair);
  const Box box = box_of(design, pair);
  const Vec2 &low = box.min(), &high = box.max();
  const pair::Start now = pair::start_of_roll(pair);
  const auto paths = pair::contact_paths(pair, true);
  paint_start(canvas, design, pair, now, paths, 1.4);
  const double direction = pair.direction().radians();
  const auto working = pair.working_pitch_diameters();
  const bool left = std::cos(direction + kPi) < 0;
  circle_labels(canvas, design, driver.axis, running_circles(driver, working[0]), direction + kPi,
                left ? canvas.to_page(low).x() - 24 : canvas.to_page(high).x() + 24, kDriver);
  circle_labels(canvas, design, driven.axis, running_circles(driven, working[1]), direction,
                left ? canvas.to_page(high).x() + 24 : canvas.to_page(low).x() - 24, kDriven);
  for (const auto& [gear, color] : {std::pair{&driver, kDriver}, {&driven, kDriven}}) {
    Vec2 at = gear->axis;
    if (gear->teeth.is_rack())
      at += 0.75 * gear->teeth.rack().sizes().base_height * from_polar(1, gear->facing - kPi / 2);
    else if (gear->teeth.internal())
      at += Vec2(0, (gear->teeth.outer_diameter() + gear->teeth.root_diameter()) / 4);
    else
      at += Vec2(0, 0.22 * gear->teeth.root_diameter());
    // A name that has no room in its gear stands above it.
    const double tall =
        gear->teeth.is_rack()
            ? 1e9
            : (canvas.to_page(Vec2(gear->teeth.root_diameter(), 0)) - canvas.to_page(Vec2::Zero())).norm();
    if (tall < 150)
      canvas.text(canvas.to_page(gear->axis + Vec2(0, gear->teeth.reach())) - Vec2(0, 14), named(*gear), color, 0);
    else
      canvas.text(canvas.to_page(at), named(*gear), color, 0);
  }
  if (!paths.empty()) {
    const Vec2 label = canvas.to_page(paths[0].front());
    canvas.text(label + Vec2(0, label.y() > size.height / 2.0 ? 18 : -18), pair::path_name(pair), kBlack, 0);
  }
  title(canvas, design, pair.name + section_note(pair));
  const std::string subject = "pair." + pair.name;
  std::string facts;
  for (const auto& [key, word] : {std::pair{"center_distance", "center distance"},
                                  {"working_transverse_pressure_angle_deg", "working pressure angle"},
                                  {"transverse_contact_ratio", "contact ratio"},
                                  {"circumferential_backlash", "backlash"}}) {
    if (job::report_value(design, subject, key).empty()) continue;
    facts += fmt::format("{}{} {}", facts.empty() ? "" : "     ", word, job::report_value(design, subject, key));
  }
  canvas.text({24, size.height - 24.0}, facts, kInk, 1);
  return canvas.finish();
}

std::string draw_contact(const job::Design& design, const job::Pair& pair, const std::string& format,
                         PictureSize size) {
  const std::array<job::Gear, 2> met = as_met(design, pair);
  const auto& [driver, driven] = met;
  Canvas canvas(format, size, design.title);
  const double m = driver.teeth.module();
  const auto working = pair.working_pitch_diameters();
  const Vec2 pitch_point = pair::pitch_point(pair);
  const double scale = std::min(size.width / (11 * m), size.height / (7.5 * m));
  canvas.look_at(pitch_point, scale, {0.5 * size.width, 0.5 * size.height + 8});
  const pair::Start now = pair::start_of_roll(pair);
  const auto paths = pair::contact_paths(pair, true);
  paint_start(canvas, design, pair, now, paths, 2);

  // Circle names where each circle leaves the picture at its lower edge, beside the circle.
  for (const auto& [gear, working_diameter, color, from] :
       {std::tuple{&driver, working[0], kDriver, pair.direction().radians()},
        {&driven, working[1], kDriven, pair.direction().radians() + kPi}}) {
    const std::vector<NamedCircle> all = running_circles(*gear, working_diameter);
    for (std::size_t i = 0; i < all.size(); ++i) {
      const double r = all[i].diameter / 2;
      // Where the circle comes nearest to a line across the lower part of the picture.
      const double drop = (2.55 - 0.33 * static_cast<double>(i)) * m * (gear == &driver ? 1 : -1);
      if (std::abs(drop) > r) continue;
      const double angle = from - (gear == &driver ? 1 : -1) * std::asin(drop / r);
      const Vec2 p = canvas.to_page(gear->axis + from_polar(r, angle));
      const int side = gear == &driver ? -1 : 1;
      const Vec2 label((side < 0 ? 0.3 : 0.7) * size.width, p.y());
      canvas.page_line(p, {label.x() - side * 2.0, label.y()}, kGrey, 0.8);
      canvas.text(label, fmt::format("{} {}", all[i].name, diameter(design, all[i].diameter)), color, side);
    }
    const Vec2 word(gear == &driver ? 24 : size.width - 24.0, 70);
    canvas.text(word, named(*gear), color, gear == &driver ? 1 : -1, 15, true);
  }
  const auto length = [&](double mm) {
    return fmt::format("{:.4f} {}", mm / job::mm_per(design.units), job::symbol(design.units));
  };
  std::string gap = "nothing stands in the way";
  if (now.position.lower) {
    const double behind = (now.driven - now.position.lower->driven) * now.position.lower->arm;
    gap = fmt::format("gap along the normal {}", length(behind));
    canvas.dot(now.position.lower->point, 4.5, kBlack, false);
    const Vec2 at = canvas.to_page(now.position.lower->point);
    canvas.page_line(at, at + Vec2(60, -46), kBlack, 0.8);
    canvas.text(at + Vec2(62, -50), gap, kBlack, 1);
  }
  for (const roll::Contact& c : now.position.touching_upper) {
    const Vec2 at = canvas.to_page(c.point);
    canvas.page_line(at, at + Vec2(-60, 40), kBlack, 0.8);
    canvas.text(at + Vec2(-62, 44), "contact", kBlack, -1);
  }
  if (!paths.empty()) {
    const Vec2 along = paths[0].size() == 2
                           ? Vec2(pitch_point + 1.9 * m * (paths[0].front() - paths[0].back()).normalized())
                           : paths[0][paths[0].size() / 2];
    const Vec2 on_line = canvas.to_page(along);
    canvas.page_line(on_line, on_line + Vec2(70, 26), kBlack, 0.8);
    canvas.text(on_line + Vec2(72, 28), pair::path_name(pair), kBlack, 1);
  }
  title(canvas, design, pair.name + ", close up at the contact" + section_note(pair));
  canvas.text({24, size.height - 24.0},
              fmt::format("center distance {}   backlash {}   (driver turning counter-clockwise)",
                          length(pair.mounted_center_distance()), length(pair.circumferential_backlash())),
              kInk, 1);
  return canvas.finish();
}

}  // namespace palio::view
