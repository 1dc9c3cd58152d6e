"""Opens the page of a whole machine in headless Chromium, and lays hands on it as a person would."""
import json
import math
import os
import random
import re
import subprocess
import sys
import tempfile
import time
import unittest
from xml.etree import ElementTree

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

import browser

PALIO = sys.argv.pop(1)

# Nothing of the page's own ideas of contact: how far a place in the world is from the triangles of each part.
DISTANCES = """
const distances = p => parts.map(part => {
  const shape = shapes[part.data.shape].solid, at = shape.attributes.position.array, corners = shape.index.array;
  const own = p.clone().applyMatrix4(inverseOf(part.group.matrix)), t = new THREE.Triangle(), foot = new THREE.Vector3();
  if (shape.boundingBox.distanceToPoint(own) > 0.5) return Infinity;
  let least = Infinity;
  for (let i = 0; i < corners.length; i += 3) {
    t.a.fromArray(at, 3 * corners[i]); t.b.fromArray(at, 3 * corners[i + 1]); t.c.fromArray(at, 3 * corners[i + 2]);
    t.closestPointToPoint(own, foot); least = Math.min(least, foot.distanceTo(own));
  }
  return least;
});
const told = D.meshes.map((mesh, k) => {
  const { points, lines } = contacts(k), all = points.concat(lines), some = all.filter((_, i) => i % Math.ceil(all.length / 6) === 0);
  return { name: mesh.name, pushes: mechanism.pushing[k] !== 0, count: all.length,
           off: some.map(p => distances(p).map((d, i) => [d, i]).sort((a, b) => a[0] - b[0]).slice(0, 2)) };
});
return told;
"""

# Three in a ring, each with both others.
LOCKED = """
[shared]
module = 1
[gear.a]
kind = "spur"
teeth = 20
face_width = 8
[gear.b]
like = "a"
[gear.c]
like = "a"
[pair.ab]
driver = "a"
driven = "b"
[pair.bc]
driver = "b"
driven = "c"
direction = 120
[pair.ca]
driver = "c"
driven = "a"
direction = 240
[train.round]
input = "a"
output = "c"
"""


def times(a, b):
    return [[sum(a[i][k] * b[k][j] for k in range(4)) for j in range(4)] for i in range(4)]


def about(axis, angle):
    """A turn about an axis through the origin."""
    x, y, z = axis
    c, s = math.cos(angle), math.sin(angle)
    d = 1 - c
    return [
        [c + x * x * d, x * y * d - z * s, x * z * d + y * s, 0],
        [y * x * d + z * s, c + y * y * d, y * z * d - x * s, 0],
        [z * x * d - y * s, z * y * d + x * s, c + z * z * d, 0],
        [0, 0, 0, 1],
    ]


def shifted(x, y, z):
    return [[1, 0, 0, x], [0, 1, 0, y], [0, 0, 1, z], [0, 0, 0, 1]]


def origin(element):
    o = element.find("origin")
    roll, pitch, yaw = (float(v) for v in o.get("rpy", "0 0 0").split())
    turn = times(about((0, 0, 1), yaw), times(about((0, 1, 0), pitch), about((1, 0, 0), roll)))
    return times(shifted(*(float(v) for v in o.get("xyz").split())), turn)


def posed(robot, turned):
    """Where every visual of a robot description is, its one free joint turned so far."""
    links, visuals = {"base": shifted(0, 0, 0)}, {}
    joints = list(robot.iter("joint"))
    joints = [j for j in joints if j.find("parent") is not None]
    while joints:
        joint = next(j for j in joints if j.find("parent").get("link") in links)
        joints.remove(joint)
        mimic = joint.find("mimic")
        at = turned * float(mimic.get("multiplier")) if mimic is not None else turned
        axis = [float(v) for v in joint.find("axis").get("xyz").split()] if joint.find("axis") is not None else None
        kind = joint.get("type")
        move = shifted(0, 0, 0) if kind == "fixed" else about(axis, at) if kind == "continuous" else shifted(*(at * a for a in axis))
        links[joint.find("child").get("link")] = times(links[joint.find("parent").get("link")], times(origin(joint), move))
    for link in robot.iter("link"):
        for visual in link.iter("visual"):
            visuals[visual.get("name")] = times(links[link.get("name")], origin(visual))
    return visuals


class Machine(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.tmp = tempfile.TemporaryDirectory()
        cls.reports = {}
        for kind in ("train", "planetary", "greenhouse", "spur"):
            cls.run_palio("start", kind, "--out", kind + ".toml")
            cls.run_palio("roll", kind + ".toml", "--out", kind)
            cls.reports[kind] = json.loads(cls.run_palio("report", kind + ".toml", "--json"))
        # The same train with two gears of one piece.
        with open(os.path.join(cls.tmp.name, "train.toml")) as f:
            job = f.read()
        job = job.replace("[shaft.middle]", "[shaft.middle]\ndiameter = 8\nends = [12, 6]\none_piece = true")
        with open(os.path.join(cls.tmp.name, "cluster.toml"), "w") as f:
            f.write(job)
        cls.run_palio("roll", "cluster.toml", "--out", "cluster")
        # Two pinions on one rack, the second one driven by it.
        with open(os.path.join(cls.tmp.name, "pushers.toml"), "w") as f:
            f.write(
                "[shared]\nmodule = 1.5\nface_width = 10\n[gear.first]\nkind = 'spur'\nteeth = 18\n"
                "[gear.second]\nkind = 'spur'\nteeth = 22\n[gear.bar]\nkind = 'rack'\nteeth = 40\nbase_height = 8\n"
                "[pair.a]\ndriver = 'first'\ndriven = 'bar'\nbacklash = 0.1\n"
                "[pair.b]\ndriver = 'bar'\ndriven = 'second'\nbacklash = 0.1\nalong = 55\n"
                "[train.t]\ninput = 'first'\noutput = 'second'\n"
            )
        cls.run_palio("roll", "pushers.toml", "--out", "pushers")
        cls.reports["pushers"] = json.loads(cls.run_palio("report", "pushers.toml", "--json"))
        cls.browser = browser.started(cls.tmp.name)

    @classmethod
    def tearDownClass(cls):
        cls.browser.quit()
        cls.tmp.cleanup()

    @classmethod
    def run_palio(cls, *args):
        return subprocess.run([PALIO, *args], cwd=cls.tmp.name, check=False, capture_output=True, text=True).stdout

    def tearDown(self):
        self.assertEqual(browser.complaints(self.browser), [], "console is silent")

    def open(self, name, width=1280, height=800):
        browser.show(self.browser, os.path.join(self.tmp.name, name), width, height)

    def shown(self, pattern, seconds=20):
        """What a pattern finds in the page, once it stands there: a machine under load shows it later."""
        end = time.time() + seconds
        while True:
            found = re.search(pattern, self.browser.page_source)
            if found:
                return found.group(1)
            self.assertLess(time.time(), end, pattern)
            time.sleep(0.1)

    def js(self, script, *args):
        return self.browser.execute_script(script, *args)

    def text(self, id):
        return self.browser.find_element(By.ID, id).text

    def input_to(self, turns, steps=200):
        """Turns the input by so much more, through all that stands between."""
        return self.js(
            "const n = arguments[1], m = input(); for (let i = 0; i < n; i++)"
            " if (!mechanism.turn(m, q(m) + arguments[0] * D.members[m].unit / n)) return false;"
            "draw(); return true;",
            turns,
            steps,
        )

    def coordinates(self):
        return self.js("return [q(input()) / D.members[input()].unit, q(output()) / D.members[output()].unit]")

    def on_screen(self, part, x, y, z):
        """Where a place in a part's own frame is on the screen; it has to be the part that a hand would meet there."""
        return self.js(
            "const p = parts.find(p => p.data.name === arguments[0]);"
            "const at = onScreen(new THREE.Vector3(arguments[1], arguments[2], arguments[3]).applyMatrix4(p.group.matrix));"
            "const box = $('space').getBoundingClientRect();"
            "return [at.x + box.width / 2 + box.left, at.y + box.height / 2 + box.top];",
            part,
            x,
            y,
            z,
        )

    def drag(self, at, dx, dy, pieces=10):
        chain = ActionChains(self.browser, duration=0).w3c_actions
        chain.pointer_action.move_to_location(round(at[0]), round(at[1]))
        chain.pointer_action.pointer_down()
        for i in range(pieces):
            chain.pointer_action.move_to_location(
                round(at[0] + dx * (i + 1) / pieces), round(at[1] + dy * (i + 1) / pieces)
            )
        chain.pointer_action.pointer_up()
        chain.perform()

    def test_what_is_marked_as_contact_lies_on_the_surfaces_of_two_gears(self):
        for kind in ("greenhouse", "planetary", "train", "cluster", "pushers"):
            self.open(kind + "/machine.html")
            deviation = float(self.shown(r"within ([\d.e-]+) mm"))
            far = {"greenhouse": (80.3, -171.7), "pushers": (0.37, -0.41, -0.3)}
            for turns in far.get(kind, (3.37, -0.41, -5.9)):
                self.assertTrue(self.input_to(turns, 400))
                for mesh in self.js(DISTANCES):
                    if "reducer" in mesh["name"]:
                        continue
                    if mesh["pushes"]:
                        self.assertGreater(mesh["count"], 0, mesh["name"])
                    for first, second in mesh["off"]:
                        self.assertLess(second[0], 1.5 * deviation + 0.002, f"{kind} {turns} {mesh['name']}")
                        self.assertNotEqual(first[1], second[1], "two different parts")

    def test_play_is_taken_up_through_the_whole_train_and_then_the_ratio_is_exact(self):
        for kind, of, name in (("train", "trains", None), ("planetary", "planetaries", "step_down"), ("pushers", "trains", None)):
            told = self.reports[kind][of]
            told = told[name or next(iter(told))]
            self.open(kind + "/machine.html")
            ratio = told["ratio_value"]
            way = 0.2 if kind == "pushers" else 1  # its rack ends sooner
            self.assertTrue(self.input_to(1.1 * way))
            at = self.coordinates()
            self.assertTrue(self.input_to(0.7 * way))
            on = self.coordinates()
            self.assertAlmostEqual((on[1] - at[1]) * ratio, on[0] - at[0], delta=1e-9)
            # Back: nothing moves at the output until the play of all meshes is taken up; then it follows again.
            if "play_of_output" in told:
                least = told["play_of_output"]["min"] / self.reports[kind]["gears"]["vent_rack"]["transverse_pitch"]
            else:
                least = told["play_of_output_deg"]["min"] / 360
            back = least * abs(ratio)
            self.assertTrue(self.input_to(-0.98 * back))
            self.assertAlmostEqual(self.coordinates()[1], on[1], delta=1e-12)
            self.assertTrue(self.input_to(-0.12 * back))
            self.assertAlmostEqual(abs(self.coordinates()[1] - on[1]), 0.1 * least, delta=0.012 * least)
            before = self.coordinates()
            self.assertTrue(self.input_to(-0.5 * way))
            after = self.coordinates()
            self.assertAlmostEqual((after[1] - before[1]) * ratio, -0.5 * way, delta=1e-9)

    def test_any_part_is_dragged_by_hand_and_drags_the_others(self):
        self.open("train/machine.html")
        self.js("choose(-1)")
        start = self.coordinates()
        at = self.on_screen("motor_pinion", 5, 0, 14)
        self.drag(at, 50, -30)
        moved = self.coordinates()
        self.assertGreater(abs(moved[0] - start[0]), 0.05)
        self.assertGreater(abs(moved[1] - start[1]), 0)
        # At the other end: the rack is pulled, and the motor's pinion turns with it.
        before = self.coordinates()
        at = self.on_screen("vent_rack", 20, -4, 6)
        self.drag(at, -25, 10)
        after = self.coordinates()
        self.assertGreater(abs(after[1] - before[1]), 0.1)
        self.assertGreater(abs(after[0] - before[0]), 0.1)
        # A click chooses, and tells every number of the gear.
        self.drag(self.on_screen("motor_pinion", 5, 0, 14), 0, 0, 1)
        self.assertEqual(self.text("chosen-name"), "motor_pinion")
        numbers = self.text("numbers")
        for word in ("tip circle", "profile shift", "root circle"):
            self.assertIn(word, numbers)

    def test_the_robot_description_moves_as_the_page_does(self):
        """Forward kinematics of the URDF, worked out here, against every part of the page at the even ratio."""
        for kind in ("train", "planetary", "greenhouse", "cluster"):
            self.run_palio("make", kind + ".toml", "--format", "urdf", "--out", "urdf_" + kind)
            file = os.path.join(self.tmp.name, "urdf_" + kind, "assembly.urdf")
            checked = subprocess.run(["check_urdf", file], capture_output=True, text=True)
            self.assertEqual(checked.returncode, 0, checked.stdout + checked.stderr)
            robot = ElementTree.parse(file).getroot()
            self.open(kind + "/machine.html")
            for turned in (0.0, 1.7, -40.3):
                poses = posed(robot, turned)
                shown = self.js(
                    "const t = D.trains[0], k = arguments[0] / D.members[t.input].unit; D.members.forEach((m, i) => {"
                    " mechanism.q[i] = i === t.input ? arguments[0] : t.turns[i] ? t.turns[i][1] * m.unit * k : 0; });"
                    "place(); return parts.map(p => [p.data.name, Array.from(p.group.matrix.elements)])",
                    turned,
                )
                self.assertEqual(sorted(n for n, _ in shown), sorted(poses))
                for name, elements in shown:
                    for i in range(4):
                        for j in range(3):
                            scale = 1000 if i == 3 else 1
                            self.assertAlmostEqual(
                                elements[4 * i + j], scale * poses[name][j][i], delta=2e-6 * scale, msg=f"{kind} {name} {turned}"
                            )
            # Meshes are there, and weigh what the links weigh.
            for link in robot.iter("link"):
                for mesh in link.iter("mesh"):
                    self.assertTrue(os.path.exists(os.path.join(os.path.dirname(file), mesh.get("filename"))))
        masses = {l.get("name"): float(l.find("inertial/mass").get("value")) for l in robot.iter("link") if l.find("inertial") is not None}
        wanted = self.reports["train"]["gears"]["motor_pinion"]["volume"] * 1200e-9
        self.assertAlmostEqual(masses["motor_pinion"], wanted, delta=1e-3 * wanted)

    def test_what_is_held_does_not_move_and_planets_go_round(self):
        self.open("planetary/machine.html")
        held = self.js("return D.members.findIndex(m => m.name === 'ring_gear')")
        self.assertFalse(self.js("return mechanism.turn(arguments[0], 0.1)", held))
        self.assertEqual(self.js("return q(arguments[0])", held), 0)
        middle = "const e = parts.find(p => p.data.name === arguments[0]).group.matrix.elements; return [e[12], e[13]]"
        before = self.js(middle, "planet_gear_2")
        self.assertTrue(self.input_to(self.reports["planetary"]["planetaries"]["step_down"]["ratio_value"] / 4))
        after = self.js(middle, "planet_gear_2")
        play = self.reports["planetary"]["planetaries"]["step_down"]["play_of_output_deg"]["max"] / 57
        # A quarter turn of the arm about the sun, that is at the origin, less at most its play.
        self.assertAlmostEqual(after[0], -before[1], delta=play * 30)
        self.assertAlmostEqual(after[1], before[0], delta=play * 30)

    def test_a_machine_that_cannot_turn_says_what_stands_in_the_way(self):
        with open(os.path.join(self.tmp.name, "locked.toml"), "w") as f:
            f.write(LOCKED)
        self.run_palio("roll", "locked.toml", "--out", "locked")
        self.open("locked/machine.html")
        self.assertIn("cannot turn", self.text("words"))
        self.assertRegex(self.text("law"), "it cannot work as it stands: [1-9]")
        self.assertIn("error", self.text("said"))
        self.assertFalse(self.input_to(0.2, 4))
        self.js("drive(0.2)")
        self.assertRegex(self.text("told"), "Nothing turns: (ab|bc|ca) stands in the way")

    def test_a_rack_stops_at_its_end(self):
        self.open("train/machine.html")
        self.js("const m = input(); for (let i = 0; i < 3000; i++) if (!mechanism.turn(m, q(m) + 0.05)) break; draw();")
        self.assertIn("the end of vent_rack", self.text("told"))
        # The other way it goes on.
        self.assertTrue(self.input_to(-1))
        self.assertEqual(self.text("told"), "")

    def test_the_page_stands_whole_in_windows_of_every_size(self):
        for width, height in ((1280, 800), (390, 844), (820, 1180)):
            self.open("greenhouse/machine.html", width, height)
            boxes = self.js(
                "return ['header', '#stage', 'aside', 'nav'].map(s => { const b = document.querySelector(s).getBoundingClientRect();"
                " return [s, b.left, b.top, b.right, b.bottom]; })"
            )
            for i, (a, left, top, right, bottom) in enumerate(boxes):
                self.assertGreaterEqual(left, 0)
                self.assertLessEqual(right, width)
                self.assertLessEqual(bottom, height + 0.5, a)
                self.assertGreater(right - left, 100)
                self.assertGreater(bottom - top, 30)
                for b, left2, top2, right2, bottom2 in boxes[i + 1 :]:
                    apart = right <= left2 + 0.5 or right2 <= left + 0.5 or bottom <= top2 + 0.5 or bottom2 <= top + 0.5
                    self.assertTrue(apart, f"{a} over {b} at {width}")
            # Every corner of every part is in the picture, which is filled one way or the other.
            left, right, top, bottom, w, h = self.js(
                "remember(); const at = corners.map(onScreen), xs = at.map(p => p.x), ys = at.map(p => p.y);"
                "return [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys), stage.clientWidth, stage.clientHeight]"
            )
            self.assertLessEqual(max(-left, right), w / 2 + 1)
            self.assertLessEqual(max(-top, bottom), h / 2 + 1)
            self.assertGreater(max((right - left) / w, (bottom - top) / h), 0.8)
            self.assertEqual(self.js("return performance.getEntriesByType('resource').filter(e => !e.name.startsWith('data:')).length"), 0)
        self.assertLess(os.path.getsize(os.path.join(self.tmp.name, "greenhouse/machine.html")), 5_000_000)

    def picture(self):
        return self.js("return renderer.domElement.toDataURL()")

    def test_it_is_worked_by_the_keyboard_alone(self):
        self.open("train/machine.html")
        keys = lambda *k: ActionChains(self.browser).send_keys(*k).perform()
        before = self.picture()
        keys(Keys.ARROW_RIGHT)
        self.assertAlmostEqual(self.coordinates()[0], 1 / 360, delta=1e-9)
        self.assertNotEqual(before, self.picture())
        keys(Keys.SPACE)
        time.sleep(0.5)
        keys(Keys.SPACE)
        self.assertGreater(self.coordinates()[0], 2 / 360)
        rest = self.picture()
        time.sleep(0.3)
        self.assertEqual(rest, self.picture())
        for key in ("w", "d", "+", "c", "0", "x", "x", "x"):
            was = self.picture()
            keys(key)
            if key != "0":
                self.assertNotEqual(was, self.picture(), key)
        # A row of the table is chosen, and turned.
        row = self.browser.find_elements(By.CSS_SELECTOR, "#members tbody tr")[1]
        row.send_keys(Keys.ENTER)
        self.assertIn("chosen", row.get_attribute("class"))
        member = self.js("return D.order[1]")
        was = self.js("return q(arguments[0])", member)
        row.send_keys(Keys.ARROW_RIGHT)
        self.assertAlmostEqual(self.js("return q(arguments[0])", member) - was, math.pi / 180, delta=1e-9)
        # What is hidden is seen again.
        whole = self.picture()
        keys("h")
        self.assertNotEqual(whole, self.picture())
        keys("g", "h", "v")
        self.assertTrue(self.js("return parts.every(p => p.group.visible && !p.through)"))

    def test_fingers_turn_parts_and_the_view(self):
        self.open("train/machine.html", 390, 844)
        touch = lambda kind, *points: self.browser.execute_cdp_cmd(
            "Input.dispatchTouchEvent",
            {"type": kind, "touchPoints": [{"x": x, "y": y, "id": i} for i, (x, y) in enumerate(points)]},
        )
        x, y = self.on_screen("quiet_wheel", 20, 0, 14)
        before = self.coordinates()
        touch("touchStart", (x, y))
        for i in range(1, 9):
            touch("touchMove", (x + 2 * i, y + 5 * i))
        touch("touchEnd")
        self.assertNotEqual(before, self.coordinates())
        distance = self.js("return look.distance")
        touch("touchStart", (100, 200), (200, 200))
        touch("touchMove", (60, 200), (240, 200))
        touch("touchEnd")
        self.assertLess(self.js("return look.distance"), 0.8 * distance)

    def test_close_up_shows_a_mesh_even_where_nothing_touches_yet(self):
        for kind in ("spur", "train", "greenhouse"):
            self.open(kind + "/machine.html")
            self.assertEqual(self.js("const c = contacts(); return c.points.length + c.lines.length"), 0)
            far = self.js("return look.distance")
            self.browser.find_element(By.ID, "near").click()
            self.assertLess(self.js("return look.distance"), 0.5 * far)
            places = self.js("const c = contacts(undefined, Infinity); return c.points.concat(c.lines).map(p => p.distanceTo(look.at))")
            self.assertAlmostEqual(min(places), 0, delta=1e-9)

    def test_parts_are_pulled_apart_cut_and_looked_at_alone(self):
        self.open("planetary/machine.html")
        heights = "return parts.map(p => p.group.matrix.elements[14])"
        together = self.js(heights)
        self.js("$('apart').value = 1; $('apart').oninput()")
        apart = self.js(heights)
        of = dict(zip(self.js("return parts.map(p => p.data.name)"), zip(together, apart)))
        self.assertEqual(of["planet_gear"][1], of["planet_gear_3"][1])
        self.assertGreater(abs(of["ring_gear"][1] - of["sun_gear"][1]), 10)
        self.js("$('apart').value = 0; $('apart').oninput(); choose(parts.findIndex(p => p.data.name === 'sun_gear'))")
        self.browser.find_element(By.ID, "only").click()
        self.assertEqual(self.js("return parts.filter(p => p.group.visible).map(p => p.data.name)"), ["sun_gear"])
        self.browser.find_element(By.ID, "show").click()
        # What the cut takes away is not met by a hand.
        whole = self.picture()
        self.browser.find_element(By.ID, "cut").click()
        self.assertNotEqual(whole, self.picture())
        self.assertEqual(self.text("cut"), "Cut: upright")

    def test_who_asks_for_less_motion_sees_single_steps(self):
        self.browser.execute_cdp_cmd(
            "Emulation.setEmulatedMedia", {"features": [{"name": "prefers-reduced-motion", "value": "reduce"}]}
        )
        try:
            self.open("train/machine.html")
            self.js("window.drawn = 0; const old = mechanism.turn.bind(mechanism), seen = new Set();"
                    "const before = renderer.render.bind(renderer); renderer.render = (...a) => { window.drawn++; before(...a); };")
            began = time.time()
            self.browser.find_element(By.ID, "run").click()
            time.sleep(1.6)
            self.browser.find_element(By.ID, "run").click()
            # Two steps a second, however long a click takes on a busy machine; a motion draws thirty.
            drawn = self.js("return window.drawn")
            self.assertLessEqual(drawn, 2 * (time.time() - began) + 3)
            self.assertGreaterEqual(drawn, 1)
        finally:
            self.browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})

    def made_up(self, members, meshes, ends=()):
        """A mechanism of the page's own class, of made-up meshes; limits are constant."""
        self.js(
            "window.made = new Mechanism({members: arguments[0], meshes: arguments[1], ends: arguments[2]});",
            [{"name": f"m{i}", "unit": 2 * math.pi, "inertia": j} for i, j in enumerate(members)],
            [
                {"name": f"k{i}", "driver": driver, "driven": driven, "ratio": ratio, "period": 0.4, "lower": [low], "upper": [high]}
                for i, (driver, driven, ratio, low, high) in enumerate(meshes)
            ],
            list(ends),
        )

    def turn(self, member, to):
        return self.js("const ok = made.turn(arguments[0], arguments[1]); return [ok, made.q, made.pushing, made.stopped]", member, to)

    def test_a_chain_gives_way_as_clamping_one_after_the_other_says(self):
        self.open("spur/machine.html")
        dice = random.Random(5)
        for _ in range(12):
            n = dice.randint(2, 9)
            ratios = [dice.uniform(-2, 2) or 1 for _ in range(n - 1)]
            plays = [(-dice.uniform(0, 0.02), dice.uniform(0, 0.02)) for _ in range(n - 1)]
            self.made_up(
                [dice.uniform(0.1, 10) for _ in range(n)],
                [([[i, 1]], [[i + 1, 1]], r, *p) for i, (r, p) in enumerate(zip(ratios, plays))],
            )
            q = [0.0] * n
            for _ in range(8):
                q[0] += dice.uniform(-0.3, 0.3)
                for i, (r, (low, high)) in enumerate(zip(ratios, plays)):
                    q[i + 1] = min(max(q[i + 1], r * q[i] + low), r * q[i] + high)
                ok, is_now, _, _ = self.turn(0, q[0])
                self.assertTrue(ok)
                for a, b in zip(is_now, q):
                    self.assertAlmostEqual(a, b, delta=1e-9)

    def test_no_smaller_step_is_allowed_where_axes_ride_on_carriers(self):
        """Ties of three members: what comes out keeps all limits, and a random step that keeps them too costs no less."""
        self.open("spur/machine.html")
        dice = random.Random(8)
        for _ in range(10):
            sun, ring = dice.randint(12, 30), dice.randint(50, 90)
            inertia = [dice.uniform(0.2, 5) for _ in range(4)]  # sun, planet, ring, carrier
            low, high = -0.01, 0.012
            self.made_up(
                inertia,
                [
                    ([[0, 1], [3, -1]], [[1, 1], [3, -1]], -sun / 20, low, high),
                    ([[1, 1], [3, -1]], [[2, 1], [3, -1]], 20 / ring, low, high),
                ],
            )
            before = self.js("return made.q")
            ok, q, pushing, _ = self.turn(0, dice.choice([-1, 1]) * dice.uniform(0.05, 0.2))
            self.assertTrue(ok)
            off = lambda q: (q[1] - q[3] + sun / 20 * (q[0] - q[3]), q[2] - q[3] - 20 / ring * (q[1] - q[3]))
            cost = lambda q: sum(j * (a - b) ** 2 for j, a, b in list(zip(inertia, q, before))[1:])
            self.assertTrue(all(low - 1e-10 <= e <= high + 1e-10 for e in off(q)))
            self.assertTrue(any(pushing))
            for side, e in zip(pushing, off(q)):
                if side:
                    self.assertAlmostEqual(e, low if side > 0 else high, delta=1e-10)
            tried = 0
            for _ in range(4000):
                other = [q[0]] + [v + dice.gauss(0, 0.01) for v in q[1:]]
                if all(low <= e <= high for e in off(other)):
                    tried += 1
                    self.assertGreaterEqual(cost(other), cost(q) - 1e-12)
            self.assertGreater(tried, 20)

    def test_what_carries_the_load_waits_for_the_others_and_a_loop_of_two_ratios_stops(self):
        self.open("spur/machine.html")
        # A differential: turned at one side, the cage is loaded, so the other side gives way, whatever it weighs.
        sides = [([[0, 1], [2, -1]], [[1, 1], [2, -1]], -1, -0.001, 0.001)]
        self.made_up([1, 1000, 1], sides)
        self.js("made.loaded = 2")
        ok, q, _, _ = self.turn(0, 0.5)
        self.assertTrue(ok)
        self.assertEqual(q[2], 0)
        self.assertAlmostEqual(q[1], -0.5, delta=0.0011)
        # With the other side held the cage has to follow, by half.
        self.js("made.held.add(1)")
        at = self.turn(0, 1.5)[1]
        self.assertAlmostEqual(self.turn(0, 2.5)[1][2] - at[2], 0.5, delta=1e-9)
        # Two ways from one to the other by ratios that differ: as far as their plays let it, and no further.
        self.made_up([1, 1], [([[0, 1]], [[1, 1]], -1, -0.01, 0.01), ([[0, 1]], [[1, 1]], -1.1, -0.01, 0.01)])
        self.assertTrue(self.turn(0, 0.19)[0])
        ok, q, _, stopped = self.turn(0, 0.21)
        self.assertFalse(ok)
        self.assertEqual(q[0], 0.19)
        self.assertIn(stopped, ("k0", "k1"))
        # The end of a rack is a limit of one member, and names itself.
        self.made_up([1, 1], [([[0, 1]], [[1, 1]], 1, 0, 0)], [[1, -0.5, 0.5]])
        self.assertFalse(self.turn(0, 0.6)[0])
        self.assertEqual(self.turn(0, 0.6)[3], "the end of m1")
        self.assertTrue(self.turn(0, 0.4)[0])

    def test_a_pair_alone_is_a_machine_too(self):
        self.open("spur/machine.html")
        self.assertEqual(self.text("verdict"), "meshes")
        ratio = self.reports["spur"]["pairs"]["first_stage"]["gear_ratio"]
        self.assertTrue(self.input_to(1))
        # Without a train nothing is loaded: the driver is the first pair's.
        driven = self.js("return q(1 - input()) / D.members[1 - input()].unit")
        self.assertAlmostEqual(driven, -1 / ratio, delta=0.01)


if __name__ == "__main__":
    unittest.main()
