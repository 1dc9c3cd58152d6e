// Pictures of a reducer, seen from +z: the ring with its rollers, the discs, the output's pins, the shaft's journals.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "canvas.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/draw.hpp"
#include "palio/view/film.hpp"
#include "scene.hpp"

namespace palio::view {
namespace {

const Color kRing{0.93, 0.92, 0.89, 1}, kNone{0, 0, 0, 0};

struct Moment {
  double input;
  reducer::Standing standing;
  std::vector<reducer::RollerGap> gaps;  // of the first disc as it is pushed
  double push;                           // of the first disc beyond its place without play [rad]
};

/// The output held back: the first disc rests at its upper limit, where the rollers that carry touch.
Moment moment(const job::Reducer& r, double input) {
  Moment m{input, reducer::standing(r.made, input, math::kAlike), {}, 0};
  m.push = m.standing.discs[0].high;
  m.gaps = reducer::roller_gaps(r.made, 0, input, m.push);
  return m;
}

/// In the reducer's own frame, its axis at the origin.
void paint(Canvas& canvas, const job::Reducer& r, const Moment& m, double width) {
  const reducer::Reducer& made = r.made;
  const reducer::Spec& s = made.spec();
  const reducer::Sizes& z = made.sizes();
  const std::vector<reducer::Part> parts = reducer::parts(made);
  for (const reducer::Part& p : parts) {
    if (p.kind != reducer::PartKind::ring) continue;
    for (const char* feature : {"outer_diameter", "teeth"}) {
      for (const body::Loop& l : p.body.loops) {
        if (l.feature == feature)
          canvas.outline(l.outline, Vec2::Zero(), 0, l.feature == "teeth" ? kPaper : kRing, kInk, width);
      }
    }
  }
  // The discs behind the first one show as dashes of their edge.
  for (std::size_t d = made.discs().size(); d-- > 0;) {
    const Vec2 c = made.centre(d, m.input);
    const double turn = made.turned(d, m.input) + (d == 0 ? m.push : 0);
    canvas.outline(made.edge(), c, turn, d == 0 ? kDriverFill : kNone, d == 0 ? kDriver : kGrey,
                   d == 0 ? width : 0.6 * width);
    if (d > 0) continue;
    const double hole = z.output_hole_diameter / 2, R_p = s.output_pin_circle_diameter / 2;
    for (int i = 0; i < s.output_pins; ++i) {
      const Vec2 at = c + from_polar(R_p, turn + made.discs()[0].hole_phase + 2 * kPi * i / s.output_pins);
      canvas.outline(curve::circle(hole, curve::Role::body, false), at, 0, kPaper, kDriver, width);
    }
    canvas.outline(curve::circle(s.bore_diameter / 2, curve::Role::body, false), c, 0, kPaper, kDriver, width);
    canvas.outline(curve::circle(z.journal_diameter / 2, curve::Role::body, false), c, 0, kRing, kInk, width);
    // Home mark of the disc: the root that lay on +x.
    canvas.polyline(
        {c + from_polar(z.disc_root_diameter / 2 * 0.90, turn), c + from_polar(z.disc_root_diameter / 2 * 0.98, turn)},
        kDriver, 4 * width);
  }
  const double psi =
      made.output(m.input) + (m.standing.output.low + m.standing.output.high) / 2 + made.flange_phase().radians();
  for (int i = 0; i < s.output_pins; ++i) {
    const Vec2 at = from_polar(s.output_pin_circle_diameter / 2, psi + 2 * kPi * i / s.output_pins);
    canvas.outline(curve::circle(s.output_pin_diameter / 2, curve::Role::body, false), at, 0,
                   i == 0 ? kDriven : kDrivenFill, kDriven, width);
  }
  for (int k = 0; k < s.rollers; ++k) {
    canvas.outline(curve::circle(s.roller_diameter / 2, curve::Role::body, false), made.roller(k), 0,
                   k == 0 ? kInk : kPaper, kInk, width);
  }
  // The axis, and the arm of the eccentricity.
  const Vec2 c = made.centre(0, m.input);
  canvas.line(Vec2::Zero(), c, kBlack, 1.6 * width);
  canvas.dot(Vec2::Zero(), 3, kBlack, true), canvas.dot(c, 3, kBlack, true);
}

/// Normals of the rollers that carry, to the point about which the disc turns at this moment: E N from the axis.
void normals(Canvas& canvas, const job::Reducer& r, const Moment& m, double width) {
  const Vec2 pitch = from_polar(r.made.spec().eccentricity * r.made.spec().rollers, m.input);
  for (const reducer::RollerGap& g : m.gaps) {
    if (g.lever <= 0) continue;
    constexpr double kTouching = 1e-6;  // [mm]: far less than a line is wide
    const bool touches = g.gap < kTouching;
    canvas.line(g.point, pitch, touches ? kBlack : kGrey, (touches ? 1.1 : 0.5) * width, {6, 4});
    if (touches) canvas.dot(g.point, 3.5, kBlack, true);
  }
  canvas.dot(pitch, 4.5, kBlack, false);
}

/// A bar for each roller's gap at the foot of the page.
void gap_bars(Canvas& canvas, const job::Design& design, const Moment& m, double x0, double x1, double y0, double y1) {
  double most = math::kAlike;
  for (const reducer::RollerGap& g : m.gaps)
    most = std::max(most, std::abs(g.gap));
  const bool none = most < 10 * math::kAlike;
  const double step = (x1 - x0) / static_cast<double>(m.gaps.size()), unit = job::mm_per(design.units);
  canvas.text({x0, y0 - 14},
              none ? "gap of each roller: none, all touch"
                   : fmt::format("gap of each roller, up to {:.5f} {}", most / unit, job::symbol(design.units)),
              kInk, 1);
  canvas.page_line({x0, y1}, {x1, y1}, kGrey, 1);
  for (std::size_t k = 0; k < m.gaps.size(); ++k) {
    const double h = none ? 1 : std::max(1.0, (y1 - y0) * std::abs(m.gaps[k].gap) / most),
                 x = x0 + step * (static_cast<double>(k) + 0.2);
    canvas.page_box({x, y1 - h}, {0.6 * step, h},
                    k == 0                          ? kInk
                    : m.gaps[k].gap < -math::kAlike ? Color{0.75, 0.1, 0.1, 1}
                    : m.gaps[k].lever > 0           ? kDriver
                                                    : kGrey);
    if (step > 15 || k % 5 == 0) canvas.text({x + 0.3 * step, y1 + 10}, fmt::format("{}", k), kGrey, 0, 10);
  }
}

void numbers(Canvas& canvas, const job::Reducer& r, double size) {
  const reducer::Spec& s = r.made.spec();
  for (int k = 0; k < s.rollers; ++k) {
    if (s.rollers > 60 && k % 5 != 0) continue;
    const double out = r.made.sizes().ring_outer_diameter / 2;
    canvas.text(canvas.to_page(from_polar(out, 2 * kPi * k / s.rollers)) +
                    Vec2(13 * std::cos(2 * kPi * k / s.rollers), -13 * std::sin(2 * kPi * k / s.rollers)),
                fmt::format("{}", k), kInk, 0, size, k == 0);
  }
}

}  // namespace

std::string draw_reducer(const job::Design& design, const job::Reducer& r, const std::string& format,
                         PictureSize size) {
  Canvas canvas(format, size, design.title);
  const reducer::Sizes& z = r.made.sizes();
  const double outer = z.ring_outer_diameter / 2, scale = std::max(0.1, (size.height - 120.0) / (2.12 * outer));
  canvas.look_at(Vec2::Zero(), scale, {0.36 * size.width, 0.5 * size.height + 14});
  const Moment m = moment(r, 0.12);
  paint(canvas, r, m, 1.4);
  normals(canvas, r, m, 1.2);
  numbers(canvas, r, 11);
  canvas.text({24, 26}, (design.title.empty() ? "" : design.title + "  ·  ") + r.name, kInk, 1, 16, true);
  const double x = 0.68 * size.width;
  double y = 84;
  const std::string subject = "reducer." + r.name;
  const auto length = [&](double mm) {
    return fmt::format("{:.4g} {}", mm / job::mm_per(design.units), job::symbol(design.units));
  };
  const auto line = [&](const std::string& words) { canvas.text({x, y}, words, kInk, 1), y += 23; };
  const reducer::Spec& s = r.made.spec();
  line(fmt::format("ratio {} : 1, the output turns back", z.lobes));
  line(fmt::format("{} rollers ⌀{} on ⌀{}", s.rollers, length(s.roller_diameter), length(s.roller_circle_diameter)));
  line(fmt::format("{} lobes, roots ⌀{}, crests ⌀{}", z.lobes, length(z.disc_root_diameter),
                   length(z.disc_crest_diameter)));
  line(fmt::format("eccentricity {} (limit {})", length(s.eccentricity), length(z.max_eccentricity)));
  line(fmt::format("undercut from roller radius {}", length(z.max_roller_radius_no_undercut)));
  line(z.min_concave_radius ? fmt::format("tightest hollow: radius {}", length(*z.min_concave_radius))
                            : std::string("the edge is nowhere hollow"));
  line(fmt::format("{} output pins ⌀{} in holes ⌀{}", s.output_pins, length(s.output_pin_diameter),
                   length(z.output_hole_diameter)));
  line(fmt::format("walls between holes {}, to roots {},", length(z.web_between_holes), length(z.wall_hole_to_lobe)));
  line(fmt::format("    to the bore {}", length(z.wall_hole_to_bore)));
  line(fmt::format("{} disc{}{}", s.discs, s.discs > 1 ? "s" : "",
                   s.discs == 1       ? ""
                   : z.same_disc_part ? ", one part"
                   : z.discs_flip     ? ", one part, the second turned over"
                                      : ", parts of their own"));
  y += 12;
  canvas.text({x, y}, "black: roller 0 and its home", kInk, 1), y += 21;
  canvas.text({x, y}, "violet: output pins, pin 0 filled", kDriven, 1), y += 21;
  canvas.text({x, y}, "ochre: the first disc; grey edge: the others", kDriver, 1), y += 21;
  canvas.text({x, y}, "dashes: normals of the rollers that push (black: touching),", kInk, 1), y += 21;
  canvas.text({x, y}, "they meet in the point that the disc turns about", kInk, 1);
  gap_bars(canvas, design, m, x, size.width - 30.0, size.height - 150.0, size.height - 44.0);
  return canvas.finish();
}

std::string draw_reducer_contact(const job::Design& design, const job::Reducer& r, const std::string& format,
                                 PictureSize size) {
  Canvas canvas(format, size, design.title);
  const reducer::Spec& s = r.made.spec();
  const Moment m = moment(r, 0.12);
  // Where the levers are longest.
  const auto best =
      std::max_element(m.gaps.begin(), m.gaps.end(), [](const auto& a, const auto& b) { return a.lever < b.lever; });
  const double wide = 4.2 * kPi * s.roller_circle_diameter / s.rollers;
  canvas.look_at(best->point, size.width / wide, {0.5 * size.width, 0.5 * size.height + 8});
  paint(canvas, r, m, 2);
  normals(canvas, r, m, 1.6);
  const double unit = job::mm_per(design.units);
  for (std::size_t k = 0; k < m.gaps.size(); ++k) {
    const Vec2 at = canvas.to_page(r.made.roller(static_cast<int>(k)));
    if (at.x() < 40 || at.x() > size.width - 40.0 || at.y() < 60 || at.y() > size.height - 50.0) continue;
    const double gap = std::abs(m.gaps[k].gap) < 5e-10 ? 0 : m.gaps[k].gap / unit;
    canvas.text(at, fmt::format("{}", k), k == 0 ? kPaper : kInk, 0, 15, true);
    canvas.text(at + Vec2(0, 24), fmt::format("gap {:.6f} {}", gap, job::symbol(design.units)), kInk, 0, 12);
  }
  canvas.text({24, 26},
              (design.title.empty() ? "" : design.title + "  ·  ") + r.name + ", close up where the rollers carry",
              kInk, 1, 16, true);
  return canvas.finish();
}

Film reducer_film(const job::Design& design, const job::Reducer& r, int pictures, double turns, PictureSize size) {
  return {pictures, [=, &design, &r](int i) {
            Canvas canvas("frame", size, "");
            const double outer = r.made.sizes().ring_outer_diameter / 2, input = 2 * kPi * turns * i / pictures;
            canvas.look_at(Vec2::Zero(), std::max(0.1, (size.height - 80.0) / (2.12 * outer)),
                           {0.42 * size.width, 0.5 * size.height + 12});
            const Moment m = moment(r, input);
            paint(canvas, r, m, 1.6);
            normals(canvas, r, m, 1.2);
            numbers(canvas, r, 11);
            canvas.text({20, 24}, (design.title.empty() ? "" : design.title + "  ·  ") + r.name, kInk, 1, 15, true);
            canvas.text({0.76 * size.width, 90}, fmt::format("input {:+.0f}°", input * 180 / kPi), kInk, 1, 15);
            canvas.text({0.76 * size.width, 116}, fmt::format("output {:+.2f}°", r.made.output(input) * 180 / kPi),
                        kDriven, 1, 15);
            gap_bars(canvas, design, m, 0.76 * size.width, size.width - 24.0, size.height - 150.0, size.height - 40.0);
            return canvas.pixels();
          }};
}

}  // namespace palio::view
