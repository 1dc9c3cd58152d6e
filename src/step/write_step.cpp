#include <APIHeaderSection_MakeHeader.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_PrinterOStream.hxx>
#include <STEPCAFControl_Writer.hxx>
#include <STEPControl_Controller.hxx>
#include <STEPControl_Writer.hxx>
#include <StepData_StepModel.hxx>
#include <StepShape_ManifoldSolidBrep.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TDF_Label.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopLoc_Location.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <algorithm>
#include <mutex>

#include <fmt/format.h>

#include "brep.hpp"
#include "palio/error.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/step.hpp"

namespace palio::write {
namespace {

/// Header strings are plain ASCII here; other letters become their code point, "U+00E9".
Handle(TCollection_HAsciiString) ascii(const std::string& text) {
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    const auto c = static_cast<unsigned char>(text[i]);
    const int length = c < 0x80 ? 1 : c < 0xE0 ? 2 : c < 0xF0 ? 3 : 4;
    if (length == 1) {
      out += c < 32 ? ' ' : text[i];
    } else {
      unsigned code = c & (0xFFu >> (length + 1));
      for (int k = 1; k < length && i + k < text.size(); ++k)
        code = code << 6 | (static_cast<unsigned char>(text[i + k]) & 0x3F);
      out += fmt::format("U+{:04X}", code);
    }
    i += static_cast<std::size_t>(length);
  }
  return new TCollection_HAsciiString(out.c_str());
}

gp_Trsf place_of(const Placement& placement) {
  gp_Trsf turn, move, upright;
  turn.SetRotation(gp::OZ(), placement.turn);
  move.SetTranslation(gp_Vec(placement.at.x(), placement.at.y(), placement.at.z()));
  const Eigen::Matrix3d& a = placement.axes;
  if (!a.isIdentity())
    upright.SetValues(a(0, 0), a(0, 1), a(0, 2), 0, a(1, 0), a(1, 1), a(1, 2), 0, a(2, 0), a(2, 1), a(2, 2), 0);
  return move * upright * turn;
}

TCollection_ExtendedString wide(const std::string& text) { return {text.c_str(), true}; }

}  // namespace

namespace {

double volume_of(const TopoDS_Shape& shape) {
  GProp_GProps properties;
  BRepGProp::VolumeProperties(shape, properties);
  return properties.Mass();
}

/// A part's face or solid, moved to its place where it stands alone. \param volume  of the solid, set here [mm³]
TopoDS_Shape shape_of(const StepPart& part, const gp_Trsf& place, bool alone, double tolerance, double& deviation,
                      double& volume) {
  TopoDS_Shape shape;
  if (part.plane) {
    shape = step::plane_face(part.body.layers(), tolerance, deviation);
  } else {
    shape = step::solid(part.body, tolerance, deviation);
    volume = part.volume > 0 ? part.volume : volume_of(shape);
  }
  if (part.plane && place.Form() != gp_Identity) {
    // A face with a location of its own is written the wrong way round: its curves are moved instead.
    shape = BRepBuilderAPI_Transform(shape, place, true).Shape();
  } else if (alone && place.Form() != gp_Identity) {
    shape.Location(TopLoc_Location(place));
  }
  return shape;
}

void fill_header(STEPCAFControl_Writer& writer, const Stamp& stamp, double deviation) {
  APIHeaderSection_MakeHeader header(writer.ChangeWriter().Model());
  header.SetName(ascii(stamp.title.empty() ? stamp.part : stamp.title + " / " + stamp.part));
  header.SetTimeStamp(new TCollection_HAsciiString(time_stamp().c_str()));
  header.SetAuthorValue(1, new TCollection_HAsciiString("palio"));
  header.SetOrganizationValue(1, new TCollection_HAsciiString(""));
  header.SetOriginatingSystem(ascii("palio " + stamp.version));
  header.SetDescriptionValue(
      1, ascii(fmt::format("{}; palio {}; flanks and roots within {:.3g} mm of the exact curves{}{}", stamp.title,
                           stamp.version, deviation, stamp.note.empty() ? "" : "; ", stamp.note)));
}

}  // namespace

StepMade write_step(const std::vector<StepPart>& parts, const Stamp& stamp, double tolerance, const std::string& path) {
  // The kernel's settings are global to the process and are ignored before a controller exists.
  static std::mutex lock;
  const std::lock_guard<std::mutex> hold(lock);
  Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_PrinterOStream));
  STEPControl_Controller::Init();
  Interface_Static::SetIVal("write.surfacecurve.mode", 0);
  Interface_Static::SetCVal("write.step.product.name", stamp.part.c_str());

  StepMade made{0, 0};
  // A product for each part; of several, an assembly that says where each stands.
  Handle(TDocStd_Document) document;
  XCAFApp_Application::GetApplication()->NewDocument("MDTV-XCAF", document);
  const Handle(XCAFDoc_ShapeTool) shapes = XCAFDoc_DocumentTool::ShapeTool(document->Main());
  TDF_Label whole;
  if (parts.size() > 1) {
    whole = shapes->NewShape();
    TDataStd_Name::Set(whole, wide(stamp.part));
  }
  // What is alike is one product, named as the first of its kind.
  struct Product {
    std::string name;
    TDF_Label label;
    double volume = 0;  // [mm³]
  };
  std::vector<Product> products;
  const auto product_of = [&](const StepPart& part, const gp_Trsf& place) -> std::size_t {
    const auto known = std::find_if(products.begin(), products.end(),
                                    [&](const Product& p) { return !part.alike.empty() && p.name == part.alike; });
    if (known != products.end()) return static_cast<std::size_t>(known - products.begin());
    Product p{part.name, {}};
    p.label = shapes->AddShape(shape_of(part, place, parts.size() == 1, tolerance, made.deviation, p.volume), false);
    TDataStd_Name::Set(p.label, wide(part.name));
    products.push_back(std::move(p));
    return products.size() - 1;
  };
  // What belongs together is one product more, at the place where its first part stands in the list.
  struct Assembly {
    std::string name;
    TDF_Label label;
    std::vector<std::size_t> parts;  // products, in the order of the file
  };
  std::vector<Assembly> assemblies;
  const auto assembly_of = [&](const StepPart& part) -> Assembly& {
    const auto known = std::find_if(assemblies.begin(), assemblies.end(), [&](const Assembly& a) {
      return !part.assembly.empty() && a.name == part.assembly;
    });
    if (known != assemblies.end()) return *known;
    assemblies.push_back({part.assembly, whole, {}});
    if (!part.assembly.empty() && parts.size() > 1) {
      assemblies.back().label = shapes->NewShape();
      TDataStd_Name::Set(assemblies.back().label, wide(part.assembly));
    }
    return assemblies.back();
  };
  for (const StepPart& part : parts) {
    Assembly& within = assembly_of(part);
    const gp_Trsf place = place_of(part.placement);
    const Product& product = products[within.parts.emplace_back(product_of(part, place))];
    made.volume += product.volume;
    if (parts.size() == 1) continue;
    TDataStd_Name::Set(shapes->AddComponent(within.label, product.label, TopLoc_Location(place)), wide(part.name));
    if (within.label != whole && within.parts.size() == 1)
      TDataStd_Name::Set(shapes->AddComponent(whole, within.label, TopLoc_Location()), wide(within.name));
  }
  shapes->UpdateAssemblies();
  STEPCAFControl_Writer writer;
  writer.SetNameMode(true);
  writer.Transfer(document, STEPControl_AsIs);
  const Handle(Interface_InterfaceModel) model = writer.ChangeWriter().Model();
  std::vector<std::size_t> met;  // products in the order in which the file comes to them
  for (const Assembly& a : assemblies) {
    for (const std::size_t product : a.parts) {
      if (std::find(met.begin(), met.end(), product) == met.end()) met.push_back(product);
    }
  }
  std::size_t solid = 0;
  for (int i = 1; i <= model->NbEntities(); ++i) {
    const auto brep = Handle(StepShape_ManifoldSolidBrep)::DownCast(model->Value(i));
    if (!brep.IsNull() && solid < met.size()) brep->SetName(ascii(products[met[solid++]].name));
  }
  fill_header(writer, stamp, made.deviation);
  if (!std::isfinite(made.volume) ||
      (made.volume <= 0 && std::none_of(parts.begin(), parts.end(), [](const StepPart& p) { return p.plane; }))) {
    throw FileError(fmt::format("{}: the solid would have a volume of {} mm³; nothing is written", path, made.volume));
  }
  const std::string temporary = begin_aside(path);
  const bool written = writer.Write(temporary.c_str()) == IFSelect_RetDone;
  XCAFApp_Application::GetApplication()->Close(document);
  if (!written) {
    discard(temporary);
    throw FileError(fmt::format("{}: the STEP writer could not write here", path));
  }
  if (stamp.job.empty()) {
    finish(temporary, path);
  } else {
    const std::string bytes = with_job(read_file(temporary), "step", stamp.job);
    discard(temporary);
    write_file(path, bytes);
  }
  return made;
}

}  // namespace palio::write

extern "C" void palio_step_discard_all() { palio::write::discard_all(); }

extern "C" bool palio_write_step(const std::vector<palio::write::StepPart>* parts, const palio::write::Stamp* stamp,
                                 double tolerance, const char* path, palio::write::StepMade* made, std::string* error) {
  try {
    *made = palio::write::write_step(*parts, *stamp, tolerance, path);
    return true;
  } catch (const std::exception& e) {
    *error = e.what();
  } catch (const Standard_Failure& e) {
    *error = std::string("the B-rep kernel failed: ") + e.GetMessageString();
  }
  return false;
}
