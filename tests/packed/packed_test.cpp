// 3MF read by the format's reference library; the job in bytes of every format.
#include <catch2/catch.hpp>
#include <cstring>
#include <map>
#include <nlohmann/json.hpp>

#include <Model/COM/NMR_DLLInterfaces.h>

#include "filled.hpp"
#include "palio/body/mesh.hpp"
#include "palio/gear/core.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/packed.hpp"
#include "random_body.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

TEST_CASE("3MF: the reference library reads objects by name, in millimetres, closed, where they stand; bytes repeat") {
  std::vector<write::PackedPart> parts;
  double turn = 0.3;
  for (const auto& [name, teeth] : test::one_of_each()) {
    write::PackedPart part{name, body::mesh(gear::body(teeth), 0.02), {}};
    part.placement.at = Vec3(10 * turn, -5, 2), part.placement.turn = turn;
    turn += 0.4;
    parts.push_back(std::move(part));
  }
  write::Stamp stamp;
  stamp.title = "Roof <vent> & \"crank\"";
  stamp.part = "assembly";
  stamp.version = "0.0-test";
  stamp.job = "title = \"é\"\n";
  std::string bytes, again, error;
  REQUIRE(palio_pack("3mf", &parts, &stamp, 4, &bytes, &error));
  REQUIRE(palio_pack("3mf", &parts, &stamp, 4, &again, &error));
  CHECK(bytes == again);
  CHECK(write::job_in(bytes) == stamp.job);

  NMR::PLib3MFModel* model = nullptr;
  NMR::PLib3MFModelReader* reader = nullptr;
  REQUIRE(NMR::lib3mf_createmodel(&model) == 0);
  REQUIRE(NMR::lib3mf_model_queryreader(model, "3mf", &reader) == 0);
  REQUIRE(NMR::lib3mf_reader_readfrombuffer(reader, reinterpret_cast<BYTE*>(bytes.data()), bytes.size()) == 0);
  DWORD warnings = 0, unit = 0;
  CHECK(NMR::lib3mf_reader_getwarningcount(reader, &warnings) == 0);
  CHECK(warnings == 0);
  CHECK(NMR::lib3mf_model_getunit(model, &unit) == 0);
  CHECK(unit == NMR::MODELUNIT_MILLIMETER);
  NMR::PLib3MFModelBuildItemIterator* items = nullptr;
  REQUIRE(NMR::lib3mf_model_getbuilditems(model, &items) == 0);
  BOOL more = 0;
  std::size_t i = 0;
  while (NMR::lib3mf_builditemiterator_movenext(items, &more) == 0 && more) {
    NMR::PLib3MFModelBuildItem* item = nullptr;
    NMR::PLib3MFModelObjectResource* object = nullptr;
    REQUIRE(NMR::lib3mf_builditemiterator_getcurrent(items, &item) == 0);
    REQUIRE(NMR::lib3mf_builditem_getobjectresource(item, &object) == 0);
    char name[200] = {};
    ULONG length = 0;
    NMR::lib3mf_object_getnameutf8(object, name, sizeof name, &length);
    CHECK(std::string(name) == parts[i].name);
    NMR::MODELTRANSFORM placed{};
    CHECK(NMR::lib3mf_builditem_getobjecttransform(item, &placed) == 0);
    // A point of the part, put in place by both.
    const write::Placement& p = parts[i].placement;
    const Vec2 x = turned(Vec2(1, 0), p.turn);
    CHECK_THAT(placed.m_fFields[0][0], WithinAbs(x.x(), 1e-6));
    CHECK_THAT(placed.m_fFields[1][0], WithinAbs(x.y(), 1e-6));
    CHECK_THAT(placed.m_fFields[0][3], WithinAbs(p.at.x(), 1e-5));
    BOOL manifold = 0;
    CHECK(NMR::lib3mf_meshobject_ismanifoldandoriented(object, &manifold) == 0);
    CHECK(manifold);
    DWORD triangles = 0;
    NMR::lib3mf_meshobject_gettrianglecount(object, &triangles);
    CHECK(triangles == parts[i].mesh.triangles.size());
    NMR::lib3mf_release(object);
    NMR::lib3mf_release(item);
    ++i;
  }
  CHECK(i == parts.size());
  NMR::lib3mf_release(items);
  NMR::lib3mf_release(reader);
  NMR::lib3mf_release(model);
}

TEST_CASE("GLB: a reducer's disc goes round evenly while it turns back, and ends as it began") {
  write::PackedPart disc;
  disc.name = "disc", disc.mesh = body::mesh(gear::body(test::one_of_each()[0].second), 0.05);
  disc.placement.at = Vec3(11.2, -5, 3), disc.orbit = 23, disc.orbit_axis = Vec2(10, -5), disc.turns = -1;
  const std::string bytes = write::glb({disc}, test::stamp("assembly"), 46);
  // Read by hand: header, a chunk of JSON, a chunk of numbers.
  const auto word = [&](std::size_t at) {
    std::uint32_t v = 0;
    std::memcpy(&v, bytes.data() + at, 4);
    return v;
  };
  REQUIRE(bytes.substr(0, 4) == "glTF");
  REQUIRE(word(8) == bytes.size());
  const nlohmann::json model = nlohmann::json::parse(bytes.substr(20, word(12)));
  const char* numbers = bytes.data() + 20 + word(12) + 8;
  REQUIRE(model["animations"].size() == 1);
  const nlohmann::json& motion = model["animations"][0];
  int moves = 0, turns = 0;
  for (const nlohmann::json& c : motion["channels"]) {
    const nlohmann::json& a =
        model["accessors"][motion["samplers"][c["sampler"].get<std::size_t>()]["output"].get<std::size_t>()];
    const float* values = reinterpret_cast<const float*>(
        numbers + model["bufferViews"][a["bufferView"].get<std::size_t>()].value("byteOffset", 0));
    const std::size_t count = a["count"];
    if (c["target"]["path"] != "translation") {
      ++turns;
      continue;
    }
    ++moves;
    CHECK(count == 48 * 23 + 1);
    double travelled = 0;
    for (std::size_t i = 0; i < count; ++i) {
      const Vec2 arm(values[3 * i] - 10, values[3 * i + 1] + 5);
      CHECK_THAT(arm.norm(), WithinAbs(1.2, 1e-5));
      CHECK(values[3 * i + 2] == 3);
      if (i > 0) travelled += cross(Vec2(values[3 * i - 3] - 10, values[3 * i - 2] + 5), arm) / (1.2 * 1.2);
    }
    CHECK_THAT(travelled / (2 * kPi), WithinAbs(23, 0.1));  // the sine of small steps
    CHECK_THAT(values[3 * (count - 1)], WithinAbs(11.2, 1e-5));
  }
  CHECK(moves == 1);
  CHECK(turns == 1);
}

TEST_CASE("a text carried by a file comes out as it went in, or not at all") {
  const std::string hosts[] = {"<svg></svg>",
                               "<html></html>",
                               "%PDF-1.5\ntrailer\nstartxref\n9\n%%EOF",
                               "  0\nEOF\n",
                               "ISO-10303-21;\nHEADER;\n",
                               std::string("\x89PNG\r\n\x1a\n\0\0\0\rIHDR0123456789abcCRC!rest", 37)};
  const char* formats[] = {"svg", "html", "pdf", "dxf", "step", "png"};
  test::Draw draw(5);
  for (unsigned length = 0; length < 700; length += 7) {
    std::string job;
    for (unsigned i = 0; i < length; ++i)
      job += static_cast<char>(draw.whole(0, 255));
    for (std::size_t i = 0; i < 6; ++i) {
      const std::string host = write::with_job(hosts[i], formats[i], job);
      CAPTURE(length, formats[i]);
      if (job.empty()) {
        CHECK(host == hosts[i]);
        continue;
      }
      CHECK(write::job_in(host) == job);
      if (length < 130) continue;
      // With a piece torn out nothing is made up.
      const auto at = host.find("palio-job 2/");
      CHECK_THROWS_WITH(write::job_in(host.substr(0, at) + host.substr(at + 9)), Catch::Contains("damaged"));
    }
  }
  CHECK_FALSE(write::job_in("nothing here"));
}
