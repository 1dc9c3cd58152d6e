// Binary glTF. A root node turns palio's millimetres and z-up into metres and y-up; below it stands one node a part,
// and inside that a node that turns about the part's own axis, with its mesh.
#include <tiny_gltf.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <sstream>

#include <Eigen/Geometry>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/packed.hpp"

namespace palio::write {
namespace {

class Scene {
 public:
  Scene(const Stamp& stamp, double seconds) : seconds_(seconds) {
    model_.asset.version = "2.0";
    model_.asset.generator = "palio " + stamp.version;
    tinygltf::Value::Object extras{{"title", tinygltf::Value(stamp.title)}, {"note", tinygltf::Value(stamp.note)}};
    if (!stamp.job.empty()) extras["job"] = tinygltf::Value(piece_lines(stamp.job));
    model_.asset.extras = tinygltf::Value(extras);
    model_.buffers.emplace_back();
    tinygltf::Node root;
    root.name = stamp.part;
    root.rotation = {-std::sqrt(0.5), 0, 0, std::sqrt(0.5)};
    root.scale = {0.001, 0.001, 0.001};
    model_.nodes.push_back(root);
    model_.scenes.emplace_back();
    model_.scenes[0].nodes = {0};
    model_.defaultScene = 0;
  }

  void add(const PackedPart& part) {
    tinygltf::Node place, mover;
    place.name = part.name + "_place";
    const Eigen::Quaterniond q = Eigen::Quaterniond(part.placement.axes) *
                                 Eigen::Quaterniond(Eigen::AngleAxisd(part.placement.turn, Vec3::UnitZ()));
    place.rotation = {q.x(), q.y(), q.z(), q.w()};
    place.translation = {part.placement.at.x(), part.placement.at.y(), part.placement.at.z()};
    mover.name = part.name;
    mover.mesh = mesh(part);
    const int at = static_cast<int>(model_.nodes.size());
    place.children = {at + 1};
    model_.nodes.push_back(place);
    model_.nodes.push_back(mover);
    model_.nodes[0].children.push_back(at);
    if (part.turns != 0) turning(at + 1, part.turns, part.swings);
    if (part.slides != 0) sliding(at + 1, part.slides);
    if (part.orbit != 0) orbiting(at, part);
  }

  std::string bytes() {
    if (!motion_.channels.empty()) {
      motion_.name = "turning";
      model_.animations.push_back(motion_);
    }
    std::ostringstream out;
    tinygltf::TinyGLTF writer;
    if (!writer.WriteGltfSceneToStream(&model_, out, false, true)) throw FileError("GLB: the writer failed");
    return out.str();
  }

 private:
  template <class T>
  int view(const std::vector<T>& data, int target) {
    std::vector<unsigned char>& buffer = model_.buffers[0].data;
    while (buffer.size() % 4 != 0)
      buffer.push_back(0);
    tinygltf::BufferView v;
    v.buffer = 0;
    v.byteOffset = buffer.size();
    v.byteLength = data.size() * sizeof(T);
    v.target = target;
    buffer.resize(buffer.size() + v.byteLength);
    std::memcpy(buffer.data() + v.byteOffset, data.data(), v.byteLength);
    model_.bufferViews.push_back(v);
    return static_cast<int>(model_.bufferViews.size()) - 1;
  }

  template <class T>
  int accessor(const std::vector<T>& data, int component, int type, std::size_t each, int target, bool range) {
    tinygltf::Accessor a;
    a.bufferView = view(data, target);
    a.componentType = component;
    a.type = type;
    a.count = data.size() / each;
    if (range) {
      for (std::size_t k = 0; k < each; ++k) {
        math::Extent extent;
        for (std::size_t i = k; i < data.size(); i += each)
          extent.hold(double(data[i]));
        a.minValues.push_back(extent.low()), a.maxValues.push_back(extent.high());
      }
    }
    model_.accessors.push_back(a);
    return static_cast<int>(model_.accessors.size()) - 1;
  }

  /// Corners of sharp edges are doubled: each triangle's corner takes the mean of the neighbouring faces that lie
  /// within 30° of its own.
  int mesh(const PackedPart& part) {
    const body::TriangleMesh& m = part.mesh;
    std::vector<Vec3> face;
    std::vector<std::vector<std::uint32_t>> around(m.vertices.size());
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
      const auto& c = m.triangles[t];
      face.push_back((m.vertices[c[1]] - m.vertices[c[0]]).cross(m.vertices[c[2]] - m.vertices[c[0]]));
      for (const std::uint32_t v : c)
        around[v].push_back(t);
    }
    std::vector<float> points, normals;
    std::vector<std::uint32_t> indices;
    std::vector<std::vector<std::pair<Vec3, std::uint32_t>>> made(m.vertices.size());
    for (std::uint32_t t = 0; t < m.triangles.size(); ++t) {
      const Vec3 own = face[t].normalized();
      for (const std::uint32_t v : m.triangles[t]) {
        Vec3 sum = Vec3::Zero();
        for (const std::uint32_t other : around[v]) {
          if (face[other].normalized().dot(own) > 0.866) sum += face[other];
        }
        constexpr double kSameWay = 1e-4;  // [rad]: normals are written as floats
        const Vec3 n = sum.norm() > 0 ? Vec3(sum.normalized()) : own;
        auto it = std::find_if(made[v].begin(), made[v].end(), [&](const auto& known) {
          return (known.first - n).squaredNorm() < kSameWay * kSameWay;
        });
        if (it == made[v].end()) {
          made[v].emplace_back(n, static_cast<std::uint32_t>(points.size() / 3));
          it = made[v].end() - 1;
          for (int k = 0; k < 3; ++k)
            points.push_back(static_cast<float>(m.vertices[v][k])), normals.push_back(static_cast<float>(n[k]));
        }
        indices.push_back(it->second);
      }
    }
    tinygltf::Primitive primitive;
    primitive.mode = TINYGLTF_MODE_TRIANGLES;
    primitive.attributes["POSITION"] =
        accessor(points, TINYGLTF_COMPONENT_TYPE_FLOAT, TINYGLTF_TYPE_VEC3, 3, TINYGLTF_TARGET_ARRAY_BUFFER, true);
    primitive.attributes["NORMAL"] =
        accessor(normals, TINYGLTF_COMPONENT_TYPE_FLOAT, TINYGLTF_TYPE_VEC3, 3, TINYGLTF_TARGET_ARRAY_BUFFER, false);
    primitive.indices = accessor(indices, TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT, TINYGLTF_TYPE_SCALAR, 1,
                                 TINYGLTF_TARGET_ELEMENT_ARRAY_BUFFER, false);
    tinygltf::Material look;
    look.name = part.name;
    const auto channel = [&](int at) {
      return std::pow(std::strtol(part.colour.substr(at, 2).c_str(), nullptr, 16) / 255.0, 2.2);
    };
    look.pbrMetallicRoughness.baseColorFactor = {channel(1), channel(3), channel(5), 1};
    look.pbrMetallicRoughness.metallicFactor = part.shine > 0.5 ? 0.9 : 0;
    look.pbrMetallicRoughness.roughnessFactor = 0.9 - 0.6 * part.shine;
    model_.materials.push_back(look);
    primitive.material = static_cast<int>(model_.materials.size()) - 1;
    tinygltf::Mesh made_mesh;
    made_mesh.name = part.name;
    made_mesh.primitives.push_back(primitive);
    model_.meshes.push_back(made_mesh);
    return static_cast<int>(model_.meshes.size()) - 1;
  }

  void channel(int node, const char* path, const std::vector<float>& times, const std::vector<float>& values, int type,
               std::size_t each) {
    tinygltf::AnimationSampler sampler;
    sampler.input = accessor(times, TINYGLTF_COMPONENT_TYPE_FLOAT, TINYGLTF_TYPE_SCALAR, 1, 0, true);
    sampler.output = accessor(values, TINYGLTF_COMPONENT_TYPE_FLOAT, type, each, 0, false);
    sampler.interpolation = "LINEAR";
    motion_.samplers.push_back(sampler);
    tinygltf::AnimationChannel c;
    c.sampler = static_cast<int>(motion_.samplers.size()) - 1;
    c.target_node = node;
    c.target_path = path;
    motion_.channels.push_back(c);
  }

  void turning(int node, double turns, bool swings) {
    // Keys a quarter turn apart at most: half a turn has no shorter way.
    const int keys = 2 * std::max(2, static_cast<int>(std::ceil(std::abs(turns) * (swings ? 4 : 2))));
    std::vector<float> times, values;
    for (int i = 0; i <= keys; ++i) {
      const double share = static_cast<double>(i) / keys,
                   half = kPi * turns * (swings ? 1 - std::abs(2 * share - 1) : share);
      times.push_back(static_cast<float>(seconds_ * i / keys));
      for (const double v : {0.0, 0.0, std::sin(half), std::cos(half)})
        values.push_back(static_cast<float>(v));
    }
    channel(node, "rotation", times, values, TINYGLTF_TYPE_VEC4, 4);
  }

  /// A rack goes to one end and back; nothing else lets it end where it began.
  void sliding(int node, double way) {
    channel(node, "translation", {0, static_cast<float>(seconds_ / 2), static_cast<float>(seconds_)},
            {0, 0, 0, static_cast<float>(-way), 0, 0, 0, 0, 0}, TINYGLTF_TYPE_VEC3, 3);
  }

  /// Keys 7.5° apart: between them the way is straight, within 0.0022 of its radius.
  void orbiting(int node, const PackedPart& part) {
    const int keys = std::max(48, static_cast<int>(std::ceil(48 * std::abs(part.orbit))));
    const Vec3 axis(part.orbit_axis.x(), part.orbit_axis.y(), 0), arm = part.placement.at - axis;
    std::vector<float> times, values;
    for (int i = 0; i <= keys; ++i) {
      const double on = static_cast<double>(i) / keys, way = !part.swings ? on : on < 0.5 ? 2 * on : 2 - 2 * on;
      const Vec2 p = turned(Vec2(arm.x(), arm.y()), 2 * kPi * part.orbit * way);
      times.push_back(static_cast<float>(seconds_ * i / keys));
      for (const double v : {axis.x() + p.x(), axis.y() + p.y(), part.placement.at.z()})
        values.push_back(static_cast<float>(v));
    }
    channel(node, "translation", times, values, TINYGLTF_TYPE_VEC3, 3);
  }

  tinygltf::Model model_;
  tinygltf::Animation motion_;
  double seconds_;
};

}  // namespace

std::string glb(const std::vector<PackedPart>& parts, const Stamp& stamp, double loop_seconds) {
  Scene scene(stamp, loop_seconds);
  for (const PackedPart& p : parts)
    scene.add(p);
  return scene.bytes();
}

}  // namespace palio::write
