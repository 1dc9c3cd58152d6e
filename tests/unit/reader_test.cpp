// What is read back: files of strangers, cut files, texts that pretend to be a job.
#include <unistd.h>

#include <catch2/catch.hpp>
#include <filesystem>

#include <fmt/format.h>

#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/foreign/drawing.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/file.hpp"
#include "palio/write/read_back.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;

TEST_CASE("a carried job is known by its checksum: cut, changed or spoofed ones are told") {
  const std::string job = "title='a long enough job to be in several pieces'\n" + std::string(400, '#') +
                          "\n[gear.a]\nkind='spur'\nteeth=20\nmodule=1\n";
  for (const char* format : {"svg", "html", "dxf", "step", "pdf"}) {
    const std::string bare = std::string(format) == "svg"    ? "<svg></svg>"
                             : std::string(format) == "html" ? "<html></html>"
                             : std::string(format) == "step" ? "HEADER;"
                                                             : "startxref";
    const std::string carrier = write::with_job(bare, format, job);
    CAPTURE(format);
    CHECK(write::job_in(carrier) == job);
    // Every place where it may be cut.
    int told = 0;
    for (std::size_t cut = 0; cut < carrier.size(); cut += 7) {
      try {
        const auto got = write::job_in(carrier.substr(0, cut));
        CHECK((!got || *got == job));
        told += got ? 0 : 1;
      } catch (const FileError&) {
        ++told;
      }
    }
    CHECK(told > 10);
    // A changed letter.
    std::string changed = carrier;
    const auto at = changed.find(' ', changed.find("palio-job 2/")) + 11;
    changed[at + 5] = changed[at + 5] == 'A' ? 'B' : 'A';
    CHECK_THROWS_WITH(write::job_in(changed), Contains("damaged"));
  }
  // A title that looks like a carried job stands before the real one.
  const std::string spoof = "palio-job 1/1 " + write::base64("title='other'\n");
  CHECK(write::job_in(write::with_job("<svg><title>" + spoof + "</title></svg>", "svg", job)) == job);
  CHECK_FALSE(write::job_in("nothing").has_value());
}

TEST_CASE("outlines out of a DXF: numbers that are none, arcs without end and too many places are refused") {
  const auto dxf = [](const std::string& x, const std::string& bulge) {
    return "  9\n$INSUNITS\n 70\n4\n  0\nLWPOLYLINE\n 70\n1\n 10\n0\n 20\n0\n 42\n" + bulge + "\n 10\n" + x +
           "\n 20\n0\n 42\n" + bulge + "\n  0\nEOF\n";
  };
  CHECK(foreign::read_dxf(dxf("10", "1"), 1e-3).loops.at(0).points.size() > 10);
  CHECK_THROWS_WITH(foreign::read_dxf(dxf("1e8", "1"), 1e-7), Contains("chords"));
  for (const char* bad : {"nan", "inf", "1e300", "-inf"}) {
    CAPTURE(bad);
    CHECK_THROWS_WITH(foreign::read_dxf(dxf(bad, "1"), 1e-3), Contains("stands"));
    CHECK_THROWS_WITH(foreign::read_dxf(dxf("10", bad), 1e-3), Contains("stands"));
  }
  CHECK_THROWS_WITH(foreign::read("", "dxf"), Contains("nothing is drawn"));
}

TEST_CASE("any bytes at all, read as a DXF, an STL or a carried job, are taken or refused, and nothing worse") {
  const std::string good =
      "  9\n$INSUNITS\n 70\n4\n  0\nLWPOLYLINE\n 70\n1\n 10\n0\n 20\n0\n 42\n0.2\n 10\n9\n 20\n1\n 42\n0\n 10\n4\n "
      "20\n7\n  "
      "0\nEOF\n";
  int taken = 0;
  for (unsigned seed = 1; seed <= 3000; ++seed) {
    test::Draw draw(seed);
    std::string bytes = good;
    for (int i = draw.whole(1, 6); i > 0; --i) {
      const auto at = static_cast<std::size_t>(draw.whole(0, static_cast<int>(bytes.size()) - 1));
      switch (draw.whole(0, 3)) {
        case 0: bytes[at] = static_cast<char>(draw.whole(0, 255)); break;
        case 1: bytes.erase(at, static_cast<std::size_t>(draw.whole(1, 9))); break;
        case 2: bytes.insert(at, bytes.substr(at / 2, static_cast<std::size_t>(draw.whole(1, 30)))); break;
        default: bytes.insert(at, draw.of({"nan", "1e9", "-", "\n", "LWPOLYLINE\n", "42\n1e5\n"}));
      }
      if (bytes.empty()) bytes = "x";
    }
    try {
      for (const foreign::Loop& loop : foreign::read_dxf(bytes, 1e-4).loops) {
        for (const Vec2& p : loop.points)
          REQUIRE(p.allFinite());
      }
      ++taken;
    } catch (const FileError&) {
      continue;
    }
    try {
      write::section(write::stl_triangles("solid x " + bytes), 0.5);
      write::job_in(bytes);
    } catch (const FileError&) {
      continue;
    }
  }
  CHECK(taken > 300);
}

TEST_CASE("a file is read up to a limit, and what was begun beside it goes with a signal") {
  const std::filesystem::path folder =
      std::filesystem::temp_directory_path() / fmt::format("palio-reader-{}", ::getpid());
  std::filesystem::create_directories(folder);
  const std::string path = (folder / "a.txt").string();
  write::write_file(path, std::string(1000, 'x'));
  CHECK(write::read_file(path).size() == 1000);
  CHECK_THROWS_WITH(write::read_file(path, 999), Contains("longer"));
  CHECK_THROWS_WITH(write::read_file("/dev/zero", 1 << 20), Contains("longer"));
  // Two runs never share a name, links are not followed, and the old file stands until the new one is whole.
  const std::string first = write::begin_aside(path), second = write::begin_aside(path);
  CHECK(first != second);
  CHECK(std::filesystem::exists(first));
  write::discard_all();
  CHECK_FALSE(std::filesystem::exists(first));
  CHECK_FALSE(std::filesystem::exists(second));
  CHECK(write::read_file(path).size() == 1000);
  std::filesystem::remove_all(folder);
}
