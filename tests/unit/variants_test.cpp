// A job over a table: each row is the job it says, whatever spreadsheet wrote the table.
#include <cmath>

#include <fmt/format.h>

#include <catch2/catch.hpp>

#include "palio/readings/reading.hpp"
#include "palio/solve/variants.hpp"
#include "random_gear.hpp"
#include "try_job.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using solve::Column;
using solve::Table;
using solve::Variant;

namespace {

constexpr const char* kJob = R"([shared]
module = 2
[gear.a]
kind = "spur"
teeth = 17
[gear.b]
kind = "spur"
teeth = 40
[pair.p]
driver = "a"
driven = "b"
)";

job::Values values() { return job::Values::read(kJob, "v"); }

std::string complaint(const std::string& table) {
  try {
    solve::run(solve::read_table(table, "t.csv"), values());
  } catch (const std::exception& e) {
    return e.what();
  }
  return "";
}

}  // namespace

TEST_CASE("tables of any spreadsheet come out alike") {
  const std::vector<std::string> texts{
      "gear.a.teeth,gear.a.profile_shift,note\n19,0.25,\"x, y\"\n21,0.5,\n",
      "\xEF\xBB\xBFgear.a.teeth;gear.a.profile_shift;note\r\n19;0,25;\"x, y\"\r\n21;0,5;\r\n",
      "gear.a.teeth\tgear.a.profile_shift\tnote\n19\t0.25\tx, y\n\n21\t0.5\n",
      "gear.a.teeth; gear.a.profile_shift ;note\n 19 ;0.25;x, y\n21;0.5;\n;;\n"};
  for (const std::string& text : texts) {
    CAPTURE(text);
    const Table table = solve::read_table(text, "t.csv");
    const std::vector<Variant> rows = solve::run(table, values(), {0, static_cast<std::size_t>(-1), true, {}});
    REQUIRE(rows.size() == 2);
    CHECK(rows[0].cells[2] == "x, y");
    for (const auto& [row, teeth, shift] : {std::tuple{0, 19, 0.25}, {1, 21, 0.5}}) {
      const Variant& v = rows[static_cast<std::size_t>(row)];
      REQUIRE(v.problem.empty());
      const job::Design design = job::resolve(*v.values);
      CHECK(design.gear("a").teeth.count() == teeth);
      CHECK(*job::reading_number(design, "gear.a.profile_shift") == shift);
    }
    // Written and read again, the table is what it was.
    const Table again = solve::read_table(solve::table_text(table), "t.csv");
    CHECK(again.heads == table.heads);
    CHECK(again.rows == table.rows);
  }
}

TEST_CASE("cells are quoted so that any text comes back") {
  Table table;
  table.heads = {"a", "b"};
  table.rows = {{"says \"yes\"", "two\nlines"}, {"x;y", "plain"}, {"", "z,z"}};
  table.lines = {2, 3, 4};
  for (const char separator : {',', ';', '\t'}) {
    table.separator = separator;
    const Table again = solve::read_table(solve::table_text(table), "t.csv");
    CHECK(again.rows == table.rows);
  }
}

TEST_CASE("random rows read what the job with these values reads, in order, on any number of cores") {
  std::string text =
      "name,gear.a.teeth,gear.b.profile_shift,report:pair.p.center_distance,report:gear.a.tip_diameter\n";
  const unsigned count = test::share(200);
  for (unsigned i = 0; i < count; ++i) {
    test::Draw draw(300 + i);
    text += fmt::format("n{},{},{},,\n", i, draw.whole(2, 40), draw.between(-0.5, 2));
  }
  const Table table = solve::read_table(text, "t.csv");
  const std::vector<Variant> rows = solve::run(table, values());
  REQUIRE(rows.size() == count);
  unsigned made = 0;
  for (unsigned i = 0; i < count; ++i) {
    const std::vector<std::string>& cells = rows[i].cells;
    CHECK(cells[0] == fmt::format("n{}", i));
    const auto design = test::try_job(kJob, {"gear.a.teeth=" + cells[1], "gear.b.profile_shift=" + cells[2]});
    CHECK(design.has_value() == rows[i].problem.empty());
    if (!design) continue;
    ++made;
    CHECK(cells[3] == job::reading_text(*design, "pair.p.center_distance"));
    CHECK(cells[4] == job::reading_text(*design, "gear.a.tip_diameter"));
  }
  CHECK(made > count / 3);
  // A share of the rows is that share of the whole.
  const std::vector<Variant> some = solve::run(table, values(), {count / 4, count / 2, false, {}});
  REQUIRE(some.size() == count / 2 - count / 4);
  for (std::size_t i = 0; i < some.size(); ++i)
    CHECK(some[i].cells == rows[count / 4 + i].cells);
}

TEST_CASE("a bad row says what is wrong and leaves the others alone") {
  const Table table = solve::read_table("gear.a.teeth,report:gear.a.tip_diameter\n17,\n2,\nmany,\n19,\n", "t.csv");
  const std::vector<Variant> rows = solve::run(table, values());
  const Table out = solve::filled(table, rows, 0);
  CHECK(rows[0].problem.empty());
  CHECK_THAT(rows[1].problem, Contains("from 3 to 5000"));
  CHECK_THAT(rows[2].problem, Contains("gear.a.teeth"));
  CHECK(rows[3].problem.empty());
  CHECK(out.heads ==
        std::vector<std::string>{"gear.a.teeth", "report:gear.a.tip_diameter", "errors", "warnings", "problem"});
  CHECK(std::stod(out.rows[0][1]) == 38);
  CHECK(out.rows[1][1].empty());
}

TEST_CASE("a table that cannot be is told with its line") {
  CHECK_THAT(complaint(""), Contains("t.csv") && Contains("empty"));
  CHECK_THAT(complaint("gear.a.teth\n3\n"), Contains("did you mean \"teeth\""));
  CHECK_THAT(complaint("gear.c.teeth\n3\n"), Contains("no gear named \"c\""));
  CHECK_THAT(complaint("gear.a.teeth\n17,3\n"), Contains("t.csv:2") && Contains("2 cells"));
  CHECK_THAT(complaint("gear.a.teeth\n\"17\n"), Contains("not closed"));
  CHECK_THAT(complaint("gear.a.tip_circle\n17\n"), Contains("report:"));
  const std::vector<Variant> rows = solve::run(solve::read_table("report:gear.a.tip_diametre\n-\n", "t.csv"), values());
  CHECK_THAT(rows.at(0).problem, Contains("tip_diameter"));
}
