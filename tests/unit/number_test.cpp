// Numbers as people write them: with units, fractions and arithmetic, and refused where they would be read as something
// else.
#include <catch2/catch.hpp>

#include "palio/angle.hpp"
#include "palio/design/design.hpp"
#include "values/value.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

Measured read(const std::string& text, const std::map<std::string, double>& values = {}) {
  return measure(Node{text, {}}, values);
}

std::string refused(const std::string& text, const std::map<std::string, double>& values = {}) {
  try {
    const Measured m = read(text, values);
    return "(read as " + std::to_string(m.value) + m.unit + ")";
  } catch (const std::string& why) {
    return why;
  }
}

}  // namespace

TEST_CASE("units and fractions: the unit goes with the whole, or with each term") {
  struct Case {
    const char *text, *unit;
    double value;
  };
  for (const Case& c : {Case{"1/8 in", "in", 0.125},
                        {"1 1/8 in", "in", 1.125},
                        {"-1 1/2 in", "in", -1.5},
                        {"2 3/4", "", 2.75},
                        {"10 mm + 1 in", "mm", 35.4},
                        {"1 1/8 in + 2 mm", "mm", 30.575},
                        {"1 in - 1/16 in", "mm", 23.8125},
                        {"3/8\" + 5 mm", "mm", 14.525},
                        {"2*(10 mm + 1 cm)", "mm", 40},
                        {"36/2 + 0.2", "", 18.2},
                        {"36/2 + 0.2 mm", "mm", 18.2},
                        {"0.5 thou", "in", 0.0005},
                        {"12 µm", "mm", 0.012},
                        {"20°", "deg", 20},
                        {"0.3 rad", "rad", 0.3},
                        {"15 deg + 0.1 rad", "deg", 15 + 18 / kPi},
                        {"4 %", "%", 4},
                        {" 7 ", "", 7},
                        {"1e-3 m", "mm", 1},
                        {"(3 + 4) mm", "mm", 7}}) {
    CAPTURE(c.text);
    const Measured m = read(c.text);
    CHECK(m.unit == c.unit);
    CHECK_THAT(m.value, WithinRel(c.value, 1e-13));
  }
  CHECK_THAT(read("shaft + 0.1", {{"shaft", 8}}).value, WithinAbs(8.1, 1e-14));
  CHECK_THAT(read("m*3", {{"m", 2}}).value, WithinAbs(6, 0));
}

TEST_CASE("trigonometry in a job is in degrees, each function and its inverse") {
  const double degree = kPi / 180;
  CHECK_THAT(read("0.1/cos(20)").value, WithinRel(0.1 / std::cos(20 * degree), 1e-14));
  CHECK_THAT(read("sin(30)").value, WithinAbs(0.5, 1e-15));
  CHECK_THAT(read("cos(60)").value, WithinAbs(0.5, 1e-15));
  CHECK_THAT(read("tan(45)").value, WithinAbs(1, 1e-15));
  CHECK_THAT(read("asin(0.5)").value, WithinAbs(30, 1e-13));
  CHECK_THAT(read("acos(0.5)").value, WithinAbs(60, 1e-13));
  CHECK_THAT(read("atan(1)").value, WithinAbs(45, 1e-13));
  CHECK_THAT(read("atan2(1, -1)").value, WithinAbs(135, 1e-13));
  for (const double angle : {3.0, 17.0, 44.0, 88.0}) {
    const std::string a = std::to_string(angle);
    CHECK_THAT(read("asin(sin(" + a + "))").value, WithinAbs(angle, 1e-9));
    CHECK_THAT(read("acos(cos(" + a + "))").value, WithinAbs(angle, 1e-9));
    CHECK_THAT(read("atan(tan(" + a + "))").value, WithinAbs(angle, 1e-9));
  }
  CHECK_THAT(read("sqrt(2)^2 + abs(-1) + min(3, 2) + max(1, 4) + round(2.4) + floor(2.6) + ceil(2.4)").value,
             WithinAbs(2 + 1 + 2 + 4 + 2 + 2 + 3, 1e-12));
  CHECK_THAT(read("exp(ln(5))").value, WithinRel(5.0, 1e-14));
  CHECK_THAT(read("2*pi").value, WithinRel(2 * kPi, 1e-15));
}

TEST_CASE("what the parser would read as another number is refused with the one that was probably meant") {
  CHECK_THAT(refused("4,5"), Contains("\"4.5\""));
  CHECK_THAT(refused("1,5"), Contains("\"1.5\""));
  CHECK_THAT(refused("12,5 mm"), Contains("\"12.5 mm\""));
  CHECK_THAT(refused("(12,5) mm"), Contains("\"(12.5) mm\""));
  CHECK_THAT(refused("1,234,567"), Contains("\"1234567\""));
  for (const char* text : {"5 > 3", "5 < 3", "1 == 1", "1 ? 2 : 3", "1 && 1", "x = 5", "!1", "1 | 2"}) {
    CAPTURE(text);
    CHECK_THAT(refused(text), Contains("one number"));
  }
  CHECK_THAT(refused("10 mm + 1"), Contains("mixes"));
  CHECK_THAT(refused("10 mm + 20 deg"), Contains("mixes"));
  CHECK_THAT(refused("10 mm * 2 mm"), Contains("mixes"));
  CHECK_THAT(refused("shaft + 1 mm", {{"shaft", 8}}), Contains("values") || Contains("mixes"));
  for (const char* text : {"", "mm", "1 +", "foo(2)", "nan", "inf", "1 2", "((1)", "_pi", "random"}) {
    CAPTURE(text);
    CHECK_THAT(refused(text), !Contains("(read as"));
  }
  CHECK_THAT(refused(std::string(500, '1')), Contains("400"));
}

TEST_CASE("trade words are answered with the key and the number; a bore may be one number") {
  const auto refusal = [](const std::string& text) -> std::string {
    try {
      resolve(text, "v");
    } catch (const JobError& e) {
      return e.what();
    }
    return "(accepted)";
  };
  const std::string gear = "[gear.a]\nkind='spur'\nteeth=20\n";
  CHECK(resolve(gear + "module=1\nbore=5\n", "v").gears[0].teeth.bore_diameter() == 5);
  CHECK(resolve(gear + "module=1\nbore='1/4 in'\n", "v").gears[0].teeth.bore_diameter() == 6.35);
  CHECK_THAT(refusal(gear + "pitch_diameter=30\n"), Contains("reference_diameter = 30"));
  CHECK_THAT(refusal(gear + "pitch=4.712388980384690\n"), Contains("module = 1.5"));
  CHECK_THAT(refusal(gear + "dp=18\n"), Contains("diametral_pitch = 18"));
  CHECK_THAT(refusal(gear + "module=1\nshaft_diameter='5 mm'\n"), Contains("bore.diameter = \"5 mm\""));
  CHECK_THAT(refusal(gear + "module=1\nbore.radius=4\n"), Contains("bore.diameter = 8"));
  // One mistake, one message.
  for (const std::string& one :
       {gear + "module=0.001\n", gear + "modul=1\n",
        std::string("[shared]\nhand='left'\n[gear.a]\nkind='helical'\nhelix_angle=20\nteeth=20\nmodule=1\n")}) {
    CAPTURE(one);
    const std::string why = refusal(one);
    CHECK(std::count(why.begin(), why.end(), '\n') == 0);
  }
}
