// Jobs that nobody in his senses writes: starters with letters changed, random jobs of every kind with numbers from all
// over. Whatever becomes of them: a design whose numbers are numbers and whose solids are closed, or a mistake with a
// message; never a crash, never silence. PALIO_FUZZ=1000 makes ten times as many.
#include <catch2/catch.hpp>
#include <chrono>
#include <map>
#include <nlohmann/json.hpp>

#include "palio/body/mesh.hpp"
#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/placement.hpp"
#include "random_job.hpp"

using namespace palio;
using namespace palio::job;
using Json = nlohmann::ordered_json;

namespace {

struct Outcome {
  int made = 0, refused = 0, rolled = 0;
};

/// Everything that a job goes through, but for what only draws it.
void through(const std::string& text, Outcome& outcome, bool roll_it) {
  const auto start = std::chrono::steady_clock::now();
  Design design;
  try {
    design = resolve(text, "fuzz");
  } catch (const JobError& e) {
    ++outcome.refused;
    REQUIRE_FALSE(e.mistakes().empty());
    for (const Mistake& m : e.mistakes()) {
      CAPTURE(m.text());
      CHECK(m.text().size() > 20);
      for (const char* raw : {"std::", "stoul", "stod", "bad_", "json.exception", "variant"})
        CHECK(m.text().find(raw) == std::string::npos);
    }
    return;
  }
  ++outcome.made;
  // JSON has no NaN: it would stand there as null where a number is due, or not parse at all.
  const std::string report = report_json(design, false);
  const Json parsed = Json::parse(report);
  CHECK(parsed["findings"].is_array());
  for (const Finding& f : findings(design)) {
    CAPTURE(f.kind().text_id);
    CHECK((!f.value || !std::isnan(*f.value)));
    for (const char* mark : {"{value}", "{limit}", "{detail}"})
      CHECK(message(f, design.units).find(mark) == std::string::npos);
  }
  CHECK(report_text(design, false).find("nan") == std::string::npos);
  for (const view::Part& p : view::parts(design)) {
    CAPTURE(p.name);
    try {
      body::check(body::mesh(p.body, std::max(0.02, p.module / 30)));
    } catch (const InvalidParameter& e) {
      CHECK(e.name() == "chord_error");  // too fine for so large a part: told
    }
  }
  if (!roll_it) return;
  for (const Pair& p : design.pairs) {
    if (!p.meshes() || p.crossed()) continue;
    try {
      const roll::Result r = rolled(p, 12);
      ++outcome.rolled;
      CHECK(std::isfinite(r.max_overlap));
      CHECK_FALSE(std::isnan(r.min_tip_root_clearance));
      CHECK(Json::parse(roll_json(design, {{&p, r}})).is_object());
    } catch (const InvalidParameter& e) {
      CHECK((e.name() == "face_width" || e.name() == "positions"));
    }
  }
  for (const Reducer& r : design.reducers)
    CHECK(Json::parse(roll_json(design, {}, {{&r, rolled(r, 12)}})).is_object());
  // Time goes with the size, not with its square: a generous second for every hundred teeth.
  double teeth = 100;
  for (const Gear& g : design.gears)
    teeth += g.teeth.count();
  for (const Reducer& r : design.reducers)
    teeth += 20.0 * r.made.spec().rollers;
  const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  CHECK((took < 0.2 * teeth || !test::whole_search()));
}

/// A starter with a few places changed: numbers grown or shrunk, lines lost, doubled or swapped, letters turned.
std::string mutated(std::string text, test::Draw& draw) {
  const auto place = [&] { return static_cast<std::size_t>(draw.whole(0, static_cast<int>(text.size()) - 1)); };
  for (int i = draw.whole(1, 4); i > 0 && !text.empty(); --i) {
    const std::size_t at = place();
    switch (draw.whole(0, 7)) {
      case 0:
      case 1:
      case 2: {
        const auto digit = text.find_first_of("0123456789", at);
        if (digit == std::string::npos) break;
        const auto end = text.find_first_not_of("0123456789.", digit);
        text.replace(digit, end - digit,
                     draw.of({"0", "-1", "1e-9", "1e9", "0.5", "3", "7", "90", "100", "4999", "1e308", "nan", "\"1/0\"",
                              "\"4,5\"", "true", "[]", "{}"}));
        break;
      }
      case 3: {
        const auto from = text.rfind('\n', at), to = text.find('\n', at);
        if (from != std::string::npos && to != std::string::npos) text.erase(from, to - from);
        break;
      }
      case 4: {
        const auto from = text.rfind('\n', at), to = text.find('\n', at);
        if (from != std::string::npos && to != std::string::npos) text.insert(to, text.substr(from, to - from));
        break;
      }
      case 5: text[at] = static_cast<char>(draw.whole(32, 126)); break;
      case 6:
        text.insert(at, draw.of({"\\u0000", "[", "\"", "=", ".", "\xff", "\x1b", "like = \"drum_wheel\"\n",
                                 "kind = \"rack\"\n", "internal = true\n"}));
        break;
      default: text.erase(at, static_cast<std::size_t>(draw.whole(1, 12)));
    }
  }
  return text;
}

}  // namespace

TEST_CASE("starters with a few places changed come out whole, or with a message") {
  Outcome outcome;
  const char* kinds[] = {"spur",    "helical", "double_helical", "internal", "rack",
                         "crossed", "bevel",   "cycloidal",      "clock",    "lantern",
                         "reducer", "coupon",  "planetary",      "train",    "clock_train"};
  for (unsigned seed = 1; seed <= test::share(1200); ++seed) {
    test::Draw draw(seed);
    const std::string text = mutated(starter(kinds[seed % 12], seed % 2 == 0 ? Units::mm : Units::inch), draw);
    CAPTURE(seed, text);
    through(text, outcome, seed % 5 == 0);
  }
  if (!test::whole_search()) return;
  CHECK(outcome.made > 200);
  CHECK(outcome.refused > 200);
}

TEST_CASE("random jobs of every kind, numbers from all over, come out whole, or with a message") {
  std::map<std::string, Outcome> outcomes;
  for (unsigned seed = 1; seed <= test::share(25); ++seed) {
    for (const std::string& kind : test::job_kinds()) {
      const std::string text = test::random_job(kind, seed, true, seed % 3 == 0);
      CAPTURE(kind, seed, text);
      through(text, outcomes[kind], seed % 4 == 0);
    }
  }
  for (const auto& [kind, outcome] : outcomes) {
    CAPTURE(kind, outcome.made, outcome.refused);
    if (test::whole_search()) CHECK(outcome.made > 5);
  }
}

TEST_CASE("any text at all is refused with a message, however deep, long or broken") {
  Outcome outcome;
  std::vector<std::string> texts{"",
                                 "{",
                                 "}",
                                 "[",
                                 "[]",
                                 "{}",
                                 "null",
                                 "1",
                                 "\"x\"",
                                 "[gear]",
                                 "gear = 1",
                                 "[[gear]]",
                                 "[gear.a]",
                                 "\xff\xfe",
                                 std::string(100, '\0'),
                                 "{\"gear\":{\"a\":{\"kind\":\"spur\",\"teeth\":17,\"module\":1e999}}}",
                                 "{\"gear\":{\"a\\u0000b\":{\"kind\":\"spur\",\"teeth\":17,\"module\":1}}}",
                                 "{\"gear\":" + std::string(30000, '[') + std::string(30000, ']') + "}",
                                 std::string(20000, '[') + std::string(20000, ']'),
                                 "a = " + std::string(5000, '{') + std::string(5000, '}')};
  std::string dotted = "a";
  for (int i = 0; i < 30000; ++i)
    dotted += ".a";
  texts.push_back(dotted + " = 1");
  texts.push_back("[" + dotted + "]");
  for (unsigned seed = 1; seed <= test::share(1500); ++seed) {
    test::Draw draw(seed);
    std::string text;
    for (int i = draw.whole(1, 60); i > 0; --i) {
      text += draw.of({"[gear.a]", "[pair.p]", "kind",      "teeth",       "module", " = ",    "\n",
                       "\"spur\"", "17",       "1.5",       "{",           "}",      "[",      "]",
                       ",",        "'",        "\"",        "#",           "like",   "driver", ".",
                       "=",        "1e9",      "[process]", "[reducer.r]", "true",   "\t",     "\\"});
    }
    texts.push_back(text);
  }
  for (const std::string& text : texts) {
    CAPTURE(text.substr(0, 300));
    through(text, outcome, false);
  }
  if (test::whole_search()) CHECK(outcome.refused > 1000);
}

TEST_CASE("chains of like are followed once, however long") {
  // Each gear takes over from the one before: the last of four thousand is as quick as its own keys.
  std::string text = "[gear.g0]\nkind='spur'\nteeth=20\nmodule=1\n";
  for (int i = 1; i <= 1500; ++i)
    text += fmt::format("[gear.g{}]\nlike='g{}'\nteeth={}\n", i, i - 1, 20 + i % 30);
  const auto start = std::chrono::steady_clock::now();
  const Design design = resolve(text, "v");
  CHECK(design.gears.size() == 1501);
  CHECK(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count() < 20);
}
