// A job on the desk: what the page is told is what the text says and what palio computes from it, forward and back.
#include <atomic>
#include <chrono>
#include <cmath>
#include <map>
#include <random>
#include <set>
#include <string>
#include <thread>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "palio/desk/session.hpp"
#include "palio/error.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/readings/vary.hpp"
#include "palio/solve/find.hpp"
#include "palio/values/edit.hpp"
#include "random_gear.hpp"
#include "starters.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinRel;

namespace {

using Json = nlohmann::json;

std::string starter(const std::string& kind) { return job::starter(kind, job::Units::mm); }
Json state(const desk::Session& s) { return Json::parse(s.state()); }

/// The rows of a state's values by their paths.
std::map<std::string, Json> rows(const Json& state) {
  std::map<std::string, Json> all;
  for (const Json& table : state["values"]) {
    for (const Json& row : table["keys"]) {
      CAPTURE(row["path"]);
      CHECK(all.emplace(row["path"], row).second);  // nothing is listed twice
    }
  }
  return all;
}

}  // namespace

TEST_CASE("the desk lists every value that a starter says, and every reading of its report") {
  for (const std::string& kind : test::starters()) {
    CAPTURE(kind);
    const std::string text = starter(kind);
    const desk::Session desk(text, "a.toml");
    const Json now = state(desk);
    const auto listed = rows(now);
    const Json keys = Json::parse(desk.keys());
    for (const auto& [path, said] : job::said_values(text, "a.toml")) {
      CAPTURE(path);
      const std::string head = path.substr(0, path.find('.'));
      if (head == "want" || head == "measured" || head == "expect") continue;
      REQUIRE(listed.count(path) == 1);
      CHECK(listed.at(path)["said"] == said);
    }
    for (const auto& [path, row] : listed) {
      CAPTURE(path);
      REQUIRE(keys.contains(row["key"].get<std::string>()));
      CHECK_FALSE(keys[row["key"].get<std::string>()]["meaning"].get<std::string>().empty());
      CHECK((row["said"].is_string() + row.contains("inherited") + row.contains("absent")) == 1);
    }
    if (kind == "measurements") {  // values are left open there: it is told so, and nothing is shown
      CHECK_FALSE(desk.sound());
      CHECK_FALSE(now["mistakes"].empty());
      continue;
    }
    REQUIRE(desk.sound());
    const job::Design design = job::resolve(text, "a.toml");
    std::size_t told = 0;
    for (const Json& table : now["readings"]) {
      for (const Json& row : table["rows"]) {
        const std::string path = table["path"].get<std::string>() + "." + row["key"].get<std::string>();
        CAPTURE(path);
        if (told++ % 7 == 0) CHECK_NOTHROW(job::reading_json(design, path));
      }
    }
    CHECK(told > 5);
  }
}

TEST_CASE("what is shown as a default is what holds: said, it changes no reading") {
  std::size_t tried = 0;
  for (const std::string kind : {"spur", "internal", "rack", "crossed", "bevel", "clock", "lantern", "reducer"}) {
    const std::string text = starter(kind);
    const desk::Session desk(text, "a.toml");
    const std::string before = job::report_json(job::resolve(text, "a.toml"), false);
    for (const auto& [path, row] : rows(state(desk))) {
      const std::string shown = row.value("absent", "");
      if (shown.empty() || shown.find_first_not_of("0123456789.+-") != std::string::npos) continue;
      CAPTURE(kind, path, shown);
      std::string after;
      try {
        after = job::report_json(job::resolve(job::with_value(text, "a.toml", path, shown), "a.toml"), false);
      } catch (const job::JobError&) {
        continue;  // a part of what is only said as a whole
      }
      ++tried;
      CHECK(after == before);
    }
  }
  CHECK(tried > 60);
}

TEST_CASE("whatever is changed, undone and done again, the text is the one that a list of texts has there") {
  for (unsigned seed = 1; seed <= test::share(10); ++seed) {
    std::mt19937 random(seed);
    const auto pick = [&](int n) { return std::uniform_int_distribution<int>(0, n - 1)(random); };
    desk::Session desk(starter("spur"), "a.toml");
    std::vector<std::string> texts{desk.text()};
    std::size_t at = 0;
    int revision = desk.revision();
    std::string last;
    for (int step = 0; step < 80; ++step) {
      const int what = pick(4);
      if (what == 0) {
        CHECK(desk.undo() == (at > 0));
        if (at > 0) --at, last.clear();
      } else if (what == 1) {
        CHECK(desk.redo() == (at + 1 < texts.size()));
        if (at + 1 < texts.size()) ++at, last.clear();
      } else {
        const std::string path = pick(2) ? "gear.motor_pinion.teeth" : "gear.drum_wheel.face_width";
        const bool again = what == 3 && last == path;
        desk.set(path, fmt::format("{}", 10 + pick(200)), again);
        if (desk.text() != texts[at]) {
          texts.resize(at + (again ? 0 : 1));
          texts.push_back(desk.text());
          at = texts.size() - 1;
          last = path;
        }
      }
      REQUIRE(desk.text() == texts[at]);
      CHECK(desk.revision() >= revision);
      revision = desk.revision();
      const Json now = state(desk);
      CHECK(now["can_undo"] == (at > 0));
      CHECK(now["can_redo"] == (at + 1 < texts.size()));
      CHECK(now["kept"] == (texts[at] == texts[0]));
    }
  }
}

TEST_CASE("a bad value is told at its place while the last good design stays") {
  desk::Session desk(starter("spur"), "a.toml");
  const Json good = state(desk);
  const std::string picture = desk.picture("pair.first_stage", 30), verdict = desk.verdict();
  desk.set("gear.motor_pinion.teeth", "2");
  const Json bad = state(desk);
  CHECK_FALSE(desk.sound());
  REQUIRE(bad["mistakes"].size() == 1);
  CHECK(bad["mistakes"][0]["path"] == "gear.motor_pinion.teeth");
  CHECK_THAT(bad["mistakes"][0]["message"].get<std::string>(), Contains("from 3"));
  CHECK(rows(bad).at("gear.motor_pinion.teeth")["said"] == "2");
  CHECK(bad["readings"] == good["readings"]);
  CHECK(desk.picture("pair.first_stage", 30) == picture);
  CHECK(desk.verdict() == verdict);
  desk.set("gear.motor_pinion.teeth", "17");
  CHECK(desk.sound());
  CHECK(state(desk)["readings"] == good["readings"]);
  CHECK_THROWS_AS(desk.set("gear.nobody.teeth", "17"), job::JobError);
  CHECK_THROWS_AS(desk::Session("a = [", "a.toml"), job::JobError);
}

TEST_CASE("a verdict that is overtaken by a change is dropped") {
  desk::Session desk(starter("greenhouse"), "a.toml");
  const auto begun = std::chrono::steady_clock::now();
  CHECK_FALSE(Json::parse(desk.verdict()).contains("overtaken"));
  const auto whole = std::chrono::steady_clock::now() - begun;
  int dropped = 0;
  for (const double after : {0.1, 0.3, 0.5}) {
    Json told;
    std::thread looking([&] { told = Json::parse(desk.verdict()); });
    std::this_thread::sleep_for(after * whole);
    const int before = desk.revision();
    desk.set("gear.motor_pinion.face_width", std::to_string(12 + after));
    looking.join();
    // Begun before the change and told after it, so it says that, and of which state.
    CHECK(told["revision"] == before);
    dropped += told.contains("overtaken") ? 1 : 0;
    CHECK(told.contains("overtaken") != told.contains("errors"));
  }
  CHECK(dropped >= 2);
  // What is thrown between two pieces ends the work there, wherever that is.
  const job::Design design = job::resolve(starter("bevel"), "a.toml");
  int pieces = 0;
  const std::string all = job::verdict_json(design, [&] { ++pieces; });
  CHECK(all == job::verdict_json(design));
  REQUIRE(pieces > 5);
  for (int at = 1; at <= pieces; ++at) {
    int come = 0;
    const auto stop = [&] {
      if (++come == at) throw InvalidParameter("stop", "at", "no further", "go on");
    };
    CHECK_THROWS_AS(job::verdict_json(design, stop), InvalidParameter);
    CHECK(come == at);
  }
}

TEST_CASE("curves and wishes that are overtaken by a change are dropped") {
  desk::Session desk(starter("train"), "a.toml");
  const std::string value = "gear.motor_pinion.profile_shift", reading = "pair.first_stage.transverse_contact_ratio";
  const auto asked = [&](bool curve) {
    return Json::parse(curve ? desk.curve(value, reading) : desk.find(value, reading, "1.5"));
  };
  for (const bool curve : {true, false}) {
    CAPTURE(curve);
    const auto begun = std::chrono::steady_clock::now();
    CHECK_FALSE(asked(curve).contains("overtaken"));
    const auto whole = std::chrono::steady_clock::now() - begun;
    int dropped = 0;
    for (const double after : {0.1, 0.2, 0.4}) {
      Json told;
      std::thread looking([&] { told = asked(curve); });
      std::this_thread::sleep_for(after * whole);
      desk.set("gear.motor_pinion.face_width", std::to_string(12 + after + (curve ? 1 : 0)));
      looking.join();
      dropped += told.contains("overtaken") ? 1 : 0;
      CHECK(told.contains("overtaken") != told.contains("reading"));
    }
    CHECK(dropped >= 1);
  }
  // However soon it is thrown, nothing else is told, and nothing hangs.
  const job::Values spur = job::Values::read(starter("spur"), "a.toml");
  job::VaryRequest varied{{job::parse_vary_key("gear.motor_pinion.profile_shift=0:0.4:5")}, {}, {reading}, {}};
  solve::FindRequest wished;
  for (const int at : {1, 2, 7}) {
    std::atomic<int> come{0};
    varied.between = wished.between = [&] {
      if (++come >= at) throw InvalidParameter("stop", "at", "no further", "go on");
    };
    CHECK_THROWS_AS(job::vary(spur, varied), InvalidParameter);
    come = 0;
    const std::string open = job::with_value(starter("spur"), "a.toml", "gear.motor_pinion.profile_shift", "find");
    CHECK_THROWS_AS(
        solve::find(job::Values::read(job::with_value(open, "a.toml", "want." + reading, "1.5"), "a.toml"), wished),
        InvalidParameter);
  }
}

TEST_CASE("what pages in space are given is the state as it stands, before its roll and after") {
  int pairs = 0, machines = 0, reducers = 0;
  for (const char* kind : {"bevel", "crossed", "train", "reducer", "clock"}) {
    CAPTURE(kind);
    desk::Session desk(starter(kind), "a.toml");
    const auto design = desk.design();
    for (const desk::Turning& t : desk.turning()) {
      CAPTURE(t.path);
      if (t.plane) continue;
      const Json told = Json::parse(desk.space_picture(t.path)), before = Json::parse(desk.picture(t.path, 12));
      const Json &data = told["data"], &early = before["data"];
      CHECK(told["revision"] == desk.revision());
      if (t.path == "machine") {
        ++machines;
        CHECK(early.is_null());
        CHECK(data["members"].size() == design->machine.members.size());
        CHECK(data["verdict"] == "meshes");
      } else if (t.path.rfind("reducer.", 0) == 0) {
        ++reducers;
        CHECK(early.is_null());
        CHECK(data["rollers"] == design->reducers.front().made.spec().rollers);
      } else {
        ++pairs;
        // The teeth are the same, where the even ratio puts them; of the roll nothing is told before it is known.
        CHECK(early["positions"].empty());
        CHECK(early["verdict"].get<std::string>().empty());
        for (const char* gear : {"driver", "driven"}) {
          CHECK(early[gear] == data[gear]);
          CHECK(early[gear]["points"].get<std::string>().size() > 1000);
        }
        CHECK(data["positions"].size() == 90);
        CHECK(data["verdict"] == "meshes");
      }
      // The page that stands there already has the same solids: what is compared with it differs only by what changed.
      const std::string page = desk.page(t.path, true);
      if (t.path.rfind("pair.", 0) == 0)
        CHECK(page.find(data["driver"]["points"].get<std::string>()) != std::string::npos);
      if (t.path == "machine") {
        for (const Json& shape : data["shapes"])
          CHECK(page.find(shape["points"].get<std::string>()) != std::string::npos);
      }
    }
  }
  CHECK(pairs >= 2);
  CHECK(machines >= 1);
  CHECK(reducers >= 1);
  const desk::Session desk(starter("bevel"), "a.toml");
  CHECK_THROWS_AS(desk.space_picture("pair.none"), InvalidParameter);
}

TEST_CASE("a picture is that of the text as it stands, of every pair that meshes") {
  for (const std::string& kind : test::starters()) {
    if (kind == "measurements") continue;
    CAPTURE(kind);
    const desk::Session desk(starter(kind), "a.toml");
    const job::Design design = job::resolve(starter(kind), "a.toml");
    const Json turning = state(desk)["turning"];
    CHECK(turning.size() == desk.turning().size());
    for (const job::Pair& p : design.pairs) {
      const Json told = Json::parse(desk.picture("pair." + p.name, 12));
      CHECK(told["revision"] == desk.revision());
      REQUIRE(told["data"].is_null() != p.meshes());
      if (!p.meshes()) continue;
      CHECK(told["data"]["positions"].size() == (p.plane() ? 12 : 0));  // in space the roll follows
      CHECK(told["data"]["driver"]["teeth"] == design.gears[p.driver].teeth.count());
      CHECK(told["data"]["ratio"] == p.motion_ratio());
    }
    CHECK(Json::parse(desk.picture("pair.none", 12))["data"].is_null());
    if (!turning.empty() && kind != "greenhouse") {
      CHECK_THAT(desk.page(turning.front()["path"]), Contains("<!doctype html>"));
      CHECK_THAT(desk.page(turning.back()["path"]), Contains("<!doctype html>"));
    }
    CHECK((turning.size() > 2) == (!turning.empty() && turning.back()["path"] == "machine"));
    CHECK_THROWS_AS(desk.page("pair.none"), InvalidParameter);
  }
}

TEST_CASE("numbers with names are values too") {
  desk::Session desk(starter("spur") + "[values]\nshaft = 8\nwall = \"3/8 in\"\n", "a.toml");
  CHECK(rows(state(desk)).at("values.shaft")["said"] == "8");
  CHECK(rows(state(desk)).at("values.wall")["said"] == "3/8 in");
  REQUIRE(desk.sound());
  desk.set("gear.drum_wheel.bore.diameter", "shaft + 0.5");
  CHECK_THAT(*job::reading_number(*desk.design(), "gear.drum_wheel.bore_diameter"), WithinRel(8.5, 1e-12));
  desk.set("values.shaft", "9");
  CHECK_THAT(*job::reading_number(*desk.design(), "gear.drum_wheel.bore_diameter"), WithinRel(9.5, 1e-12));
}

TEST_CASE("a curve goes through where one stands") {
  const desk::Session desk(starter("spur"), "a.toml");
  const job::Design design = job::resolve(starter("spur"), "a.toml");
  for (const std::string value : {"gear.motor_pinion.profile_shift", "gear.drum_wheel.teeth", "shared.module",
                                  "pair.first_stage.center_distance", "gear.drum_wheel.bore.diameter"}) {
    for (const std::string reading : {"pair.first_stage.transverse_contact_ratio", "gear.drum_wheel.volume"}) {
      CAPTURE(value, reading);
      const Json told = Json::parse(desk.curve(value, reading));
      const double here = told["here"];
      REQUIRE(told["at"].size() > 4);
      double nearest = 1e300, is = 0;
      for (std::size_t i = 0; i < told["at"].size(); ++i) {
        const double off = std::abs(told["at"][i].get<double>() - here);
        if (off < nearest) nearest = off, is = told["is"][i].is_null() ? 0 : told["is"][i].get<double>();
      }
      CHECK(nearest < 1e-9);
      CHECK_THAT(is, WithinRel(*job::reading_number(design, reading), 1e-9));
    }
  }
  CHECK_THROWS_AS(desk.curve("gear.motor_pinion.kind", "gear.drum_wheel.volume"), InvalidParameter);
  CHECK_THROWS(desk.curve("gear.motor_pinion.teeth", "gear.drum_wheel.nothing"));
}

TEST_CASE("curves and wishes run over numbers that others name and over what the making does") {
  const std::string text = R"([values]
shaft = 6
[shared]
kind = "spur"
module = 1.5
[gear.a]
teeth = 20
bore.diameter = "shaft + 0.1"
[gear.b]
teeth = 31
bore.diameter = "2*shaft"
[process]
preset = "laser"
kerf = 0.2
)";
  const desk::Session desk(text, "a.toml");
  for (const auto& [value, reading, slope] : {std::tuple{"values.shaft", "gear.a.bore_diameter", 1.0},
                                              {"values.shaft", "gear.b.bore_diameter", 2.0},
                                              {"process.kerf", "gear.b.bore_drawn_diameter", -1.0}}) {
    CAPTURE(value, reading);
    const Json told = Json::parse(desk.curve(value, reading));
    REQUIRE(told["at"].size() > 4);
    CHECK(told["here"] == (std::string(value) == "values.shaft" ? 6.0 : 0.2));
    // Straight, and as steep as the text says.
    for (std::size_t i = 1; i < told["at"].size(); ++i) {
      const double by = told["at"][i].get<double>() - told["at"][i - 1].get<double>();
      CHECK_THAT(told["is"][i].get<double>() - told["is"][i - 1].get<double>(), WithinRel(slope * by, 1e-9));
    }
  }
  const Json found = Json::parse(desk.find("values.shaft", "gear.b.bore_diameter", "15"));
  CHECK_THAT(found["number"].get<double>(), WithinRel(7.5, 1e-9));
  CHECK_THROWS_AS(desk.curve("values.nothing", "gear.a.volume"), InvalidParameter);
  CHECK_THROWS_AS(desk.curve("process.preset", "gear.a.volume"), InvalidParameter);
}

TEST_CASE("what is said to mend a mistake was tried: it goes, and none comes") {
  int mistaken = 0, mended = 0;
  std::set<std::string> sorts;
  for (const char* kind : {"spur", "helical", "internal", "bevel", "rack", "clock", "train", "planetary"}) {
    desk::Session desk(starter(kind), "a.toml");
    const auto first = rows(state(desk));
    for (const auto& [path, row] : first) {
      if (row["said"].is_null() || path.rfind("gear.", 0) != 0 || path.find(".teeth") == std::string::npos) continue;
      for (const int more : {-4, 5, 17}) {
        desk.set(path, std::to_string(std::stoi(row["said"].get<std::string>()) + more));
        const Json wrong = state(desk)["mistakes"];
        mistaken += wrong.empty() ? 0 : 1;
        for (const Json& m : wrong) {
          for (const Json& mend : m["mends"]) {
            CAPTURE(kind, path, more, m.dump());
            desk.set(mend["path"],
                     mend["said"].is_null() ? std::nullopt : std::optional(mend["said"].get<std::string>()));
            const Json after = state(desk)["mistakes"];
            CHECK(after.size() < wrong.size());
            for (const Json& left : after)
              CHECK(std::any_of(wrong.begin(), wrong.end(), [&](const Json& w) {
                return w["path"] == left["path"] && w["message"] == left["message"] && w != m;
              }));
            CHECK(desk.undo());
            ++mended;
            sorts.insert(m["path"].get<std::string>().substr(m["path"].get<std::string>().rfind('.') + 1));
          }
        }
        CHECK(desk.undo());
      }
    }
    CHECK(desk.text() == starter(kind));
  }
  CHECK(mistaken >= 10);
  CHECK(mended >= 10);
  CHECK(sorts.size() >= 2);
  // Names as long as they like, and words that look like a number to take.
  const std::string name(200000, 'a');
  const std::vector<std::string> values{"\"" + name + " = 1 would do\"", "\"gear.x.teeth = 1 would do\"",
                                        "\" = would do\""};
  for (const std::string& value : values) {
    desk::Session odd("[gear." + name + "]\nkind = \"spur\"\nteeth = " + value + "\nmodule = 1\n", "a.toml");
    CHECK_FALSE(odd.sound());
    CHECK_FALSE(state(odd)["mistakes"].empty());
  }
}

TEST_CASE("another text is taken as a whole, undone as one, and kept when it came from the file") {
  desk::Session desk(starter("spur"), "a.toml");
  desk.set("gear.motor_pinion.teeth", "19");
  CHECK_FALSE(desk.kept());
  const std::string mine = desk.text();
  desk.take(starter("rack"), true);
  CHECK(desk.kept());
  CHECK(state(desk)["turning"][0]["path"] == "pair.push");
  desk.undo();
  CHECK(desk.text() == mine);
  CHECK_FALSE(desk.kept());
  desk.keep();
  CHECK(desk.kept());
  desk.take("this is no job = [", false);
  CHECK_FALSE(desk.sound());
  CHECK(state(desk)["mistakes"].size() == 1);
  desk.undo();
  CHECK(desk.sound());
}

TEST_CASE("a value found for a wish fulfils it, and is found again from where it was") {
  for (const auto& [value, reading] :
       {std::pair{"gear.motor_pinion.profile_shift", "pair.first_stage.transverse_contact_ratio"},
        {"gear.drum_wheel.profile_shift", "gear.drum_wheel.span.length"},
        {"pair.first_stage.backlash", "pair.first_stage.angular_backlash_deg.1"},
        {"gear.drum_wheel.face_width", "gear.drum_wheel.volume"}}) {
    CAPTURE(value, reading);
    desk::Session desk(starter("spur"), "a.toml");
    const double is = *job::reading_number(*desk.design(), reading), wanted = is * 1.003;
    const Json told = Json::parse(desk.find(value, reading, fmt::format("{:.9g}", wanted)));
    REQUIRE(told["number"].is_number());
    desk.set(value, told["said"].get<std::string>());
    REQUIRE(desk.sound());
    CHECK_THAT(*job::reading_number(*desk.design(), reading), WithinRel(wanted, 1e-8));
  }
  const desk::Session desk(starter("spur"), "a.toml");
  const Json never =
      Json::parse(desk.find("gear.motor_pinion.profile_shift", "pair.first_stage.transverse_contact_ratio", "9"));
  CHECK(never["number"].is_null());
  CHECK_THROWS(desk.find("gear.motor_pinion.kind", "gear.drum_wheel.volume", "9"));
  CHECK_THROWS(desk.find("gear.motor_pinion.teeth", "gear.drum_wheel.nothing", "9"));
  CHECK(desk.text() == starter("spur"));  // looking changes nothing
}

TEST_CASE("things are copied and taken out, and what is kept is told as it was") {
  desk::Session desk(starter("spur"), "a.toml");
  const Json first = state(desk);
  desk.copy("gear.drum_wheel", "spare");
  CHECK(desk.design()->gears.size() == 3);
  desk.remove("gear.spare");
  CHECK(desk.design()->gears.size() == 2);
  desk.remove("pair.first_stage");
  CHECK(desk.turning().empty());
  const Json kept = Json::parse(desk.kept_state("pair.first_stage", 12));
  CHECK(kept["readings"] == first["readings"]);
  CHECK(kept["data"]["positions"].size() == 12);
  for (int i = 0; i < 3; ++i)
    CHECK(desk.undo());
  CHECK(state(desk)["kept"] == true);
}

TEST_CASE(
    "a job whose units are changed says the same lengths in the others, and comes back to its bytes by one undo") {
  for (const std::string& kind : test::starters()) {
    CAPTURE(kind);
    const std::string text = starter(kind);
    desk::Session desk(text, "a.toml");
    if (!desk.sound()) continue;  // measurements: nothing is built
    const auto before = desk.design();
    desk.set("units", "in");
    REQUIRE(desk.sound());
    const auto inches = desk.design();
    CHECK(inches->units == job::Units::inch);
    CHECK(desk.text().find('#') != std::string::npos);  // comments stay
    desk.set("units", "\"mm\"");
    const auto back = desk.design();
    for (const auto* after : {inches.get(), back.get()}) {
      REQUIRE(after->gears.size() == before->gears.size());
      for (std::size_t i = 0; i < before->gears.size(); ++i) {
        CHECK_THAT(after->gears[i].teeth.module(), WithinRel(before->gears[i].teeth.module(), 1e-9));
        CHECK_THAT(after->gears[i].teeth.face_width(), WithinRel(before->gears[i].teeth.face_width(), 1e-9));
      }
      for (std::size_t i = 0; i < before->pairs.size(); ++i)
        CHECK(after->pairs[i].meshes() == before->pairs[i].meshes());
    }
    desk.undo();
    desk.undo();
    CHECK(desk.text() == text);
  }
  // Said where it was left out; what is no unit is a mistake at its field; a job with mistakes is only told so.
  desk::Session desk("[gear.a]\nkind = \"spur\"\nteeth = 20\nmodule = 1\nface_width = 10\n", "a.toml");
  desk.set("units", "in");
  CHECK_THAT(desk.design()->gears[0].teeth.face_width(), WithinRel(10.0, 1e-12));
  desk.set("units", "cubit");
  CHECK_FALSE(desk.sound());
}

TEST_CASE("whatever can be added stands behind what a job says, and goes by one undo") {
  std::vector<std::pair<std::string, std::string>> jobs;
  for (const std::string& kind : test::starters())
    jobs.emplace_back(starter(kind), "a.toml");
  jobs.emplace_back("{\"gear\": {\"a\": {\"kind\": \"spur\", \"teeth\": 20, \"module\": 1}}}\n", "a.json");
  for (const auto& [text, source] : jobs) {
    desk::Session desk(text, source);
    const Json first = state(desk);
    const Json& able = first["addable"];
    const bool sound = first["sound"];
    CHECK(able.size() >= 9);
    for (const Json& a : able) {
      const std::string sort = a["sort"], name = a["name"], path = name.empty() ? sort : sort + "." + name;
      CAPTURE(text.substr(0, 300), source, path);
      desk.add(sort, name);
      if (source == "a.toml") CHECK(desk.text().compare(0, text.size(), text) == 0);
      const Json now = state(desk);
      const auto listed = rows(now);
      CHECK(std::any_of(listed.begin(), listed.end(), [&](const auto& row) {
        return row.first.compare(0, path.size() + 1, path + ".") == 0 && !row.second["said"].is_null();
      }));
      // What needs no others is sound at once; what joins members may ask for another one, at a place that the page
      // has.
      const bool alone = sort == "gear" || sort == "material" || sort == "process" || sort == "reducer";
      if (alone) CHECK(now["sound"] == sound);
      for (const Json& m : now["mistakes"])
        CHECK_FALSE(m["path"].get<std::string>().empty());
      CHECK_THROWS_AS(desk.add(sort, name), job::JobError);
      desk.undo();
      CHECK(desk.text() == text);
    }
    CHECK_THROWS_AS(desk.add("worm", "a"), InvalidParameter);
    CHECK_THROWS_AS(desk.add("gear", "a b"), job::JobError);
    CHECK(desk.text() == text);
  }
}

TEST_CASE("from one gear to a train of two stages by adding alone") {
  desk::Session desk("[shared]\nmodule = 1\n[gear.a]\nkind = \"spur\"\nteeth = 17\n", "a.toml");
  desk.add("gear", "b");
  desk.add("pair", "first");
  REQUIRE(desk.sound());
  CHECK(desk.design()->pairs[0].meshes());
  desk.add("gear", "c");
  desk.add("gear", "d");
  desk.add("pair", "second");
  REQUIRE(desk.sound());
  CHECK(desk.design()->pairs[1].driver == 2);
  desk.add("shaft", "middle");
  desk.add("train", "whole");
  REQUIRE(desk.sound());
  // b turns with c: 17/20 and 20/20.
  CHECK_THAT(*job::reading_number(*desk.design(), "train.whole.ratio_value"), WithinRel(20.0 / 17, 1e-12));
  for (const char* sort : {"frame", "process", "material", "reducer"})
    desk.add(sort, std::string(sort) == "process" ? "" : "new");
}
