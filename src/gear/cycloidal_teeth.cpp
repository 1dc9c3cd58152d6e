#include "palio/gear/cycloidal_teeth.hpp"

#include <algorithm>
#include <cmath>

#include "palio/curve/parallel.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "spec_checks.hpp"

namespace palio::gear {
namespace {

CycloidalDimensions measured(const CycloidalGear& g) {
  const CycloidalSizes& s = g.sizes();
  return {s.pitch_diameter, s.tip_diameter, s.root_diameter, s.form_diameter,
          s.tip_thickness,  s.tip_diameter, s.pointed};
}

CycloidalDimensions measured(const ClockGear& g) {
  const ClockSizes& s = g.sizes();
  // The arcs meet in the middle of the tip, in a ridge or a round.
  return {s.pitch_diameter, s.tip_diameter, s.root_diameter, s.form_diameter, 2 * g.spec().tip_round, s.tip_diameter};
}

CycloidalDimensions measured(const LanternWheel& g) {
  return {g.spec().teeth * g.spec().module,
          g.tip_diameter(),
          g.root_diameter(),
          g.start_diameter(),
          g.tip_thickness(),
          g.tip_diameter(),
          g.pointed()};
}

CycloidalDimensions measured(const LanternPinion& g) {
  const LanternSpec& s = g.spec();
  const double d = s.pins * s.module;
  return {d, d + s.pin_diameter, d - s.pin_diameter, d - s.pin_diameter, s.pin_diameter, s.plate_diameter};
}

}  // namespace

CycloidalTeeth::CycloidalTeeth(Form form, const Blank& blank) : form_(std::move(form)), blank_(blank) {
  sizes_ = std::visit([](const auto& g) { return measured(g); }, form_);
  require(blank.face_width > 0, "face_width", mm(blank.face_width), "it is above 0", "give about ten modules");
  if (internal()) {
    sizes_.outer_diameter = blank_.outer_diameter > 0 ? blank_.outer_diameter : sizes_.root_diameter + 5 * module();
    require(sizes_.outer_diameter > sizes_.root_diameter, "outer_diameter", mm(blank.outer_diameter),
            "it lies outside the ring's root circle of " + mm(sizes_.root_diameter), "make it larger");
    return;
  }
  const double room = this->form() == CycloidalForm::lantern ? sizes_.outer_diameter : sizes_.root_diameter;
  require(blank.bore_diameter >= 0 && blank.bore_diameter < room, "bore.diameter", mm(blank.bore_diameter),
          "it must leave material within the roots, diameter " + mm(room), "make the bore smaller");
}

bool CycloidalTeeth::internal() const noexcept {
  return form() == CycloidalForm::true_form && std::get_if<CycloidalGear>(&form_)->spec().internal;
}

int CycloidalTeeth::count() const noexcept {
  return std::visit(
      [](const auto& g) {
        if constexpr (std::is_same_v<std::decay_t<decltype(g)>, LanternPinion>)
          return g.spec().pins;
        else
          return g.spec().teeth;
      },
      form_);
}

double CycloidalTeeth::module() const noexcept {
  return std::visit([](const auto& g) { return g.spec().module; }, form_);
}

const curve::Outline& CycloidalTeeth::outline() const noexcept {
  if (outline_) return *outline_;
  return std::visit([](const auto& g) -> const curve::Outline& { return g.outline(); }, form_);
}

double CycloidalTeeth::space_width() const noexcept {
  const double pitch = kPi * module(), grown = 2 * growth_;
  switch (form()) {
    case CycloidalForm::true_form: return pitch / 2 - true_form().spec().thickness_allowance - grown;
    case CycloidalForm::clock: return pitch - clock().sizes().tooth_width - grown;
    case CycloidalForm::lantern_wheel:
      return lantern_wheel().spec().pin_diameter + lantern_wheel().spec().backlash - grown;
    case CycloidalForm::lantern: return pitch - lantern().spec().pin_diameter - grown;
  }
  return 0;
}

namespace {

CycloidalGear larger(const CycloidalGear& g, double by) {
  CycloidalSpec s = g.spec();
  for (double* length :
       {&s.module, &s.face_rolling_radius, &s.flank_rolling_radius, &s.thickness_allowance, &s.fillet_radius})
    *length *= by;
  return CycloidalGear(s);
}

ClockGear larger(const ClockGear& g, double by) {
  ClockSpec s = g.spec();
  s.module *= by, s.fillet_radius *= by, s.tip_round *= by;
  for (auto* length : {&s.addendum, &s.addendum_arc_radius, &s.tooth_width, &s.dedendum}) {
    if (*length) **length *= by;
  }
  return ClockGear(s);
}

LanternWheel larger(const LanternWheel& g, double by) {
  LanternWheelSpec s = g.spec();
  s.module *= by, s.pin_diameter *= by, s.backlash *= by;
  return LanternWheel(s);
}

LanternPinion larger(const LanternPinion& g, double by) {
  LanternSpec s = g.spec();
  s.module *= by, s.pin_diameter *= by, s.plate_thickness *= by, s.plate_diameter *= by;
  return LanternPinion(s);
}

}  // namespace

CycloidalTeeth CycloidalTeeth::scaled(double radial, double axial) const {
  return {std::visit([&](const auto& g) { return Form(larger(g, radial)); }, form_),
          {blank_.face_width * axial, blank_.bore_diameter * radial, blank_.outer_diameter * radial}};
}

namespace {

/// Each flank of a tooth stays on its own side of the tooth's middle, and of the middle of the space.
void require_whole(const curve::Outline& o, double offset) {
  const double half = o.pitch() / 2, hair = math::kAlike;
  for (std::size_t i = 0; i < o.period.size(); ++i) {
    const curve::Segment& part = o.period[i];
    if (part.role != curve::Role::flank) continue;
    // A period is its first half and the mirror image of that: about its middle, of a ring that of the tooth.
    const bool first = 2 * i < o.period.size();
    const double middle = o.clockwise ? -half : 0, side = first == o.clockwise ? 1 : -1;
    for (const Vec2& p : {part.first(), part.point((part.from + part.to) / 2), part.last()}) {
      const double off = side * std::remainder(std::atan2(p.y(), p.x()) - middle, 2 * kPi);
      require(off > -hair && off < half + hair, "surface_offset", mm(offset),
              off < half ? "nothing is left of the teeth" : "nothing is left of the spaces", "give a smaller offset");
    }
  }
}

}  // namespace

CycloidalTeeth CycloidalTeeth::grown(double offset) const {
  if (offset == 0) return *this;
  if (form() == CycloidalForm::lantern) {
    CycloidalTeeth made = *this;
    made.growth_ += offset;
    const LanternSpec& s = lantern().spec();
    const double pin = s.pin_diameter + 2 * made.growth_;
    require(pin > 0 && pin<s.pin_diameter + lantern().pin_gap(), "surface_offset", mm(offset), pin> 0
                ? "neighbouring pins would meet"
                : "nothing is left of the pins",
            "give a smaller offset");
    made.outline_ = lantern_pins(s.pins, s.module, pin);
    CycloidalDimensions& d = made.sizes_;
    d.tip_diameter += 2 * offset, d.root_diameter -= 2 * offset, d.form_diameter = d.root_diameter;
    d.tip_thickness = pin, d.outer_diameter += 2 * offset;
    return made;
  }
  CycloidalTeeth made = *this;
  made.growth_ += offset;
  made.outline_ = curve::parallel(outline(), offset);
  require_whole(*made.outline_, offset);
  CycloidalDimensions& s = made.sizes_;
  math::Extent reach;
  double land = 0;  // half the angle, or the radius of a round that stands off the axis
  for (const curve::Segment& part : made.outline_->period) {
    for (const double t : {part.from, (part.from + part.to) / 2, part.to})
      reach.hold(part.point(t).norm());
    if (part.role != curve::Role::tip) continue;
    const curve::Arc& arc = std::get<curve::Arc>(part.curve);
    land = arc.centre == Vec2::Zero() ? std::abs(part.to - part.from) * arc.radius : 2 * arc.radius;
  }
  const auto flank = std::find_if(made.outline_->period.begin(), made.outline_->period.end(),
                                  [](const curve::Segment& part) { return part.role == curve::Role::flank; });
  s.tip_diameter = 2 * (internal() ? reach.low() : reach.high());
  s.root_diameter = 2 * (internal() ? reach.high() : reach.low());
  s.form_diameter = 2 * flank->first().norm();
  s.tip_thickness = land;
  s.outer_diameter = internal() ? s.outer_diameter + 2 * offset : s.tip_diameter;
  return made;
}

CycloidalTeeth CycloidalTeeth::thinned(double allowance) const {
  CycloidalSpec s = true_form().spec();
  s.thickness_allowance = allowance;
  return {CycloidalGear(s), blank_};
}

std::string_view name(CycloidalForm form) noexcept {
  switch (form) {
    case CycloidalForm::true_form: return "true";
    case CycloidalForm::clock: return "clock";
    case CycloidalForm::lantern_wheel: return "lantern_wheel";
    case CycloidalForm::lantern: return "lantern";
  }
  return "";
}

std::vector<Finding> findings(const CycloidalTeeth& teeth, const std::string& subject) {
  std::vector<Finding> found;
  const CycloidalDimensions& s = teeth.sizes();
  const double m = teeth.module();
  if (s.pointed) {
    const double asked =
        s.pitch_diameter + (teeth.internal() ? -2 : 2) * m *
                               (teeth.form() == CycloidalForm::true_form ? teeth.true_form().spec().addendum
                                                                         : teeth.lantern_wheel().spec().addendum);
    found.push_back({FindingId::pointed_tip, subject, s.tip_diameter, asked});
  } else if (teeth.form() == CycloidalForm::true_form && s.tip_thickness < 0.2 * m) {
    found.push_back({FindingId::thin_tip, subject, s.tip_thickness, 0.2 * m});
  }
  if (teeth.form() == CycloidalForm::clock) {
    found.push_back({FindingId::clock_not_conjugate, subject, {}, {}});
    if (teeth.clock().spec().pinion) found.push_back({FindingId::leaf_table_unchecked, subject, teeth.count(), {}});
  }
  const double bore = teeth.blank().bore_diameter,
               wanted = least_rim(s.tip_diameter, s.root_diameter, teeth.internal());
  const double rim =
      ((teeth.internal() ? s.outer_diameter : s.root_diameter) - (teeth.internal() ? s.root_diameter : bore)) / 2;
  if ((teeth.internal() || bore > 0) && rim < wanted) found.push_back({FindingId::thin_rim, subject, rim, wanted});
  return found;
}

}  // namespace palio::gear
