// A job, resolved: immutable gears and pairs with every default filled in and every play worked out. Consumers take
// a Design; none reads the job's text again.
#pragma once

#include <array>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "palio/body/solid.hpp"
#include "palio/body/stack.hpp"
#include "palio/design/machine.hpp"
#include "palio/design/process.hpp"
#include "palio/gear/teeth.hpp"
#include "palio/pair/pair.hpp"
#include "palio/reducer/parts.hpp"
#include "palio/reducer/play.hpp"
#include "palio/values/bearings.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/kind.hpp"
#include "palio/values/mistake.hpp"
#include "palio/values/units.hpp"
#include "palio/values/values.hpp"

namespace palio::job {

/// What a part is made of.
struct Material {
  std::string name;
  double density = 0;              ///< kg/m³
  std::string colour = "#9a9a9e";  ///< of pictures
  double shine = 0;                ///< 0 dull … 1 bright
};

/// The common ones; a job extends them by [material.NAME].
const std::vector<Material>& materials();

/// A plate before it became a body. Lengths in mm, places in the plate's own frame.
struct FramePlan {
  double thickness = 0, margin = 0, post_diameter = 0;
  struct Axis {
    Vec2 at;
    double bore;         ///< diameter; 0: none
    double post_height;  ///< above the plate; 0: none
    double wider = 0;    ///< drawn or made: the bore by so much, on diameter; the outline keeps to the nominal one
    /// Of a bearing at one end of the bore; of diameter 0: none.
    struct Seat {
      double diameter = 0, depth = 0, wider = 0;
      bool top = true;  ///< towards +z, from the end of the post
    };
    Seat seat{};
  };
  std::vector<Axis> axes;
  struct Hole {
    Vec2 at;
    double diameter;
    double wider = 0;
  };
  std::vector<Hole> holes;
  std::vector<curve::Outline> outline;  ///< drawn: the plate's own first, then what is cut out; empty: the hull
  std::vector<body::Cutout> cutouts;    ///< pockets from the plate's faces
  double walls = 0;                     ///< drawn or made: outline and posts moved out by so much
  double inset = 0, inset_height = 0;   ///< the lowest layer is drawn in by so much up to this height
};

/// Diameter of what stands about an axis and has to lie within the outline: bore, seat, post.
double widest(const FramePlan& plan, const FramePlan::Axis& axis);

/// The body of a plate: the hull of discs about all bores, posts and holes with the margin around them.
/// \throws InvalidParameter "bore", "holes", "post_diameter": what runs into what
body::Body body(const FramePlan& plan);

/// A gear of the design: placed teeth, with a body. Gears whose axes are parallel stand in one group, with a plane and
/// heights of its own.
struct Gear : pair::Placed {
  explicit Gear(pair::Placed placed) : Placed(std::move(placed)) {}
  /// Of what it stands on, without play [mm].
  double shaft_diameter() const { return bearing ? bearing->bore : bore_given; }
  /// Of what grip or fit are for, without play: the bearing's seat, or the bore [mm].
  double fitted_diameter() const { return bearing ? bearing->outside : bore_given; }
  /// How far the flange of its bearing stands out beyond an end of the body; 0 where there is none [mm].
  double flange_out(bool top) const noexcept {
    if (!bearing) return 0;
    for (const body::Step& s : features.steps) {
      if (s.seat && s.top == top) return bearing->flange_width;
    }
    return 0;
  }
  /// None where no fit was asked for by its symbol.
  std::optional<FitLimits> fit_limits() const { return hole_limits(grip, fitted_diameter()); }
  /// A cylindrical gear with its teeth as thin as their tolerance allows; nothing where there is no tolerance.
  /// \throws InvalidParameter where nothing is left of them
  std::optional<gear::CylindricalGear> thinnest() const;

  Kind kind{};
  double pressure_angle_deg = 0;   ///< echoed as given, of the system it was given in
  double helix_angle_deg = 0;      ///< echoed as given, without sign
  bool transverse_system = false;  ///< module, angle and coefficients were given in the transverse section
  std::optional<int> span_teeth;   ///< as asked
  std::optional<double> pin_diameter;
  double thickness_tolerance = 0;  ///< by which teeth may come out thinner, normal section [mm]
  double tip_tolerance = 0;        ///< by which the tip circle may come out smaller, a ring's larger [mm]
  double eccentricity = 0;         ///< of the teeth against what the gear turns about, expected of its making [mm]
  std::size_t group = 0;
  std::optional<double> speed_ratio;  ///< turns (rack: mm per radian) per turn of the first driver it hangs on, signed

  body::Features features{};                 ///< what stands around the teeth
  double bore_given = 0, bore_play = 0;      ///< the bore is as wide as the two together [mm]
  std::string grip{};                        ///< "press", "slide", "free", a fit as "H7", or empty
  std::optional<Bearing> bearing{};          ///< that the gear runs on; the play is then that of its seat
  std::optional<gear::Teeth> first_layer{};  ///< drawn: the teeth as the lowest layers have them
  std::optional<Material> material{};
  std::string part_name{}, part_number{};
  double radial = 1, axial = 1;  ///< drawn: the body is this much larger than the teeth say
};

/// A plate on the axes of pairs; its own frame has the first of its axes at the origin and its lower face at z = 0. One
/// that turns with a carrier has that axis at the origin. One above the gears is turned over about its own x.
struct Frame {
  /// A motor that is bolted on, and the screws that hold it.
  struct Motor {
    std::string flange;  ///< its size; empty where only sizes are given
    std::string screw;   ///< "M3"; empty likewise
    int count = 0;
  };
  std::string name;
  std::size_t group = 0;
  Vec3 at = Vec3::Zero();                ///< where its own origin stands in the group's frame [mm]
  std::vector<std::size_t> gears;        ///< on each of its axes, of planets every time; places in Design::gears
  std::optional<std::size_t> carrier{};  ///< that it turns with, a place in Machine::carriers
  bool over = false;                     ///< it lies above the gears, its posts pointing down
  std::vector<Motor> motors{};
  const Bearing* bearing = nullptr;  ///< that sits at its axes
  FramePlan plan;                    ///< what it was made from, nominal or changed as the design is
  double radial = 1, axial = 1;      ///< drawn: larger by so much
  std::optional<Material> material;
  std::string part_name, part_number;
};

/// What is made of a shaft itself: an axle, or one piece of it and its gears.
struct Axle {
  std::string name;        ///< the shaft's
  std::size_t member = 0;  ///< in Machine::members
  std::size_t group = 0;
  Vec2 axis = Vec2::Zero();          ///< in the plane of its group [mm]
  double from = 0, to = 0;           ///< along the group's axis [mm]
  double diameter = 0;               ///< nominal; 0: gears joined without an axle [mm]
  std::vector<std::size_t> gears{};  ///< that are one piece with it, places in Design::gears; none: it is an axle alone
  double walls = 0;                  ///< of one piece, drawn or made: the axle's surface moved out by so much [mm]
  double stretch = 1;                ///< of one piece as made: along the axis
  std::string fit{};                 ///< its symbol; empty: none
  std::vector<body::Neck> grooves{};  ///< for retaining rings, heights above `from`
  double ring_thickness = 0;          ///< of the rings [mm]

  /// None where no fit was asked for.
  std::optional<FitLimits> fit_limits() const { return shaft_limits(fit, diameter); }
};

/// Where the axes of a group of gears stand in space: z along them.
struct Group {
  Vec3 origin = Vec3::Zero();
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();  ///< columns: the group's x, y, z
};

/// What the way round by the other pairs makes of a pair that closes a loop.
struct WayRound {
  double ratio = 0;                      ///< of the driven's coordinate to the driver's by the other pairs
  std::string driver_turn, driven_turn;  ///< exact, of the first driver's turn: "-17/43"
  std::vector<Finding> findings;         ///< what does not close
};

/// A pair of the design: two of its gears, and what the job says of them.
struct Pair : pair::Pair {
  explicit Pair(pair::Pair pair) : pair::Pair(std::move(pair)) {}
  std::string name;
  std::size_t driver = 0, driven = 0;                         ///< places in Design::gears
  double reference_center_distance = 0, center_distance = 0;  ///< as designed [mm]
  double eccentricity = 0;                                    ///< of both gears together [mm]
  std::optional<double> friction;
  std::optional<double> speed;   ///< of the driver [r/min]
  std::optional<WayRound> loop;  ///< of a pair that closes a loop
  /// Of every further planet how far the driven stands beyond where it would mesh as with the first one, in its own
  /// coordinate [rad]; empty where all stand as that does.
  std::vector<double> planets{};
};

/// A cycloidal speed reducer of the design.
struct Reducer {
  std::string name;
  reducer::Reducer made;
  Vec3 at = Vec3::Zero();          ///< where its axis stands, parallel to z; the lower face of its discs [mm]
  std::optional<double> speed{};   ///< of the input [r/min]
  std::optional<double> torque{};  ///< at the input [N m]
  std::optional<Material> material{};
  std::string part_name{}, part_number{};
  double radial = 1, axial = 1;  ///< drawn: larger by so much
};

struct Design {
  std::string title;
  Units units = Units::mm;
  std::vector<Gear> gears;
  std::vector<Pair> pairs;
  std::vector<Group> groups;
  std::vector<Frame> frames;
  std::vector<Axle> axles;
  std::vector<Reducer> reducers;
  Machine machine;
  Process process;
  As as = As::nominal;
  Values values;  ///< what it was built from

  const Gear& gear(const std::string& name) const;  ///< \throws std::out_of_range
};

/// The design with its teeth and bores as they are drawn in files, or as they come out of the making. Pairs keep their
/// distances; their plays are those of the changed teeth.
/// \throws InvalidParameter where teeth cannot be changed so ("surface_offset", "kerf", "shrinkage")
Design as(const Design& design, As state);
/// One pair of it alone.
Pair as(const Design& design, const Pair& pair, As state);

/// A reducer in another state: bore, holes and seats by their allowance, the edge by the growth of surfaces.
Reducer as(const Reducer& reducer, const Process& process, As state);
std::vector<reducer::Part> parts(const Reducer& reducer);
/// Rolled as an assembly over a turn of the input.
reducer::Rolled rolled(const Reducer& reducer, int positions = 360);

/// The body of a part in the design's state.
body::Solid body(const Gear& gear);
body::Body body(const Frame& frame);
/// Its lower end at z = 0. \throws InvalidParameter as `body::stacked`
body::Body body(const Design& design, const Axle& axle);

/// Which gears hang together by pairs: of each gear the first one of its mechanism, places in Design::gears.
std::vector<std::size_t> mechanisms(const Design& design);

/// Speed of a gear [r/min; of a rack mm per radian of the turns of what drives it, times r/min], where a pair of its
/// mechanism says its driver's; signed.
std::optional<double> speed(const Design& design, std::size_t gear);

/// The pair rolled as it is placed; one that closes a loop where the others hold it; of planets the one that stands
/// worst.
/// \throws std::bad_optional_access where the two do not mesh
roll::Result rolled(const Pair& pair, int positions = 360);

/// Builds the design that the values ask for.
/// \throws JobError with every mistake found, those of reading too
Design resolve(const Values& values);

/// The same from text: as `Values::read`.
Design resolve(std::string_view text, const std::string& source, const std::vector<std::string>& overrides = {});

/// The kinds of starters there are, in the order in which they are listed.
std::vector<std::string> starter_names();

/// A commented job of one kind ("spur", "helical", "double_helical", "internal", "rack", "crossed", "bevel",
/// "cycloidal", "clock", "lantern", "reducer", "planetary", "train", "clock_train", "greenhouse") in millimetres or
/// inches, written from the key table. \throws InvalidParameter "kind"
std::string starter(std::string_view kind, Units units);

}  // namespace palio::job
