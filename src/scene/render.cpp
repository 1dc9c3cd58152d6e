#if __has_include(<embree4/rtcore.h>)
#include <embree4/rtcore.h>
#else
#include <embree3/rtcore.h>
#endif

#include <algorithm>
#include <cmath>
#include <limits>
#include <stdexcept>

#include "palio/angle.hpp"
#include "palio/view/space_scene.hpp"
#include "parallel.hpp"

namespace palio::view {
namespace {

/// The device and the committed scene, released together.
class Rays {
 public:
  explicit Rays(const SpaceScene& scene) : device_(rtcNewDevice(nullptr)) {
    if (!device_) throw std::runtime_error("the ray library could not be started");
    scene_ = rtcNewScene(device_);
    for (const SpacePart& part : scene.parts) {
      RTCGeometry mesh = rtcNewGeometry(device_, RTC_GEOMETRY_TYPE_TRIANGLE);
      auto* v = static_cast<float*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3,
                                                            3 * sizeof(float), part.vertices.size()));
      for (const Vec3& p : part.vertices) {
        for (int k = 0; k < 3; ++k)
          *v++ = static_cast<float>(p[k]);
      }
      auto* t = static_cast<unsigned*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3,
                                                               3 * sizeof(unsigned), part.triangles.size()));
      for (const auto& triangle : part.triangles) {
        for (const std::uint32_t index : triangle)
          *t++ = index;
      }
      rtcCommitGeometry(mesh);
      rtcAttachGeometry(scene_, mesh);
      rtcReleaseGeometry(mesh);
    }
    rtcCommitScene(scene_);
  }
  ~Rays() {
    rtcReleaseScene(scene_);
    rtcReleaseDevice(device_);
  }
  Rays(const Rays&) = delete;
  Rays& operator=(const Rays&) = delete;

  struct Hit {
    bool any;
    unsigned part;
    Vec3 at, normal;
    bool leaving = false;  ///< met from inside
  };
  Hit nearest(const Vec3& from, const Vec3& towards) const {
    RTCRayHit ray{};
    set(ray.ray, from, towards);
    ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    intersect(ray);
    if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {false, 0, {}, {}};
    const Vec3 normal = Vec3(ray.hit.Ng_x, ray.hit.Ng_y, ray.hit.Ng_z).normalized();
    return {true, ray.hit.geomID, from + static_cast<double>(ray.ray.tfar) * towards,
            normal.dot(towards) > 0 ? Vec3(-normal) : normal, normal.dot(towards) > 0};
  }
  bool blocked(const Vec3& from, const Vec3& towards, double far) const {
    RTCRay ray{};
    set(ray, from, towards);
    ray.tfar = static_cast<float>(far);
    occlude(ray);
    return ray.tfar < 0;
  }

 private:
  static void set(RTCRay& r, const Vec3& from, const Vec3& towards) {
    r.org_x = static_cast<float>(from.x()), r.org_y = static_cast<float>(from.y()),
    r.org_z = static_cast<float>(from.z());
    r.dir_x = static_cast<float>(towards.x()), r.dir_y = static_cast<float>(towards.y()),
    r.dir_z = static_cast<float>(towards.z());
    r.tnear = 0, r.tfar = std::numeric_limits<float>::infinity(), r.mask = ~0u;
  }
#if RTC_VERSION_MAJOR >= 4
  void intersect(RTCRayHit& ray) const { rtcIntersect1(scene_, &ray); }
  void occlude(RTCRay& ray) const { rtcOccluded1(scene_, &ray); }
#else
  void intersect(RTCRayHit& ray) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcIntersect1(scene_, &context, &ray);
  }
  void occlude(RTCRay& ray) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcOccluded1(scene_, &context, &ray);
  }
#endif
  RTCDevice device_;
  RTCScene scene_ = nullptr;
};

/// Even directions over a half space, the same for every picture: no flicker in films.
Vec3 around(const Vec3& normal, int k, int count, double turn) {
  const double height = std::sqrt((k + 0.5) / count), angle = 2.399963229728653 * k + turn;
  const Vec3 u = (std::abs(normal.z()) < 0.9 ? Vec3::UnitZ() : Vec3::UnitX()).cross(normal).normalized(),
             v = normal.cross(u);
  const double flat = std::sqrt(1 - height * height);
  return flat * (std::cos(angle) * u + std::sin(angle) * v) + height * normal;
}

/// Where a picture is taken from.
struct Camera {
  Vec3 eye, ahead, right, up;
  int width, height;
  double half;  // tangent of half the field, upwards
  double distance;

  explicit Camera(const SpaceScene& scene)
      : eye(scene.eye),
        ahead((scene.target - scene.eye).normalized()),
        right(ahead.cross(Vec3::UnitZ()).normalized()),
        up(right.cross(ahead)),
        width(scene.size.width),
        height(scene.size.height),
        half(std::tan(scene.field * kPi / 360)),
        distance((scene.target - scene.eye).norm()) {}

  /// Towards a place of the picture, in pixels from its top left corner.
  Vec3 towards(double x, double y) const {
    const double px = x / height * 2 - static_cast<double>(width) / height, py = 1 - y / height * 2;
    return (ahead + half * (px * right + py * up)).normalized();
  }
  /// Where a point of space appears.
  Vec2 seen(const Vec3& point) const {
    const Vec3 d = point - eye;
    const double depth = d.dot(ahead);
    return {(d.dot(right) / depth / half + static_cast<double>(width) / height) * height / 2,
            (1 - d.dot(up) / depth / half) * height / 2};
  }
};

/// What is seen along a ray.
class Light {
 public:
  Light(const SpaceScene& scene, const Camera& camera)
      : scene_(scene),
        rays_(scene),
        camera_(camera),
        sun_((-camera.ahead + 0.5 * camera.right + 0.9 * camera.up).normalized()) {}

  /// Red, green, blue from 0 to 1. \param turn  of the rays that look for what is near, from 0 to a full turn
  Vec3 along(const Vec3& towards, double turn) const {
    static const Vec3 kPaper(0.984, 0.980, 0.965);
    Vec3 from = camera_.eye;
    // What lies before the cut is looked through; a ray that then leaves a part before it has entered one began inside
    // it.
    const double off_plane = scene_.cut ? (camera_.eye - scene_.cut->at).dot(scene_.cut->normal) : 0,
                 closing = scene_.cut ? -towards.dot(scene_.cut->normal) : 0;
    if (scene_.cut && off_plane > 0) {
      if (closing <= 0) return kPaper;
      from += towards * (off_plane / closing);
    }
    Rays::Hit hit = rays_.nearest(from, towards);
    if (!hit.any) return kPaper;
    const bool inside = scene_.cut && hit.leaving;
    if (inside) hit.at = from, hit.normal = scene_.cut->normal;
    const auto& c = scene_.parts[hit.part].color;
    const double shine = scene_.parts[hit.part].shine;
    double light = 0.58 + 0.47 * std::max(0.0, hit.normal.dot(sun_));
    if (scene_.occlusion > 0) {
      const Vec3 off = hit.at + 1e-4 * camera_.distance * hit.normal;
      int open = 0;
      for (int k = 0; k < scene_.occlusion; ++k)
        open += hidden(off, around(hit.normal, k, scene_.occlusion, turn), 0.12 * camera_.distance) ? 0 : 1;
      light *= 0.55 + 0.45 * open / scene_.occlusion;
      if (hit.normal.dot(sun_) > 0 && hidden(off, sun_, 1e9)) light *= 0.75;
    }
    // A cut face is drawn a little darker, with the slanting lines of a section.
    if (inside)
      light *= std::fmod(std::abs(hit.at.dot(camera_.right + camera_.up)) / (0.006 * camera_.distance), 1.0) < 0.18
                   ? 0.6
                   : 0.9;
    const Vec3 half_way = (sun_ - towards).normalized();
    const double gloss = inside ? 0 : shine * std::pow(std::max(0.0, hit.normal.dot(half_way)), 8 + 60 * shine);
    return (Vec3(c[0], c[1], c[2]) * light + 0.45 * gloss * Vec3::Ones()).cwiseMin(1.0);
  }

 private:
  /// Whether something kept stands in the way.
  bool hidden(const Vec3& from, const Vec3& way, double far) const {
    if (scene_.cut) {
      const double rising = way.dot(scene_.cut->normal);
      if (rising > 0) far = std::min(far, std::max(0.0, (scene_.cut->at - from).dot(scene_.cut->normal)) / rising);
    }
    return far > 0 && rays_.blocked(from, way, far);
  }

  const SpaceScene& scene_;
  Rays rays_;
  const Camera& camera_;
  Vec3 sun_;
};

/// A point marked on a picture, seen through what hides it.
void mark(std::vector<std::uint8_t>& pixels, const Camera& camera, const Vec2& at, double radius) {
  const int w = camera.width, h = camera.height, r = static_cast<int>(std::ceil(radius + 1));
  for (int y = std::max(0, static_cast<int>(at.y()) - r); y <= std::min(h - 1, static_cast<int>(at.y()) + r); ++y) {
    for (int x = std::max(0, static_cast<int>(at.x()) - r); x <= std::min(w - 1, static_cast<int>(at.x()) + r); ++x) {
      const double cover = std::clamp(radius + 0.5 - std::hypot(x + 0.5 - at.x(), y + 0.5 - at.y()), 0.0, 1.0);
      for (int k = 0; k < 3; ++k) {
        std::uint8_t& p = pixels[4 * (static_cast<std::size_t>(y) * w + x) + k];
        p = static_cast<std::uint8_t>(p * (1 - cover) + 30 * cover);
      }
    }
  }
}

}  // namespace

std::vector<std::uint8_t> render(const SpaceScene& scene) {
  const Camera camera(scene);
  const Light light(scene, camera);
  const int w = camera.width, n = scene.samples;
  std::vector<std::uint8_t> pixels(static_cast<std::size_t>(4) * w * camera.height, 255);
  for_each_index(static_cast<std::size_t>(camera.height), [&](std::size_t row) {
    const int y = static_cast<int>(row);
    for (int x = 0; x < w; ++x) {
      Vec3 sum = Vec3::Zero();
      for (int s = 0; s < n * n; ++s) {
        const int down = s / n;
        const double turn = 6.2831853 * std::fmod(0.7548776662 * x + 0.5698402910 * y + 0.37 * s, 1.0);
        sum += light.along(camera.towards(x + (s % n + 0.5) / n, y + (down + 0.5) / n), turn);
      }
      for (int k = 0; k < 3; ++k)
        pixels[4 * (row * w + x) + k] =
            static_cast<std::uint8_t>(std::lround(255 * std::clamp(sum[2 - k] / (n * n), 0.0, 1.0)));
    }
  });
  for (const Vec3& dot : scene.dots)
    mark(pixels, camera, camera.seen(dot), scene.dot_pixels);
  return pixels;
}

}  // namespace palio::view

extern "C" bool palio_render(const palio::view::SpaceScene* scene, std::vector<std::uint8_t>* pixels,
                             std::string* error) {
  try {
    *pixels = palio::view::render(*scene);
    return true;
  } catch (const std::exception& e) {
    *error = e.what();
    return false;
  }
}
