"""Every sort of page in windows of three sizes: a screen, a tablet, a phone. No text over text, nothing cut, no request to a network."""
import os
import re
import signal
import subprocess
import sys
import tempfile
import time
import unittest

from selenium.webdriver.common.keys import Keys

import browser

PALIO = sys.argv.pop(1)
SIZES = ((1280, 800), (820, 1180), (390, 844))

# Where every piece of visible text stands: [text, left, top, right, bottom], without what its own box hides or scrolls.
TEXTS = r"""
const found = [], walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
const scrolled = e => { for (; e && e !== document.body; e = e.parentElement) if (/auto|scroll|hidden/.test(getComputedStyle(e).overflowX + getComputedStyle(e).overflowY)) return e; };
while (walker.nextNode()) {
  const node = walker.currentNode, owner = node.parentElement;
  if (!node.textContent.trim() || ['SCRIPT', 'STYLE', 'OPTION', 'TITLE', 'TEXTAREA'].includes(owner.tagName)) continue;
  const style = getComputedStyle(owner);
  if (style.visibility !== 'visible' || style.opacity === '0' || !owner.checkVisibility()) continue;
  const range = document.createRange();
  range.selectNodeContents(node);
  for (const r of range.getClientRects()) {
    if (r.width < 2 || r.height < 2) continue;
    const box = scrolled(owner)?.getBoundingClientRect();
    if (box && (r.bottom > box.bottom || r.right > box.right || r.top < box.top || r.left < box.left)) continue;
    // What scrolls away below something opaque that stays is not seen there.
    let top = document.elementFromPoint((r.left + r.right) / 2, (r.top + r.bottom) / 2);
    while (top && !/sticky|fixed/.test(getComputedStyle(top).position)) top = top.parentElement;
    if (top && !top.contains(owner) && !/, 0\)$|transparent/.test(getComputedStyle(top).backgroundColor)) continue;
    found.push([node.textContent.trim().slice(0, 30), r.left, r.top, r.right, r.bottom]);
  }
}
return found;
"""
CONTROLS = """
return [...document.querySelectorAll('button, input, select, canvas, a, summary')].filter(e => e.checkVisibility() && e.type !== 'hidden')
  .filter(e => { for (let b = e.parentElement; b && b !== document.body; b = b.parentElement) if (/auto|scroll/.test(getComputedStyle(b).overflowX)) return false; return true; })
  .map(e => { const r = e.getBoundingClientRect(); return [e.outerHTML.slice(0, 60), e.tagName, e.type || '', r.left, r.right, r.width, r.height]; });
"""
NAMELESS = """
return [...document.querySelectorAll('input, select, button, canvas, iframe')].filter(n => n.checkVisibility()
  && !(n.labels && n.labels.length) && !n.getAttribute('aria-label') && !n.textContent.trim() && !n.title).map(n => n.outerHTML.slice(0, 80));
"""

# Remembers what is written on a canvas since it was last cleared, as pieces of text with their boxes.
REMEMBER = """
(() => {
const fill = CanvasRenderingContext2D.prototype.fillText, clear = CanvasRenderingContext2D.prototype.clearRect;
CanvasRenderingContext2D.prototype.clearRect = function (...box) { this.canvas.written = []; return clear.apply(this, box); };
CanvasRenderingContext2D.prototype.fillText = function (text, x, y, ...more) {
  const m = this.measureText(text), at = this.getTransform().transformPoint({ x, y }), r = window.devicePixelRatio || 1;
  (this.canvas.written ??= []).push([String(text).slice(0, 40), at.x / r - m.actualBoundingBoxLeft, at.y / r - m.actualBoundingBoxAscent,
    at.x / r + m.actualBoundingBoxRight, at.y / r + m.actualBoundingBoxDescent]);
  return fill.call(this, text, x, y, ...more);
};
})();
"""
# Of charts, whose words stand still; labels of what turns go along with it.
WRITTEN = """
return [...document.querySelectorAll('canvas')].filter(c => c.checkVisibility() && c.id !== 'gears' && c.written)
  .map(c => [c.id, c.clientWidth, c.clientHeight, c.written]);
"""


def over(a, b, slack=2):
    """By how much two boxes lie over each other, the lesser way; 0 or less: apart."""
    return min(a[3], b[3]) - max(a[1], b[1]) > slack and min(a[4], b[4]) - max(a[2], b[2]) > slack


class Sizes(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.tmp = tempfile.TemporaryDirectory()
        cls.pages = []
        for kind in ("spur", "clock", "crossed", "bevel", "reducer", "train", "rack", "internal"):
            cls.run_palio("start", kind, "--out", kind + ".toml")
        pair = ("--pair", "corner")
        for kind, more in (("spur", ()), ("clock", ()), ("crossed", ()), ("reducer", ()), ("train", ()), ("rack", ())):
            cls.page(f"{kind}.html", "roll", kind + ".toml", *more)
        cls.page("bevel.html", "roll", "bevel.toml", *pair)
        cls.page("vary.html", "vary", "spur.toml", "gear.motor_pinion.profile_shift=-0.4:0.8:7")
        cls.page("sliders.html", "vary", "spur.toml", "gear.motor_pinion.profile_shift=0.1:0.6:4", "gear.drum_wheel.teeth=42:44")
        cls.page("tool.html", "draw", "spur.toml", "--of", "motor_pinion:tool")
        cls.run_palio("make", "spur.toml", "--format", "dxf", "--out", "made")
        cls.page("laid.html", "compare", "spur.toml", "made/motor_pinion.dxf")
        with open(os.path.join(cls.tmp.name, "table.csv"), "w", encoding="utf8") as table:
            table.write("gear.drum_wheel.profile_shift,report:pair.first_stage.gear_ratio\n0.09,\n0.1,\n0.11,\n")
        cls.page("rows.html", "variants", "table.csv", "spur.toml")
        cls.run_palio("demo")
        cls.pages.append("demo-out/index.html")
        # Those that are served: a desk, and what a watch shows.
        cls.serving = []
        for words in (("desk", "train.toml"), ("roll", "spur.toml", "--watch", "--out", "watched.html")):
            cls.serving.append(subprocess.Popen([PALIO, *words, "--no-browser"], cwd=cls.tmp.name, stdout=subprocess.PIPE, text=True))
            cls.pages.append(next(m.group(0) for m in (re.search(r"http://\S+", line) for line in cls.serving[-1].stdout) if m))
        cls.browser = browser.started(cls.tmp.name)
        cls.browser.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": REMEMBER})

    @classmethod
    def tearDownClass(cls):
        cls.browser.quit()
        for process in cls.serving:
            process.send_signal(signal.SIGINT)
            process.communicate(timeout=20)
        cls.tmp.cleanup()

    @classmethod
    def run_palio(cls, *args):
        done = subprocess.run([PALIO, *args], cwd=cls.tmp.name, capture_output=True, text=True)
        assert done.returncode == 0, (args, done.stderr)

    @classmethod
    def page(cls, name, *args):
        cls.run_palio(*args, "--out", name)
        cls.pages.append(name)

    def open(self, name, width, height):
        served = name.startswith("http:")
        browser.show(self.browser, name if served else os.path.join(self.tmp.name, name), width, height)
        if served:  # it asks for what it shows
            time.sleep(1.5)

    def test_every_page_in_every_size(self):
        looks = (self.no_text_over_text_and_nothing_cut, self.no_words_over_words_in_charts, self.controls_have_room_and_names,
                 self.nothing_is_asked_of_a_network)
        self.charts = set()
        for name in self.pages:
            for width, height in SIZES:
                self.open(name, width, height)  # opening takes longest: once for all that is looked for
                for look in looks:
                    with self.subTest(page=name, width=width, look=look.__name__):
                        look(width)
                self.assertEqual(browser.complaints(self.browser), [], "console is silent")
        self.assertIn("strip", self.charts)

    def no_text_over_text_and_nothing_cut(self, width):
        self.assertLessEqual(self.browser.execute_script("return document.documentElement.scrollWidth"), width, "scrolls sideways")
        texts = self.browser.execute_script(TEXTS)
        self.assertGreaterEqual(len(texts), 3)
        for i, a in enumerate(texts):
            self.assertGreaterEqual(a[1], -1, a)
            self.assertLessEqual(a[3], width + 1, a)
            for b in texts[i + 1:]:
                self.assertFalse(over(a, b), f"{a} over {b}")

    def no_words_over_words_in_charts(self, _):
        for canvas, wide, high, texts in self.browser.execute_script(WRITTEN):
            self.charts.add(canvas)
            for i, a in enumerate(texts):
                self.assertGreaterEqual(a[1], -1, (canvas, a))
                self.assertGreaterEqual(a[2], -1, (canvas, a))
                self.assertLessEqual(a[3], wide + 1, (canvas, a))
                self.assertLessEqual(a[4], high + 1, (canvas, a))
                for b in texts[i + 1:]:
                    self.assertFalse(over(a, b), f"{canvas}: {a} over {b}")

    def controls_have_room_and_names(self, width):
        for control in self.browser.execute_script(CONTROLS):
            _, tag, sort, left, right, w, h = control
            self.assertGreater(min(w, h), 5, control)
            self.assertGreaterEqual(left, -1, control)
            self.assertLessEqual(right, width + 1, control)
            if width < 600 and (tag in ("BUTTON", "SELECT") or sort == "range"):  # for a finger
                self.assertGreaterEqual(h, 28, control)
            if sort == "range":
                self.assertGreaterEqual(w, 60, control)
        self.assertEqual(self.browser.execute_script(NAMELESS), [])

    def nothing_is_asked_of_a_network(self, _):
        asked = self.browser.execute_script(
            "return performance.getEntriesByType('resource').map(e => e.name).filter(n => !n.startsWith('data:') && !n.startsWith('blob:'))")
        own = self.browser.current_url if self.browser.current_url.startswith("http:") else "none"
        self.assertEqual([name for name in asked if not name.startswith(own)], [])

    def test_less_motion_is_honoured(self):
        self.browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": [{"name": "prefers-reduced-motion", "value": "reduce"}]})
        try:
            for name in self.pages:
                self.open(name, 1280, 800)
                moving = self.browser.execute_async_script(
                    "const done = arguments[0], shot = () => [...document.querySelectorAll('canvas')].map(c => c.toDataURL()).join();"
                    "setTimeout(() => { const before = shot(); setTimeout(() => done(before !== shot()), 400); }, 600);")
                self.assertFalse(moving, name)
        finally:
            self.browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})

    def test_focus_is_seen(self):
        for name in self.pages:
            self.open(name, 1280, 800)
            for _ in range(4):
                self.browser.find_element("tag name", "body").send_keys(Keys.TAB)
                seen = self.browser.execute_script(
                    "let e = document.activeElement; while (e.tagName === 'IFRAME') e = e.contentDocument.activeElement;"
                    "if (!e || e.tagName === 'BODY') return '';"
                    "const s = getComputedStyle(e); return s.outlineStyle !== 'none' || s.boxShadow !== 'none' ? '' : e.outerHTML.slice(0, 90);")
                self.assertEqual(seen, "", name)


if __name__ == "__main__":
    unittest.main()
