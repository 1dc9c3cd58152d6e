#include "robot.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/design/train.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/version.hpp"
#include "palio/write/file.hpp"

namespace palio::make {
namespace {

constexpr double kMetre = 1e-3;  // of a millimetre

struct Pose {
  Vec3 at = Vec3::Zero();  // [mm]
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();

  Pose operator*(const Pose& other) const { return {at + axes * other.at, axes * other.axes}; }
  Pose inverse() const { return {-(axes.transpose() * at), axes.transpose()}; }
};

Pose pose_of(const view::Part& p) { return {p.placement.at, p.axes()}; }

/// Without a negative nothing.
double plain(double v) { return std::abs(v) < 1e-15 ? 0 : v; }

std::string numbers(const Vec3& v) { return fmt::format("{} {} {}", plain(v.x()), plain(v.y()), plain(v.z())); }

/// As roll, pitch and yaw about fixed axes.
std::string origin(const Pose& p) {
  const Eigen::Matrix3d& r = p.axes;
  const double pitch = std::atan2(-r(2, 0), std::hypot(r(2, 1), r(2, 2)));
  const bool upright = std::hypot(r(2, 1), r(2, 2)) < math::kAlike;
  const double roll = upright ? 0 : std::atan2(r(2, 1), r(2, 2)),
               yaw = upright ? std::atan2(-r(0, 1), r(1, 1)) : std::atan2(r(1, 0), r(0, 0));
  return fmt::format("<origin xyz=\"{}\" rpy=\"{}\"/>", numbers(p.at * kMetre), numbers({roll, pitch, yaw}));
}

/// ∫ dm, ∫ x dm and ∫ x xᵀ dm.
struct Moments {
  double mass = 0;
  Vec3 first = Vec3::Zero();
  Eigen::Matrix3d second = Eigen::Matrix3d::Zero();

  void add(const body::TriangleMesh& mesh, const Pose& pose, double density) {
    for (const auto& t : mesh.triangles) {
      const Vec3 a = (pose.at + pose.axes * mesh.vertices[t[0]]) * kMetre,
                 b = (pose.at + pose.axes * mesh.vertices[t[1]]) * kMetre,
                 c = (pose.at + pose.axes * mesh.vertices[t[2]]) * kMetre, sum = a + b + c;
      const double six = density * a.dot(b.cross(c));
      mass += six / 6, first += six / 24 * sum;
      second += six / 120 * (sum * sum.transpose() + a * a.transpose() + b * b.transpose() + c * c.transpose());
    }
  }
  std::string text() const {
    const Vec3 middle = first / mass;
    const Eigen::Matrix3d about = second - mass * middle * middle.transpose();
    const Eigen::Matrix3d inertia = about.trace() * Eigen::Matrix3d::Identity() - about;
    return fmt::format(
        "    <inertial><origin xyz=\"{}\"/><mass value=\"{}\"/><inertia ixx=\"{}\" ixy=\"{}\" ixz=\"{}\" iyy=\"{}\" "
        "iyz=\"{}\" izz=\"{}\"/></inertial>\n",
        numbers(middle), mass, inertia(0, 0), plain(inertia(0, 1)), plain(inertia(0, 2)), inertia(1, 1),
        plain(inertia(1, 2)), inertia(2, 2));
  }
};

/// One rigid body and the joint on which it hangs.
struct Link {
  std::string name, parent;
  Pose pose;  // in the world, at the start
  enum class Joint { none, fixed, turns, slides } joint = Joint::none;
  Vec3 axis = Vec3::UnitZ();
  std::optional<double> times{};  // of the input's joint; none: free
  double half = 0;                // of a slide: how far it goes either way [mm]
  std::vector<const RobotPart*> parts{};
};

class Robot {
 public:
  explicit Robot(const job::Design& design)
      : design_(design), train_(job::told_train(design)), motion_(job::moved(design.machine, train_)) {
    base_ = "base";
    while (std::any_of(design.machine.members.begin(), design.machine.members.end(),
                       [&](const job::Member& m) { return m.name == base_; }))
      base_ += ".all";
    links_.push_back({base_, "", {}});
    for (const job::Carrier& c : design.machine.carriers) {
      if (!c.placed) continue;
      const job::Group& group = design.groups[c.group];
      add_member(c.member, {group.origin + group.axes * Vec3(c.axis.x(), c.axis.y(), 0), group.axes}, Vec3::UnitZ());
    }
  }

  void add(const RobotPart& p) {
    const view::Part& part = *p.part;
    if (part.motion) return add_of_reducer(p);
    if (!part.member) return void(links_.front().parts.push_back(&p));
    const Pose own{part.placement.at, part.placement.axes};
    if (part.gear && part.gear->teeth.is_rack()) {
      Link& link = add_member(*part.member, pose_of(part), Vec3::UnitX());
      link.half = part.gear->teeth.rack().sizes().length / 2;
      link.parts.push_back(&p);
    } else if (part.carrier) {
      add_planet(p, own);
    } else {
      add_member(*part.member, own, part.sense * Vec3::UnitZ()).parts.push_back(&p);
    }
  }

  std::string text() const {
    std::string out = fmt::format(
        "<?xml version=\"1.0\"?>\n<!-- made by palio {}; metres, kilograms, radians; joints follow {} by their ratios; "
        "what has no material weighs as {:g} kg/m³ -->\n<robot name=\"{}\">\n",
        kVersion, write::xml_escaped(design_.machine.members[train_.input].name), view::Part::kPlastic,
        write::xml_escaped(design_.title.empty() ? "machine" : design_.title));
    for (const Link& l : links_)
      out += link_text(l) + joint_text(l);
    return out + "</robot>\n";
  }

 private:
  std::optional<double> turns(std::size_t member) const {
    if (member == train_.input) return 1;
    if (std::find(train_.held.begin(), train_.held.end(), member) != train_.held.end()) return 0;
    const auto& t = motion_.turns[member];
    return t && !motion_.locked ? std::optional(t->value) : std::nullopt;
  }
  /// Of a coordinate a turn, of a rack a pitch, in radians and metres.
  double unit(std::size_t member) const {
    const job::Gear* rack = job::rack_of(design_, member);
    return rack ? rack->teeth.rack().pitch() * kMetre : 2 * kPi;
  }
  std::optional<double> times(std::optional<double> turned, std::size_t member) const {
    return turned ? std::optional(*turned * unit(member) / unit(train_.input)) : std::nullopt;
  }

  Link* named(const std::string& name) {
    const auto it = std::find_if(links_.begin(), links_.end(), [&](const Link& l) { return l.name == name; });
    return it == links_.end() ? nullptr : &*it;
  }

  Link& hang(Link link) {
    if (Link* there = named(link.name)) return *there;
    links_.push_back(std::move(link));
    return links_.back();
  }

  Link& add_member(std::size_t member, const Pose& pose, const Vec3& axis) {
    const bool rack = job::rack_of(design_, member) != nullptr;
    const auto turned = turns(member);
    Link link{design_.machine.members[member].name, base_, pose, rack ? Link::Joint::slides : Link::Joint::turns, axis};
    link.times = times(turned, member);
    if (turned == 0.0) link.joint = Link::Joint::fixed;
    return hang(std::move(link));
  }

  /// Every planet hangs on its carrier, and turns against it.
  void add_planet(const RobotPart& p, const Pose& own) {
    const std::size_t member = *p.part->member, carrier = design_.machine.carriers[*p.part->carrier].member;
    const auto turned = turns(member), carried = turns(carrier);
    // Copies of one member stand about the carrier: each is a link of its own, by where its axis is.
    const std::string base = design_.machine.members[member].name;
    std::string name = base;
    for (int k = 2;; ++k) {
      const Link* there = named(name);
      if (!there) break;
      const Vec3 apart = there->pose.at - own.at;
      if ((apart - own.axes.col(2) * own.axes.col(2).dot(apart)).norm() < math::kAlike) break;
      name = fmt::format("{}_{}", base, k);
    }
    Link link{name, design_.machine.members[carrier].name, own, Link::Joint::turns, p.part->sense * Vec3::UnitZ()};
    if (turned && p.part->inclined)
      link.times = times(turned, member);
    else if (turned && carried)
      link.times = times(*turned - *carried, member);
    hang(std::move(link)).parts.push_back(&p);
  }

  void add_of_reducer(const RobotPart& p) {
    using With = view::ReducerMotion::With;
    const view::ReducerMotion& motion = *p.part->motion;
    const Vec3 centre(motion.axis.x(), motion.axis.y(), p.part->placement.at.z());
    const Pose upright{centre, Eigen::Matrix3d::Identity()};
    if (motion.with == With::nothing) return void(links_.front().parts.push_back(&p));
    if (motion.with != With::crank)
      return void(add_member(*p.part->member, upright, Vec3::UnitZ()).parts.push_back(&p));
    // A disc turns on a crank that goes round with the input.
    const std::size_t input = *p.part->member;
    Link crank{p.part->name + ".crank", base_, upright, Link::Joint::turns};
    crank.times = times(turns(input), input);
    Link disc{p.part->name, crank.name, {p.part->placement.at, upright.axes}, Link::Joint::turns};
    // Against the crank, the way the disc lies.
    if (const auto in = turns(input)) disc.times = times(*in * (-1.0 / motion.loop - 1), input);
    hang(std::move(crank));
    hang(std::move(disc)).parts.push_back(&p);
  }

  std::string link_text(const Link& l) const {
    const std::string name = write::xml_escaped(l.name);
    if (l.parts.empty()) return fmt::format("  <link name=\"{}\"/>\n", name);
    std::string visuals;
    Moments moments;
    for (const RobotPart* p : l.parts) {
      const Pose pose = l.pose.inverse() * pose_of(*p->part);
      moments.add(*p->mesh, pose, p->part->density());
      const std::string shape = fmt::format("{}<geometry><mesh filename=\"{}\" scale=\"{} {} {}\"/></geometry>",
                                            origin(pose), p->file, kMetre, kMetre, kMetre);
      visuals += fmt::format("    <visual name=\"{}\">{}</visual>\n    <collision>{}</collision>\n",
                             write::xml_escaped(p->part->name), shape, shape);
    }
    return fmt::format("  <link name=\"{}\">\n{}{}  </link>\n", name, moments.text(), visuals);
  }

  std::string joint_text(const Link& l) const {
    if (l.joint == Link::Joint::none) return "";
    const auto parent =
        std::find_if(links_.begin(), links_.end(), [&](const Link& other) { return other.name == l.parent; });
    const char* type = l.joint == Link::Joint::fixed   ? "fixed"
                       : l.joint == Link::Joint::turns ? "continuous"
                                                       : "prismatic";
    std::string inside = fmt::format("<parent link=\"{}\"/><child link=\"{}\"/>{}", write::xml_escaped(l.parent),
                                     write::xml_escaped(l.name), origin(parent->pose.inverse() * l.pose));
    if (l.joint != Link::Joint::fixed) {
      inside += fmt::format("<axis xyz=\"{}\"/>", numbers(l.axis));
      if (l.joint == Link::Joint::slides)
        inside += fmt::format("<limit lower=\"{}\" upper=\"{}\" effort=\"0\" velocity=\"0\"/>", -l.half * kMetre,
                              l.half * kMetre);
      const std::string& input = design_.machine.members[train_.input].name;
      if (l.times && l.name != input)
        inside += fmt::format("<mimic joint=\"{}\" multiplier=\"{}\"/>", write::xml_escaped("of_" + input), *l.times);
    }
    return fmt::format("  <joint name=\"{}\" type=\"{}\">{}</joint>\n", write::xml_escaped("of_" + l.name), type,
                       inside);
  }

  const job::Design& design_;
  job::Train train_;
  job::TrainMotion motion_;
  std::string base_;
  std::vector<Link> links_;
};

}  // namespace

std::string urdf(const job::Design& design, const std::vector<RobotPart>& parts) {
  Robot robot(design);
  for (const RobotPart& p : parts)
    robot.add(p);
  return robot.text();
}

}  // namespace palio::make
