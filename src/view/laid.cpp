#include "palio/view/laid.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "canvas.hpp"
#include "page_parts.hpp"
#include "palio/angle.hpp"
#include "palio/math/extent.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/file.hpp"

namespace palio::view {
namespace {

using foreign::Station;

constexpr Color kFlankGround{0.957, 0.949, 0.918}, kBand{0.361, 0.349, 0.533, 0.30};

/// The largest of 1, 2, 5, 10, 20 … that is no more than `x`.
double round_below(double x) {
  const double power = std::pow(10, std::floor(std::log10(x))), lead = x / power;
  return power * (lead >= 5 ? 5 : lead >= 2 ? 2 : 1);
}

/// What lies off the teeth, this many times larger.
double magnified(const std::vector<Station>& stations, double pixels_a_mm) {
  double most = 0;
  for (const Station& s : stations) {
    if (s.mean && s.role == curve::Role::flank) most = std::max({most, std::abs(*s.least), std::abs(*s.most)});
  }
  constexpr double kPixels = 45;
  return most > 0 ? std::max(1.0, round_below(kPixels / (pixels_a_mm * most))) : 1;
}

void tooth(Canvas& canvas, const std::vector<Station>& stations) {
  const Station& middle = stations[stations.size() / 2];
  const double up = kPi / 2 - std::atan2(middle.p.y(), middle.p.x());
  math::Extent across, height;
  for (const Station& s : stations) {
    const Vec2 p = turned(s.p, up);
    across.hold(p.x()), height.hold(p.y());
  }
  const double room = 0.46 * canvas.width(), tall = canvas.height() - 250.0;
  const double scale = std::min(room / (1.12 * across.size()), tall / (1.2 * height.size()));
  canvas.look_at({across.middle(), height.middle()}, scale, {24 + room / 2, 120 + tall / 2});
  std::vector<Vec2> exact, body;
  for (const Station& s : stations)
    exact.push_back(turned(s.p, up));
  body = exact;
  const double below = height.low() - 0.08 * height.size();
  const bool inwards = exact[exact.size() / 2].y() < exact.front().y();  // a ring's tooth points to the axis
  const double back = inwards ? height.high() + 0.08 * height.size() : below;
  body.emplace_back(exact.back().x(), back), body.emplace_back(exact.front().x(), back);
  canvas.polygon(body, kDriverFill, {0, 0, 0, 0}, 0.1);
  canvas.polyline(exact, kDriver, 1.6);

  const double larger = magnified(stations, scale);
  const auto off = [&](std::size_t i, double by) -> Vec2 {
    return exact[i] + larger * by * turned(stations[i].normal, up);
  };
  std::vector<Vec2> mean;
  for (std::size_t i = 0; i < stations.size(); ++i) {
    const Station& s = stations[i];
    if (!s.mean) continue;
    canvas.line(off(i, *s.least), off(i, *s.most), kBand, 3);
    mean.push_back(off(i, *s.mean));
  }
  canvas.polyline(mean, kDriven, 2);
  canvas.text({24, canvas.height() - 100.0},
              fmt::format("what lies off it is drawn {:g} times larger than it is", larger), kInk, 1);
}

void chart(Canvas& canvas, const std::vector<Station>& stations) {
  const double left = 0.58 * canvas.width(), right = canvas.width() - 40.0, top = 130, bottom = canvas.height() - 150.0;
  math::Extent across, up;
  up.hold(0);
  for (const Station& s : stations) {
    across.hold(s.along);
    if (s.mean && s.role == curve::Role::flank) up.hold(1000 * *s.least), up.hold(1000 * *s.most);
  }
  if (up.size() < 1e-3) up.hold(-1e-3), up.hold(1e-3);
  // Roots and tips may be other ones altogether: they are shown as far as they come near the flanks.
  const double beyond = 2 * up.size();
  bool cut_off = false;
  for (const Station& s : stations) {
    if (!s.mean || s.role == curve::Role::flank) continue;
    for (const double um : {1000 * *s.least, 1000 * *s.most}) {
      if (std::abs(um) < beyond)
        up.hold(um);
      else
        cut_off = true;
    }
  }
  const double margin = 0.15 * up.size(), low = up.low() - margin, high = up.high() + margin;
  const auto X = [&](double along) { return left + (right - left) * (along - across.low()) / across.size(); };
  const auto Y = [&](double um) { return bottom - (bottom - top) * (std::clamp(um, low, high) - low) / (high - low); };
  for (std::size_t i = 0; i < stations.size();) {
    std::size_t end = i;
    while (end < stations.size() && stations[end].role == stations[i].role)
      ++end;
    const double x0 = X(stations[i].along), x1 = X(stations[end - 1].along);
    if (stations[i].role == curve::Role::flank)
      canvas.page_box({x0, top}, {std::max(1.0, x1 - x0), bottom - top}, kFlankGround);
    if (x1 - x0 > 34)
      canvas.text({(x0 + x1) / 2, bottom + 16}, std::string(curve::name(stations[i].role)), kInk, 0, 12);
    i = end;
  }
  const double step = round_below((high - low) / 4);
  for (double um = std::ceil(low / step) * step; um <= high; um += step) {
    canvas.page_line({left, Y(um)}, {right, Y(um)}, std::abs(um) < step / 2 ? kInk : kGrey,
                     std::abs(um) < step / 2 ? 1.2 : 0.5);
    canvas.text({left - 8, Y(um)}, fmt::format("{:g}", std::abs(um) < step / 2 ? 0.0 : um), kInk, -1, 11);
  }
  const Station* before = nullptr;
  for (const Station& s : stations) {
    if (!s.mean) continue;
    const double x = X(s.along);
    canvas.page_line({x, Y(1000 * *s.least)}, {x, Y(1000 * *s.most) - 0.5}, kBand,
                     std::max(1.0, (right - left) / static_cast<double>(stations.size())));
    if (before) canvas.page_line({X(before->along), Y(1000 * *before->mean)}, {x, Y(1000 * *s.mean)}, kDriven, 2);
    before = &s;
  }
  canvas.text({left, top - 22}, "off along the normal, in µm; upwards: more material", kInk, 1, 13, true);
  canvas.text({left, bottom + 40},
              std::string("along the outline, space to space; line: mean, band: all teeth") +
                  (cut_off ? "; what lies far beyond the flanks is cut off" : ""),
              kInk, 1, 12);
}

}  // namespace

std::string draw_laid(const foreign::Told& told, const std::string& format, PictureSize size) {
  Canvas canvas(format, size, told.of);
  const foreign::Laid& laid = told.laid;
  canvas.text({24, 26}, fmt::format("{} laid on {}", told.of, told.on), kInk, 1, 16, true);
  canvas.text({24, 54},
              fmt::format("{} teeth   scale {:.6g}   flanks off by up to {:.3g} µm, rms {:.3g} µm", told.toothed.teeth,
                          laid.scale, 1000 * laid.flank.greatest, 1000 * laid.flank.rms),
              kInk, 1);
  if (!laid.stations.empty()) tooth(canvas, laid.stations), chart(canvas, laid.stations);
  if (told.fit) {
    canvas.text({24, size.height - 24.0},
                fmt::format("the flanks alone: {:.3g} µm off the best involute, {:.3g} µm off the best circular arc",
                            1000 * told.fit->involute.greatest, 1000 * told.fit->arc.greatest),
                kInk, 1);
  }
  canvas.page_line({24, size.height - 62.0}, {60, size.height - 62.0}, kDriver, 2);
  canvas.text({68, size.height - 62.0}, "what it is laid on", kInk, 1, 12);
  canvas.page_line({230, size.height - 62.0}, {266, size.height - 62.0}, kDriven, 2);
  canvas.text({274, size.height - 62.0}, "the outline, mean of all teeth", kInk, 1, 12);
  return canvas.finish();
}

std::string side_by_side_page(const std::string& heading, const std::string& svg, const std::string& text) {
  return still_page(kSideHtml, kSideScript, heading,
                    {{"PICTURE", write::base64(svg)}, {"TEXT", write::xml_escaped(text)}});
}

}  // namespace palio::view
