#include "palio/view/chart.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "canvas.hpp"

namespace palio::view {
namespace {

/// Makes it at least so wide, about its middle.
void widen(math::Extent& range, double least) {
  if (range.empty()) range.hold(0), range.hold(1);
  if (range.size() >= least) return;
  const double middle = range.middle();
  range.hold(middle - least / 2), range.hold(middle + least / 2);
}

/// A limit in people's words: "undercut of motor_pinion".
std::string words(const std::string& what) {
  if (what == "impossible") return "cannot be made";
  const auto first = what.find(' '), second = what.find(' ', first + 1);
  std::string id = what.substr(first + 1, second - first - 1), subject = what.substr(second + 1);
  std::replace(id.begin(), id.end(), '-', ' ');
  if (const auto dot = subject.find('.'); dot != std::string::npos) subject = subject.substr(dot + 1);
  return id + ", " + subject;
}

std::string short_key(const std::string& show) {
  const auto dot = show.find('.');
  return dot == std::string::npos ? show : show.substr(dot + 1);
}

Color shade(double share) {
  // Paper to slate violet, readable in grey: one ramp of lightness.
  const double s = std::clamp(share, 0.0, 1.0);
  return {0.97 - 0.68 * s, 0.96 - 0.70 * s, 0.93 - 0.47 * s};
}

void map(Canvas& canvas, const job::Varied& v) {
  std::vector<double> xs, ys;
  math::Extent range;
  for (const job::VaryRow& row : v.rows) {
    if (xs.empty() || xs.back() != row.at[0]) xs.push_back(row.at[0]);
    if (std::find(ys.begin(), ys.end(), row.at[1]) == ys.end()) ys.push_back(row.at[1]);
    if (row.values[0]) range.hold(*row.values[0]);
  }
  widen(range, math::kRounding);
  const double left = 120, right = canvas.width() - 330.0, top = 70, bottom = canvas.height() - 90.0;
  const double w = (right - left) / static_cast<double>(xs.size()), h = (bottom - top) / static_cast<double>(ys.size());
  for (std::size_t i = 0; i < xs.size(); ++i) {
    for (std::size_t j = 0; j < ys.size(); ++j) {
      const job::VaryRow& row = v.rows[i * ys.size() + j];
      const Vec2 at(left + static_cast<double>(i) * w, bottom - static_cast<double>(j + 1) * h);
      const bool error =
          !row.impossible.empty() || std::any_of(row.findings.begin(), row.findings.end(),
                                                 [](const std::string& f) { return f.rfind("error", 0) == 0; });
      canvas.page_box(at, {w + 0.5, h + 0.5},
                      row.values[0] ? shade((*row.values[0] - range.low()) / (range.high() - range.low())) : kPaper);
      if (error)
        canvas.page_line(at + Vec2(0, h), at + Vec2(w, 0), kBlack, 1.2);
      else if (!row.findings.empty())
        canvas.page_line(at + Vec2(w * 0.4, h * 0.5), at + Vec2(w * 0.6, h * 0.5), kBlack, 1.2);
    }
  }
  for (int k = 0; k <= 4; ++k) {
    const double x = left + (right - left) * k / 4, y = bottom - (bottom - top) * k / 4;
    canvas.text({x, bottom + 18}, fmt::format("{:.4g}", xs.front() + (xs.back() - xs.front()) * k / 4), kInk, 0);
    canvas.text({left - 8, y}, fmt::format("{:.4g}", ys.front() + (ys.back() - ys.front()) * k / 4), kInk, -1);
    const double level = range.low() + (range.high() - range.low()) * k / 4;
    canvas.page_box({right + 30, bottom - (bottom - top) * (k + 1) / 5}, {34, (bottom - top) / 5}, shade(k / 4.0));
    canvas.text({right + 74, bottom - (bottom - top) * (k + 0.5) / 5}, fmt::format("{:.5g} {}", level, v.units[0]),
                kInk, 1);
  }
  canvas.text({0.5 * (left + right), bottom + 44}, v.keys[0], kInk, 0, 14, true);
  canvas.text({left, top - 20}, v.keys[1] + " (upwards)", kInk, 1, 14, true);
  canvas.text({right + 30, top - 20}, short_key(v.shows[0]), kInk, 1, 13, true);
  canvas.text({left, canvas.height() - 22.0},
              "a slanting stroke: an error, the pair cannot work; a short dash: a warning", kInk, 1);
}

void strips(Canvas& canvas, const job::Varied& v) {
  math::Extent across;
  for (const job::VaryRow& row : v.rows)
    across.hold(row.at[0]);
  widen(across, math::kRounding);
  // Room below for the names of the limits, one line each.
  const std::size_t named = std::min<std::size_t>(v.limits.size(), 8);
  const double left = 110, right = canvas.width() - 40.0, top = 60,
               bottom = canvas.height() - 60.0 - 20.0 * static_cast<double>(named);
  const std::size_t count = std::min<std::size_t>(v.shows.size(), 6);
  const double each = (bottom - top) / static_cast<double>(count);
  const auto X = [&](double x) { return left + (right - left) * (x - across.low()) / (across.high() - across.low()); };
  for (std::size_t n = 0; n < count; ++n) {
    const double y0 = top + each * static_cast<double>(n) + 24, y1 = top + each * static_cast<double>(n + 1) - 8;
    math::Extent range;
    for (const job::VaryRow& row : v.rows) {
      if (row.values[n]) range.hold(*row.values[n]);
    }
    widen(range, math::kAlike);
    const auto Y = [&](double y) { return y1 - (y1 - y0) * (y - range.low()) / (range.high() - range.low()); };
    canvas.page_line({left, y1}, {right, y1}, kGrey, 0.8);
    canvas.text({left - 8, y1 - 4}, fmt::format("{:.5g}", range.low()), kInk, -1, 11);
    canvas.text({left - 8, y0 + 4}, fmt::format("{:.5g}", range.high()), kInk, -1, 11);
    canvas.text({left, y0 - 12}, short_key(v.shows[n]) + (v.units[n].empty() ? "" : " in " + v.units[n]), kInk, 1, 13,
                true);
    for (std::size_t i = 0; i + 1 < v.rows.size(); ++i) {
      const auto &a = v.rows[i].values[n], &b = v.rows[i + 1].values[n];
      if (a && b)
        canvas.page_line({X(v.rows[i].at[0]), Y(*a)}, {X(v.rows[i + 1].at[0]), Y(*b)}, n % 2 == 0 ? kDriven : kDriver,
                         2);
    }
  }
  for (std::size_t i = 0; i < named; ++i) {
    const job::VaryLimit& l = v.limits[i];
    const double x = X(l.at), y = bottom + 40 + 20.0 * static_cast<double>(i);
    for (double from = top; from < y - 8; from += 9)
      canvas.page_line({x, from}, {x, std::min(from + 5, y - 8)}, kBlack, 1);
    const bool turned = x > 0.6 * canvas.width();
    canvas.text({x + (turned ? -6 : 6), y},
                fmt::format("{} {} {:.5g}", words(l.what), l.above ? "above" : "below", l.at), kBlack, turned ? -1 : 1,
                12);
  }
  for (int k = 0; k <= 6; ++k) {
    const double x = across.low() + (across.high() - across.low()) * k / 6;
    canvas.text({X(x), bottom + 12}, fmt::format("{:.4g}", x), kInk, 0, 11);
  }
  canvas.text({0.5 * (left + right), canvas.height() - 14.0}, v.keys[0], kInk, 0, 14, true);
}

}  // namespace

std::string draw_vary(const job::Design& design, const job::Varied& varied, const std::string& format,
                      PictureSize size) {
  Canvas canvas(format, size, design.title);
  const std::string what = varied.keys.size() == 2 ? varied.keys[0] + " and " + varied.keys[1] : varied.keys[0];
  canvas.text({24, 26}, (design.title.empty() ? "" : design.title + "  ·  ") + "what " + what + " does", kInk, 1, 16,
              true);
  varied.keys.size() == 2 ? map(canvas, varied) : strips(canvas, varied);
  return canvas.finish();
}

}  // namespace palio::view
