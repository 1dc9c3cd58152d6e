// What is read of a cycloidal speed reducer, and of a plate.
#include <algorithm>
#include <cmath>

#include "palio/reducer/load.hpp"
#include "readings.hpp"

namespace palio::job {
namespace reducer_rows {
namespace {

using At = ReducerAt;
using Row = ReadingRow<At>;
using Q = Quantity;

constexpr std::string_view kRollers = "rollers and ratio", kDisc = "disc", kOutput = "output", kRunning = "running";

Said range(const std::optional<roll::Range>& r) {
  return {{"min", r ? r->min : std::nan("")}, {"max", r ? r->max : std::nan("")}};
}

std::optional<reducer::Efficiency> losses(const At& a) {
  if (!a.spec().friction) return std::nullopt;
  return reducer::efficiency(a.reducer.made, *a.spec().friction);
}

Said output_torque(const At& a) {
  const auto e = losses(a);
  return e && a.reducer.torque ? Said(*a.reducer.torque * a.sizes().lobes * e->forward) : Said();
}

Said back_driving_torque(const At& a) {
  const auto e = losses(a);
  if (!e || !a.reducer.torque) return {};
  return e->backward > 0 ? *a.reducer.torque * a.sizes().lobes / e->backward : std::nan("");
}

Said serving_pins(const At& a) {
  if (a.spec().discs < 2) return {};
  std::vector<double> serving;
  for (const int n : a.reducer.made.serving_pins())
    serving.push_back(n);
  return serving.empty() ? Said() : Said(serving);
}

Said unbalance(const At& a) {
  const auto mass = a.disc_mass();
  if (!mass) return {};
  std::vector<Said> rows;
  for (int discs = 1; discs <= 3; ++discs) {
    const reducer::Unbalance u = reducer::unbalance(a.spec(), discs, *mass);
    rows.push_back({{"discs", discs}, {"force_g_mm", 1000 * u.force}, {"couple_g_mm2", 1000 * u.couple}});
  }
  return Said::rows(std::move(rows));
}

std::vector<Row> disc_rows() {
  return {
      Row("ratio", "ratio, input turns per output turn", "i", Q::ratio)
          .in(kRollers)
          .of(1, "turns of the input for one of the output; negative: the other way")
          .is("i = −Z", [](const At& a) { return a.sizes().ratio; }),
      Row("sense", "sense of turning", "", Q::number)
          .in(kRollers)
          .of(1, "the output turns against the input")
          .is([](const At&) { return Said("opposite"); }),
      Row("rollers", "rollers", "N", Q::count).in(kRollers).of(1, "in the ring").is([](const At& a) {
        return a.spec().rollers;
      }),
      Row("lobes", "lobes", "Z", Q::count)
          .in(kRollers)
          .of(1, "of the disc, one less than rollers")
          .is("Z = N − 1", [](const At& a) { return a.sizes().lobes; }),
      Row("roller_circle_diameter", "circle of the rollers", "", Q::circle)
          .in(kRollers)
          .of(1, "through the middles of the rollers")
          .is([](const At& a) { return a.spec().roller_circle_diameter; }),
      Row("roller_diameter", "rollers", "", Q::circle).in(kRollers).of(1, "of each roller").is([](const At& a) {
        return a.spec().roller_diameter;
      }),
      Row("adjacent_roller_gap", "between neighbouring rollers", "", Q::length)
          .in(kRollers)
          .of(1, "room between two rollers of the ring")
          .is("2 R sin(π/N) − 2 ρ", [](const At& a) { return a.sizes().adjacent_roller_gap; }),
      Row("eccentricity", "eccentricity", "E", Q::length)
          .in(kRollers)
          .of(1, "how far the crank carries the disc's middle off the axis")
          .is([](const At& a) { return a.spec().eccentricity; }),
      Row("max_eccentricity", "its limit R/N", "", Q::length)
          .in(kRollers)
          .of(1, "beyond it the disc's edge would cross itself")
          .is("R / N", [](const At& a) { return a.sizes().max_eccentricity; }),
      Row("eccentricity_margin", "left to that limit", "", Q::length)
          .in(kRollers)
          .of(1, "from the eccentricity to its limit")
          .is("R / N − E", [](const At& a) { return a.sizes().max_eccentricity - a.spec().eccentricity; }),
      Row("max_roller_radius_no_undercut", "roller radius from which the disc is undercut", "", Q::length)
          .in(kDisc)
          .of(1, "larger rollers would leave a cusp in the edge")
          .is([](const At& a) { return a.sizes().max_roller_radius_no_undercut; }),
      Row("undercut_margin", "left to that limit", "", Q::length)
          .in(kDisc)
          .of(1, "from the radius the edge is made for to where undercut begins")
          .is([](const At& a) {
            return a.sizes().max_roller_radius_no_undercut - a.reducer.made.curve().roller_radius;
          }),
      Row("min_convex_radius", "tightest crest of the edge, radius", "", Q::length)
          .in(kDisc)
          .of(1, "least radius of curvature of the lobes")
          .is([](const At& a) { return a.sizes().min_convex_radius; }),
      Row("min_concave_radius", "tightest hollow of the edge, radius (none: nowhere hollow)", "", Q::length)
          .in(kDisc)
          .of(1, "least radius of curvature between the lobes")
          .is([](const At& a) { return a.sizes().min_concave_radius.value_or(std::nan("")); }),
      Row("largest_disc_cutter", "largest cutter that follows the edge, diameter", "", Q::length)
          .in(kDisc)
          .of(1, "a mill that is larger cannot reach into the hollows")
          .is([](const At& a) { return a.sizes().largest_disc_cutter.value_or(std::nan("")); }),
      Row("disc_root_diameter", "roots of the disc", "", Q::circle)
          .in(kDisc)
          .of(1, "at the bottom of its hollows")
          .is([](const At& a) { return a.sizes().disc_root_diameter; }),
      Row("disc_crest_diameter", "crests of the disc", "", Q::circle)
          .in(kDisc)
          .of(1, "over its lobes")
          .is([](const At& a) { return a.sizes().disc_crest_diameter; }),
      Row("disc_offset", "edge inside the exact one by", "", Q::length)
          .in(kDisc)
          .of(1, "what makes the disc's play among the rollers")
          .is([](const At& a) { return a.spec().disc_offset; }),
      Row("discs", "discs", "", Q::count).in(kDisc).of(1, "side by side").is([](const At& a) {
        return a.spec().discs;
      }),
      Row("same_disc_part", "one disc part serves at all places", "", Q::number)
          .in(kDisc)
          .of(1, "whether all discs are made alike")
          .is([](const At& a) { return a.sizes().same_disc_part; }),
      Row("discs_flip", "the second disc is the first turned over", "", Q::number)
          .in(kDisc)
          .of(1, "whether the second disc has to be turned over")
          .is([](const At& a) { return a.spec().discs > 1 ? Said(a.sizes().discs_flip) : Said(); }),
      Row("serving_output_pins", "one part serves with so many output pins", "", Q::count)
          .in(kDisc)
          .of(1, "numbers of output pins with which all discs are alike")
          .is(serving_pins),
  };
}

std::vector<Row> output_rows() {
  return {
      Row("output_pins", "output pins", "n", Q::count).in(kOutput).of(1, "that the discs drive").is([](const At& a) {
        return a.spec().output_pins;
      }),
      Row("output_pin_circle_diameter", "circle of the output pins", "", Q::circle)
          .in(kOutput)
          .of(1, "through the middles of the pins")
          .is([](const At& a) { return a.spec().output_pin_circle_diameter; }),
      Row("output_pin_diameter", "output pins", "", Q::circle).in(kOutput).of(1, "of each pin").is([](const At& a) {
        return a.spec().output_pin_diameter;
      }),
      Row("output_hole_diameter", "their holes", "", Q::circle)
          .in(kOutput)
          .of(1, "in the discs, for the pins: wider by twice the eccentricity and the clearance")
          .is("d_pin + 2 E + clearance", [](const At& a) { return a.sizes().output_hole_diameter; }),
      Row("web_between_holes", "between neighbouring holes", "", Q::length)
          .in(kOutput)
          .of(1, "wall left there")
          .is([](const At& a) { return a.sizes().web_between_holes; }),
      Row("wall_hole_to_lobe", "from a hole to the roots of the lobes", "", Q::length)
          .in(kOutput)
          .of(1, "wall left there")
          .is([](const At& a) { return a.sizes().wall_hole_to_lobe; }),
      Row("wall_hole_to_bore", "from a hole to the bore", "", Q::length)
          .in(kOutput)
          .of(1, "wall left there")
          .is([](const At& a) { return a.sizes().wall_hole_to_bore; }),
      Row("largest_hole_cutter", "largest cutter for holes and bore, diameter", "", Q::length)
          .in(kOutput)
          .of(1, "a mill that is larger does not fit in")
          .is([](const At& a) { return a.sizes().largest_hole_cutter; }),
      Row("bore_diameter", "bore", "", Q::circle)
          .in(kBody)
          .of(1, "of the discs, for their bearing")
          .is([](const At& a) { return a.spec().bore_diameter; }),
      Row("journal_diameter", "journals, seat of the bearing inside", "", Q::circle)
          .in(kBody)
          .of(1, "of the eccentric journals of the shaft")
          .is([](const At& a) { return a.sizes().journal_diameter; }),
      Row("shaft_diameter", "shaft", "", Q::circle).in(kBody).of(1, "of the input shaft").is([](const At& a) {
        return a.sizes().shaft_diameter;
      }),
      Row("ring_inner_diameter", "ring inside", "", Q::circle)
          .in(kBody)
          .of(1, "of the ring that holds the rollers")
          .is([](const At& a) { return a.sizes().ring_inner_diameter; }),
      Row("ring_outer_diameter", "ring outside", "", Q::circle)
          .in(kBody)
          .of(1, "of the ring that holds the rollers")
          .is([](const At& a) { return a.sizes().ring_outer_diameter; }),
      Row("face_width", "face width", "b", Q::length).in(kBody).of(1, "of each disc").is([](const At& a) {
        return a.spec().face_width;
      }),
      Row("disc_gap", "between discs, and to the flange", "", Q::length)
          .in(kBody)
          .of(1, "along the axis")
          .is([](const At& a) { return a.spec().disc_gap; }),
      Row("height", "height", "", Q::length).in(kBody).of(1, "of the discs with their gaps").is([](const At& a) {
        return a.sizes().height;
      }),
  };
}

std::vector<Row> running_rows() {
  return {
      Row("verdict", "rolled", "", Q::number)
          .in(kRunning)
          .of(1, "whether the assembly turns, found by rolling it")
          .is([](const At& a) { return Said(std::string(roll::name(a.rolled().verdict))); })
          .costs(ReadingCost::roll),
      Row("angular_backlash_deg", "angular backlash at the output", "j_φ", Q::angle)
          .in(kRunning)
          .of(1, "how far the output can be turned while the input stands still, over a turn of the input")
          .is([](const At& a) { return range(a.rolled().play); })
          .costs(ReadingCost::roll),
      Row("disc_play_deg", "play of a disc between the rollers, over a turn of the input", "", Q::angle)
          .in(kRunning)
          .of(1, "how far a disc alone can be turned while the input stands still")
          .is([](const At& a) { return range(a.rolled().disc_play); })
          .costs(ReadingCost::roll),
      Row("friction", "friction", "μ", Q::number).in(kRunning).of(1, "as given").is([](const At& a) {
        return Said(a.spec().friction);
      }),
      Row("rollers_turn", "rollers turn", "", Q::number)
          .in(kRunning)
          .of(1, "whether the rollers turn on pins of their own, which lose less")
          .is([](const At& a) -> Said {
            if (!a.spec().friction) return {};
            return a.spec().roller_pin_diameter > 0 ? "yes, on their pins" : "no";
          }),
      Row("efficiency", "efficiency", "η", Q::number)
          .in(kRunning)
          .of(1, "what friction leaves of the power")
          .is([](const At& a) {
            const auto e = losses(a);
            return e ? Said(e->forward) : Said();
          }),
      Row("efficiency_backwards", "efficiency driven backwards", "η'", Q::number)
          .in(kRunning)
          .of(1, "the same when the output drives; 0 or less: it locks itself")
          .is([](const At& a) {
            const auto e = losses(a);
            return e ? Said(e->backward) : Said();
          }),
      Row("back_drivable", "can be driven backwards", "", Q::number)
          .in(kRunning)
          .of(1, "whether turning the output turns the input")
          .is([](const At& a) {
            const auto e = losses(a);
            return e ? Said(e->backward > 0) : Said();
          }),
      Row("output_torque", "output torque (N m)", "", Q::number)
          .in(kRunning)
          .of(1, "what the output gives, losses taken off")
          .is("T Z η", output_torque),
      Row("back_driving_torque", "output torque that overcomes this torque held at the input (N m)", "", Q::number)
          .in(kRunning)
          .of(1, "from where on the output turns an input that is held with the torque given")
          .is("T Z / η'", back_driving_torque),
      Row("output_torque_without_losses", "output torque without losses (N m)", "", Q::number)
          .in(kRunning)
          .of(1, "what the output would give without friction")
          .is("T Z",
              [](const At& a) {
                return !a.spec().friction && a.reducer.torque ? Said(*a.reducer.torque * a.sizes().lobes) : Said();
              }),
      Row("torque", "input torque (N m)", "", Q::number).in(kRunning).of(1, "as given").is([](const At& a) {
        return Said(a.reducer.torque);
      }),
      Row("speed", "speed (r/min)", "n", Q::number).in(kRunning).of(1, "of the input, as given").is([](const At& a) {
        return Said(a.reducer.speed);
      }),
      Row("output_speed", "output speed (r/min)", "", Q::number)
          .in(kRunning)
          .of(1, "negative: against the input")
          .is("n / i", [](const At& a) { return a.reducer.speed ? Said(*a.reducer.speed / a.sizes().ratio) : Said(); }),
      Row("disc_volume", "volume of a disc", "", Q::volume).in(kBody).of(1, "marks taken off").is([](const At& a) {
        return a.disc_volume();
      }),
      Row("material", "material", "", Q::number).in(kBody).of(1, "of the discs").is([](const At& a) {
        return a.reducer.material ? Said(a.reducer.material->name) : Said();
      }),
      Row("disc_mass_kg", "mass of a disc", "", Q::mass)
          .in(kBody)
          .of(1, "where a material is said")
          .is("m = ρ V", [](const At& a) { return Said(a.disc_mass()); }),
      Row("unbalance", "unbalance of the discs", "", Q::number)
          .in(kRunning)
          .of(1, "force and couple of the discs that go round with the crank, for one, two and three discs")
          .is("m E; m E times the distance apart", unbalance),
  };
}

Said axes(const FrameAt& a) {
  std::vector<Said> rows;
  for (std::size_t i = 0; i < a.frame.plan.axes.size(); ++i) {
    const FramePlan::Axis& axis = a.frame.plan.axes[i];
    // The last one of a carrier's plate is its own.
    const bool of_gear = i < a.frame.gears.size();
    std::vector<Said::Child> row{
        {"gear", of_gear ? a.design.gears[a.frame.gears[i]].name : a.design.machine.carriers[*a.frame.carrier].name},
        {"at", std::vector<double>{axis.at.x(), axis.at.y()}},
        {"bore", axis.bore + axis.wider}};
    if (axis.seat.diameter > 0) row.emplace_back("seat", axis.seat.diameter + axis.seat.wider);
    row.emplace_back("post_height", axis.post_height);
    rows.push_back(Said::table(std::move(row)));
  }
  return Said::rows(std::move(rows));
}

std::vector<ReadingRow<FrameAt>> plate_rows() {
  return {
      ReadingRow<FrameAt>("thickness", "thickness", "", Q::length)
          .in(kBody)
          .of(1, "of the plate")
          .is([](const FrameAt& a) { return a.frame.plan.thickness; }),
      ReadingRow<FrameAt>("axes", "axes", "", Q::number)
          .in(kBody)
          .of(1, "of each gear on the plate, planets one by one: where its axis stands, its bore and its post")
          .is(axes),
  };
}

}  // namespace
}  // namespace reducer_rows

double ReducerAt::disc_volume() const {
  return volume([&] {
    for (const reducer::Part& p : parts(reducer)) {
      if (p.kind == reducer::PartKind::disc && p.number == 0) return body::mass_properties(p.body).volume;
    }
    return 0.0;
  });
}

std::optional<double> ReducerAt::disc_mass() const {
  if (!reducer.material) return std::nullopt;
  return disc_volume() * (reducer.material->density * 1e-9);
}

const std::vector<ReadingRow<ReducerAt>>& reducer_readings() {
  using namespace reducer_rows;
  static const std::vector<Row> all = joined<At>({disc_rows(), output_rows(), running_rows(), name_rows<At>(1)});
  return all;
}

const std::vector<ReadingRow<FrameAt>>& frame_readings() {
  using namespace reducer_rows;
  static const std::vector<ReadingRow<FrameAt>> all =
      joined<FrameAt>({plate_rows(), name_rows<FrameAt>(1), mass_rows<FrameAt>(1, 1)});
  return all;
}

}  // namespace palio::job
