#include <APIHeaderSection_MakeHeader.hxx>
#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_PrinterOStream.hxx>
#include <STEPControl_Controller.hxx>
#include <STEPControl_Writer.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TopLoc_Location.hxx>
#include <TopoDS_Compound.hxx>
#include <cstdlib>
#include <ctime>
#include <mutex>

#include <fmt/format.h>

#include "brep.hpp"
#include "palio/error.hpp"
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
      for (int k = 1; k < length && i + k < text.size(); ++k) code = code << 6 | (static_cast<unsigned char>(text[i + k]) & 0x3F);
      out += fmt::format("U+{:04X}", code);
    }
    i += static_cast<std::size_t>(length);
  }
  return new TCollection_HAsciiString(out.c_str());
}

std::string time_stamp() {
  std::time_t when = std::time(nullptr);
  if (const char* fixed = std::getenv("SOURCE_DATE_EPOCH")) when = std::strtoll(fixed, nullptr, 10);
  char buffer[32];
  std::strftime(buffer, sizeof buffer, "%Y-%m-%dT%H:%M:%S", std::gmtime(&when));
  return buffer;
}

}  // namespace

StepMade write_step(const std::vector<StepPart>& parts, const Stamp& stamp, double tolerance, const std::string& path) {
  // The kernel's settings are global to the process and are ignored before a controller exists.
  static std::mutex lock;
  const std::lock_guard<std::mutex> hold(lock);
  Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_PrinterOStream));
  STEPControl_Controller::Init();
  Interface_Static::SetIVal("write.surfacecurve.mode", 0);
  Interface_Static::SetCVal("write.step.schema", "AP214IS");
  Interface_Static::SetCVal("write.step.unit", "MM");
  Interface_Static::SetCVal("write.step.product.name", stamp.part.c_str());

  StepMade made{0, 0};
  BRep_Builder build;
  TopoDS_Compound whole;
  build.MakeCompound(whole);
  TopoDS_Shape single;
  for (const StepPart& part : parts) {
    TopoDS_Shape solid = step::solid(part.body, tolerance, made.deviation);
    GProp_GProps properties;
    BRepGProp::VolumeProperties(solid, properties);
    made.volume += properties.Mass();
    gp_Trsf turn, move;
    turn.SetRotation(gp::OZ(), part.placement.turn);
    move.SetTranslation(gp_Vec(part.placement.at.x(), part.placement.at.y(), part.placement.at.z()));
    gp_Trsf upright;
    const Eigen::Matrix3d& a = part.placement.axes;
    if (!a.isIdentity()) upright.SetValues(a(0, 0), a(0, 1), a(0, 2), 0, a(1, 0), a(1, 1), a(1, 2), 0, a(2, 0), a(2, 1), a(2, 2), 0);
    const gp_Trsf place = move * upright * turn;
    if (place.Form() != gp_Identity) solid.Location(TopLoc_Location(place));
    build.Add(whole, solid);
    single = solid;
  }
  STEPControl_Writer writer;
  writer.Transfer(parts.size() == 1 ? single : TopoDS_Shape(whole), STEPControl_AsIs);
  APIHeaderSection_MakeHeader header(writer.Model());
  header.SetName(ascii(stamp.title.empty() ? stamp.part : stamp.title + " / " + stamp.part));
  header.SetTimeStamp(new TCollection_HAsciiString(time_stamp().c_str()));
  header.SetAuthorValue(1, new TCollection_HAsciiString("palio"));
  header.SetOrganizationValue(1, new TCollection_HAsciiString(""));
  header.SetOriginatingSystem(ascii("palio " + stamp.version));
  header.SetDescriptionValue(
      1, ascii(fmt::format("{}; palio {}; flanks and roots within {:.3g} mm of the exact curves", stamp.title, stamp.version, made.deviation)));

  const std::string temporary = aside(path);
  if (writer.Write(temporary.c_str()) != IFSelect_RetDone) {
    std::remove(temporary.c_str());
    throw FileError(fmt::format("{}: the STEP writer could not write here", path));
  }
  replace(temporary, path);
  return made;
}

}  // namespace palio::write

extern "C" bool palio_write_step(const std::vector<palio::write::StepPart>* parts, const palio::write::Stamp* stamp, double tolerance, const char* path,
                                 palio::write::StepMade* made, std::string* error) {
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
