"""Opens the animation page in headless Chromium and drives it as a person would."""
import json
import math
import os
import re
import subprocess
import sys
import tempfile
import time
import unittest

from selenium.common.exceptions import NoAlertPresentException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

import browser

PALIO = sys.argv.pop(1)


class Page(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.tmp = tempfile.TemporaryDirectory()
        d = cls.tmp.name
        run = lambda *a: subprocess.run([PALIO, *a], cwd=d, check=False, capture_output=True, text=True).stdout
        run("start", "spur", "--out", "vent.toml")
        cls.report = json.loads(run("report", "vent.toml", "--json"))
        cls.rolled = json.loads(run("roll", "vent.toml", "--json", "--out", "turning.html"))["pairs"]["first_stage"]
        run("roll", "vent.toml", "--set", "pair.first_stage.mounted_center_distance=45.3", "--out", "jam.html")
        run("roll", "vent.toml", "--set", "pair.first_stage.mounted_center_distance=49.5", "--out", "apart.html")
        run("make", "vent.toml", "--format", "dxf", "--only", "motor_pinion", "--out", "made")
        run("compare", "vent.toml", "made/motor_pinion.dxf", "--out", "laid.html")
        for kind in ("helical", "internal", "rack", "crossed", "clock", "lantern", "reducer"):
            run("start", kind, "--out", kind + ".toml")
            run("roll", kind + ".toml", "--out", kind + ".html")
        run("start", "bevel", "--out", "bevel.toml")
        run("roll", "bevel.toml", "--pair", "corner", "--out", "bevel.html")
        run(
            "vary",
            "vent.toml",
            "gear.motor_pinion.profile_shift=-0.5:0.6:12",
            "--hold",
            "gear.motor_pinion.profile_shift+gear.drum_wheel.profile_shift",
            "--out",
            "vary.html",
        )
        run(
            "vary",
            "vent.toml",
            "gear.motor_pinion.profile_shift=0.15:0.6:4",
            "gear.drum_wheel.teeth=42:44",
            "shared.pressure_angle=18:22:3",
            "--show",
            "gear.motor_pinion.tip_thickness",
            "--out",
            "sliders.html",
        )
        run(
            "draw",
            "rack.toml",
            "--set",
            "gear.push_pinion.teeth=9",
            "--set",
            "gear.push_pinion.profile_shift=0",
            "--of",
            "push_pinion:tool",
            "--out",
            "tool.html",
        )
        cls.browser = browser.started(d)

    @classmethod
    def tearDownClass(cls):
        cls.browser.quit()
        cls.tmp.cleanup()

    def test_a_picture_beside_what_is_told_of_it_is_looked_into(self):
        self.open("laid.html")
        width = lambda: self.browser.execute_script("return document.getElementById('picture').getBoundingClientRect().width")
        for _ in range(50):
            if width() > 300:
                break
            time.sleep(0.1)
        whole = width()
        self.assertGreater(whole, 300)
        self.browser.execute_script(
            "document.getElementById('stage').dispatchEvent(new WheelEvent('wheel', {deltaY: -800, clientX: 300, clientY: 300, cancelable: true}))"
        )
        self.assertGreater(width(), 3 * whole)
        self.browser.find_element("id", "whole").click()
        self.assertAlmostEqual(width(), whole, delta=1)
        self.assertIn("flanks", self.browser.find_element("tag name", "pre").text)

    def open(self, name):
        self.browser.get("file://" + os.path.join(self.tmp.name, name))

    def tearDown(self):
        self.assertEqual(browser.complaints(self.browser), [], "console is silent")

    def text(self, id):
        return self.browser.find_element(By.ID, id).text

    def number(self, id):
        return float(re.match(r"-?[\d.]+(?:e[+-]?\d+)?", self.text(id).replace("\u2033", "")).group(0))

    def picture(self):
        return self.browser.execute_script("return document.getElementById('gears').toDataURL()")

    def test_the_picture_changes_when_it_plays_and_rests_when_paused(self):
        self.open("turning.html")
        self.assertEqual(self.text("verdict"), "meshes")
        before = self.picture()
        self.browser.find_element(By.ID, "run").click()
        time.sleep(0.6)
        self.browser.find_element(By.ID, "run").click()
        after = self.picture()
        self.assertNotEqual(before, after)
        self.assertGreater(self.number("phi"), 0)
        time.sleep(0.2)
        self.assertEqual(after, self.picture())
        # Reversed, by the keyboard.
        turned = self.number("phi")
        ActionChains(self.browser).send_keys("r", Keys.SPACE).pause(0.5).send_keys(Keys.SPACE).perform()
        self.assertLess(self.number("phi"), turned)

    def test_cycloidal_pages_turn_and_show_the_rolls_path_of_contact(self):
        for kind, word in (("clock", "leaves"), ("lantern", "pins")):
            self.open(kind + ".html")
            self.assertEqual(self.text("verdict"), "meshes")
            self.assertEqual(self.browser.execute_script("return D.action_name"), "path of contact")
            self.assertIn(word, self.browser.execute_script("return gears.map(g => g.count_word || '').join()"))
            before = self.picture()
            self.browser.find_element(By.ID, "forth").click()
            self.assertNotEqual(before, self.picture())
            self.assertAlmostEqual(self.number("gap-upper"), 0, delta=1e-5)

    def test_the_reducer_turns_back_shows_its_gaps_and_is_dragged_by_hand(self):
        self.open("reducer.html")
        rolled = json.loads(
            subprocess.run(
                [PALIO, "roll", "reducer.toml", "--json"], cwd=self.tmp.name, capture_output=True, text=True
            ).stdout
        )["reducers"]["motor_reducer"]
        self.assertEqual(self.text("verdict"), "meshes")
        start = self.number("psi")
        for _ in range(90):
            self.browser.execute_script("document.getElementById('forth').click()")
        self.assertAlmostEqual(self.number("phi"), 90, delta=1e-3)
        # 23 lobes: the output has gone back by 90/23, give or take what the play lets it.
        self.assertAlmostEqual(self.number("psi") - start, -90 / 23, delta=0.02)
        shown = self.number("play-here")
        self.assertGreaterEqual(shown, rolled["angular_backlash_deg"]["min"] - 1e-4)
        self.assertLessEqual(shown, rolled["angular_backlash_deg"]["max"] + 1e-4)
        gaps = self.browser.execute_script("return rollers(state.phi, true).map(g => g.gap)")
        self.assertEqual(len(gaps), 24)
        self.assertAlmostEqual(min(gaps), 0, delta=1e-6)
        # The shaft in the middle is dragged round; the output by its pins turns it back 23 times as far.
        phi = self.number("phi")
        x, y = self.browser.execute_script("return toScreen(0.5 * D.bore, 0)")
        self.drag(x, y, -20, -30)
        self.assertGreater(self.number("phi"), phi)
        phi = self.number("phi")
        x, y = self.browser.execute_script("return toScreen(0.6 * D.R, 0)")
        self.drag(x, y, 0, -12)
        self.assertLess(self.number("phi"), phi - 20)
        before = self.picture()
        self.browser.find_element(By.ID, "load").click()
        self.assertIn("pushed on", self.browser.find_element(By.ID, "load").text)
        self.assertNotEqual(before, self.picture())

    def test_shown_values_are_the_rolls_at_three_positions(self):
        pair = self.report["pairs"]["first_stage"]
        ratio, play = pair["gear_ratio"], pair["angular_backlash_deg"][1]
        pitch = self.report["gears"]["motor_pinion"]["angular_pitch_deg"]
        for position in (30, 144, 300):
            self.open("turning.html")
            for _ in range(position // 6):  # by single steps, six positions a time through the page's own step
                self.browser.execute_script("for (let n = 0; n < 6; n++) document.getElementById('forth').click()")
            phi = pitch * position / 360
            self.assertAlmostEqual(self.number("phi"), phi, delta=1e-4)
            # Driven forward, the driven stands half the play ahead of the even middle.
            self.assertAlmostEqual(self.number("psi"), pair["phase_deg"][1] - phi / ratio + play / 2, delta=1.01e-4)
            self.assertAlmostEqual(self.number("gap-upper"), 0, delta=1e-5)
            self.assertAlmostEqual(self.number("gap-lower"), pair["normal_backlash"], delta=1e-5)
            self.assertAlmostEqual(self.number("play-here"), self.rolled["circumferential_backlash"]["min"], delta=1e-6)
            self.assertIn(self.number("pairs-here"), (1, 2))
            self.assertLess(abs(self.number("te-here")), 1e-4)

    def drag(self, x, y, dx, dy):
        canvas = self.browser.find_element(By.ID, "gears")
        w, h = canvas.size["width"], canvas.size["height"]
        ActionChains(self.browser).move_to_element_with_offset(
            canvas, round(x - w / 2), round(y - h / 2)
        ).click_and_hold().move_by_offset(dx, dy).release().perform()

    def at(self, gear, dx, dy):
        """Page place beside a gear's axis, in mm."""
        return self.browser.execute_script(
            "return toScreen(gears[arguments[0]].x + arguments[1], gears[arguments[0]].y + arguments[2])", gear, dx, dy
        )

    def test_a_drag_turns_both_and_a_reversal_takes_up_the_play_first(self):
        self.open("turning.html")
        ratio = self.report["pairs"]["first_stage"]["gear_ratio"]
        self.drag(*self.at(0, -10, 0), 0, 30)  # left of its axis, downwards: counter-clockwise
        phi, psi = self.number("phi"), self.number("psi")
        self.assertGreater(phi, 3)
        play = self.report["pairs"]["first_stage"]["angular_backlash_deg"]
        self.assertAlmostEqual(psi, -phi / ratio + play[1] / 2, delta=2e-3)
        # Back by less than the play: the driven rests, and the gap ahead opens.
        self.browser.execute_script("turnDriver(state.phi - 0.4 * arguments[0] * Math.PI / 180); draw()", play[0])
        self.assertEqual(self.number("psi"), psi)
        self.assertGreater(self.number("gap-upper"), 0.04)
        # And further: the other flank takes it along.
        self.drag(*self.at(0, -10, 0), 0, -40)
        self.assertGreater(self.number("psi"), psi)
        self.assertAlmostEqual(self.number("gap-lower"), 0, delta=1e-5)
        # By the other gear: the first follows.
        phi = self.number("phi")
        self.drag(*self.at(1, 18, 0), 0, 40)
        self.assertNotAlmostEqual(self.number("phi"), phi, delta=0.5)

    def test_every_sort_of_pair_turns_and_can_be_dragged(self):
        for kind in ("helical", "internal", "rack"):
            with self.subTest(kind=kind):
                self.open(kind + ".html")
                self.assertEqual(self.text("verdict"), "meshes")
                before, psi = self.picture(), self.number("psi")
                self.browser.execute_script("document.getElementById('forth').click()")
                self.assertNotEqual(before, self.picture())
                # Where it stands, the driven is at the end of its play, and the law's ratio is kept from step to step.
                ratio, step = self.browser.execute_script(
                    "return [D.ratio * (gears[1].sort === 'rack' ? 1 / D.mm_per_unit : 180 / Math.PI), pitch / N]"
                )
                self.assertAlmostEqual(self.number("psi") - psi, ratio * step, delta=2.1e-4)
                phi = self.number("phi")
                x, y = self.at(0, 0.0, 0.7 * self.browser.execute_script("return gears[0].circles.root / 2"))
                self.drag(x, y, -25, 0)
                self.assertGreater(abs(self.number("phi") - phi), 1)
                self.assertGreaterEqual(self.number("play-here"), 0.09)

    def test_crossed_shafts_turn_in_space_with_the_contacts_marked(self):
        self.open("crossed.html")
        self.assertEqual(self.text("verdict"), "meshes")
        shot = lambda: self.browser.execute_script("return renderer.domElement.toDataURL()")
        dots = lambda: self.browser.execute_script("return dots.filter(d => d.visible).length")
        self.assertEqual(dots(), self.number("pairs-here"))
        before, phi = shot(), self.number("phi")
        for _ in range(3):
            self.browser.execute_script("for (let n = 0; n < 40; n++) document.getElementById('forth').click()")
            self.assertEqual(dots(), self.number("pairs-here"))
        self.assertNotEqual(before, shot())
        self.assertGreater(self.number("phi"), phi)
        # The marked points lie on the driver's flank: off its axis by no more than its tip, by no less than its root.
        radii = self.browser.execute_script(
            "return dots.filter(d => d.visible).map(d => Math.hypot(d.position.x, d.position.y))"
        )
        self.assertTrue(all(12 < r < 15.5 for r in radii), radii)
        # By hand: the driver in the middle of its face.
        x, y = self.browser.execute_script(
            "const p = new THREE.Vector3(-8, -8, 8).project(camera); return [(p.x + 1) / 2 * stage.clientWidth, (1 - p.y) / 2 * stage.clientHeight]"
        )
        stage = self.browser.find_element(By.ID, "space")
        phi = self.number("phi")
        ActionChains(self.browser).move_to_element_with_offset(
            stage, round(x - stage.size["width"] / 2), round(y - stage.size["height"] / 2)
        ).click_and_hold().move_by_offset(25, 4).release().perform()
        self.assertNotAlmostEqual(self.number("phi"), phi, delta=0.5)

    def test_bevel_gears_turn_about_their_apex_with_the_lines_of_contact_marked(self):
        self.open("bevel.html")
        self.assertEqual(self.text("verdict"), "meshes")
        lines = lambda: self.browser.execute_script("return rods.filter(r => r.visible).length")
        for _ in range(4):
            self.assertEqual(lines(), self.number("pairs-here"))
            self.browser.execute_script("for (let n = 0; n < 50; n++) document.getElementById('forth').click()")
        # Each line runs towards the apex: its ends lie in one direction, a face width apart.
        ends = self.browser.execute_script("return dots.filter(d => d.visible).map(d => d.position.toArray())")
        size = lambda p: sum(x * x for x in p) ** 0.5
        for a, b in zip(ends[::2], ends[1::2]):
            self.assertAlmostEqual(sum(x * y for x, y in zip(a, b)) / size(a) / size(b), 1, places=9)
            self.assertAlmostEqual(size(a) - size(b), 8, places=5)
        self.assertLess(self.number("gap-upper") * self.number("gap-lower"), 1e-6)
        before = self.browser.execute_script("return renderer.domElement.toDataURL()")
        self.browser.execute_script("document.getElementById('near').click()")
        self.assertNotEqual(before, self.browser.execute_script("return renderer.domElement.toDataURL()"))

    def test_the_slider_changes_the_teeth_while_they_turn_and_says_what_sets_in(self):
        self.open("vary.html")
        self.browser.execute_script("$('run').click()")
        first = self.browser.execute_script("choose(0); return $('gears').toDataURL()")
        self.assertEqual(self.text("number"), "-0.5")
        self.assertIn("undercut, motor_pinion", self.text("say"))
        last = self.browser.execute_script("choose(steps.length - 1); return $('gears').toDataURL()")
        self.assertNotEqual(first, last)
        self.assertNotIn("undercut", self.text("say"))
        limits = self.browser.execute_script(
            "return D.limits.filter(l => l.what.includes(' undercut ')).map(l => l.at)"
        )
        self.assertEqual(len(limits), 1)
        self.browser.execute_script("$('run').click()")
        before = self.picture()
        time.sleep(0.4)
        self.assertNotEqual(before, self.picture())

    def test_several_sliders_each_move_their_own_number_and_no_other(self):
        self.open("sliders.html")
        self.browser.execute_script("$('run').click()")
        keys = self.browser.execute_script("return keys.map(k => [k.key, k.values.length])")
        self.assertEqual([n for _, n in keys], [4, 3, 3])
        self.assertEqual(len(self.browser.find_elements("css selector", "#sliders input[type=range]")), 3)
        for k in range(3):
            at = self.browser.execute_script("move(arguments[0], 0); return steps[state.i].at", k)
            before = self.browser.execute_script("return $('gears').toDataURL()")
            moved = self.browser.execute_script("move(arguments[0], 1); return steps[state.i].at", k)
            self.assertEqual([a != b for a, b in zip(at, moved)], [i == k for i in range(3)], keys[k])
            self.assertEqual(float(self.text(f"number-{k}")), float(f"{moved[k]:.6g}"))
            self.assertNotEqual(before, self.browser.execute_script("return $('gears').toDataURL()"), keys[k])
        # The grid holds every place once, and what is shown there is that place's own: a report of the same job.
        places = self.browser.execute_script("return steps.map(s => s.at.join())")
        self.assertEqual(len(set(places)), 36)
        shift, teeth, angle = self.browser.execute_script("return steps[state.i].at")
        shown = self.browser.execute_script("return steps[state.i].values[0]")
        told = subprocess.run(
            [PALIO, "report", "vent.toml", "--only", "gear.motor_pinion.tip_thickness"]
            + [f"--set=gear.motor_pinion.profile_shift={shift!r}", f"--set=gear.drum_wheel.teeth={teeth}"]
            + [f"--set=shared.pressure_angle={angle!r}"],
            cwd=self.tmp.name,
            check=True,
            capture_output=True,
            text=True,
        )
        self.assertAlmostEqual(float(told.stdout), shown, places=9)
        # By keyboard: down to the next slider, right to its next value.
        self.browser.execute_script("$('slider-0').focus()")
        body = self.browser.find_element("css selector", "body")
        for key, expected in (("\ue015", 1), ("\ue015", 2)):
            body.send_keys(key)
            self.assertEqual(self.browser.execute_script("return state.key"), expected)
        before = self.browser.execute_script("return placeOf(state.i)[2]")
        body.send_keys("\ue014")
        self.assertEqual(self.browser.execute_script("return placeOf(state.i)[2]"), min(2, before + 1))

    def test_the_tool_cuts_down_to_the_exact_tooth(self):
        self.open("tool.html")
        self.assertIn("undercut", self.text("say"))
        # At the last step the blank is gone wherever the tooth is not, and left where it is: at the middle of the space, and of a tooth.
        left = self.browser.execute_script(
            """
          run(false); state.n = N; draw();
          const alpha = (r, a) => { const k = blank.getContext('2d'), m = new DOMMatrix(); k.save(); k.setTransform(window.devicePixelRatio || 1, 0, 0, window.devicePixelRatio || 1, 0, 0);
            place(k); const t = k.getTransform(); k.restore(); const p = t.transformPoint(new DOMPoint(r * Math.cos(a), r * Math.sin(a))); return k.getImageData(p.x, p.y, 1, 1).data[3]; };
          const root = D.gear.circles.root / 2, tip = D.blank / 2;
          return [alpha(root + 0.1, 0), alpha(root - 0.2, 0), alpha(0.4 * tip + 0.6 * root, D.gear.start), alpha(tip - 0.1, 0)];"""
        )
        self.assertEqual(left, [0, 255, 255, 0])

    def test_no_text_of_a_job_runs_in_any_page(self):
        """A hostile title, part and value in every sort of page: nothing runs, nothing asks, and the title is read as it is."""
        title = "%DATA%<img src=x onerror=document.title='owned'></script><!--<script> %TITLE% \"q\" 'p' & "
        say = ["--set", "title=" + json.dumps(title)]
        run = lambda *a: subprocess.run([PALIO, *a], cwd=self.tmp.name, check=False, capture_output=True, text=True)
        pages = {
            "x-" + kind + ".html": ("roll", kind + ".toml")
            for kind in ("helical", "internal", "rack", "crossed", "clock", "lantern", "reducer")
        }
        pages["x-spur.html"] = ("roll", "vent.toml")
        pages["x-bevel.html"] = ("roll", "bevel.toml", "--pair", "corner")
        pages["x-vary.html"] = ("vary", "vent.toml", "gear.motor_pinion.profile_shift=0:0.4:3")
        pages["x-tool.html"] = ("draw", "rack.toml", "--of", "push_pinion:tool")
        for page, call in pages.items():
            with self.subTest(page=page):
                ran = run(*call, *say, "--out", page)
                self.assertEqual(ran.returncode, 0, ran.stderr)
                self.open(page)
                self.assertIn(title.strip(), self.browser.find_element(By.TAG_NAME, "h1").text)
                self.assertIn("%DATA%<img", self.browser.title)
                self.assertEqual(self.browser.execute_script("return document.querySelectorAll('img').length"), 0)
                self.assertEqual(self.browser.execute_script("return D.title"), title)
                self.assertTrue(self.browser.execute_script("return document.querySelector('canvas').width > 0"))
                with self.assertRaises(NoAlertPresentException):
                    self.browser.switch_to.alert.text  # noqa: B018

    def test_zoom_lens_and_other_verdicts(self):
        self.open("turning.html")
        scale = self.browser.execute_script("return view.scale")
        self.browser.execute_script(
            "document.getElementById('gears').dispatchEvent(new WheelEvent('wheel', {deltaY: -300, clientX: 400, clientY: 300, cancelable: true}))"
        )
        self.assertGreater(self.browser.execute_script("return view.scale"), 1.2 * scale)
        x, y = self.browser.execute_script("return [lens.x, lens.y]")
        self.drag(x, y, -120, -60)
        moved = self.browser.execute_script("return [lens.x, lens.y]")
        self.assertAlmostEqual(moved[0] - x, -120, delta=2)
        self.open("jam.html")
        self.assertEqual(self.text("verdict"), "jams")
        self.assertLess(self.number("gap-upper"), 0)
        self.open("apart.html")
        self.assertEqual(self.text("verdict"), "loses contact")
        self.assertEqual(self.text("play-here"), "open")


if __name__ == "__main__":
    unittest.main(verbosity=2)
