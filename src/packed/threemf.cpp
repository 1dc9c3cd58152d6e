// 3MF (core specification 1.x): an OPC package with one model. The XML is our own so that equal jobs give equal bytes.
#include <zip.h>

#include <cstdlib>
#include <cstring>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/packed.hpp"

namespace palio::write {
namespace {

/// Nine digits hold a single-precision coordinate; all that slicers keep.
std::string model(const std::vector<PackedPart>& parts, const Stamp& stamp) {
  std::string xml = fmt::format(
      "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<model unit=\"millimeter\" xml:lang=\"en\" "
      "xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\">\n <metadata name=\"Title\">{}</metadata>\n"
      " <metadata name=\"Application\">palio {}</metadata>\n <metadata name=\"Description\">{}</metadata>\n "
      "<resources>\n  <basematerials id=\"1\">\n",
      xml_escaped(stamp.title), stamp.version, xml_escaped(stamp.note));
  for (const PackedPart& p : parts)
    xml += fmt::format("   <base name=\"{}\" displaycolor=\"{}FF\"/>\n", xml_escaped(p.name), p.colour);
  xml += "  </basematerials>\n";
  for (std::size_t i = 0; i < parts.size(); ++i) {
    const PackedPart& p = parts[i];
    xml += fmt::format(
        "  <object id=\"{}\" type=\"model\" name=\"{}\" pid=\"1\" pindex=\"{}\">\n   <mesh>\n    <vertices>\n", i + 2,
        xml_escaped(p.name), i);
    for (const Vec3& v : p.mesh.vertices)
      fmt::format_to(std::back_inserter(xml), "<vertex x=\"{:.9g}\" y=\"{:.9g}\" z=\"{:.9g}\"/>\n", v.x(), v.y(),
                     v.z());
    xml += "    </vertices>\n    <triangles>\n";
    for (const auto& t : p.mesh.triangles)
      fmt::format_to(std::back_inserter(xml), "<triangle v1=\"{}\" v2=\"{}\" v3=\"{}\"/>\n", t[0], t[1], t[2]);
    xml += "    </triangles>\n   </mesh>\n  </object>\n";
  }
  xml += " </resources>\n <build>\n";
  for (std::size_t i = 0; i < parts.size(); ++i) {
    const Placement& p = parts[i].placement;
    const Eigen::Matrix3d m = p.turned_axes();
    // Row vectors: the matrix is written transposed, the move last.
    xml += fmt::format(
        "  <item objectid=\"{}\" transform=\"{:.9g} {:.9g} {:.9g} {:.9g} {:.9g} {:.9g} {:.9g} {:.9g} {:.9g} {:.9g} "
        "{:.9g} {:.9g}\"/>\n",
        i + 2, m(0, 0), m(1, 0), m(2, 0), m(0, 1), m(1, 1), m(2, 1), m(0, 2), m(1, 2), m(2, 2), p.at.x(), p.at.y(),
        p.at.z());
  }
  return xml + " </build>\n</model>\n";
}

}  // namespace

std::string threemf(const std::vector<PackedPart>& parts, const Stamp& stamp) {
  zip_error_t error;
  zip_error_init(&error);
  zip_source_t* memory = zip_source_buffer_create(nullptr, 0, 0, &error);
  zip_t* archive = memory ? zip_open_from_source(memory, ZIP_TRUNCATE, &error) : nullptr;
  if (!archive) throw FileError(fmt::format("3MF: the archive could not be begun: {}", zip_error_strerror(&error)));
  zip_source_keep(memory);
  // What is added has to live until the archive is closed.
  const std::string types =
      "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<Types "
      "xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\">"
      "<Default Extension=\"rels\" ContentType=\"application/vnd.openxmlformats-package.relationships+xml\"/>"
      "<Default Extension=\"model\" ContentType=\"application/vnd.ms-package.3dmanufacturing-3dmodel+xml\"/>"
      "<Default Extension=\"txt\" ContentType=\"text/plain\"/></Types>\n";
  const std::string relations =
      "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<Relationships "
      "xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">"
      "<Relationship Target=\"/3D/3dmodel.model\" Id=\"rel0\" "
      "Type=\"http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel\"/></Relationships>\n";
  const std::string body = model(parts, stamp), job = piece_lines(stamp.job);
  const auto add = [&](const char* name, const std::string& text, bool stored) {
    zip_source_t* source = zip_source_buffer(archive, text.data(), text.size(), 0);
    const zip_int64_t at = source ? zip_file_add(archive, name, source, ZIP_FL_ENC_UTF_8) : -1;
    if (at < 0) throw FileError(fmt::format("3MF: {}", zip_strerror(archive)));
    zip_set_file_compression(archive, static_cast<zip_uint64_t>(at), stored ? ZIP_CM_STORE : ZIP_CM_DEFLATE, 6);
    zip_file_set_mtime(archive, static_cast<zip_uint64_t>(at), 315576000,
                       0);  // the first day that the archive can tell: equal bytes
  };
  add("[Content_Types].xml", types, false);
  add("_rels/.rels", relations, false);
  add("3D/3dmodel.model", body, false);
  if (!job.empty()) add("Metadata/job.txt", job, true);  // not packed, so that it can be found again
  if (zip_close(archive) != 0) throw FileError(fmt::format("3MF: {}", zip_strerror(archive)));
  zip_source_open(memory);
  zip_source_seek(memory, 0, SEEK_END);
  std::string bytes(static_cast<std::size_t>(zip_source_tell(memory)), '\0');
  zip_source_seek(memory, 0, SEEK_SET);
  zip_source_read(memory, bytes.data(), bytes.size());
  zip_source_close(memory);
  zip_source_free(memory);
  return bytes;
}

}  // namespace palio::write

extern "C" bool palio_pack(const char* format, const std::vector<palio::write::PackedPart>* parts,
                           const palio::write::Stamp* stamp, double loop_seconds, std::string* bytes,
                           std::string* error) {
  try {
    for (const palio::write::PackedPart& p : *parts)
      palio::body::check(p.mesh);
    *bytes = std::strcmp(format, "3mf") == 0 ? palio::write::threemf(*parts, *stamp)
                                             : palio::write::glb(*parts, *stamp, loop_seconds);
    return true;
  } catch (const std::exception& e) {
    *error = e.what();
    return false;
  }
}
