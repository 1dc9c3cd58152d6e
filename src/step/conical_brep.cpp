// A bevel body as a B-rep: flanks exactly ruled to the apex and trimmed, roots as patches, everything else on cones,
// cylinders, spheres and planes. Vertices and edges are made once; every edge knows its exact points, so that its
// curves on the surfaces beside it are fitted from the same ones.
#include <Geom_BSplineSurface.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <TopoDS_Vertex.hxx>
#include <functional>

#include "brep.hpp"
#include "knots.hpp"
#include "palio/angle.hpp"
#include "palio/body/conical.hpp"
#include "palio/curve/bernstein.hpp"
#include "palio/error.hpp"
#include "palio/math/stereographic.hpp"
#include "palio/math/tolerance.hpp"
#include "shell.hpp"

namespace palio::step {
namespace {

using curve::Arc;
using curve::Outline;
using curve::Segment;

class Maker : private ShellBuilder {
 public:
  Maker(const body::ConicalBody& body, double tolerance, double& deviation)
      : ShellBuilder(tolerance, deviation), body_(body), core_(body.core()), z_(core_.count) {
    if (!core_.one_form) {
      throw InvalidParameter(
          "section", "one that gains a corner along the face",
          "an undercut begins between heel and toe, where the flank's edge has a corner that no face here is cut at",
          "raise profile_shift, give more teeth or choose depth constant_clearance; meshes of this gear are made");
    }
    R_[0] = core_.inner, R_[1] = core_.outer;
    for (const int e : {0, 1})
      section_[e] = core_.section(R_[e]);
    parts();
    tooth_faces();
    Circle front = circle(body_.front()), rear = circle(body_.rear());
    end_faces(0, front, body_.front_angle().radians());
    end_faces(1, rear, body_.rear_angle().radians());
    behind(front, rear);
  }

  using ShellBuilder::solid;

 private:
  /// A piece of the outline between two vertices: segment `index` of period `copy`, from one parameter to another at
  /// either end of the teeth. The parameter p runs with the traversal.
  struct Part {
    std::size_t index;
    int copy;
    bool joined;  // a root that goes on over the middle of a space
  };
  struct Half {  // of a circle
    std::vector<Edge> arcs;
    std::vector<TopoDS_Vertex> vertices;
  };
  using Circle = Half;

  double turn(int copy) const { return section_[0].turn(copy); }
  Vec3 turned(const Vec3& p, double angle) const {
    const double c = std::cos(angle), s = std::sin(angle);
    return {c * p.x() - s * p.y(), s * p.x() + c * p.y(), p.z()};
  }
  Vec3 lifted(const Vec2& direction, double R) const {
    const Vec3 d = palio::direction(direction);
    return core_.distance(std::atan2(std::hypot(d.x(), d.y()), d.z()), R) * d;
  }
  /// A section's segment as a part has it: roots joined.
  Segment segment(const Part& part, const Outline& section) const {
    Segment s = section.period[part.index];
    if (part.joined) s.to += section.period.front().to - section.period.front().from;
    return s;
  }
  static double running(const Segment& s, double t) { return s.to < s.from ? -t : t; }
  bool split(int copy) const {
    return copy == 0 || copy == z_ / 2;
  }  // the middle of the space before this tooth is a vertex

  void parts() {
    const std::size_t n = section_[0].period.size();
    for (int copy = 0; copy < z_; ++copy) {
      for (std::size_t k = 0; k < n; ++k) {
        if (k == 0 && !split(copy)) continue;
        parts_.push_back({k, copy, k + 1 == n && !split((copy + 1) % z_)});
      }
    }
    for (const int e : {0, 1}) {
      for (const Part& p : parts_)
        vertices_[e].push_back(vertex(turned(lifted(segment(p, section_[e]).first(), R_[e]), turn(p.copy))));
      for (std::size_t i = 0; i < parts_.size(); ++i) {
        const Part& p = parts_[i];
        const Segment s = segment(p, section_[e]);
        const TopoDS_Vertex &a = vertices_[e][i], &b = vertices_[e][(i + 1) % parts_.size()];
        const double turning = turn(p.copy), R = R_[e];
        if (about_axis(s)) {
          const Vec3 at = lifted(s.first(), R);
          ring_[e].push_back(level_arc(at.head<2>().norm(), at.z(), s.from + turning, s.to + turning, a, b));
        } else {
          ring_[e].push_back(fitted(running(s, s.from), running(s, s.to), a, b,
                                    [=](double t) { return turned(lifted(s.point(running(s, t)), R), turning); }));
        }
      }
    }
    // Where each part begins, from toe to heel.
    for (std::size_t i = 0; i < parts_.size(); ++i) {
      const Part p = parts_[i];
      const double turning = turn(p.copy);
      const auto at = [this, p, turning](double R) {
        return turned(lifted(segment(p, core_.section(R)).first(), R), turning);
      };
      const Vec3 a = at(R_[0]), b = at(R_[1]), middle = at((R_[0] + R_[1]) / 2);
      if ((middle - (a + b) / 2).norm() < math::kRounding * R_[1]) {
        const double length = (b - a).norm();
        const Vec3 along = (b - a) / length;
        long_.push_back(edge(new Geom_Line(pnt(a), gp_Dir(along.x(), along.y(), along.z())), 0, length, vertices_[0][i],
                             vertices_[1][i], [a, along](double t) -> Vec3 { return a + t * along; }));
        straight_.push_back(true);
      } else {
        long_.push_back(fitted(R_[0], R_[1], vertices_[0][i], vertices_[1][i], at));
        straight_.push_back(false);
      }
    }
  }

  static bool about_axis(const Segment& s) {
    const Arc* arc = std::get_if<Arc>(&s.curve);
    return arc && arc->centre == Vec2::Zero();
  }

  void tooth_faces() {
    std::vector<Handle(Geom_BSplineSurface)> patch(section_[0].period.size());  // of the first tooth
    for (std::size_t i = 0; i < parts_.size(); ++i) {
      const Part& p = parts_[i];
      const std::size_t next = (i + 1) % parts_.size();
      const Segment toe = segment(p, section_[0]), heel = segment(p, section_[1]);
      const std::vector<Way> wire{
          {&ring_[0][i], true}, {&long_[next], true}, {&ring_[1][i], false}, {&long_[i], false}};
      if (about_axis(toe)) {
        // Face or root cone: through its edge at the heel, along the meridian.
        const Vec3 a = lifted(toe.first(), R_[0]), b = lifted(heel.first(), R_[1]);
        const double r0 = a.head<2>().norm(), r1 = b.head<2>().norm(), dz = b.z() - a.z();
        const double middle = turn(p.copy) + (heel.from + heel.to) / 2;
        // Seen along the line from toe to heel the material lies behind.
        Surface s = revolved(r1, b.z(), r1 - r0, dz, middle, dz > 0);
        if (!s.place) s.outward = r1 < r0;  // a plane looks up; the teeth of a crown gear look down
        face(s, {wire});
        continue;
      }
      // Flanks over the roll, ruled to the apex; roots over the share of the segment.
      const bool flank = toe.role == curve::Role::flank;
      const double from = flank ? std::min(running(toe, toe.from), running(heel, heel.from)) : 0,
                   to = flank ? std::max(running(toe, toe.to), running(heel, heel.to)) : 1;
      Handle(Geom_BSplineSurface)& first = patch[p.index];
      if (first.IsNull()) {
        const auto exact = [&](double t, double R) -> Vec3 {
          if (flank) return lifted(toe.point(running(toe, t)), R);
          const Segment s = segment(p, R == R_[0] ? section_[0] : R == R_[1] ? section_[1] : core_.section(R));
          return lifted(s.point(t == 1 ? s.to : s.from + t * (s.to - s.from)), R);
        };
        const curve::PatchFit f = curve::fit_patch(exact, from, to, R_[0], R_[1], tolerance_ / 2);
        deviation_ = std::max(deviation_, f.deviation);
        TColgp_Array2OfPnt poles(1, static_cast<int>(f.poles[0].rows()), 1, f.degree_v + 1);
        for (int a = 0; a < f.poles[0].rows(); ++a) {
          for (int b = 0; b <= f.degree_v; ++b)
            poles.SetValue(a + 1, b + 1, gp_Pnt(f.poles[0](a, b), f.poles[1](a, b), f.poles[2](a, b)));
        }
        first = new Geom_BSplineSurface(poles, knots(f.breaks_u), knots({R_[0], R_[1]}),
                                        multiplicities(f.breaks_u.size(), f.degree_u), multiplicities(2, f.degree_v),
                                        f.degree_u, f.degree_v);
      }
      gp_Trsf around;
      around.SetRotation(gp::OZ(), turn(p.copy));
      // Its parameters along the edges: along the outline by the segment's own, along the teeth by the cone distance.
      const auto place = [&, i, next](const Edge& e, double t) -> Vec2 {
        const auto across = [&](const Segment& s, double at) {
          return flank ? at : (at - running(s, s.from)) / (running(s, s.to) - running(s, s.from));
        };
        if (&e == &ring_[0][i]) return {across(toe, t), R_[0]};
        if (&e == &ring_[1][i]) return {across(heel, t), R_[1]};
        const bool at_start = &e == &long_[i];
        const double R = straight_[at_start ? i : next] ? R_[0] + (R_[1] - R_[0]) * (t - e.from) / (e.to - e.from) : t;
        if (!flank) return {at_start ? 0.0 : 1.0, R};
        const Segment s = segment(p, core_.section(R));
        return {running(s, at_start ? s.from : s.to), R};
      };
      face({Handle(Geom_Surface)::DownCast(first->Transformed(around)), place, true}, {wire});
    }
  }

  /// A circle about the axis in two arcs, from the first vertex of the split spaces to the second and back.
  Circle circle(const body::ConicalBody::Circle& c) {
    Circle made;
    const double at[3] = {turn(0) - kPi / z_, turn(z_ / 2) - kPi / z_, turn(0) - kPi / z_ + 2 * kPi};
    for (const int i : {0, 1})
      made.vertices.push_back(vertex(Vec3(c.radius * std::cos(at[i]), c.radius * std::sin(at[i]), c.z)));
    for (const int i : {0, 1})
      made.arcs.push_back(level_arc(c.radius, c.z, at[i], at[i + 1], made.vertices[i], made.vertices[(i + 1) % 2]));
    return made;
  }

  /// From the outline down to a circle, in two faces.
  void end_faces(int e, const Circle& inner, double inner_angle) {
    std::vector<std::size_t> starts;
    for (std::size_t i = 0; i < parts_.size(); ++i) {
      if (parts_[i].index == 0) starts.push_back(i);
    }
    const bool cones = !core_.spheres;
    const double delta = core_.pitch_cone;
    std::vector<Edge> down;
    for (const int h : {0, 1}) {
      const std::size_t i = starts[static_cast<std::size_t>(h)];
      const double azimuth = inner.arcs[h].from, top = core_.root_angle(R_[e]);
      const Vec3 a = body_.at(top, azimuth, R_[e]), b = body_.at(inner_angle, azimuth, R_[e]);
      if (cones) {
        const Vec3 along = (b - a).normalized();
        down.push_back(edge(new Geom_Line(pnt(a), gp_Dir(along.x(), along.y(), along.z())), 0, (b - a).norm(),
                            vertices_[e][i], inner.vertices[h],
                            [a, along](double t) -> Vec3 { return a + t * along; }));
      } else {
        const double R = R_[e];
        down.push_back(fitted(-top, -inner_angle, vertices_[e][i], inner.vertices[h],
                              [this, azimuth, R](double t) { return body_.at(-t, azimuth, R); }));
      }
    }
    for (const int h : {0, 1}) {
      const double middle = (inner.arcs[h].from + inner.arcs[h].to) / 2;
      Surface s;
      if (cones) {
        const double at = R_[e];
        s = revolved(at * std::sin(delta), at * std::cos(delta), std::cos(delta), -std::sin(delta), middle, e == 1);
      } else {
        s.surface = new Geom_SphericalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp::DZ(), gp::DX()), R_[e]);
        s.outward = e == 1;
        s.place = [middle](const Edge& on, double t) {
          const Vec3 p = on.at(t);
          double u = std::atan2(p.y(), p.x());
          u -= 2 * kPi * std::round((u - middle) / (2 * kPi));
          return Vec2(u, std::atan2(p.z(), p.head<2>().norm()));
        };
      }
      std::vector<Way> wire;
      const std::size_t from = starts[static_cast<std::size_t>(h)], to = h == 0 ? starts[1] : parts_.size();
      for (std::size_t i = from; i < to; ++i)
        wire.push_back({&ring_[e][i], true});
      wire.push_back({&down[1 - h], true});
      wire.push_back({&inner.arcs[h], false});
      wire.push_back({&down[h], false});
      if (e == 0) {
        // The toe is seen from the apex: the other way round.
        std::vector<Way> seen;
        for (auto w = wire.rbegin(); w != wire.rend(); ++w)
          seen.push_back({w->edge, !w->forward});
        wire = std::move(seen);
      }
      face(s, {wire});
    }
  }

  std::vector<Way> around(const Circle& c, bool forward) const {
    if (forward) return {{&c.arcs[0], true}, {&c.arcs[1], true}};
    return {{&c.arcs[1], false}, {&c.arcs[0], false}};
  }

  Surface plane(double z, bool up) const { return {new Geom_Plane(gp_Pnt(0, 0, z), gp::DZ()), {}, up}; }

  /// Planes, hub and bore.
  void behind(const Circle& front, const Circle& rear) {
    Circle end = rear, foot = rear;
    double top = body_.rear().z;
    if (const auto hub = body_.hub()) {
      if (hub->radius < body_.rear().radius * (1 - math::kAlike)) {
        foot = circle({hub->radius, body_.rear().z});
        face(plane(body_.rear().z, true), {around(rear, true), around(foot, false)});
      }
      end = circle(*hub);
      top = hub->z;
      std::vector<Edge> up;
      for (const int h : {0, 1}) {
        const double azimuth = end.arcs[h].from, low = body_.rear().z, r = hub->radius;
        const Vec3 a(r * std::cos(azimuth), r * std::sin(azimuth), low);
        up.push_back(edge(new Geom_Line(pnt(a), gp::DZ()), 0, top - low, foot.vertices[h], end.vertices[h],
                          [a](double t) -> Vec3 { return a + t * Vec3::UnitZ(); }));
      }
      for (const int h : {0, 1}) {
        face(revolved(hub->radius, top, 0, 1, (end.arcs[h].from + end.arcs[h].to) / 2, true),
             {{{&foot.arcs[h], true}, {&up[1 - h], true}, {&end.arcs[h], false}, {&up[h], false}}});
      }
    }
    std::vector<std::vector<Way>> front_wires{around(front, false)}, rear_wires{around(end, true)};
    if (!body_.bore()) {
      face(plane(body_.front().z, false), front_wires);
      face(plane(top, true), rear_wires);
      return;
    }
    bore(body_.front().z, top);
    std::vector<Way> low, high;
    for (const Edge& e : bore_[1])
      high.push_back({&e, true});
    for (auto e = bore_[0].rbegin(); e != bore_[0].rend(); ++e)
      low.push_back({&*e, false});
    front_wires.push_back(low), rear_wires.push_back(high);
    face(plane(body_.front().z, false), front_wires);
    face(plane(top, true), rear_wires);
  }

  /// The bore's walls; its loop runs clockwise, the material on its left.
  void bore(double low, double high) {
    std::vector<Segment> pieces;
    for (const Segment& s : body_.bore()->period) {
      const int parts = std::abs(s.to - s.from) > 0.99 * kPi ? 2 : 1;
      for (int i = 0; i < parts; ++i) {
        Segment piece = s;
        piece.from = s.from + (s.to - s.from) * i / parts, piece.to = s.from + (s.to - s.from) * (i + 1) / parts;
        pieces.push_back(piece);
      }
    }
    const std::size_t n = pieces.size();
    std::vector<TopoDS_Vertex> corners[2];
    std::vector<Edge> up;
    const double heights[2] = {low, high};
    const auto at = [](const Vec2& p, double z) { return Vec3(p.x(), p.y(), z); };
    for (const int e : {0, 1}) {
      for (const Segment& s : pieces)
        corners[e].push_back(vertex(at(s.first(), heights[e])));
      for (std::size_t i = 0; i < n; ++i) {
        const Segment s = pieces[i];
        const double z = heights[e];
        const TopoDS_Vertex &a = corners[e][i], &b = corners[e][(i + 1) % n];
        const bool arc = std::holds_alternative<Arc>(s.curve);
        if (arc) {
          const Arc& c = std::get<Arc>(s.curve);
          // Clockwise: a circle seen from below.
          const double sign = s.to < s.from ? -1 : 1;
          const gp_Ax2 axes(gp_Pnt(c.centre.x(), c.centre.y(), z), gp_Dir(0, 0, sign), gp::DX());
          bore_[e].push_back(edge(new Geom_Circle(axes, c.radius), sign * s.from, sign * s.to, a, b,
                                  [=](double t) { return at(s.point(sign * t), z); }));
        } else {
          const Vec3 from = at(s.first(), z), along = (at(s.last(), z) - from).normalized();
          bore_[e].push_back(edge(new Geom_Line(pnt(from), gp_Dir(along.x(), along.y(), 0)), 0,
                                  (s.last() - s.first()).norm(), a, b,
                                  [=](double t) -> Vec3 { return from + t * along; }));
        }
      }
    }
    for (std::size_t i = 0; i < n; ++i) {
      const Vec3 foot = at(pieces[i].first(), low);
      up.push_back(edge(new Geom_Line(pnt(foot), gp::DZ()), 0, high - low, corners[0][i], corners[1][i],
                        [foot](double t) -> Vec3 { return foot + t * Vec3::UnitZ(); }));
    }
    for (std::size_t i = 0; i < n; ++i) {
      const Segment& s = pieces[i];
      const std::vector<Way> wire{
          {&bore_[0][i], true}, {&up[(i + 1) % n], true}, {&bore_[1][i], false}, {&up[i], false}};
      if (const Arc* c = std::get_if<Arc>(&s.curve)) {
        const double middle = (s.from + s.to) / 2;
        Surface wall = revolved(c->radius, low, 0, 1, middle, s.from < s.to);
        face(wall, {wire});
      } else {
        const Vec2 d = (s.last() - s.first()).normalized();
        const gp_Dir normal(d.y(), -d.x(), 0);
        face({new Geom_Plane(pnt(at(s.first(), low)), normal), {}, true}, {wire});
      }
    }
  }

  const body::ConicalBody& body_;
  const body::ConicalCore& core_;
  int z_;
  double R_[2];
  Outline section_[2];
  std::vector<Part> parts_;
  std::vector<TopoDS_Vertex> vertices_[2];
  std::vector<Edge> ring_[2], long_, bore_[2];
  std::vector<bool> straight_;
};

}  // namespace

TopoDS_Solid solid(const body::ConicalBody& body, double tolerance, double& deviation) {
  return Maker(body, tolerance, deviation).solid();
}

}  // namespace palio::step
