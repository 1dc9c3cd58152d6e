// Pictures in space: what is followed by rays covers what the corners of the triangles cover when they are projected
// here once more, the near hides the far, a cut opens what it cuts, and the contacts marked in the mesh lie on both
// bodies.
#include <catch2/catch.hpp>

#include "palio/angle.hpp"
#include "palio/view/space_scene.hpp"
#include "random_job.hpp"

using namespace palio;
using namespace palio::view;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

using Pixels = std::vector<std::uint8_t>;

SpacePart box(const Vec3& low, const Vec3& high, std::array<double, 3> color, bool inside_out = false) {
  SpacePart part;
  part.color = color;
  for (int i = 0; i < 8; ++i)
    part.vertices.emplace_back(i & 1 ? high.x() : low.x(), i & 2 ? high.y() : low.y(), i & 4 ? high.z() : low.z());
  part.triangles = {{0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4}, {1, 5, 4},
                    {2, 6, 3}, {3, 6, 7}, {0, 4, 2}, {2, 4, 6}, {1, 3, 5}, {3, 7, 5}};
  if (inside_out) {
    for (auto& t : part.triangles)
      std::swap(t[1], t[2]);
  }
  return part;
}

SpacePart ball(const Vec3& centre, double radius) {
  SpacePart part;
  part.color = {0.4, 0.5, 0.8};
  constexpr std::uint32_t kRows = 60, kColumns = 120;
  for (std::uint32_t i = 0; i <= kRows; ++i) {
    for (std::uint32_t k = 0; k < kColumns; ++k) {
      const double polar = kPi * i / kRows, turn = 2 * kPi * k / kColumns;
      part.vertices.push_back(
          centre + radius * Vec3(std::sin(polar) * std::cos(turn), std::sin(polar) * std::sin(turn), std::cos(polar)));
    }
  }
  for (std::uint32_t i = 0; i < kRows; ++i) {
    for (std::uint32_t k = 0; k < kColumns; ++k) {
      const std::uint32_t a = i * kColumns + k, b = i * kColumns + (k + 1) % kColumns, c = a + kColumns,
                          d = b + kColumns;
      part.triangles.push_back({a, c, b}), part.triangles.push_back({b, c, d});
    }
  }
  return part;
}

SpaceScene scene_of(std::vector<SpacePart> parts, const Vec3& eye, const Vec3& target) {
  SpaceScene scene;
  scene.parts = std::move(parts), scene.eye = eye, scene.target = target;
  scene.size = {320, 200}, scene.samples = 1, scene.occlusion = 0;
  return scene;
}

bool paper(const Pixels& p, int x, int y, int width) {
  const std::size_t at = 4 * (static_cast<std::size_t>(y) * width + x);
  return p[at] == 246 && p[at + 1] == 250 && p[at + 2] == 251;
}
int covered(const Pixels& p, PictureSize size) {
  int n = 0;
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x)
      n += paper(p, x, y, size.width) ? 0 : 1;
  }
  return n;
}
int blue(const Pixels& p, int x, int y, int width) { return p[4 * (static_cast<std::size_t>(y) * width + x)]; }
int red(const Pixels& p, int x, int y, int width) { return p[4 * (static_cast<std::size_t>(y) * width + x) + 2]; }
int brightness(const Pixels& p, int x, int y, int width) {
  const std::size_t at = 4 * (static_cast<std::size_t>(y) * width + x);
  return p[at] + p[at + 1] + p[at + 2];
}

/// Where a point of the world is seen: the pinhole camera, written here once more.
Vec2 seen(const SpaceScene& s, const Vec3& p) {
  const Vec3 ahead = (s.target - s.eye).normalized(), right = ahead.cross(Vec3::UnitZ()).normalized(),
             up = right.cross(ahead), d = p - s.eye;
  const double scale = s.size.height / 2.0 / std::tan(s.field * kPi / 360) / d.dot(ahead);
  return {s.size.width / 2.0 + scale * d.dot(right), s.size.height / 2.0 - scale * d.dot(up)};
}

/// Pixels whose middle some projected triangle covers.
std::vector<char> shadow(const SpaceScene& s) {
  std::vector<char> mask(static_cast<std::size_t>(s.size.width) * s.size.height, 0);
  for (const SpacePart& part : s.parts) {
    std::vector<Vec2> at;
    for (const Vec3& v : part.vertices)
      at.push_back(seen(s, v));
    for (const auto& t : part.triangles) {
      const Vec2 &a = at[t[0]], &b = at[t[1]], &c = at[t[2]];
      const int x0 = std::max(0, static_cast<int>(std::floor(std::min({a.x(), b.x(), c.x()})))),
                x1 = std::min(s.size.width - 1, static_cast<int>(std::max({a.x(), b.x(), c.x()})));
      const int y0 = std::max(0, static_cast<int>(std::floor(std::min({a.y(), b.y(), c.y()})))),
                y1 = std::min(s.size.height - 1, static_cast<int>(std::max({a.y(), b.y(), c.y()})));
      for (int y = y0; y <= y1; ++y) {
        for (int x = x0; x <= x1; ++x) {
          const Vec2 p(x + 0.5, y + 0.5);
          const double u = cross(b - a, p - a), v = cross(c - b, p - b), w = cross(a - c, p - c);
          if ((u >= 0 && v >= 0 && w >= 0) || (u <= 0 && v <= 0 && w <= 0))
            mask[static_cast<std::size_t>(y) * s.size.width + x] = 1;
        }
      }
    }
  }
  return mask;
}

}  // namespace

TEST_CASE("a ball covers the circle that its silhouette is, wherever it is looked at from") {
  for (const Vec3& eye : {Vec3(50, 0, 0), Vec3(20, -30, 25), Vec3(-5, 8, -60)}) {
    const double radius = 7, distance = eye.norm();
    const SpaceScene scene = scene_of({ball(Vec3::Zero(), radius)}, eye, Vec3::Zero());
    const double pixels =
        std::tan(std::asin(radius / distance)) / std::tan(scene.field * kPi / 360) * scene.size.height / 2;
    CHECK_THAT(covered(render(scene), scene.size), WithinRel(kPi * pixels * pixels, 0.015));
  }
}

TEST_CASE("the near hides the far, from either side") {
  const SpacePart reddish = box({-2, -2, -2}, {2, 2, 2}, {0.9, 0.2, 0.1}),
                  bluish = box({8, -2, -2}, {12, 2, 2}, {0.1, 0.2, 0.9});
  for (const bool from_right : {true, false}) {
    const SpaceScene scene = scene_of({reddish, bluish}, Vec3(from_right ? 60 : -50, 0, 0.5), {5, 0, 0.5});
    const Pixels p = render(scene);
    CHECK((blue(p, 160, 100, 320) > red(p, 160, 100, 320)) == from_right);
  }
}

TEST_CASE("a cut takes away what lies before it, shows the walls it opens darker, and lets one look into a hollow") {
  const std::vector<SpacePart> hollow{box({-5, -5, -5}, {5, 5, 5}, {0.6, 0.6, 0.6}),
                                      box({-3, -3, -3}, {3, 3, 3}, {0.6, 0.6, 0.6}, true)};
  SpaceScene scene = scene_of(hollow, {0, -60, 0}, {0, 0, 0});
  const Pixels whole = render(scene);
  scene.cut = CutPlane{{0, -20, 0}, {0, -1, 0}};
  const Pixels nothing_before = render(scene);
  std::size_t differ = 0;
  for (std::size_t i = 0; i < whole.size(); ++i)
    differ += std::abs(nothing_before[i] - whole[i]) > 2 ? 1 : 0;
  CHECK(differ < whole.size() / 1000);  // along edges, where rays that begin elsewhere round otherwise
  scene.cut = CutPlane{{0, 20, 0}, {0, -1, 0}};
  CHECK(covered(render(scene), scene.size) == 0);  // everything does
  scene.cut = CutPlane{{0, 0, 0}, {0, -1, 0}};
  const Pixels cut = render(scene);
  // Through the middle one looks at the far wall of the hollow, seen smaller than the opening by perspective.
  const Vec2 opening = seen(scene, {3, 0, 0}), far_wall = seen(scene, {3, 3, 0}), outer = seen(scene, {5, 0, 0});
  CHECK(far_wall.x() < opening.x());
  int wall = 0, lines = 0;
  for (int x = static_cast<int>(opening.x()) + 2; x < static_cast<int>(outer.x()) - 1; ++x) {
    CHECK_FALSE(paper(cut, x, 100, 320));
    ++wall, lines += brightness(cut, x, 100, 320) < 0.85 * brightness(cut, 160, 100, 320) ? 1 : 0;
  }
  CHECK(wall > 8);
  CHECK(lines > 0);     // slanting lines of a section
  CHECK(lines < wall);  // and ground between them
  CHECK(paper(cut, static_cast<int>(outer.x()) + 3, 100, 320));
}

TEST_CASE(
    "light falls from above on the looker's side, a recess is darker than an open face, and rays to a pixel only "
    "smooth edges") {
  SpaceScene scene = scene_of({box({-6, -6, -6}, {6, 6, 6}, {0.5, 0.5, 0.5})}, {30, -30, 24}, {0, 0, 0});
  const Pixels plain = render(scene);
  const auto face = [&](const Vec3& p) {
    const Vec2 at = seen(scene, p);
    return brightness(plain, static_cast<int>(at.x()), static_cast<int>(at.y()), 320);
  };
  CHECK(face({0, 0, 6}) > face({0, -6, 0}));
  CHECK(face({0, 0, 6}) > face({6, 0, 0}));
  // A wall beside the ground takes light from it: with the open sky looked for, no pixel gets brighter, and the corner
  // gets darker.
  scene.parts.push_back(box({-6, -6, 6}, {-4, 6, 14}, {0.5, 0.5, 0.5}));
  const Pixels before = render(scene);
  scene.occlusion = 16;
  const Pixels after = render(scene);
  for (std::size_t i = 0; i < before.size(); ++i)
    REQUIRE(after[i] <= before[i] + 1);
  const Vec2 corner = seen(scene, {-3.7, 0, 6}), open = seen(scene, {5, 0, 6});
  CHECK(brightness(after, static_cast<int>(corner.x()), static_cast<int>(corner.y()), 320) <
        0.9 * brightness(after, static_cast<int>(open.x()), static_cast<int>(open.y()), 320));
  SpaceScene fine = scene;
  fine.samples = 3;
  CHECK_THAT(covered(render(fine), fine.size), WithinRel(static_cast<double>(covered(after, scene.size)), 0.04));
}

TEST_CASE("marked points show through what hides them, where they are") {
  SpaceScene scene = scene_of({box({-6, -6, -6}, {6, 6, 6}, {0.9, 0.9, 0.9})}, {0, -60, 10}, {0, 0, 0});
  const Pixels without = render(scene);
  scene.dots = {{3, 0, 2}};
  const Pixels with = render(scene);
  const Vec2 at = seen(scene, scene.dots[0]);
  int changed = 0;
  for (int y = 0; y < 200; ++y) {
    for (int x = 0; x < 320; ++x) {
      if (brightness(with, x, y, 320) == brightness(without, x, y, 320)) continue;
      ++changed;
      CHECK(std::hypot(x + 0.5 - at.x(), y + 0.5 - at.y()) <= scene.dot_pixels + 1);
    }
  }
  CHECK_THAT(changed, WithinAbs(kPi * scene.dot_pixels * scene.dot_pixels, 30));
  CHECK(brightness(with, static_cast<int>(at.x()), static_cast<int>(at.y()), 320) < 100);
}

TEST_CASE(
    "the parts of every starter cover what their triangles cover, all of them are in the picture, and it is filled") {
  for (const char* kind : {"spur", "helical", "internal", "rack", "crossed", "bevel", "cycloidal", "lantern", "reducer",
                           "planetary", "train", "clock_train"}) {
    const job::Design design = job::resolve(job::starter(kind, job::Units::mm), "s");
    for (const char* view : {"iso", "front", "section"}) {
      CAPTURE(kind, view);
      const SpaceScene scene = parts_in_space(parts(design), view, {400, 250}, true);
      const std::vector<char> mask = shadow(scene);  // of a cut body: of all of it, which covers what is left and more
      const Pixels p = render(scene);
      int differ = 0, cover = 0, left = 400, right = 0, low = 250, high = 0;
      for (int y = 0; y < 250; ++y) {
        for (int x = 0; x < 400; ++x) {
          const bool shown = !paper(p, x, y, 400);
          cover += shown;
          differ += shown != (mask[static_cast<std::size_t>(y) * 400 + x] != 0);
          if (shown)
            left = std::min(left, x), right = std::max(right, x), low = std::min(low, y), high = std::max(high, y);
        }
      }
      if (!scene.cut) CHECK(differ <= 3 + cover / 200);
      CHECK(std::abs((left + right) - 399) < 40);  // in the middle
      CHECK(std::abs((low + high) - 249) < 40);
      CHECK(left > 0);
      CHECK(right < 399);
      CHECK(low > 0);
      CHECK(high < 249);
      CHECK(std::max((right - left) / 400.0, (high - low) / 250.0) > 0.85);
    }
  }
}

TEST_CASE("contacts marked in space lie on both bodies as they are drawn, for crossed and bevel pairs") {
  for (const char* kind : {"crossed", "bevel"}) {
    const job::Design design = job::resolve(job::starter(kind, job::Units::mm), "s");
    for (const job::Pair& p : design.pairs) {
      const roll::Result rolled = job::rolled(p, 12);
      const double m = design.gears[p.driver].teeth.module();
      for (const std::size_t i : {0u, 5u, 9u}) {
        const roll::Position& at = rolled.positions[i];
        REQUIRE(at.upper);
        REQUIRE_FALSE(at.touching_upper.empty());
        const SpaceScene scene =
            pair_in_space(design, p, at.driver, at.upper->driven, at.touching_upper, {320, 200}, true);
        CAPTURE(kind, p.name, i, scene.dots.size());
        CHECK(scene.dots.size() >= at.touching_upper.size());
        for (const Vec3& dot : scene.dots) {
          for (const SpacePart& part : scene.parts) {
            double least = 1e300;
            for (const auto& t : part.triangles) {
              const Vec3 &a = part.vertices[t[0]], ab = part.vertices[t[1]] - a, ac = part.vertices[t[2]] - a;
              if ((a - dot).norm() > 4 * m + ab.norm() + ac.norm()) continue;
              // Distance from a fine net of points on the triangle, by its height over the plane where its foot lies
              // inside.
              const Vec3 n = ab.cross(ac);
              if (n.norm() < 1e-12) continue;
              const Vec3 d = dot - a;
              const double u = d.cross(ac).dot(n) / n.squaredNorm(), v = ab.cross(d).dot(n) / n.squaredNorm();
              if (u >= -0.01 && v >= -0.01 && u + v <= 1.01) least = std::min(least, std::abs(d.dot(n)) / n.norm());
            }
            CHECK(least < 0.02 * m);
          }
        }
      }
    }
  }
}
