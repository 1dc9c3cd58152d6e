// Changes to a job's text in its places: what it says afterwards is what it said with that one change, and all else
// keeps its bytes.
#include <algorithm>
#include <map>
#include <random>
#include <sstream>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "palio/design/design.hpp"
#include "palio/values/edit.hpp"
#include "palio/values/keys.hpp"
#include "random_gear.hpp"
#include "starters.hpp"

using namespace palio;
using Catch::Matchers::Contains;

namespace {

using Said = std::vector<std::pair<std::string, std::string>>;

std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> lines;
  std::istringstream in(text);
  for (std::string line; std::getline(in, line);)
    lines.push_back(line);
  return lines;
}

/// What a text means, whatever the order in which it says it.
std::vector<std::string> meaning(const job::Values& values) {
  std::vector<std::string> lines = lines_of(values.with_said({}).text());
  std::sort(lines.begin(), lines.end());
  return lines;
}
std::vector<std::string> meaning(const std::string& text) { return meaning(job::Values::read(text, "a.toml")); }

std::string comment_of(const std::string& line) {
  const auto at = line.find(" #");
  return at == std::string::npos ? "" : line.substr(at);
}

bool is_number(const std::string& text) {
  return !text.empty() && text.find_first_not_of("0123456789.+-e") == std::string::npos;
}

/// Another value of the same sort.
std::string another(const std::string& said) {
  if (is_number(said)) return fmt::format("{}", std::stod(said) + 1);
  if (said == "true" || said == "false") return said == "true" ? "false" : "true";
  return said.front() == '[' ? "[1, 2.5]" : said + "x";
}

std::string changed(const std::string& text, const std::string& path, const std::string& said) {
  return job::with_value(text, "a.toml", path, said);
}

}  // namespace

TEST_CASE("a value changed in a starter changes one line and leaves its comment") {
  for (const std::string& kind : test::starters()) {
    for (const job::Units units : {job::Units::mm, job::Units::inch}) {
      const std::string text = job::starter(kind, units);
      const Said before = job::said_values(text, "a.toml");
      const std::vector<std::string> lines = lines_of(text);
      const std::size_t thin = units == job::Units::mm ? 1 : 4, step = test::whole_search() ? thin : 8 * thin;
      for (std::size_t i = 0; i < before.size(); i += step) {
        const std::string said = another(before[i].second);
        CAPTURE(kind, before[i].first, said);
        const std::string made = changed(text, before[i].first, said);
        const std::vector<std::string> now = lines_of(made);
        REQUIRE(now.size() == lines.size());
        std::size_t differ = 0;
        for (std::size_t k = 0; k < now.size(); ++k) {
          if (now[k] == lines[k]) continue;
          ++differ;
          CHECK(comment_of(now[k]) == comment_of(lines[k]));
        }
        CHECK(differ == 1);
        Said expected = before;
        expected[i].second = said;
        CHECK(job::said_values(made, "a.toml") == expected);
        // There and back is where it was.
        CHECK(changed(made, before[i].first, before[i].second) == text);
      }
    }
  }
}

TEST_CASE("a value said where it was left out goes to its own table and leaves it again without a trace") {
  std::size_t added = 0, met = 0;
  for (const std::string& kind : test::starters()) {
    const std::string text = job::starter(kind, job::Units::mm);
    const job::Values values = job::Values::read(text, "a.toml");
    const Said before = job::said_values(text, "a.toml");
    const auto is_said = [&](const std::string& path) {
      return std::any_of(before.begin(), before.end(), [&](const auto& s) {
        return s.first == path || s.first.compare(0, path.size() + 1, path + ".") == 0 ||
               path.compare(0, s.first.size() + 1, s.first + ".") == 0;
      });
    };
    for (const job::Settings& gear : values.tables().gears) {
      for (const job::Key& key : job::keys()) {
        const std::string path = "gear." + gear.name + "." + std::string(key.path);
        const bool in_list = job::is_list(std::string(key.path.substr(0, key.path.find('.'))));
        if (key.section != job::Section::gear || !job::is_number(key.type) || in_list || is_said(path)) continue;
        if (key.path == "leaves" || (key.path == "teeth" && is_said("gear." + gear.name + ".leaves"))) continue;
        if (met++ % (test::whole_search() ? 2 : 16) != 0) continue;
        CAPTURE(kind, path);
        const std::string made = changed(text, path, "1.25");
        CHECK(lines_of(made).size() == lines_of(text).size() + 1);
        CHECK(meaning(made) == meaning(values.with_said({path + "=1.25"})));
        CHECK(job::without_value(made, "a.toml", path) == text);
        ++added;
      }
    }
  }
  CHECK(added > (test::whole_search() ? 500 : 60));
}

TEST_CASE("after any row of changes a text says what a list of its values says") {
  for (unsigned seed = 1; seed <= test::share(6); ++seed) {
    std::mt19937 random(seed);
    const auto pick = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(random); };
    std::string text = job::starter(seed % 2 ? "greenhouse" : "planetary", job::Units::mm);
    std::map<std::string, std::string> said;
    for (const auto& [path, value] : job::said_values(text, "a.toml"))
      said[path] = value;
    const std::vector<std::string> words{"addendum",      "dedendum",       "material",
                                         "web.thickness", "bore.allowance", "bore.fit"};
    const auto comments = std::count(text.begin(), text.end(), '#');
    for (int step = 0; step < 60; ++step) {
      const job::Values values = job::Values::read(text, "a.toml");
      const std::vector<job::Settings>& gears = values.tables().gears;
      const std::string added = "gear." + gears[pick(gears.size())].name + "." + words[pick(words.size())];
      auto known = said.begin();
      std::advance(known, static_cast<std::ptrdiff_t>(pick(said.size())));
      const std::string path = pick(3) == 0 ? added : known->first, value = fmt::format("{}", 1 + pick(9));
      CAPTURE(seed, step, path, value);
      const bool out = pick(4) == 0 && said.count(path) != 0 && path.find("bore") == std::string::npos &&
                       path.find_first_of("0123456789") == std::string::npos;
      try {
        text = out ? job::without_value(text, "a.toml", path) : changed(text, path, value);
      } catch (const job::JobError& e) {
        // `bore = 8` and `bore.fit` may not be told apart in their place: then nothing is changed.
        CHECK_THAT(e.what(), Contains("change it in the file itself"));
        continue;
      }
      if (out)
        said.erase(path);
      else
        said[path] = value;
      std::map<std::string, std::string> now;
      for (const auto& [p, v] : job::said_values(text, "a.toml"))
        now[p] = v;
      if (path.find("bore") == std::string::npos) REQUIRE(now == said);
      said = now;
    }
    // Comments go only with what they are about.
    CHECK(std::count(text.begin(), text.end(), '#') > comments / 2);
  }
}

TEST_CASE("values are found however they are written") {
  const std::string text =
      "title = \"a # b\"   # a title\r\n"
      "[gear.\"a\"]\r\n"
      "teeth=20# close by\r\n"
      "bore = { diameter = 4, flat_is_no_key = 1 } # in one\r\n"
      "keyway.angles = [\r\n  0, # first\r\n  120,\r\n]\r\n"
      "hubs = [{face = \"top\", diameter = 9}, {face = \"bottom\", diameter=10.50}]\r\n"
      "[[gear.a.holes]]\r\ndiameter = 3\r\n"
      "[gear.b]\r\nbore = \"8 H7\"";
  const auto expect = [&](const std::string& path, const std::string& said, const std::string& from,
                          const std::string& to) {
    CAPTURE(path, said);
    const auto at = text.find(from);
    REQUIRE(at != std::string::npos);
    std::string wanted = text;
    wanted.replace(at, from.size(), to);
    CHECK(changed(text, path, said) == wanted);
  };
  expect("title", "c", "\"a # b\"", "\"c\"");
  expect("title", "2024", "\"a # b\"", "\"2024\"");  // a title is a text, whatever it looks like
  expect("gear.a.teeth", "21", "20#", "21#");
  expect("gear.a.bore.diameter", "4.50", "diameter = 4,", "diameter = 4.50,");
  expect("gear.a.bore.allowance", "0.1", "flat_is_no_key = 1 }", "flat_is_no_key = 1, allowance = 0.1 }");
  expect("gear.a.keyway.angles", "[0, 90]", "[\r\n  0, # first\r\n  120,\r\n]", "[0, 90]");
  expect("gear.a.hubs.1.diameter", "11", "10.50", "11");
  expect("gear.a.hubs.0.length", "5", "diameter = 9}", "diameter = 9, length = 5 }");
  expect("gear.a.holes.0.count", "6", "diameter = 3", "diameter = 3\r\ncount = 6");
  expect("gear.b.bore.diameter", "9 G6", "\"8 H7\"", "\"9 G6\"");
  expect("gear.b.teeth", "5", "\"8 H7\"", "\"8 H7\"\r\nteeth = 5");
  expect("gear.a.addendum", "1/3", "9}, {face = \"bottom\", diameter=10.50}]",
         "9}, {face = \"bottom\", diameter=10.50}]\r\naddendum = \"1/3\"");
  CHECK(changed(text, "process.kerf", "0.1") == text + "\r\n\r\n[process]\r\nkerf = 0.1\r\n");
  CHECK(job::without_value(text, "a.toml", "gear.a.bore.diameter").find("bore = { flat_is_no_key = 1 } # in one") !=
        std::string::npos);
  CHECK(job::without_value(text, "a.toml", "gear.a.tip_relief") == text);
  // A byte-order mark stays, and what is no number can be replaced and be put.
  const std::string mark = "\xEF\xBB\xBF";
  CHECK(changed(mark + text, "gear.a.teeth", "21") == mark + changed(text, "gear.a.teeth", "21"));
  CHECK(job::without_value(mark + text, "a.toml", "gear.a.teeth") ==
        mark + job::without_value(text, "a.toml", "gear.a.teeth"));
  CHECK(changed(changed(text, "gear.a.teeth", "nan"), "gear.a.teeth", "20") == text);
}

TEST_CASE("what has no place in the text is refused with the reason and nothing said opens a table") {
  const std::string text = job::starter("spur", job::Units::mm);
  const auto refused = [&](const std::string& path, const std::string& said, const std::string& why) {
    CAPTURE(path);
    CHECK_THROWS_WITH(changed(text, path, said), Contains(why));
  };
  refused("gear.motor_piniom.teeth", "20", "did you mean \"motor_pinion\"");
  refused("gear.motor_pinion", "20", "is a whole table");
  refused("gear..teeth", "20", "names joined by points");
  refused("gear.motor_pinion.hubs.0.diameter", "20", "hubs = [{ diameter = 20 }]");
  refused("title.is.deep", "x", "has no place beside");
  refused("gear.motor_pinion.teeth", "  ", "takes a value");
  CHECK_THROWS_WITH(job::without_value(text, "a.toml", "gear.motor_pinion"), Contains("whole table"));
  CHECK_THROWS_WITH(changed("a = [", "title", "x"), Contains("not TOML"));
  CHECK(changed(text, "gear.motor_pinion.profile_shift", "0.30").find("profile_shift = 0.30 ") != std::string::npos);
  // Nothing that is said opens a table or hides one.
  for (const std::string said : {"1\n[gear.x]\nteeth = 3", "1 # 2", "\"\"\"", "{ a = 1", "'", "\\u0000"}) {
    CAPTURE(said);
    const std::string made = changed(text, "gear.motor_pinion.addendum", said);
    CHECK(lines_of(made).size() == lines_of(text).size() + 1);
    CHECK(job::Values::read(made, "a.toml").tables().gears.size() == 2);
  }
}

TEST_CASE("a job in JSON keeps its order") {
  const std::string text = R"({"gear": {"b": {"kind": "spur", "leaves": 20}, "a": {"teeth": 30}}, "title": "t"})";
  const std::string made = job::with_value(text, "a.json", "gear.b.teeth", "21");
  CHECK(job::said_values(made, "a.json") ==
        Said{{"gear.b.kind", "spur"}, {"gear.b.leaves", "21"}, {"gear.a.teeth", "30"}, {"title", "t"}});
  CHECK(job::said_values(job::without_value(made, "a.json", "gear.b.leaves"), "a.json") ==
        Said{{"gear.b.kind", "spur"}, {"gear.a.teeth", "30"}, {"title", "t"}});
}

TEST_CASE("a thing copied and taken out again leaves the text as it was") {
  for (const std::string& kind : test::starters()) {
    const std::string text = job::starter(kind, job::Units::mm);
    const job::Tables tables = job::Values::read(text, "a.toml").tables();
    std::vector<std::string> things;
    for (const auto* all : {&tables.gears, &tables.pairs, &tables.reducers, &tables.shafts, &tables.carriers,
                            &tables.trains, &tables.frames}) {
      for (const job::Settings& s : *all)
        things.push_back(std::string(job::name(s.section)) + "." + s.name);
    }
    for (const std::string& thing : things) {
      CAPTURE(kind, thing);
      const std::string head = thing.substr(0, thing.find('.'));
      std::string more;
      try {
        more = job::with_copy(text, "a.toml", thing, "newcomer");
      } catch (const job::JobError& e) {
        // The pairs, shafts and carriers of a planetary set stand nowhere in the text.
        CHECK_THAT(e.what(), Contains("is nothing that the job has"));
        continue;
      }
      CHECK(more.compare(0, text.size(), text) == 0);
      const Said said = job::said_values(more, "a.toml");
      if (head == "gear") {
        const std::pair<std::string, std::string> like("gear.newcomer.like", thing.substr(5));
        CHECK(std::count(said.begin(), said.end(), like) == 1);
        // What is like another is the same gear.
        const job::Tables now = job::Values::read(more, "a.toml").tables();
        CHECK(now.gear("newcomer")->number("teeth") == now.gear(thing.substr(5))->number("teeth"));
      }
      const std::string back = job::without_thing(more, "a.toml", head + ".newcomer");
      CHECK(job::said_values(back, "a.toml") == job::said_values(text, "a.toml"));
      CHECK(back.substr(0, text.size()) == text);
      // Taken out, nothing of it is said, and all else is.
      std::string less;
      try {
        less = job::without_thing(text, "a.toml", thing);
      } catch (const job::JobError& e) {
        CHECK_THAT(e.what(), Contains("take it out of the file itself"));
        continue;
      }
      Said rest = job::said_values(text, "a.toml");
      rest.erase(std::remove_if(rest.begin(), rest.end(),
                                [&](const auto& s) { return s.first.compare(0, thing.size() + 1, thing + ".") == 0; }),
                 rest.end());
      CHECK(job::said_values(less, "a.toml") == rest);
    }
    if (things.empty()) continue;
    const std::string first = things.front(), name = first.substr(first.find('.') + 1);
    CHECK_THROWS_WITH(job::with_copy(text, "a.toml", first, name), Contains("is there already"));
    CHECK_THROWS_WITH(job::with_copy(text, "a.toml", first, "a b"), Contains("is no name"));
    CHECK_THROWS_WITH(job::with_copy(text, "a.toml", first, "x]\n[gear.y"), Contains("is no name"));
    CHECK_THROWS_WITH(job::without_thing(text, "a.toml", "gear.nobody"), Contains("nothing that the job has"));
  }
}

TEST_CASE("tables that are added stand behind all that a text says, however it is written, and none is added twice") {
  const std::string more = "[material.alder]\ndensity = 520\n[shaft.beside]\ngears = [\"motor_pinion\"]\n";
  const std::string spur = job::starter("spur", job::Units::mm);
  const auto with_breaks = [](const std::string& text, const std::string& br) {
    std::string made;
    for (const char c : text)
      made += c == '\n' ? br : std::string(1, c);
    return made;
  };
  const std::map<std::string, std::string> texts{
      {"as a starter", spur},
      {"with other line breaks", with_breaks(spur, "\r\n")},
      {"behind a byte-order mark", "\xEF\xBB\xBF" + spur},
      {"without a last line break", spur.substr(0, spur.find_last_not_of('\n') + 1)},
      {"with a comment at its end", spur + "# the end"},
  };
  for (const auto& [how, text] : texts) {
    CAPTURE(how);
    const std::string made = job::with_tables(text, "a.toml", more);
    CHECK(made.compare(0, text.size(), text) == 0);
    const std::size_t breaks = static_cast<std::size_t>(std::count(made.begin(), made.end(), '\n'));
    std::size_t wide = 0;
    for (std::size_t at = made.find("\r\n"); at != std::string::npos; at = made.find("\r\n", at + 2))
      ++wide;
    CHECK(wide == (how == "with other line breaks" ? breaks : 0));
    Said expected = job::said_values(text, "a.toml");
    expected.insert(expected.end(), {{"material.alder.density", "520"}, {"shaft.beside.gears", "[\"motor_pinion\"]"}});
    Said said = job::said_values(made, "a.toml");
    std::sort(said.begin(), said.end()), std::sort(expected.begin(), expected.end());
    CHECK(said == expected);
    CHECK_THROWS_WITH(job::with_tables(made, "a.toml", "[shaft.beside]\ngap = 1\n"), Contains("is there already"));
    CHECK_THROWS_WITH(job::with_tables(text, "a.toml", "[gear.\"a b\"]\nteeth = 3\n"), Contains("is no name"));
    // Taken out again nothing of them is left.
    const std::string back =
        job::without_thing(job::without_thing(made, "a.toml", "shaft.beside"), "a.toml", "material.alder");
    CHECK(meaning(back) == meaning(text));
  }
  // JSON says the same; tables that stand once are added once; what is written within one line has no place for more.
  const std::string json = "{\"gear\": {\"motor_pinion\": {\"kind\": \"spur\", \"teeth\": 17, \"module\": 1}}}";
  const Said said = job::said_values(job::with_tables(json, "a.json", more), "a.json");
  CHECK(said.size() == 5);
  const std::string process = job::with_tables(spur, "a.toml", "[process]\npreset = \"print\"\n");
  CHECK_THROWS_WITH(job::with_tables(process, "a.toml", "[process]\npreset = \"mill\"\n"),
                    Contains("is there already"));
  CHECK_THROWS_AS(job::with_tables("gear = { a = { kind = \"spur\", teeth = 17, module = 1 } }\n", "a.toml",
                                   "[gear.b]\nlike = \"a\"\n"),
                  job::JobError);
}
