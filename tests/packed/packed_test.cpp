// 3MF read by the format's reference library; the job in bytes of every format.
#include <catch2/catch.hpp>
#include <map>

#include <Model/COM/NMR_DLLInterfaces.h>

#include "palio/body/mesh.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/packed.hpp"
#include "random_body.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

TEST_CASE("3MF: the reference library reads objects by name, in millimetres, closed, where they stand; bytes repeat") {
  std::vector<write::PackedPart> parts;
  double turn = 0.3;
  for (const auto& [name, teeth] : test::one_of_each()) {
    write::PackedPart part{name, body::mesh(body::body(teeth), 0.02), {}};
    part.placement.at = Vec3(10 * turn, -5, 2), part.placement.turn = turn;
    turn += 0.4;
    parts.push_back(std::move(part));
  }
  const write::Stamp stamp{"Roof <vent> & \"crank\"", "assembly", "0.0-test", false, "title = \"é\"\n", ""};
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

TEST_CASE("a text carried by a file comes out as it went in, or not at all") {
  const std::string hosts[] = {"<svg></svg>",
                               "<html></html>",
                               "%PDF-1.5\ntrailer\nstartxref\n9\n%%EOF",
                               "  0\nEOF\n",
                               "ISO-10303-21;\nHEADER;\n",
                               std::string("\x89PNG\r\n\x1a\n\0\0\0\rIHDR0123456789abcCRC!rest", 38)};
  const char* formats[] = {"svg", "html", "pdf", "dxf", "step", "png"};
  test::Draw draw(5);
  for (unsigned length = 0; length < 700; length += 7) {
    std::string job;
    for (unsigned i = 0; i < length; ++i) job += static_cast<char>(draw.whole(0, 255));
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
      CHECK_FALSE(write::job_in(host.substr(0, at) + host.substr(at + 9)));
    }
  }
  CHECK_FALSE(write::job_in("nothing here"));
}
