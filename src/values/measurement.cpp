#include "measurement.hpp"

#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/values/spelling.hpp"
#include "value.hpp"

namespace palio::job {

const std::vector<Instrument>& instruments() {
  static const std::vector<Instrument> all{
      {"ruler", 0.25, 0, "a steel rule, read to half a millimetre"},
      {"caliper", 0.02, 0, "outside, inside and depth jaws of a good caliper"},
      {"depth_gauge", 0.02, 0, "from a face down"},
      {"micrometer", 0.004, 0, "outside micrometer"},
      {"disc_micrometer", 0.006, 0, "micrometer with plates, for spans"},
      {"pins", 0.008, 0, "micrometer over pins or balls of known size"},
      {"feeler", 0.02, 0, "leaf that goes in and the next that does not"},
      {"dial", 0.005, 0, "dial indicator, as of play at a tooth"},
      {"height_gauge", 0.015, 0, "on a surface plate, as of a center distance"},
      {"measuring_machine", 0.0025, 0.005, "a coordinate measuring machine"},
      {"protractor", 0, 0.5, "as of a helix angle, off a rolled print"},
      {"bevel_protractor", 0, 0.1, "with a vernier"},
  };
  return all;
}

namespace {

/// Reads one table of the list.
class MeasurementReader {
 public:
  MeasurementReader(const Node& node, std::string prefix, Units units, const std::map<std::string, double>& named,
                    Mistakes& mistakes)
      : node_(node), prefix_(std::move(prefix)), units_(units), named_(named), mistakes_(mistakes) {}

  /// None where a mistake was noted.
  std::optional<Measurement> read() {
    const std::size_t before = mistakes_.count();
    Measurement m;
    m.where = node_.where;
    for (const auto& [key, child] : *node_.table()) {
      try {
        one(m, key, child);
      } catch (const std::string& why) {
        note(child, key, why);
      }
    }
    if (mistakes_.count() > before) return std::nullopt;
    for (const char* key : {"of", "is"}) {
      if (!node_.find(key))
        note(node_, key,
             fmt::format("is missing; a measurement reads of = \"gear.NAME.span\", teeth = 4, is = 65.0, by = "
                         "\"caliper\""));
    }
    if (m.by.empty() && m.uncertainty == 0 && !m.counted()) {
      note(node_, "by", "is missing; name the instrument (" + instrument_names() + ") or give uncertainty = 0.02, say");
    }
    if (mistakes_.count() > before) return std::nullopt;
    return m;
  }

 private:
  static std::string instrument_names() {
    std::string all;
    for (const Instrument& i : instruments())
      all += (all.empty() ? "" : ", ") + std::string(i.name);
    return all;
  }

  void note(const Node& at, const std::string& key, const std::string& message) {
    mistakes_.note("bad-value", at.where, prefix_ + "." + key, message);
  }

  std::string text(const Node& node) const {
    const auto* text = std::get_if<std::string>(&node.value);
    if (!text || text->empty() || has_control_characters(*text))
      throw fmt::format("is {}, but a text is allowed", node.text());
    return *text;
  }

  Measured number(const Node& node) const {
    Measured m{};
    try {
      m = measure(node, named_);
    } catch (const std::string& why) {
      throw fmt::format("is {}, which {}; a number, or one with its unit, is allowed", node.text(), why);
    }
    if (!std::isfinite(m.value) || m.unit == "%") throw fmt::format("is {}, but a number is allowed", node.text());
    if (m.unit == "rad") m = {m.value * 180 / kPi, "deg"};
    return m;
  }

  /// A length above 0 in the file's unit.
  double length(const Node& node) const {
    const Measured m = number(node);
    const double factor = m.unit == "mm" ? 1 / mm_per(units_) : m.unit == "in" ? 25.4 / mm_per(units_) : 1;
    if (m.unit == "deg" || !(m.value > 0)) throw fmt::format("is {}, but a length above 0 is allowed", node.text());
    return m.value * factor;
  }

  void one(Measurement& m, const std::string& key, const Node& node) {
    if (key == "of") {
      m.of = text(node);
    } else if (key == "is") {
      const Measured is = number(node);
      m.is = is.value, m.unit = is.unit, m.said = node.text();
    } else if (key == "uncertainty") {
      // In the unit of `is`: read last, see below.
      const Measured u = number(node);
      if (!(u.value > 0)) throw fmt::format("is {}, but one standard deviation above 0 is allowed", node.text());
      const Node* is = node_.find("is");
      const std::string unit = is ? number(*is).unit : "";
      if (!u.unit.empty() && u.unit != unit)
        throw fmt::format("is {}, in another unit than what was measured; give both in the same", node.text());
      m.uncertainty = u.value;
    } else if (key == "by") {
      m.by = text(node);
      bool known = false;
      std::vector<std::string> names;
      for (const Instrument& i : instruments())
        known = known || m.by == i.name, names.emplace_back(i.name);
      const Known near = known_words(names, m.by, m.by.size() / 2 + 1);
      if (!known)
        throw fmt::format("is \"{}\", but the instruments are {}{}; or give uncertainty alone", m.by,
                          instrument_names(), near.nearest.empty() ? "" : "; " + did_you_mean(near.nearest));
    } else if (key == "teeth") {
      const Measured z = number(node);
      if (!z.unit.empty() || z.value != std::floor(z.value) || z.value < 1)
        throw fmt::format("is {}, but a whole number from 1 up is allowed", node.text());
      m.teeth = z.value;
    } else if (key == "pin_diameter") {
      m.pin_diameter = length(node);
    } else if (key == "diameter") {
      m.diameter = length(node);
    } else if (key == "prints") {
      const Measured n = number(node);
      if (!n.unit.empty() || n.value != std::floor(n.value) || n.value < 1 || n.value > 10000)
        throw fmt::format("is {}, but a whole number from 1 to 10000 is allowed", node.text());
      m.prints = n.value;
    } else {
      const Known near = known_words({"of", "is", "by", "uncertainty", "teeth", "pin_diameter", "diameter", "prints"},
                                     key, key.size() / 2 + 1);
      mistakes_.note("unknown-key", node.where, prefix_ + "." + key,
                     fmt::format("is no key of a measurement, which has {}{}", near.list,
                                 near.nearest.empty() ? "" : "; " + did_you_mean(near.nearest)));
    }
  }

  const Node& node_;
  std::string prefix_;
  Units units_;
  const std::map<std::string, double>& named_;
  Mistakes& mistakes_;
};

}  // namespace

std::vector<Measurement> read_measured(const Node& node, Units units, const std::map<std::string, double>& named,
                                       Mistakes& mistakes) {
  std::vector<Measurement> all;
  const List* list = std::get_if<List>(&node.value);
  if (!list) {
    mistakes.note("wrong-type", node.where, "measured",
                  fmt::format("is {}, but a list of tables is allowed: [[measured]] with of, is and by below it, once "
                              "for each measurement",
                              node.text()));
    return all;
  }
  for (std::size_t i = 0; i < list->size(); ++i) {
    const std::string prefix = fmt::format("measured.{}", i);
    if (!(*list)[i].table()) {
      mistakes.note("wrong-type", (*list)[i].where, prefix,
                    fmt::format("is {}, but a table is allowed: of, is and by", (*list)[i].text()));
      continue;
    }
    if (auto m = MeasurementReader((*list)[i], prefix, units, named, mistakes).read()) all.push_back(std::move(*m));
  }
  return all;
}

}  // namespace palio::job
