// Seats of bearings, stepped bores, hubs on both sides: held against the solids that are made and the shaft that goes
// in.
#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <tuple>
#include <vector>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "idler.hpp"
#include "palio/body/mesh.hpp"
#include "palio/readings/reading.hpp"
#include "palio/values/bearings.hpp"
#include "palio/values/motors.hpp"
#include "palio/view/parts_list.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using test::free_radius;
using test::idler;
using test::mesh_of;

TEST_CASE("bearings of the table are rings with room for balls, wider and thicker from series to series") {
  std::set<std::string_view> names;
  for (const job::Bearing& b : job::ball_bearings()) {
    CAPTURE(std::string(b.designation));
    CHECK(names.insert(b.designation).second);
    const double section = (b.outside - b.bore) / 2;
    CHECK(section > 0);
    // Balls take about six tenths of the section and have to be held by both rings.
    CHECK(b.width > 0.6 * section);
    CHECK(b.width < 1.5 * section);
    // From 04 on a designation's last digits are a fifth of the bore; single ones of three digits are the bore.
    const bool flanged = b.designation[0] == 'F';
    const std::string digits(b.designation.substr(flanged ? 1 : 0));
    if (flanged) {
      // The same ring as without the flange, which is a small rim of it.
      const job::Bearing* plain = job::ball_bearing(digits);
      REQUIRE(plain);
      CHECK(std::tuple(plain->bore, plain->outside, plain->width) == std::tuple(b.bore, b.outside, b.width));
      CHECK(b.flange_diameter > b.outside + 1);
      CHECK(b.flange_diameter < b.outside + 4);
      CHECK(b.flange_width > 0.15 * b.width);
      CHECK(b.flange_width < 0.3 * b.width);
    } else {
      CHECK((b.flange_diameter == 0 && b.flange_width == 0));
    }
    if (digits.size() == 3) CHECK(b.bore == digits[2] - '0');
    if (digits.size() == 4 && std::stoi(digits.substr(2)) >= 4) CHECK(b.bore == 5 * std::stoi(digits.substr(2)));
  }
  // Of one bore, a heavier series is wider across: 68 69 60 62 63.
  for (const char* last : {"00", "01", "02", "03", "04", "05", "06"}) {
    double before = 0;
    for (const char* series : {"68", "69", "60", "62", "63"}) {
      const job::Bearing* b = job::ball_bearing(std::string(series) + last);
      REQUIRE(b);
      CHECK(b->outside > before);
      before = b->outside;
    }
  }
}

TEST_CASE("a bearing goes into every seat that is made for it, as far as its width, and meets a shoulder there") {
  int made = 0;
  for (unsigned seed = 1; seed <= 40; ++seed) {
    test::Draw draw(seed);
    const auto& all = job::ball_bearings();
    const job::Bearing& b = all[static_cast<std::size_t>(draw.whole(0, static_cast<int>(all.size()) - 1))];
    const std::string face = draw.of({0, 1, 2}) == 0 ? "top" : draw.of({0, 1}) == 0 ? "bottom" : "both";
    const double hub = draw.of({0.0, 5.0}), play = draw.of({0.0, -0.03, 0.05});
    const std::string text =
        idler(fmt::format("bore.bearing='{}'\nbore.face='{}'\nbore.allowance={}\n{}", b.designation, face, play,
                          hub > 0 ? fmt::format("hubs=[{{diameter={},length={},face='{}'}}]\n", b.outside + 6, hub,
                                                draw.of({0, 1}) == 0 ? "both" : "top")
                                  : ""));
    CAPTURE(text);
    const std::string refused = test::mistakes(text);
    if (!refused.empty()) {
      CHECK((refused.find("bore.bearing") != std::string::npos || refused.find("hubs") != std::string::npos));
      continue;
    }
    ++made;
    const job::Design d = job::resolve(text, "job.toml");
    const body::TriangleMesh mesh = mesh_of(d);
    const body::Body body = job::body(d.gears[0]).layers();
    constexpr double kHair = 1e-3;
    for (const bool top : {true, false}) {
      const double end = top ? body.top() : body.bottom(), in = top ? -1 : 1;
      if (face != "both" && (face == "top") != top) {
        CHECK_THAT(free_radius(mesh, end + in * kHair), WithinAbs((b.bore + b.outside) / 4, 3e-3));
        continue;
      }
      // All the way in it is as wide as the bearing and its fit; behind it both rings' middle is open, the outer ring
      // stands on material and the inner one is free.
      for (const double z : {kHair, 0.43 * b.seat_depth(), b.seat_depth() - kHair})
        CHECK_THAT(free_radius(mesh, end + in * z), WithinAbs((b.outside + play) / 2, 3e-3));
      const double behind = free_radius(mesh, end + in * (b.seat_depth() + kHair));
      CHECK(behind < b.outside / 2 - 0.2 * (b.outside - b.bore) / 2);
      CHECK(behind > b.bore / 2 + 0.2 * (b.outside - b.bore) / 2);
    }
  }
  CHECK(made > 20);
}

TEST_CASE("what is told of a seat is what the files have, process and all") {
  const std::string text = idler("bore.bearing='608'\nbore.grip='press'\n");
  const nlohmann::json plain = test::report(text)["gears"]["idler"];
  CHECK(plain["bearing"] == "608");
  CHECK(plain["bearing_bore"] == 8);
  CHECK(plain["bearing_seat_depth"] == 7);
  CHECK(plain["bearing_seat_diameter"] == 22);  // no process: no play is kept for a press fit
  CHECK_FALSE(plain.contains("bearing_seat_drawn_diameter"));
  for (const char* preset : {"print", "mill", "laser"}) {
    CAPTURE(preset);
    const job::Design d = job::resolve(text + fmt::format("[process]\npreset='{}'\n", preset), "job.toml");
    const nlohmann::json told = nlohmann::json::parse(job::report_json(d, false))["gears"]["idler"];
    CHECK_THAT(told["bearing_seat_diameter"].get<double>(), WithinAbs(22 + d.process.press, 1e-12));
    const job::Design drawn = job::as(d, job::As::drawn);
    const body::TriangleMesh mesh = mesh_of(drawn);
    CHECK_THAT(2 * free_radius(mesh, 17.9), WithinAbs(told["bearing_seat_drawn_diameter"].get<double>(), 5e-3));
    // The bore behind is no fit: it keeps its size but for what the process takes.
    CHECK_THAT(told["bore_diameter"].get<double>(), WithinAbs(15, 1e-12));
  }
}

TEST_CASE("a seat that leaves no shoulder, or no wall, is refused with the number that would do") {
  const std::string thin = "[gear.idler]\nkind='spur'\nteeth=40\nmodule=1.5\nbore.bearing='608'\nbore.face='both'\n";
  CHECK_THAT(test::mistakes(thin + "face_width=13\n"),
             Contains("bore.bearing") && Contains("longer by more than 1 mm"));
  CHECK(test::mistakes(thin + "face_width=14.01\n").empty());
  CHECK_THAT(test::mistakes(idler("bore={bearing='608',diameter=23}\n")), Contains("reaches to a diameter of 23"));
  CHECK_THAT(test::mistakes(idler("bore.bearing='6206'\n")), Contains("bore.bearing") && Contains("roots"));
  CHECK_THAT(test::mistakes(idler("bore.bearing='611'\n")), Contains("608"));
  CHECK_THAT(test::mistakes(idler("bore.steps=[{diameter=20,depth=3},{diameter=18,depth=2}]\nbore.diameter=8\n")),
             Contains("deeper step is narrower"));
  CHECK_THAT(test::mistakes(idler("hex.across_flats=20\nbore.steps=[{diameter=22,depth=3}]\n")),
             Contains("reaches to a diameter of 23.09"));
}

TEST_CASE("a step counts from the end of its hub, and blind pockets need no bore") {
  const job::Design d =
      job::resolve(idler("hubs=[{diameter=26,length=4}]\nbore.steps={diameter=16,depth=6,face='top'}\n"), "job.toml");
  const body::TriangleMesh mesh = mesh_of(d);
  CHECK_THAT(free_radius(mesh, 16.1), WithinAbs(8, 3e-3));
  CHECK(free_radius(mesh, 15.9) > 20);  // solid: the first wall from the axis is the teeth
}

TEST_CASE("the overall length is shared by the hubs that have none of their own") {
  const auto ends = [](const std::string& more) {
    const job::Design d = job::resolve(idler(more), "job.toml");
    const body::Body b = job::body(d.gears[0]).layers();
    return std::pair(b.bottom(), b.top());
  };
  CHECK(ends("overall_length=30\nhubs={diameter=20,face='both'}\n") == std::pair(-6.0, 24.0));
  CHECK(ends("overall_length=30\nhubs={diameter=20}\n") == std::pair(0.0, 30.0));
  CHECK(ends("overall_length=30\nhubs=[{diameter=20,face='bottom'},{diameter=24,length=5}]\n") ==
        std::pair(-7.0, 23.0));
  CHECK(ends("overall_length=30\nhubs=[{diameter=20},{diameter=24,length=5}]\n") == std::pair(0.0, 30.0));
  CHECK(ends("hubs={diameter=20,length=3,face='both'}\n") == std::pair(-3.0, 21.0));
  CHECK_THAT(test::mistakes(idler("overall_length=15\nhubs={diameter=20}\n")), Contains("more than 18 mm is needed"));
  CHECK_THAT(test::mistakes(idler("overall_length=20\nhubs={diameter=20,length=3}\n")), Contains("21 mm long"));
  CHECK(test::mistakes(idler("overall_length=21\nhubs={diameter=20,length=3}\n")).empty());
}

TEST_CASE("an empty list is none, also where the gear it is like has some") {
  const std::string wheel =
      "[gear.w]\nkind='spur'\nteeth=50\nmodule=2\nbore=10\nhubs={diameter=20,length=3}\n"
      "holes={count=4,circle_diameter=50,diameter=6}\n[gear.v]\nlike='w'\nbore.steps={diameter=14,depth=2}\n"
      "[gear.u]\nlike='v'\n";
  const job::Design with = job::resolve(wheel, "job.toml");
  for (const job::Gear& g : with.gears)
    CHECK((g.features.hubs.size() == 1 && g.features.holes.size() == 1));
  const job::Design without = job::resolve(wheel + "hubs=[]\nholes=[]\nbore.steps=[]\n", "job.toml");
  const body::Features &f = without.gears[2].features, &kept = without.gears[1].features;
  CHECK((f.hubs.empty() && f.holes.empty() && f.steps.empty()));
  CHECK((kept.hubs.size() == 1 && kept.holes.size() == 1 && kept.steps.size() == 1));
  CHECK(test::mistakes("[shared]\nhubs=[]\n" + wheel).empty());
}

TEST_CASE("an axle goes through the bearing of what it carries; plates bore for it; bearings are counted and bought") {
  const std::string text =
      "[shared]\nkind='spur'\nmodule=1\nface_width=12\n[gear.a]\nteeth=40\nbore={{bearing='608',face='top'}}\n"
      "[gear.b]\nteeth=44\nbore={{bearing='608',face='top'}}\n[gear.c]\nteeth=30\nbore=5\n"
      "[pair.p]\ndriver='c'\ndriven='a'\n[pair.q]\ndriver='a'\ndriven='b'\n[shaft.pin]\ngears=['a']\ndiameter={}\n"
      "[frame.plate]\npairs=['p','q']\nthickness=5\n";
  const job::Design d = job::resolve(fmt::format(text, 8), "job.toml");
  CHECK_FALSE(test::finds(d, "axle-loose"));
  CHECK_FALSE(test::finds(d, "axle-too-thick"));
  CHECK(test::finds(job::resolve(fmt::format(text, 9), "job.toml"), "axle-too-thick"));
  CHECK(test::finds(job::resolve(fmt::format(text, 7), "job.toml"), "axle-loose"));
  std::multiset<double> bores;
  for (const job::FramePlan::Axis& a : d.frames[0].plan.axes)
    bores.insert(a.bore);
  CHECK(bores == std::multiset<double>{5, 8, 8});
  const auto list = view::parts_list(d);
  REQUIRE(list.back().bought);
  CHECK(list.back().name == "608");
  CHECK(list.back().quantity == 2);
  CHECK_THAT(view::parts_csv(d),
             Contains(",608,,ball bearing,") || Contains("608,,\"ball bearing, 8 × 22 × 7 mm\",,2,,"));
}

TEST_CASE("a motor's screws stand on the square of its flange about the shaft that it drives") {
  const std::map<std::string, double> squares{{"11", 23},    {"14", 26},    {"17", 31},
                                              {"23", 47.14}, {"24", 47.14}, {"34", 69.6}};
  CHECK(squares.size() == job::motor_faces().size());
  for (const auto& [flange, square] : squares) {
    for (const char* side : {"below", "above"}) {
      const std::string text = fmt::format(
          "[shared]\nmodule=2\nface_width=8\n[gear.p]\nkind='spur'\nteeth=20\nbore=5\n[gear.w]\nlike='p'\nteeth=80\n"
          "[pair.s]\ndriver='p'\ndriven='w'\nbacklash=0.1\ndirection=30\n"
          "[frame.plate]\nthickness=4\nside='{}'\npost_height=2\nmotors=[{{gear='w',flange={}}}]\n",
          side, flange);
      CAPTURE(text);
      const job::Design d = job::resolve(text, "job.toml");
      const job::Frame& frame = d.frames[0];
      const job::FramePlan::Axis& axis = frame.plan.axes[1];
      CHECK(axis.post_height == 0);
      CHECK(frame.plan.axes[0].post_height > 0);
      CHECK(axis.bore == job::motor_face(flange)->pilot);
      REQUIRE(frame.plan.holes.size() == 4);
      for (std::size_t k = 0; k < 4; ++k) {
        const Vec2 to_next = frame.plan.holes[(k + 1) % 4].at - frame.plan.holes[k].at;
        CHECK_THAT(to_next.norm(), WithinAbs(square, 0.01));
        // Level with the plate's own axes, whichever side it lies on.
        CHECK_THAT(std::min(std::abs(to_next.x()), std::abs(to_next.y())), WithinAbs(0, 1e-9));
        CHECK_THAT(((frame.plan.holes[k].at + frame.plan.holes[(k + 2) % 4].at) / 2 - axis.at).norm(),
                   WithinAbs(0, 1e-9));
      }
      int motors = 0, screws = 0;
      for (const view::ListedPart& p : view::parts_list(d)) {
        if (p.name == "motor " + flange) motors += static_cast<int>(p.quantity);
        if (p.name == job::motor_face(flange)->screw) screws += static_cast<int>(p.quantity);
      }
      CHECK(motors == 1);
      CHECK(screws == 4);
    }
  }
  const std::string job =
      "[shared]\nmodule=2\nface_width=8\n[gear.p]\nkind='spur'\nteeth=20\nbore=5\n[gear.w]\nlike='p'\nteeth=80\n"
      "[pair.s]\ndriver='p'\ndriven='w'\nbacklash=0.1\n[frame.plate]\nthickness=4\n";
  CHECK_THAT(test::mistakes(job + "motors=[{gear='q',flange=17}]\n"), Contains("no gear on the plate's axes"));
  CHECK_THAT(test::mistakes(job + "motors=[{gear='p'}]\n"), Contains("needs a gear on its shaft, and a flange"));
  CHECK_THAT(test::mistakes(job + "motors=[{gear='p',flange=17,circle_diameter=20}]\n"),
             Contains("need more than 25.4 mm"));
  // By its sizes alone: nothing that could be bought by a name.
  const job::Design d = job::resolve(
      job + "motors=[{gear='p',pilot_diameter=12,circle_diameter=25,hole_diameter=3.2,count=2,angle=90}]\n",
      "job.toml");
  REQUIRE(d.frames[0].plan.holes.size() == 2);
  CHECK_THAT((d.frames[0].plan.holes[0].at - Vec2(0, 12.5)).norm(), WithinAbs(0, 1e-12));
  for (const view::ListedPart& p : view::parts_list(d))
    CHECK_FALSE(p.bought);
}

TEST_CASE("bearings sit in a plate's bores with a shoulder behind them, on posts too, and are bought") {
  std::vector<job::Bearing> all;  // that stand beside each other in these gears, flanged ones too
  for (const job::Bearing& b : job::ball_bearings()) {
    if (b.outside < 33) all.push_back(b);
  }
  for (unsigned seed = 1; seed <= 60; ++seed) {
    test::Draw draw(seed);
    const job::Bearing& b = all[static_cast<std::size_t>(draw.whole(0, static_cast<int>(all.size()) - 1))];
    const bool top = draw.of({0, 1}) == 0;
    const double thickness = draw.between(3, 12), post = draw.of({0.0, 3.0}), play = draw.of({0.0, 0.05, -0.02});
    const std::string text = fmt::format(
        "[shared]\nmodule=4\nface_width=8\n[gear.p]\nkind='spur'\nteeth=20\nbore=5\n[gear.w]\nlike='p'\nteeth=40\n"
        "[pair.s]\ndriver='p'\ndriven='w'\nbacklash=0.1\n[frame.plate]\nthickness={}\npost_height={}\naxial_gap={}\n"
        "bore={{bearing='{}',face='{}',allowance={}}}\n",
        thickness, post, 0.5 + b.flange_width, b.designation, top ? "top" : "bottom", play);
    CAPTURE(text);
    const std::string refused = test::mistakes(text);
    const double deep = b.width - b.flange_width;
    if (deep >= thickness + post) {
      CHECK_THAT(refused,
                 Contains("leaves no shoulder") && Contains(fmt::format("thicker than {:.6g} mm", deep - post)));
      continue;
    }
    REQUIRE(refused.empty());
    const job::Design d = job::resolve(text, "job.toml");
    const job::FramePlan& plan = d.frames[0].plan;
    // By hand: what the plate without seats and bores has, less both of them.
    job::FramePlan solid = plan;
    for (job::FramePlan::Axis& a : solid.axes)
      a.bore = 0, a.seat = {};
    // The outline keeps clear of the seats: the same discs, by the margin.
    solid.margin += plan.post_diameter >= b.outside + play && post > 0
                        ? 0
                        : (widest(plan, plan.axes[0]) - widest(solid, solid.axes[0])) / 2;
    const auto disc = [](double diameter) { return kPi * diameter * diameter / 4; };
    const double behind = (b.bore + b.outside) / 2,
                 less = 2 * (disc(b.outside + play) * deep + disc(behind) * (thickness + post - deep));
    const double volume = body::mass_properties(job::body(solid)).volume - less;
    CHECK_THAT(body::mass_properties(job::body(plan)).volume, WithinAbs(volume, 1e-9 * volume));
    // A circle as wide as the bearing is free as deep as it is, and no deeper.
    const body::TriangleMesh mesh = body::mesh(job::body(plan), 0.002);
    const double length = thickness + post, end = top ? length : 0, in = top ? -1 : 1;
    CHECK_THAT(free_radius(mesh, end + in * 0.4 * deep), WithinAbs((b.outside + play) / 2, 3e-3));
    CHECK_THAT(free_radius(mesh, end + in * (deep + 1e-3)), WithinAbs(behind / 2, 3e-3));
    std::size_t bought = 0;
    for (const view::ListedPart& p : view::parts_list(d))
      bought += p.bought ? p.quantity : 0;
    CHECK(bought == 2);
  }
  // Drawn by a process, a seat is wider by what a hole of its size needs; a motor's axis has none.
  const std::string text =
      "[shared]\nmodule=4\nface_width=8\n[gear.p]\nkind='spur'\nteeth=20\nbore=5\n[gear.w]\nlike='p'\nteeth=40\n"
      "[pair.s]\ndriver='p'\ndriven='w'\nbacklash=0.1\n[frame.plate]\nthickness=9\nbore.bearing=608\n"
      "motors=[{gear='p',flange=17}]\n[process]\nhole_allowance=0.2\n";
  const job::Design drawn = job::as(job::resolve(text, "job.toml"), job::As::drawn);
  CHECK(drawn.frames[0].plan.axes[0].seat.diameter == 0);
  CHECK_THAT(drawn.frames[0].plan.axes[1].seat.diameter + drawn.frames[0].plan.axes[1].seat.wider,
             WithinAbs(22.2, 1e-9));
}

TEST_CASE("a flange on the end of a part is in the way of what stands there, and plates keep clear of it") {
  const std::string two =
      "[shared]\nkind='spur'\nmodule=1.5\nface_width=14\n[gear.a]\nteeth=40\nbore={{bearing='F608',face='{}'}}\n"
      "[gear.b]\nteeth=24\nbore=8\n[gear.c]\nteeth=20\nbore=5\n[pair.p]\ndriver='c'\ndriven='a'\n"
      "[shaft.pin]\ngears=['a','b']\ngap={}\n";
  // The flange stands out by 1.5 mm.
  for (const auto& [face, gap, meets] :
       {std::tuple{"top", 1.0, true}, {"top", 1.6, false}, {"bottom", 1.0, false}, {"both", 1.0, true}}) {
    CAPTURE(face, gap);
    const job::Design d = job::resolve(fmt::format(two, face, gap), "job.toml");
    CHECK(test::finds(d, "bodies-collide") == meets);
    CHECK_THAT(view::parts_csv(d), Contains("flanged ball bearing, 8 × 22 × 7 mm, flange 25 × 1.5 mm"));
  }
  const std::string plate =
      "[gear.p]\nkind='spur'\nmodule=2\nteeth=20\nbore=5\n[gear.w]\nlike='p'\nteeth=40\n{}[pair.s]\ndriver='p'\n"
      "driven='w'\nbacklash=0.1\n[frame.plate]\nthickness=10\n{}";
  const auto clear = [&](const std::string& gear, const std::string& frame) {
    const job::Design d = job::resolve(fmt::format(plate, gear, frame), "job.toml");
    CHECK_FALSE(test::finds(d, "bodies-collide"));
    return -d.frames[0].at.z() - 10 - d.gear("p").teeth.face_width() / 2;
  };
  CHECK_THAT(clear("", "bore.bearing='608'\n"), WithinAbs(1, 1e-9));
  CHECK_THAT(clear("", "bore.bearing='F608'\n"), WithinAbs(2.5, 1e-9));
  CHECK_THAT(clear("", "bore={bearing='F608',face='bottom'}\n"), WithinAbs(1, 1e-9));
  CHECK_THAT(clear("bore={bearing='F608',face='bottom'}\n", ""), WithinAbs(2.5, 1e-9));
  const std::string tight = test::mistakes(fmt::format(plate, "", "bore.bearing='F608'\naxial_gap=1.2\n"));
  CHECK_THAT(tight, Contains("1.5 mm towards the gears") && Contains("frame.plate.axial_gap = 2.5 would do"));
  CHECK(test::mistakes(fmt::format(plate, "", "bore.bearing='F608'\naxial_gap=2.5\n")).empty());
}

TEST_CASE("screws and pins across tell each its own length, whatever stands beside them") {
  const auto told = [](const std::string& reading, const std::string& across) {
    const job::Design d = job::resolve(
        "[gear.a]\nkind='spur'\nmodule=2\nteeth=30\nface_width=10\nbore=8\nflat.height=7\n"
        "hubs=[{diameter=24,length=16}]\n" +
            across,
        "v");
    return job::reading_number(d, "gear.a." + reading).value_or(0);
  };
  // Onto the flat from 3 mm of the axis, onto the round from 4; the pin from side to side, higher up.
  const std::string pin = "cross_pin={diameter=3,height=22,angle=90}\n", screw = "set_screw={thread='M3',height=14}\n";
  CHECK_THAT(told("set_screw_length", screw + pin), WithinAbs(9, 1e-9));
  CHECK_THAT(told("cross_pin_length", screw + pin), WithinAbs(24, 1e-9));
  const std::string two = "set_screw=[{thread='M3',height=14,angle=180},{thread='M3',height=14}]\n";
  CHECK_THAT(told("set_screw_length", two + pin), WithinAbs(8, 1e-9));
  CHECK_THAT(told("cross_pin_length", pin), WithinAbs(24, 1e-9));
}

TEST_CASE("holes of a rack stand in rows through its back, where the job says, with the volume of the formula") {
  const std::string bar = "[gear.r]\nkind='rack'\nteeth=20\nmodule=2\nface_width=12\nbase_height=10\n";
  const auto volume = [](const job::Design& d) { return *job::reading_number(d, "gear.r.volume"); };
  for (const std::string lean : {"", "helix_angle=18\nhand='left'\n"}) {
    CAPTURE(lean);
    const job::Design plain = job::resolve(bar + lean, "v");
    const job::Design drilled =
        job::resolve(bar + lean + "holes=[{count=4,diameter=4,spacing=30},{diameter=3,height=2.5,along=-21}]\n", "v");
    const double drill = 12 * kPi / 4 * (4 * 16 + 9);
    CHECK_THAT(volume(plain) - volume(drilled), WithinAbs(drill, 1e-8 * volume(plain)));
    const body::Body body = job::body(drilled.gears[0]).layers();
    CHECK_NOTHROW(body::check(body::mesh(body, 0.01)));
    const gear::RackSizes& s = drilled.gears[0].teeth.rack().sizes();
    std::vector<Vec2> places;
    for (const auto& loop : body.loops) {
      if (loop.feature != "holes") continue;
      Vec2 sum = Vec2::Zero();
      for (const curve::Segment& part : loop.outline.period)
        sum += (part.first() + part.point((part.from + part.to) / 2)) / 2;  // of arcs alike about the middle
      places.emplace_back(sum / static_cast<double>(loop.outline.period.size()));
    }
    REQUIRE(places.size() == 5);
    // Left out, the height is midway between back and root line; rows lie about the middle of the bar.
    for (int i = 0; i < 4; ++i)
      CHECK((places[static_cast<std::size_t>(i)] - Vec2(s.middle + (i - 1.5) * 30, (10 + s.root_height) / 2 - 10))
                .norm() < 1e-9);
    CHECK((places[4] - Vec2(s.middle - 21, 2.5 - 10)).norm() < 1e-9);
  }
  const auto refused = [&](const std::string& holes) {
    try {
      job::resolve(bar + "holes=[" + holes + "]\n", "v");
    } catch (const job::JobError& e) {
      return std::string(e.what());
    }
    return std::string();
  };
  for (const auto& [holes, why] : std::map<std::string, std::string>{
           {"{diameter=4,height=7}", "it runs into the teeth or roots by"},       // the root line is 7.5 above the back
           {"{diameter=4,height=1}", "it runs into the teeth or roots by 0.99"},  // through the back
           {"{diameter=4,along=62}", "it runs into the teeth or roots by"},  // through the end, 62.8 from the middle
           {"{diameter=3,height=6}", "it touches the teeth or roots"},
           {"{diameter=4,along=90}", "holes"},  // beside the bar
           {"{count=3,diameter=4,spacing=3.5}", "it runs into the holes by 0.5 mm"},
           {"{count=3,diameter=4}", "spacing is missing"},
           {"{diameter=4,circle_diameter=20}", "no meaning for kind"}}) {
    CAPTURE(holes);
    CHECK_THAT(refused(holes), Contains(why));
  }
  CHECK_THROWS_WITH(job::resolve("[gear.a]\nkind='spur'\nteeth=30\nmodule=2\nholes=[{diameter=3,spacing=9}]\n", "v"),
                    Contains("no meaning for kind"));
}
