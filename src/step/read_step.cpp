// Reading a face of a STEP file back, to be rolled.
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_PrinterOStream.hxx>
#include <STEPControl_Reader.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/write/read_back.hpp"

namespace palio::write {
namespace {

/// Points along an edge, close enough that the chords stray by some 1e-6 mm on teeth of usual size.
std::vector<Vec2> sampled(const TopoDS_Edge& edge) {
  const BRepAdaptor_Curve curve(edge);
  const int count = curve.GetType() == GeomAbs_Line ? 1 : 600;
  std::vector<Vec2> points;
  for (int i = 0; i <= count; ++i) {
    const gp_Pnt p = curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / count);
    points.emplace_back(p.X(), p.Y());
  }
  if (edge.Orientation() == TopAbs_REVERSED) std::reverse(points.begin(), points.end());
  return points;
}

}  // namespace

StepFace step_face(const std::string& path, double least, double greatest) {
  Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_PrinterOStream));
  STEPControl_Reader reader;
  if (reader.ReadFile(path.c_str()) != IFSelect_RetDone)
    throw std::runtime_error(path + ": this is no STEP file that the kernel reads");
  reader.TransferRoots();
  const TopoDS_Shape shape = reader.OneShape();
  std::optional<StepFace> best;
  const double near = 1e-3 * greatest;
  for (TopExp_Explorer faces(shape, TopAbs_FACE); faces.More(); faces.Next()) {
    const TopoDS_Face face = TopoDS::Face(faces.Current());
    const BRepAdaptor_Surface surface(face);
    if (surface.GetType() != GeomAbs_Plane || std::abs(surface.Plane().Axis().Direction().Z()) < 1 - math::kAlike)
      continue;
    const double z = surface.Plane().Location().Z();
    if (best && z <= best->z) continue;
    for (TopExp_Explorer wires(face, TopAbs_WIRE); wires.More(); wires.Next()) {
      StepFace made{{}, z};
      double low = math::kInfinite, high = 0;
      // Seen from +z the face lies on the left of its edges when it looks up; looking down, on their right.
      const bool up = (face.Orientation() == TopAbs_FORWARD) == (surface.Plane().Axis().Direction().Z() > 0);
      for (TopExp_Explorer edges(wires.Current(), TopAbs_EDGE); edges.More(); edges.Next()) {
        const std::vector<Vec2> points = sampled(TopoDS::Edge(edges.Current()));
        for (std::size_t i = 0; i + 1 < points.size(); ++i) {
          made.pieces.push_back(up ? curve::Piece{points[i], points[i + 1]} : curve::Piece{points[i + 1], points[i]});
          low = std::min(low, points[i].norm()), high = std::max(high, points[i].norm());
        }
      }
      if (std::abs(low - least) < near && std::abs(high - greatest) < near) best = std::move(made);
    }
  }
  if (!best) throw std::runtime_error(path + ": no flat face across the axis has the teeth as its edge");
  return *best;
}

}  // namespace palio::write

extern "C" bool palio_read_step_face(const char* path, double least, double greatest, palio::write::StepFace* face,
                                     std::string* error) {
  try {
    *face = palio::write::step_face(path, least, greatest);
    return true;
  } catch (const std::exception& e) {
    *error = e.what();
  } catch (const Standard_Failure& e) {
    *error = std::string("the B-rep kernel failed: ") + e.GetMessageString();
  }
  return false;
}
