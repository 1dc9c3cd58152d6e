#include "palio/body/conical.hpp"

#include <algorithm>
#include <boost/math/quadrature/gauss.hpp>
#include <cmath>

#include <fmt/format.h>

#include "bore.hpp"
#include "palio/angle.hpp"
#include "palio/math/stereographic.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::body {

using curve::Outline;
using curve::Segment;

ConicalBody::ConicalBody(ConicalCore core, Features features) : core_(std::move(core)), features_(std::move(features)) {
  const Features& f = features_;
  for (const auto& [has, name] : {std::pair<bool, const char*>{f.web.has_value(), "web"},
                                  {f.spokes.has_value(), "spokes"},
                                  {!f.holes.empty(), "holes"},
                                  {f.marks.has_value(), "mark"},
                                  {f.sector_teeth > 0, "sector_teeth"},
                                  {f.bore_chamfer > 0, "bore.chamfer"},
                                  {!f.steps.empty(), "bore.steps"}}) {
    require(!has, name, "given", "bevel gears are made with bore, keyway, flat, hex and one hub", "leave it out");
  }
  bore_ = body::bore(core_.bore_radius, f);
  const double opening = bore_ ? reach(*bore_) : 0, m = core_.module, delta = core_.pitch_cone, R_e = core_.outer;
  const double toe_share = core_.inner / R_e, depth = core_.height + core_.depth;
  require(f.hubs.size() <= 1 && (f.hubs.empty() || f.hubs.front().top), "hubs", fmt::format("{} hubs", f.hubs.size()),
          "a bevel gear has one hub, behind the heel: face = \"top\"", "leave the others out");

  // A point h across the pitch cone (outwards) at cone distance R.
  const auto meridian = [&](double R, double h) {
    return Circle{R * std::sin(delta) + h * std::cos(delta), R * std::cos(delta) - h * std::sin(delta)};
  };
  // The rim behind the teeth: as asked, or as much as leaves room for bore and axis at the toe.
  double rim = core_.rim.value_or(1.2 * depth);
  if (!core_.rim) {
    const double wall = 0.5 * m, needed = std::max(opening + wall, 0.2 * R_e * toe_share * std::sin(delta)) / toe_share;
    const double room = (R_e * std::sin(delta) - needed) / std::max(math::kRounding, std::cos(delta)) - core_.depth;
    rim = std::min(rim, room);
  }
  const Circle heel = meridian(R_e, -(core_.depth + rim)),
               toe = meridian(R_e * toe_share, -(core_.depth + rim) * toe_share);
  require(rim > 0.05 * m && toe.radius > opening, core_.rim ? "rim_thickness" : "bore",
          core_.rim ? mm(rim) : mm(2 * opening),
          fmt::format("behind the roots at the toe the body is {} wide there, and bore and rim both need room",
                      mm(2 * std::max(0.0, toe.radius))),
          "make the bore smaller, the rim thinner, the face narrower or the gear larger");
  require(-toe.z + heel.z > 0, "rim_thickness", mm(rim), "the rear face lies behind the front one", "make it thicker");
  front_ = toe, rear_ = heel;
  front_angle_ = std::atan2(toe.radius, toe.z);
  if (!f.hubs.empty()) {
    const Hub& hub = f.hubs.front();
    const double r = hub.diameter / 2;
    require(r > opening, "hubs", "diameter " + mm(hub.diameter),
            fmt::format("the opening for the shaft reaches to {}", mm(2 * opening)), "make the hub wider");
    if (r > heel.radius) {
      // The hub stands on the heel's end further out.
      require(std::cos(delta) > math::kAlike && r < core_.root_radius - 0.05 * m, "hubs",
              "diameter " + mm(hub.diameter), fmt::format("the roots at the heel lie at {}", mm(2 * core_.root_radius)),
              "make the hub narrower");
      rear_ = meridian(R_e, (r - R_e * std::sin(delta)) / std::cos(delta));
      rear_.radius = r;
    }
    hub_ = Circle{r, heel.z + hub.length};
  }
  rear_angle_ = std::atan2(rear_.radius, rear_.z);
  if (core_.spheres) {
    // The same directions on the spheres.
    const Vec3 low = at(front_angle_, 0, core_.inner), high = at(rear_angle_, 0, R_e);
    front_ = {low.x(), low.z()}, rear_ = {high.x(), high.z()};
    if (hub_ && hub_->radius >= rear_.radius - math::kAlike) hub_->radius = rear_.radius;
  }
  if (hub_)
    require(hub_->z > rear_.z, "hubs", "length " + mm(f.hubs.front().length), "it ends in front of where it begins",
            "make it longer");
}

double ConicalBody::bottom() const noexcept {
  double least = front_.z;
  for (const double R : {core_.outer, core_.inner})
    least = std::min(least, at(core_.tip_angle(R), 0, R).z());
  return least;
}

Vec3 ConicalBody::at(double cone_angle, double azimuth, double R) const {
  const double d = core_.distance(cone_angle, R), s = std::sin(cone_angle);
  return {d * s * std::cos(azimuth), d * s * std::sin(azimuth), d * std::cos(cone_angle)};
}

Vec3 ConicalBody::point(const Outline& section, std::size_t segment, double share, double R) const {
  const Segment& s = section.period[segment];
  const Vec3 d = palio::direction(s.point(share == 1 ? s.to : s.from + share * (s.to - s.from)));
  return core_.distance(std::atan2(std::hypot(d.x(), d.y()), d.z()), R) * d;
}

namespace {

/// ∫dV, ∫z dV and ∫(x² + y²) dV.
struct Moments {
  double volume = 0, height = 0, polar = 0;

  void add(const Moments& m, double times) {
    volume += times * m.volume, height += times * m.height, polar += times * m.polar;
  }
  /// What a face adds by the flux of z, z²/2 and z (x² + y²) along z (upright walls add nothing): `area` is seen from
  /// above, negative where the face looks down; `moment` is its polar moment.
  void face(double z, double area, double moment) {
    volume += z * area, height += z * z / 2 * area, polar += z * moment;
  }
};

template <std::size_t N, class F>
void gauss(double from, double to, F f) {
  using Rule = boost::math::quadrature::gauss<double, N>;
  const double middle = (from + to) / 2, half = (to - from) / 2;
  for (std::size_t i = 0; i < Rule::abscissa().size(); ++i) {
    const double x = Rule::abscissa()[i] * half, w = Rule::weights()[i] * half;
    f(middle + x, w);
    if (x != 0) f(middle - x, w);
  }
}

}  // namespace

MassProperties mass_properties(const ConicalBody& body) {
  const ConicalCore& core = body.core();
  const double R_e = core.outer, R_i = core.inner, floor = body.front_angle().radians();
  // The teeth down to the cone of the front circle. X = R d/w(δ), d a direction and R/w its distance in the section at
  // R: dV = R²/w³ dR dΩ, and dΩ = sin δ dδ daz is integrated along the outline.
  Moments period, all;
  gauss<20>(R_i, R_e, [&](double R, double weight) {
    const Outline section = core.section(R);
    const std::size_t middle = section.period.size() / 2;  // the tip; both halves are alike
    for (std::size_t k = 0; k <= middle; ++k) {
      const Segment& s = section.period[k];
      gauss<20>(s.from, s.to, [&](double t, double w) {
        const curve::Jet j = s.jet(t);
        const double to = 2 * std::atan(j.p.norm()),
                     turning = (k < middle ? 2 : 1) * cross(j.p, j.d1) / j.p.squaredNorm();
        gauss<10>(floor, to, [&](double angle, double v) {
          const double share = weight * w * v * turning * std::sin(angle), d = core.distance(angle, R) / R;  // 1/w
          const double dV = share * R * R * d * d * d;
          period.add({dV, dV * R * d * std::cos(angle), dV * std::pow(R * d * std::sin(angle), 2)}, 1);
        });
      });
    }
  });
  all.add(period, core.count);
  // What turns about the axis below that cone: the cone itself, the heel's end from there to the rear circle, planes.
  const auto turned = [&](auto radius, auto height, double from, double to, double sign) {
    gauss<20>(from, to, [&](double t, double w) {
      constexpr double kBeside = 1e-5;  // of the way, for a slope: its own error and rounding are alike here
      const double e = kBeside * (to - from + 1e-3), r = radius(t), r1 = (radius(t + e) - radius(t - e)) / (2 * e);
      all.face(height(t), sign * w * 2 * kPi * r * r1, sign * w * 2 * kPi * r * r1 * r * r);
    });
  };
  const double low = core.distance(floor, R_i), high = core.distance(floor, R_e);
  turned([&](double d) { return d * std::sin(floor); }, [&](double d) { return d * std::cos(floor); }, low, high, -1);
  if (body.rear_angle().radians() != floor) {
    const auto at = [&](double angle) { return body.at(angle, 0, R_e); };
    turned([&](double a) { return at(a).x(); }, [&](double a) { return at(a).z(); }, floor, body.rear_angle().radians(),
           -1);
  }
  const auto disc = [&](const ConicalBody::Circle& c, double sign) {
    all.face(c.z, sign * kPi * c.radius * c.radius, sign * kPi / 2 * std::pow(c.radius, 4));
  };
  disc(body.front(), -1);
  disc(body.rear(), 1);
  if (const auto hub = body.hub()) {
    disc({hub->radius, body.rear().z}, -1);
    disc(*hub, 1);
  }
  Vec2 aside = Vec2::Zero();
  if (body.bore()) {
    const double area = curve::signed_area(*body.bore()),
                 moment = curve::polar_moment(*body.bore());  // negative: a hole
    all.face(body.top(), area, moment);
    all.face(body.front().z, -area, -moment);
    aside = curve::first_moment(*body.bore()) * (body.top() - body.front().z);
  }
  return {all.volume, Vec3(aside.x() / all.volume, aside.y() / all.volume, all.height / all.volume), all.polar};
}

}  // namespace palio::body
