// A small AC1021 writer: just the tables that the format demands, and closed LWPOLYLINEs with bulges or an entity for
// each curve. Every pair of lines is a group code and a value. Checked by reading back with a library that did not
// write it (tests).
#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "arcs.hpp"
#include "palio/angle.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/formats.hpp"

namespace palio::write {
namespace {

constexpr const char* kLabels = "label";

class Writer {
 public:
  void pair(int code, std::string_view value) { text_ += fmt::format("{:>3}\n{}\n", code, value); }
  void pair(int code, int value) { pair(code, std::to_string(value)); }
  void real(int code, double value) {
    const std::string d = digits(value);
    pair(code, d.find_first_of(".en") == std::string::npos ? d + ".0" : d);
  }
  /// A new owner handle, written as group 5 (or `code`).
  std::string handle(int code = 5) {
    std::string h = fmt::format("{:X}", next_++);
    pair(code, h);
    return h;
  }
  void section(std::string_view name) { pair(0, "SECTION"), pair(2, name); }
  void end_section() { pair(0, "ENDSEC"); }
  std::string table(std::string_view name, int entries) {
    pair(0, "TABLE"), pair(2, name);
    std::string h = handle();
    pair(330, "0"), pair(100, "AcDbSymbolTable"), pair(70, entries);
    return h;
  }
  void end_table() { pair(0, "ENDTAB"); }
  /// Head of a table record.
  std::string record(std::string_view type, const std::string& owner, std::string_view subclass) {
    pair(0, type);
    std::string h = handle(type == "DIMSTYLE" ? 105 : 5);
    pair(330, owner), pair(100, "AcDbSymbolTableRecord"), pair(100, subclass);
    return h;
  }
  std::string take() { return std::move(text_); }
  int next() const { return next_; }

 private:
  std::string text_;
  int next_ = 0x20;
};

/// Group codes hold one line: no line breaks or control characters in names and comments.
std::string one_line(std::string text) {
  for (char& c : text) {
    if (static_cast<unsigned char>(c) < 32) c = ' ';
  }
  return text;
}

/// The circle that a closed loop is: arcs about one centre that go round once.
std::optional<curve::Arc> whole_circle(const curve::BulgedLoop& loop) {
  std::optional<curve::Arc> all;
  double round = 0;
  for (std::size_t i = 0; i < loop.points.size(); ++i) {
    const curve::BulgedPoint& a = loop.points[i];
    if (a.bulge == 0) return std::nullopt;
    const curve::Arc one = curve::circle_of(a.p, a.bulge, loop.points[(i + 1) % loop.points.size()].p);
    if (!all) all = one;
    const double apart = (one.centre - all->centre).norm() + std::abs(one.radius - all->radius);
    if (apart > math::kRounding * (all->centre.norm() + all->radius)) return std::nullopt;
    round += 4 * std::atan(a.bulge);
  }
  if (!all || std::abs(std::abs(round) - 2 * kPi) > math::kAlike) return std::nullopt;
  // On an axis where only rounding keeps it off.
  for (double* x : {&all->centre.x(), &all->centre.y()}) {
    if (std::abs(*x) < math::kRounding * all->radius) *x = 0;
  }
  return all;
}

std::string layer_name(std::string text) {
  for (char& c : text) {
    if (std::string_view("<>/\\\":;?*|=`").find(c) != std::string_view::npos) c = '_';
  }
  return one_line(text);
}

}  // namespace

namespace {

/// All that stands around the entities, which `entities` writes into the model space whose handle it is given.
template <class Entities>
std::string document(const std::vector<std::string>& layers, const Stamp& stamp, const std::string& remark,
                     Entities entities) {
  Writer w;
  w.pair(999, one_line("title: " + stamp.title));
  w.pair(999, one_line(fmt::format("palio {}; part {}; unit {}; {}", stamp.version, stamp.part,
                                   stamp.inches ? "in" : "mm", remark)));
  if (!stamp.note.empty()) w.pair(999, one_line(stamp.note));
  Box box;
  Writer body;  // the handle seed stands before everything else, so the rest is written first
  body.section("TABLES");
  {
    std::string t = body.table("VPORT", 0);
    body.end_table();
    t = body.table("LTYPE", 3);
    for (const char* name : {"ByBlock", "ByLayer", "Continuous"}) {
      body.record("LTYPE", t, "AcDbLinetypeTableRecord");
      body.pair(2, name), body.pair(70, 0), body.pair(3, ""), body.pair(72, 65), body.pair(73, 0), body.real(40, 0);
    }
    body.end_table();
    t = body.table("LAYER", static_cast<int>(layers.size()) + 1);
    std::vector<std::string> all{"0"};
    all.insert(all.end(), layers.begin(), layers.end());
    for (const std::string& name : all) {
      body.record("LAYER", t, "AcDbLayerTableRecord");
      body.pair(2, name), body.pair(70, 0), body.pair(62, 7), body.pair(6, "Continuous");
    }
    body.end_table();
    t = body.table("STYLE", 1);
    body.record("STYLE", t, "AcDbTextStyleTableRecord");
    body.pair(2, "Standard"), body.pair(70, 0), body.real(40, 0), body.real(41, 1), body.real(50, 0), body.pair(71, 0),
        body.real(42, 2.5), body.pair(3, "txt"), body.pair(4, "");
    body.end_table();
    body.table("VIEW", 0), body.end_table();
    body.table("UCS", 0), body.end_table();
    t = body.table("APPID", 1);
    body.record("APPID", t, "AcDbRegAppTableRecord");
    body.pair(2, "ACAD"), body.pair(70, 0);
    body.end_table();
    t = body.table("DIMSTYLE", 1);
    body.pair(100, "AcDbDimStyleTable");
    body.record("DIMSTYLE", t, "AcDbDimStyleTableRecord");
    body.pair(2, "Standard"), body.pair(70, 0);
    body.end_table();
    t = body.table("BLOCK_RECORD", 2);
    const std::string model = body.record("BLOCK_RECORD", t, "AcDbBlockTableRecord");
    body.pair(2, "*Model_Space"), body.pair(70, 0), body.pair(280, 1), body.pair(281, 0);
    const std::string paper = body.record("BLOCK_RECORD", t, "AcDbBlockTableRecord");
    body.pair(2, "*Paper_Space"), body.pair(70, 0), body.pair(280, 1), body.pair(281, 0);
    body.end_table();
    body.end_section();

    body.section("BLOCKS");
    for (const auto& [owner, name] : {std::pair{model, "*Model_Space"}, {paper, "*Paper_Space"}}) {
      body.pair(0, "BLOCK"), body.handle(), body.pair(330, owner), body.pair(100, "AcDbEntity"), body.pair(8, "0");
      body.pair(100, "AcDbBlockBegin"), body.pair(2, name), body.pair(70, 0);
      body.real(10, 0), body.real(20, 0), body.real(30, 0), body.pair(3, name), body.pair(1, "");
      body.pair(0, "ENDBLK"), body.handle(), body.pair(330, owner), body.pair(100, "AcDbEntity"), body.pair(8, "0");
      body.pair(100, "AcDbBlockEnd");
    }
    body.end_section();

    body.section("ENTITIES");
    entities(body, model, box);
    body.end_section();

    body.section("OBJECTS");
    body.pair(0, "DICTIONARY");
    const std::string root = body.handle();
    body.pair(330, "0"), body.pair(100, "AcDbDictionary"), body.pair(281, 1), body.pair(3, "ACAD_GROUP");
    const std::string group = fmt::format("{:X}", body.next());
    body.pair(350, group);
    body.pair(0, "DICTIONARY"), body.handle(), body.pair(330, root), body.pair(100, "AcDbDictionary"),
        body.pair(281, 1);
    body.end_section();
  }
  w.section("HEADER");
  w.pair(9, "$ACADVER"), w.pair(1, "AC1021");
  w.pair(9, "$DWGCODEPAGE"), w.pair(3, "ANSI_1252");
  if (!box.empty()) {
    for (const auto& [name, corner] : {std::pair{"$EXTMIN", box.low()}, {"$EXTMAX", box.high()}})
      w.pair(9, name), w.real(10, corner.x()), w.real(20, corner.y()), w.real(30, 0);
  }
  w.pair(9, "$HANDSEED"), w.pair(5, fmt::format("{:X}", body.next()));
  w.pair(9, "$INSUNITS"), w.pair(70, stamp.inches ? 1 : 4);
  w.pair(9, "$MEASUREMENT"), w.pair(70, stamp.inches ? 0 : 1);
  w.end_section();
  w.section("CLASSES");
  w.end_section();
  return with_job(w.take() + body.take() + "  0\nEOF\n", "dxf", stamp.job);
}

void head(Writer& body, const char* entity, const std::string& model, const std::string& layer, const char* subclass) {
  body.pair(0, entity), body.handle(), body.pair(330, model), body.pair(100, "AcDbEntity");
  body.pair(8, layer_name(layer)), body.pair(100, subclass);
}

void remember(std::vector<std::string>& layers, const std::string& layer) {
  const std::string name = layer_name(layer);
  if (std::find(layers.begin(), layers.end(), name) == layers.end()) layers.push_back(name);
}

/// Text between the two ends of its line.
void write_label(Writer& body, const std::string& model, const Label& l, double unit) {
  head(body, "TEXT", model, kLabels, "AcDbText");
  const auto end = [&](int code, double x) {
    body.real(code, x / unit), body.real(code + 10, l.from.y() / unit), body.real(code + 20, 0);
  };
  end(10, l.from.x()), body.real(40, l.height / unit), body.pair(1, one_line(l.text));
  constexpr int kFitted = 5;
  body.pair(72, kFitted), end(11, l.from.x() + l.width), body.pair(100, "AcDbText");
}

/// A loop as a circle where it is one, else as a polyline with bulges.
void drawn(Writer& body, const std::string& model, const PlacedLoop& l, double unit, Box& box) {
  const auto placed = [&](const Vec2& p) -> Vec2 { return l.placement.of(p) / unit; };
  if (const auto circle = l.open ? std::nullopt : whole_circle(l.loop)) {
    head(body, "CIRCLE", model, l.layer(), "AcDbCircle");
    const Vec2 at = placed(circle->centre);
    body.real(10, at.x()), body.real(20, at.y()), body.real(30, 0), body.real(40, circle->radius / unit);
    return box.hold_arc(at, circle->radius / unit, 0, 2 * kPi);
  }
  head(body, "LWPOLYLINE", model, l.layer(), "AcDbPolyline");
  body.pair(90, static_cast<int>(l.loop.points.size())), body.pair(70, l.open ? 0 : 1);
  for (std::size_t i = 0; i < l.loop.points.size(); ++i) {
    const curve::BulgedPoint& b = l.loop.points[i];
    const Vec2 p = placed(b.p);
    body.real(10, p.x()), body.real(20, p.y());
    if (b.bulge != 0) body.real(42, b.bulge);
    hold_bulged(box, p, b.bulge, placed(l.loop.points[(i + 1) % l.loop.points.size()].p));
  }
}

}  // namespace

std::string dxf(const std::vector<PlacedLoop>& loops, const Stamp& stamp, const std::optional<SheetOfStock>& sheet) {
  const double unit = stamp.inches ? 25.4 : 1.0;
  double deviation = 0;
  std::vector<std::string> layers;
  for (const PlacedLoop& l : loops) {
    deviation = std::max(deviation, l.loop.deviation);
    remember(layers, l.layer());
  }
  if (sheet) remember(layers, kLabels);
  return document(layers, stamp, fmt::format("arcs within {} mm of the exact curves", digits(deviation)),
                  [&](Writer& body, const std::string& model, Box& box) {
                    for (const PlacedLoop& l : loops)
                      drawn(body, model, l, unit, box);
                    for (const Label& l : sheet ? sheet->labels : std::vector<Label>{})
                      write_label(body, model, l, unit);
                  });
}

Written dxf_of_curves(const std::vector<PlacedOutline>& outlines, const Stamp& stamp, double tolerance) {
  const double unit = stamp.inches ? 25.4 : 1.0;
  std::vector<std::string> layers;
  double deviation = 0;
  // Splines are fitted for one period and turned for the others.
  std::vector<std::vector<std::optional<curve::SplineCopy>>> copies;
  for (const PlacedOutline& o : outlines) {
    copies.emplace_back();
    for (const curve::Segment& s : o.outline.period) {
      remember(layers, o.part + "_" + std::string(curve::name(s.role)));
      const bool plain = std::holds_alternative<curve::Arc>(s.curve) || std::holds_alternative<curve::Line>(s.curve);
      copies.back().push_back(plain ? std::nullopt : std::optional(curve::spline_copy(s, tolerance)));
      if (!plain) deviation = std::max(deviation, copies.back().back()->deviation);
    }
  }
  std::string bytes = document(
      layers, stamp, fmt::format("splines within {} mm of the exact curves", digits(deviation)),
      [&](Writer& body, const std::string& model, Box& box) {
        for (std::size_t n = 0; n < outlines.size(); ++n) {
          const PlacedOutline& o = outlines[n];
          const auto placed = [&](const Vec2& p) -> Vec2 { return o.placement.of(p) / unit; };
          const auto point = [&](int code, const Vec2& p) {
            body.real(code, p.x()), body.real(code + 10, p.y()), body.real(code + 20, 0);
          };
          for (int copy = 0; copy < o.outline.count; ++copy) {
            for (std::size_t k = 0; k < o.outline.period.size(); ++k) {
              const curve::Segment s = o.outline.segment(copy, k);
              const std::string layer = o.part + "_" + std::string(curve::name(s.role));
              if (const auto* arc = std::get_if<curve::Arc>(&s.curve)) {
                const double from = std::min(s.from, s.to) + o.placement.turn,
                             to = std::max(s.from, s.to) + o.placement.turn;
                const bool whole = to - from > 2 * kPi - math::kAlike;
                head(body, whole ? "CIRCLE" : "ARC", model, layer, "AcDbCircle");
                point(10, placed(arc->centre)), body.real(40, arc->radius / unit);
                box.hold_arc(placed(arc->centre), arc->radius / unit, from, to);
                if (whole) continue;
                body.pair(100, "AcDbArc"), body.real(50, from * 180 / kPi), body.real(51, to * 180 / kPi);
              } else if (std::holds_alternative<curve::Line>(s.curve)) {
                head(body, "LINE", model, layer, "AcDbLine");
                point(10, placed(s.first())), point(11, placed(s.last()));
                box.hold(placed(s.first())), box.hold(placed(s.last()));
              } else {
                const curve::SplineCopy& spline = *copies[n][k];
                constexpr int kPlaces = 32;  // along a flank or root: they bend one way
                for (int i = 0; i <= kPlaces; ++i)
                  box.hold(placed(s.point(s.from + (s.to - s.from) * i / kPlaces)));
                head(body, "SPLINE", model, layer, "AcDbSpline");
                body.pair(70, 8), body.pair(71, spline.degree), body.pair(72, static_cast<int>(spline.knots.size()));
                body.pair(73, static_cast<int>(spline.poles.size())), body.pair(74, 0), body.real(42, math::kAlike),
                    body.real(43, math::kAlike);
                for (const double knot : spline.knots)
                  body.real(40, knot);
                for (const Vec2& pole : spline.poles) {
                  point(10, placed(o.outline.shift == Vec2::Zero() ? turned(pole, o.outline.turn(copy))
                                                                   : Vec2(pole + copy * o.outline.shift)));
                }
              }
            }
          }
        }
      });
  return {std::move(bytes), deviation};
}

}  // namespace palio::write
