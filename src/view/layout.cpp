// The plan of a machine: axes, pitch circles and shafts from the front and from above, beside what turns how fast.
#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "canvas.hpp"
#include "layout.hpp"
#include "palio/design/train.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/readings/reading.hpp"
#include "palio/utf8.hpp"
#include "palio/view/draw.hpp"
#include "palio/view/placement.hpp"

namespace palio::view {
namespace {

using job::Design;
using job::Gear;

/// A gear as a plan shows it: a drum or cone between two circles, or a bar; in space.
struct Drum {
  const Gear* gear;
  std::size_t member;
  write::Placement at;
  std::vector<Vec3> points;  ///< its silhouette lies around their projections
  std::vector<Vec3> pitch;   ///< the pitch circle at mid-face, or line
  Vec3 middle;
};

double pitch_radius(const Design& design, const Gear& g) {
  for (const job::Pair& p : design.pairs) {
    const bool driver = &design.gears[p.driver] == &g;
    if (!p.plane() || (!driver && &design.gears[p.driven] != &g)) continue;
    const double d = p.working_pitch_diameters()[driver ? 0 : 1];
    if (std::isfinite(d)) return d / 2;
  }
  if (g.teeth.is_bevel()) return g.teeth.bevel().sizes().heel.pitch_diameter / 2;
  return g.teeth.reach() - g.teeth.module();
}

std::vector<Vec3> circle_at(const write::Placement& at, double radius, double height) {
  constexpr int kPoints = 96;
  std::vector<Vec3> all;
  for (int i = 0; i <= kPoints; ++i) {
    const Vec2 p = from_polar(radius, 2 * kPi * i / kPoints);
    all.push_back(at.at + at.axes * Vec3(p.x(), p.y(), height));
  }
  return all;
}

Drum drum(const Design& design, const Part& part) {
  const Gear& g = *part.gear;
  Drum d{&g, *part.member, part.placement, {}, {}, {}};
  const double width = g.teeth.face_width();
  if (g.teeth.is_rack()) {
    const double half = g.teeth.rack().sizes().length / 2, deep = g.teeth.rack().sizes().base_height;
    const Eigen::Matrix3d turned = part.axes();
    const auto point = [&](double x, double y, double z) { return Vec3(part.placement.at + turned * Vec3(x, y, z)); };
    for (const double z : {0.0, width}) {
      for (const double y : {-deep, 0.0})
        d.points.push_back(point(-half, y, z)), d.points.push_back(point(half, y, z));
    }
    d.pitch = {point(-half, 0, width / 2), point(half, 0, width / 2)};
    d.middle = point(0, -deep / 2, width / 2);
    return d;
  }
  if (g.teeth.is_bevel()) {
    const gear::BevelSizes& s = g.teeth.bevel().sizes();
    const double cone = g.teeth.bevel().spec().pitch_cone.radians();
    for (const double distance : {s.outer_cone_distance, s.inner_cone_distance}) {
      const std::vector<Vec3> end = circle_at(part.placement, distance * std::sin(cone), distance * std::cos(cone));
      d.points.insert(d.points.end(), end.begin(), end.end());
      if (d.pitch.empty()) d.pitch = end;
    }
    d.middle = part.placement.at + part.placement.axes * Vec3(0, 0, s.outer_cone_distance * std::cos(cone));
    return d;
  }
  const double radius = pitch_radius(design, g);
  for (const double z : {0.0, width}) {
    const std::vector<Vec3> end = circle_at(part.placement, g.teeth.internal() ? g.teeth.reach() : radius, z);
    d.points.insert(d.points.end(), end.begin(), end.end());
  }
  d.pitch = circle_at(part.placement, radius, width / 2);
  d.middle = part.placement.at + part.placement.axes * Vec3(0, 0, width / 2);
  return d;
}

/// The convex hull of points in the plane, counter-clockwise.
std::vector<Vec2> hull(std::vector<Vec2> points) {
  std::sort(points.begin(), points.end(),
            [](const Vec2& a, const Vec2& b) { return a.x() < b.x() || (a.x() == b.x() && a.y() < b.y()); });
  std::vector<Vec2> around;
  const auto walk = [&](auto from, auto to) {
    const std::size_t begin = around.size();
    for (auto it = from; it != to; ++it) {
      while (around.size() >= begin + 2) {
        const Vec2 a = around[around.size() - 1] - around[around.size() - 2], b = *it - around.back();
        if (a.x() * b.y() - a.y() * b.x() > 0) break;
        around.pop_back();
      }
      around.push_back(*it);
    }
    around.pop_back();
  };
  walk(points.begin(), points.end());
  walk(points.rbegin(), points.rend());
  return around;
}

/// A direction to look in, as the two axes of the picture.
struct Look {
  Vec3 right, up;
  Vec2 operator()(const Vec3& p) const { return {p.dot(right), p.dot(up)}; }
  double depth(const Vec3& p) const { return p.dot(right.cross(up)); }
};

std::vector<Vec2> seen(const std::vector<Vec3>& points, const Look& look) {
  std::vector<Vec2> all;
  all.reserve(points.size());
  for (const Vec3& p : points)
    all.push_back(look(p));
  return all;
}

class Plan {
 public:
  /// \param input  the member that is drawn as what drives
  Plan(Canvas& canvas, const Design& design, std::size_t input) : canvas_(canvas), design_(design), input_(input) {
    for (const Part& p : gears_alone(design)) {
      drums_.push_back(drum(design, p));
    }
    order_ = plan_order(design);
  }

  const std::vector<std::size_t>& order() const { return order_; }
  std::size_t number(std::size_t member) const {
    return static_cast<std::size_t>(std::find(order_.begin(), order_.end(), member) - order_.begin()) + 1;
  }

  math::Extent extent(const Look& look, bool across) const {
    math::Extent e;
    for (const Drum& d : drums_) {
      for (const Vec3& p : d.points)
        e.hold(across ? look(p).x() : look(p).y());
    }
    return e;
  }

  /// Into a box of the page.
  void view(const Look& look, const Vec2& corner, const Vec2& size, double scale, const std::string& words) {
    const Vec2 middle(extent(look, true).middle(), extent(look, false).middle());
    canvas_.look_at(middle, scale, corner + size / 2);
    std::vector<const Drum*> far;
    for (const Drum& d : drums_)
      far.push_back(&d);
    std::stable_sort(far.begin(), far.end(),
                     [&](const Drum* a, const Drum* b) { return look.depth(a->middle) < look.depth(b->middle); });
    for (const Drum* d : far) {
      const bool first = d->member == input_;
      const Color fill = first ? Color{kDriverFill.r, kDriverFill.g, kDriverFill.b, 0.55}
                               : Color{kDrivenFill.r, kDrivenFill.g, kDrivenFill.b, 0.55};
      const bool hollow = d->gear->teeth.internal();
      canvas_.polygon(hull(seen(d->points, look)), hollow ? Color{0, 0, 0, 0} : fill, kGrey, 1);
      canvas_.polyline(seen(d->pitch, look), first ? kDriver : kDriven, 1.6);
    }
    axes(look);
    tags(look);
    // Beside a narrow view its words begin further left.
    constexpr double kLetter = 8;  // [points]
    const double last = canvas_.width() - kLetter * static_cast<double>(columns(words));
    canvas_.text({std::min(corner.x(), last), corner.y() - 12}, words, kInk, 1, 12, true);
  }

 private:
  /// Every shaft along its axis, and the arms of carriers.
  void axes(const Look& look) {
    constexpr double kBeyond = 8;  // [pixels]
    std::map<std::size_t, std::vector<const Drum*>> on;
    for (const Drum& d : drums_) {
      if (!d.gear->teeth.is_rack()) on[d.member].push_back(&d);
    }
    for (const auto& [member, all] : on) {
      // Planets have an axis each.
      for (const Drum* d : all) {
        const Vec3 along = d->at.axes.col(2);
        math::Extent e;
        for (const Drum* other : all) {
          const Vec3 apart = other->middle - d->middle;
          if ((apart - along * along.dot(apart)).norm() > 1e-6) continue;
          for (const Vec3& p : other->points)
            e.hold((p - d->middle).dot(along));
        }
        const double beyond = kBeyond / canvas_.scale();
        canvas_.line(look(d->middle + along * (e.low() - beyond)), look(d->middle + along * (e.high() + beyond)), kInk,
                     1.2, {9, 3, 2, 3});
      }
    }
    for (const Drum& d : drums_) {
      const auto carrier = design_.machine.members[d.member].carrier;
      if (!carrier || !design_.machine.carriers[*carrier].placed) continue;
      const job::Carrier& c = design_.machine.carriers[*carrier];
      const job::Group& group = design_.groups[c.group];
      Vec3 foot = group.origin + group.axes * Vec3(c.axis.x(), c.axis.y(), 0);
      const Vec3 along = group.axes.col(2);
      foot += along * along.dot(d.middle - foot);
      canvas_.line(look(foot), look(d.middle), kInk, 3);
    }
  }

  /// Each member's number where its axis is seen; those at one place side by side.
  void tags(const Look& look) {
    std::vector<std::pair<Vec2, std::vector<std::size_t>>> places;
    const auto put = [&](const Vec2& page, std::size_t member) {
      constexpr double kApart = 18;  // [pixels]
      for (auto& [at, members] : places) {
        if ((at - page).norm() > kApart) continue;
        if (std::find(members.begin(), members.end(), member) == members.end()) members.push_back(member);
        return;
      }
      places.emplace_back(page, std::vector<std::size_t>{member});
    };
    std::vector<std::size_t> told;
    for (const Drum& d : drums_) {
      if (std::find(told.begin(), told.end(), d.member) != told.end()) continue;
      told.push_back(d.member);
      put(canvas_.to_page(look(d.middle)), d.member);
    }
    for (const job::Carrier& c : design_.machine.carriers) {
      if (!c.placed || std::find(told.begin(), told.end(), c.member) != told.end()) continue;
      const job::Group& group = design_.groups[c.group];
      put(canvas_.to_page(look(group.origin + group.axes * Vec3(c.axis.x(), c.axis.y(), 0))), c.member);
    }
    for (const auto& [at, members] : places) {
      std::string words;
      for (const std::size_t m : members)
        words += (words.empty() ? "" : " · ") + std::to_string(number(m));
      constexpr double kHalfLetter = 4.5;  // [points]: none beyond the edge
      const double half = kHalfLetter * static_cast<double>(columns(words));
      canvas_.text({std::clamp(at.x(), half, canvas_.width() - half), at.y()}, words, kBlack, 0, 13, true);
    }
  }

  Canvas& canvas_;
  const Design& design_;
  std::size_t input_;
  std::vector<Drum> drums_;
  std::vector<std::size_t> order_;
};

/// How fast a member turns; of a rack how far it goes in that time.
std::string speed_text(const Design& design, const job::Train& train, std::size_t member, double turns) {
  const Gear* rack = job::rack_of(design, member);
  const double speed = train.speed.value_or(1);
  if (!rack) return fmt::format("{:.5g}", turns * speed);
  const double travel = turns * rack->teeth.rack().pitch() / mm_per(design.units);
  return fmt::format("{:.4g} {}{}", travel * (train.speed ? speed / 60 : 1), symbol(design.units),
                     train.speed ? "/s" : "");
}

void table(Canvas& canvas, const Design& design, const Plan& plan, const job::Train& train, double left) {
  const job::TrainMotion motion = job::moved(design.machine, train);
  double y = 92;
  canvas.text({left, y}, "what turns", kInk, 1, 12, true);
  canvas.text({left + 250, y}, "turns", kInk, -1, 12, true);
  const bool slides = std::any_of(plan.order().begin(), plan.order().end(),
                                  [&](std::size_t m) { return job::rack_of(design, m) != nullptr; });
  const bool speeds = train.speed || slides;  // else they are the turns again
  if (speeds) canvas.text({left + 350, y}, train.speed ? "r/min" : "per turn", kInk, -1, 12, true);
  const double step = std::clamp((canvas.height() - 150.0) / static_cast<double>(plan.order().size() + 1), 14.0, 26.0);
  const auto rows = static_cast<std::size_t>((canvas.height() - 150.0) / step);
  for (std::size_t i = 0; i < plan.order().size(); ++i) {
    y += step;
    if (i + 1 == rows && plan.order().size() > rows) {
      canvas.text({left, y}, fmt::format("and {} more", plan.order().size() - i), kInk, 1, 12);
      break;
    }
    const std::size_t m = plan.order()[i];
    const job::Member& member = design.machine.members[m];
    std::string teeth;
    for (const std::size_t g : member.gears) {
      if (!design.gears[g].teeth.is_rack())
        teeth += (teeth.empty() ? "" : ", ") + std::to_string(design.gears[g].teeth.count());
    }
    const auto& turns = motion.turns[m];
    constexpr std::size_t kFits = 12;  // longer fractions are told as numbers
    canvas.text({left, y}, fmt::format("{}", i + 1), kBlack, 1, 12, true);
    canvas.text({left + 24, y}, shortened(member.name + (teeth.empty() ? "" : "  " + teeth), 22), kInk, 1, 12);
    canvas.text({left + 250, y},
                !turns                        ? "–"
                : turns->text.size() <= kFits ? turns->text
                                              : fmt::format("{:.6g}", turns->value),
                kInk, -1, 12);
    if (speeds)
      canvas.text({left + 350, y}, turns ? speed_text(design, train, m, turns->value) : std::string("–"), kInk, -1, 12);
  }
  if (motion.ratio) {
    canvas.text(
        {24, canvas.height() - 24.0},
        fmt::format("{}: ratio {}; {}", train.name, motion.ratio->text, job::in_words(design, train, *motion.ratio)),
        kInk, 1);
  }
}

/// From the front and from another side: one below the other at one scale; side by side where that is larger.
void views(Plan& plan, const Vec2& corner, const Vec2& room) {
  const Look front{Vec3::UnitX(), Vec3::UnitY()}, above{Vec3::UnitX(), -Vec3::UnitZ()};
  const double across = std::max(plan.extent(front, true).size(), 1e-6),
               tall = std::max(plan.extent(front, false).size(), 1e-6),
               deep = std::max(plan.extent(above, false).size(), 1e-6);
  constexpr double kGap = 50;
  const double stacked = std::min(room.x() / across, (room.y() - kGap) / (tall + deep)),
               beside = std::min((room.x() - kGap) / (across + deep), room.y() / tall);
  if (stacked >= beside) {
    const double scale = 0.94 * stacked, first = (room.y() - kGap) * tall / (tall + deep);
    plan.view(front, corner, {room.x(), first}, scale, "from the front (+z)");
    plan.view(above, corner + Vec2(0, first + kGap), {room.x(), room.y() - kGap - first}, scale, "from above (+y)");
  } else {
    const Look side{Vec3::UnitZ(), Vec3::UnitY()};
    const double scale = 0.94 * beside, first = (room.x() - kGap) * across / (across + deep);
    plan.view(front, corner, {first, room.y()}, scale, "from the front (+z)");
    plan.view(side, corner + Vec2(first + kGap, 0), {room.x() - kGap - first, room.y()}, scale, "from the left (−x)");
  }
}

}  // namespace

std::vector<std::size_t> plan_order(const Design& design) {
  std::vector<std::size_t> order;
  const auto add = [&](std::size_t member) {
    if (std::find(order.begin(), order.end(), member) == order.end()) order.push_back(member);
  };
  for (const std::size_t member : design.machine.of_gear)
    add(member);
  for (const job::Carrier& c : design.machine.carriers)
    add(c.member);
  return order;
}

std::string draw_plan(const Design& design, PictureSize size) {
  constexpr double kMargin = 12, kHead = 26;  // [points]
  Canvas canvas("svg", size, design.title);
  Plan plan(canvas, design, job::told_train(design).input);
  views(plan, {kMargin, kHead}, {size.width - 2 * kMargin, size.height - kHead - kMargin});
  return canvas.finish();
}

std::string draw_layout(const Design& design, const std::string& format, PictureSize size) {
  if (design.pairs.empty())
    throw InvalidParameter("of", "a job without pairs", "a job in which gears mesh", "add a [pair.NAME]");
  Canvas canvas(format, size, design.title);
  const job::Train train = job::told_train(design);
  Plan plan(canvas, design, train.input);
  canvas.text({24, 26}, design.title.empty() ? "plan" : design.title + ", the plan", kInk, 1, 16, true);
  canvas.text({24, 50}, "pitch circles and axes; what the numbers stand for is told on the right", kInk, 1, 12);
  const double table_width = 380, top = 90;
  views(plan, {24, top}, {size.width - table_width - 60, size.height - 150.0});
  table(canvas, design, plan, train, size.width - table_width);
  return canvas.finish();
}

}  // namespace palio::view
