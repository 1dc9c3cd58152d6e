// A reading marked on the teeth: the gear or the pair, what is measured drawn over it, and the words for it.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "canvas.hpp"
#include "palio/angle.hpp"
#include "palio/overloaded.hpp"
#include "palio/pair/line_of_action.hpp"
#include "palio/readings/mark.hpp"
#include "palio/utf8.hpp"
#include "palio/view/draw.hpp"
#include "scene.hpp"

namespace palio::view {
namespace {

using job::MarkArc;
using job::MarkLine;
using job::Trace;

constexpr Color kMark{0.05, 0.42, 0.38}, kGuide{0.05, 0.42, 0.38, 0.55};

constexpr int kPieces = 64;

Box box_of(const std::vector<Trace>& traces) {
  Box box;
  for (const Trace& t : traces) {
    for (int i = 0; i <= kPieces; ++i)
      box.extend(job::along(t, static_cast<double>(i) / kPieces));
  }
  return box;
}

/// A trace of the meridian in a picture whose axis runs down from the apex.
Trace downwards(const Trace& trace) {
  const auto down = [](const Vec2& p) { return Vec2(p.x(), -p.y()); };
  return std::visit(overloaded{[&](const MarkLine& l) -> Trace {
                                 return MarkLine{down(l.from), down(l.to)};
                               },
                               [&](const MarkArc& a) -> Trace {
                                 return MarkArc{down(a.centre), a.radius, -a.from, -a.to};
                               }},
                    trace);
}

/// The same turned about the origin.
Trace turned_by(const Trace& trace, double turn) {
  return std::visit(overloaded{[&](const MarkLine& l) -> Trace {
                                 return MarkLine{turned(l.from, turn), turned(l.to, turn)};
                               },
                               [&](const MarkArc& a) -> Trace {
                                 return MarkArc{turned(a.centre, turn), a.radius, a.from + turn, a.to + turn};
                               }},
                    trace);
}

void paint(Canvas& canvas, const Trace& trace, const Color& color, double width, std::initializer_list<double> dash) {
  if (job::is_circle(trace)) {
    const auto& arc = std::get<MarkArc>(trace);
    return canvas.circle(arc.centre, arc.radius, color, width, dash);
  }
  std::vector<Vec2> points;
  points.reserve(kPieces + 1);
  for (int i = 0; i <= kPieces; ++i)
    points.push_back(job::along(trace, static_cast<double>(i) / kPieces));
  canvas.polyline(points, color, width, dash);
}

/// A stroke across each end, so that one sees from where to where is measured; of pixels, whatever the scale.
void paint_ends(Canvas& canvas, const Trace& trace) {
  if (job::is_circle(trace)) return;
  for (const double end : {0.0, 1.0}) {
    const Vec2 at = canvas.to_page(job::along(trace, end)), on = job::direction(trace, end);
    const Vec2 across(on.y(), on.x());  // the page's y runs down
    canvas.page_line(at - 9 * across, at + 9 * across, kMark, 1.8);
  }
}

std::vector<std::string> wrapped(const std::string& text, std::size_t most) {
  std::vector<std::string> lines;
  std::string line;
  std::size_t used = 0;
  for (std::size_t from = 0; from < text.size();) {
    const std::size_t to = std::min(text.find(' ', from), text.size());
    const std::string word = text.substr(from, to - from);
    if (used > 0 && used + 1 + columns(word) > most) lines.push_back(line), line.clear(), used = 0;
    if (!word.empty()) used += columns(word) + (line.empty() ? 0 : 1), line += (line.empty() ? "" : " ") + word;
    from = to + 1;
  }
  if (!line.empty()) lines.push_back(line);
  return lines;
}

/// What the words at the left take of the width.
double words_width(PictureSize size) { return std::min(400.0, 0.32 * size.width); }

void words(Canvas& canvas, const job::Marked& m, PictureSize size) {
  const auto most = static_cast<std::size_t>(words_width(size) / 7.6);
  double y = 74;
  const auto tell = [&](const std::string& text, const Color& color, double letters, bool bold) {
    for (const std::string& line : wrapped(text, most)) {
      canvas.text({24, y}, line, color, 1, letters, bold);
      y += letters + 7;
    }
    y += 8;
  };
  tell(m.label + (m.symbol.empty() ? "" : "  " + m.symbol), kMark, 15, true);
  tell(m.value, kInk, 15, true);
  tell(m.meaning, kInk, 13, false);
  if (m.worked != m.value) tell(m.worked, kInk, 13, false);
  if (!m.measured.empty())
    tell("the line drawn, in this section at the start, measures " + m.measured, kGrey, 13, false);
  canvas.text({24, size.height - 24.0}, m.path, kGrey, 1);
}

/// Puts the mark, and of the rest of the thing as much as helps to see where it is, beside the words.
void look(Canvas& canvas, PictureSize size, Box whole, const Box& mark, double module) {
  whole.extend(mark);
  const double left = words_width(size) + 40, room_x = size.width - left - 40, room_y = size.height - 110;
  const Vec2 middle(left + room_x / 2, 62 + room_y / 2);
  const auto fits = [&](const Vec2& extent) { return std::min(room_x / extent.x(), room_y / extent.y()); };
  const double of_whole = fits(whole.sizes());
  // A mark that is small on the whole is shown close up, with its neighbourhood.
  const Vec2 near = (2.6 * mark.sizes()).cwiseMax(Vec2(4.5 * module, 4.5 * module));
  const double close = fits(near);
  constexpr double kWorth = 2.2;  // times larger
  if (close < kWorth * of_whole)
    canvas.look_at(whole.center(), of_whole, middle);
  else
    canvas.look_at(mark.center(), close, middle);
}

void paint_mark(Canvas& canvas, const job::Marked& m, const std::vector<Trace>& measured,
                const std::vector<Trace>& guides) {
  for (const Trace& t : guides)
    paint(canvas, t, kGuide, 1.3, {7, 4});
  for (const Trace& t : measured) {
    paint(canvas, t, kMark, 3.2, {});
    paint_ends(canvas, t);
  }
  // Its name beside the first of them, on the side that is away from the run of the line, where there is room.
  const double share = job::is_circle(measured.front()) ? 0.125 : 0.5;
  const Vec2 at = canvas.to_page(job::along(measured.front(), share)), on = job::direction(measured.front(), share);
  const Vec2 off = 26 * Vec2(on.y(), on.x());
  const std::string name = (m.symbol.empty() ? m.label.substr(0, m.label.find(',')) : m.symbol) + " = " + m.drawn;
  const double wide = 9.5 * static_cast<double>(columns(name)), from = at.x() + off.x();
  const bool to_left =
      off.x() < -1 ? from - wide > words_width({canvas.width(), canvas.height()}) : from + wide > canvas.width();
  canvas.page_line(at, at + off, kMark, 1);
  canvas.text(at + off + Vec2(to_left ? -4 : 4, 0), name, kMark, to_left ? -1 : 1, 15, true);
}

}  // namespace

std::string draw_marked(const job::Design& design, const std::string& word, const std::string& format,
                        PictureSize size) {
  const job::Marked m = job::marked(word, design);
  Canvas canvas(format, size, design.title);
  std::vector<Trace> measured = m.mark.measured, guides = m.mark.guides;
  const auto change = [&](auto how) {
    for (std::vector<Trace>* traces : {&measured, &guides})
      std::transform(traces->begin(), traces->end(), traces->begin(), how);
  };
  const auto named = [&](const auto& thing) { return thing.name == m.name; };
  if (m.of == job::ReadingOf::pair) {
    const job::Pair& pair = *std::find_if(design.pairs.begin(), design.pairs.end(), named);
    look(canvas, size, box_of(design, pair), box_of(measured), pair.gears()[0].teeth.module());
    paint_start(canvas, design, pair, pair::start_of_roll(pair), pair::contact_paths(pair, true), 1.6);
  } else {
    job::Gear gear = *std::find_if(design.gears.begin(), design.gears.end(), named);
    gear.axis = Vec2::Zero(), gear.facing = 0;
    if (m.mark.plane == job::Mark::Plane::meridian) {
      change(downwards);
      const Box whole(Vec2(-gear.teeth.reach(), -job::body(gear).top()), Vec2(gear.teeth.reach(), 0));
      look(canvas, size, whole, box_of(measured), gear.teeth.module());
      paint_meridian(canvas, gear);
    } else {
      // A tooth on top; a rack lies as it is.
      const double turn = gear.teeth.is_rack() ? 0 : kPi / 2;
      change([&](const Trace& t) { return turned_by(t, turn); });
      look(canvas, size, box_of(gear), box_of(measured), gear.teeth.module());
      paint_gear(canvas, gear, turn, true, 1.6);
    }
  }
  paint_mark(canvas, m, measured, guides);
  canvas.page_box({0, 0}, {words_width(size) + 12, static_cast<double>(size.height)}, kPaper);
  canvas.text({24, 26}, design.title.empty() ? m.name : design.title + "  ·  " + m.name, kInk, 1, 16, true);
  words(canvas, m, size);
  return canvas.finish();
}

}  // namespace palio::view
