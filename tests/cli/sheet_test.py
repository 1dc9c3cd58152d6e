"""Sheets as a shop reads them: every number of the table is the report's, in the sheet's unit; what can be worked out by hand from
the numbers printed (span, pins, thickness without allowance) comes out as printed; no word leaves the page or covers another."""
import csv
import json
import math
import os
import re
import struct
import subprocess
import sys
import tempfile
import unittest

PALIO = sys.argv.pop(1)
KINDS = ("spur", "helical", "double_helical", "internal", "rack", "crossed", "bevel", "cycloidal", "clock", "lantern")
# What stands before the value in a row, and the report's key of it.
LABELS = {
    "number of teeth z": "teeth",
    "normal module m_n": "normal_module",
    "diametral pitch P": "diametral_pitch",
    "normal pressure angle α_n": "normal_pressure_angle_deg",
    "helix angle β": "helix_angle_deg",
    "lead p_z": "lead",
    "profile shift x": "profile_shift",
    "reference circle d": "reference_diameter",
    "tip circle d_a": "tip_diameter",
    "root circle d_f": "root_diameter",
    "flank used from d_Ff": "root_form_diameter",
    "tooth depth h": "tooth_depth",
    "allowance E_sn": "thickness_allowance",
    "normal thickness at d s_n": "normal_tooth_thickness",
    "outer transverse module m_e": "normal_module",
    "pitch cone angle δ": "pitch_cone_angle_deg",
    "face cone angle δ_a": "face_cone_angle_deg",
    "root cone angle δ_f": "root_cone_angle_deg",
    "outer cone distance R_e": "outer_cone_distance",
    "outer pitch circle d_e": "outer_pitch_diameter",
    "outer tip circle d_ae": "outer_tip_diameter",
    "apex to outer tip edge": "crown_to_apex",
    "mounting distance": "mounting_distance",
    "outer thickness, arc at d_e": "outer_tooth_thickness",
    "pitch circle d": "pitch_diameter",
    "pin diameter": "pin_diameter",
    "width at the pitch circle, arc": "tooth_width",
    "round of the roots, radius": "fillet_radius",
}


def palio(*args, cwd):
    return subprocess.run([PALIO, *args], cwd=cwd, check=True, capture_output=True, text=True).stdout


def table(pdf):
    """Rows of the table: label and text of the value, by words in one line, at least three blanks apart."""
    told = subprocess.run(["pdfinfo", pdf], capture_output=True, text=True, check=True).stdout
    assert re.search(r"Pages:\s+1\n", told), told
    text = subprocess.run(["pdftotext", "-layout", pdf, "-"], capture_output=True, text=True, check=True).stdout
    rows = []
    for line in text.splitlines():
        parts = re.split(r"\s{3,}", line.strip())
        if len(parts) >= 2:
            rows.append((parts[-2], parts[-1]))
    return rows, text


def number(text):
    found = re.search(r"[-+]?\d+(?:\.\d+)?", text)
    return (float(found.group()), len(found.group().partition(".")[2])) if found else (None, 0)


def inv(a):
    return math.tan(a) - a


def arcinv(value):
    low, high = 0.0, math.pi / 2 - 1e-9
    for _ in range(200):
        middle = (low + high) / 2
        low, high = (middle, high) if inv(middle) < value else (low, middle)
    return low


def check_words(test, pdf, least_words):
    xml = subprocess.run(["pdftotext", "-bbox", pdf, "-"], capture_output=True, text=True, check=True).stdout
    width, height = map(float, re.search(r'<page width="([\d.]+)" height="([\d.]+)"', xml).groups())
    words = [
        (*map(float, w[:4]), w[4])
        for w in re.findall(r'<word xMin="([\d.-]+)" yMin="([\d.-]+)" xMax="([\d.-]+)" yMax="([\d.-]+)">(.*?)</word>', xml)
    ]
    test.assertGreater(len(words), least_words)
    for x0, y0, x1, y1, word in words:
        test.assertTrue(0 < x0 and x1 < width and 0 < y0 and y1 < height, word)
    for i, a in enumerate(words):
        for b in words[i + 1 :]:
            across = min(a[2], b[2]) - max(a[0], b[0])
            down = min(a[3], b[3]) - max(a[1], b[1])
            # Boxes are as high as the tallest letter: words of neighbouring lines may meet by a quarter.
            least = min(min(a[2] - a[0], a[3] - a[1]), min(b[2] - b[0], b[3] - b[1]))
            test.assertFalse(across > 0.35 * least and down > 0.35 * least, f"{a[4]!r} and {b[4]!r}")


class Sheets(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.tmp = tempfile.TemporaryDirectory()
        cls.dir = cls.tmp.name
        cls.reports, cls.rows, cls.texts = {}, {}, {}
        for kind in KINDS:
            for units in ("mm", "in"):
                name = f"{kind}_{units}"
                palio("start", kind, "--units", units, "--out", name + ".toml", cwd=cls.dir)
                palio("sheet", name + ".toml", "--out", name, cwd=cls.dir)
                cls.reports[name] = json.loads(palio("report", name + ".toml", "--json", cwd=cls.dir))
                for gear in cls.reports[name]["gears"]:
                    cls.rows[name, gear], cls.texts[name, gear] = table(
                        os.path.join(cls.dir, name, gear + "-sheet.pdf")
                    )

    @classmethod
    def tearDownClass(cls):
        cls.tmp.cleanup()

    def test_every_number_of_the_table_is_the_reports(self):
        seen = set()
        for (name, gear), rows in self.rows.items():
            report = self.reports[name]["gears"][gear]
            for label, text in rows:
                key = LABELS.get(label)
                if key not in report:
                    continue
                with self.subTest(job=name, gear=gear, label=label):
                    value, places = number(text)
                    self.assertIsNotNone(value)
                    wanted = abs(report[key]) if key == "helix_angle_deg" else report[key]
                    # As many places as are printed, of which the last is rounded; significant digits of large numbers.
                    self.assertAlmostEqual(value, wanted, delta=0.51 * 10**-places + 5e-6 * abs(wanted))
                    if places == 0 and wanted != round(wanted):
                        self.fail(f"{text} for {wanted}")
                    seen.add(label)
        for label in LABELS:
            self.assertIn(label, seen, "no sheet has this row: the test looks at nothing")

    def test_lengths_carry_the_unit_of_the_job_and_circles_their_sign(self):
        for (name, gear), rows in self.rows.items():
            unit = name[-2:]
            for label, text in rows:
                if label not in LABELS or not re.search(r"(mm|in)$", text):
                    continue
                with self.subTest(job=name, gear=gear, label=label):
                    self.assertTrue(text.endswith("mm") if "module" in label else text.endswith(unit), text)
                    if "circle" in label and "arc" not in label:
                        self.assertIn("⌀", text)

    def test_span_and_pins_by_hand_from_the_numbers_printed(self):
        spans = pins = 0
        for (name, gear), rows in self.rows.items():
            values = dict(rows)
            if "normal thickness at d s_n" not in values or "reference circle d" not in values:
                continue
            report, scale = self.reports[name]["gears"][gear], 25.4 if name.endswith("in") else 1.0
            z, m = report["teeth"], report["normal_module"]
            alpha, beta = math.radians(report["normal_pressure_angle_deg"]), math.radians(
                report.get("helix_angle_deg", 0)
            )
            alpha_t = math.atan(math.tan(alpha) / math.cos(beta))
            thickness = number(values["normal thickness at d s_n"])[0] * scale
            bare = thickness - number(values["allowance E_sn"])[0] * scale
            ring = report["kind"] == "internal"
            for at, (label, text) in enumerate(rows):
                over_teeth = re.fullmatch(r"span over (\d+) teeth W", label)
                if over_teeth and not text.startswith("none"):
                    k = int(over_teeth.group(1))
                    # W = (k − 1) p_bn + s_bn, from the thickness at the reference circle.
                    with self.subTest(job=name, gear=gear, label=label):
                        for s, printed in (
                            (thickness, text),
                            (bare, rows[at + 1][1] if "no thinning" in rows[at + 1][0] else text),
                        ):
                            span = m * math.cos(alpha) * ((k - 1) * math.pi + z * inv(alpha_t)) + s * math.cos(alpha)
                            self.assertAlmostEqual(number(printed)[0] * scale, span, delta=2.5e-4 * scale + 6e-4)
                            spans += 1
                over_pins = re.fullmatch(r"(over|between) (pins|balls) ⌀([\d.]+) (mm|in)", label)
                if over_pins and over_pins.group(2) == ("balls" if z % 2 and beta else "pins"):
                    d_p = float(over_pins.group(3)) * scale
                    r_b = m * z / math.cos(beta) * math.cos(alpha_t) / 2
                    sign = -1 if ring else 1
                    # The pin's centre lies on the involute that is the pin's radius beyond the flank.
                    beyond = d_p / (m * z * math.cos(alpha)) - math.pi / z
                    centre_angle = (
                        inv(alpha_t) - beyond - thickness / (m * z)
                        if ring
                        else inv(alpha_t) + beyond + thickness / (m * z)
                    )
                    centre = r_b / math.cos(arcinv(centre_angle))
                    across = 2 * centre * (math.cos(math.pi / 2 / z) if z % 2 else 1) + sign * d_p
                    with self.subTest(job=name, gear=gear, label=label):
                        self.assertAlmostEqual(
                            number(text)[0] * scale, across, delta=6e-3 if name.endswith("in") else 2e-3
                        )  # the pin's places
                        pins += 1
        self.assertGreaterEqual(spans, 12)
        self.assertGreaterEqual(pins, 6)

    def test_mates_and_their_distance_stand_on_both_sheets(self):
        for (name, gear), text in self.texts.items():
            report = self.reports[name]
            for pair, values in report["pairs"].items():
                if gear not in (values["driver"], values["driven"]):
                    continue
                mate = values["driven"] if gear == values["driver"] else values["driver"]
                with self.subTest(job=name, gear=gear, pair=pair):
                    self.assertIn("Mating gear " + mate, text)
                    at = text.index("Mating gear " + mate)
                    teeth = re.search(r"number of teeth\s+(\d+)", text[at:])
                    self.assertEqual(int(teeth.group(1)), report["gears"][mate]["teeth"])
                    distance = re.search(r"center distance a\s+([\d.]+)", text[at:])
                    if "center_distance" in values and distance:
                        self.assertAlmostEqual(float(distance.group(1)), values["center_distance"], delta=6e-5)

    def test_no_word_leaves_the_page_or_covers_another(self):
        for kind in KINDS:
            for units in ("mm", "in"):
                name = f"{kind}_{units}"
                for gear in self.reports[name]["gears"]:
                    with self.subTest(job=name, gear=gear):
                        check_words(self, os.path.join(self.dir, name, gear + "-sheet.pdf"), 40)


# Machines with parts that are no gears.
MACHINES = ("reducer", "planetary", "train", "clock_train")

# Plates with posts, seats of bearings and holes of their own.
PLATES = {
    "mm": """
[frame.base]
pairs = ["first_stage"]
thickness = 9
margin = 5
post_height = 6
post_diameter = 30
bore = {bearing = "608"}
holes = [{x = -30, y = 22, diameter = 4}, {x = 60, y = -31.5, diameter = 5.5}, {x = 70, y = 20, diameter = 4}]
[frame.cover]
pairs = ["first_stage"]
side = "above"
thickness = 3
bore.diameter = 6
""",
    "in": """
[frame.base]
pairs = ["first_stage"]
thickness = 0.375
margin = 0.25
post_height = 0.25
post_diameter = 1.2
holes = [{x = -1.2, y = 0.9, diameter = 0.16}, {x = 2.4, y = -1.25, diameter = 0.2}, {x = 2.8, y = 0.8, diameter = 0.16}]
""",
}


def triangles(path):
    with open(path, "rb") as file:
        data = file.read()
    count = struct.unpack_from("<I", data, 80)[0]
    return [
        [struct.unpack_from("<3f", data, 84 + 50 * i + 12 * k) for k in (1, 2, 3)] for i in range(count)
    ]


def crossed_upwards(mesh, x, y):
    """Heights at which a line along z meets triangles."""
    met = []
    for a, b, c in mesh:
        side = [(q[0] - p[0]) * (y - p[1]) - (q[1] - p[1]) * (x - p[0]) for p, q in ((a, b), (b, c), (c, a))]
        if all(s > 0 for s in side) or all(s < 0 for s in side):
            # A flat face nearly always; of others the height is not asked for.
            met.append((a[2] + b[2] + c[2]) / 3)
    return sorted(met)


class SheetsOfParts(unittest.TestCase):
    """Parts that are no gears: what is printed is held against the triangles of the same part."""

    @classmethod
    def setUpClass(cls):
        cls.tmp = tempfile.TemporaryDirectory()
        cls.dir = cls.tmp.name
        cls.sheets = []
        for kind in (*MACHINES, "spur"):
            for units in ("mm", "in"):
                name = f"{kind}_{units}"
                palio("start", kind, "--units", units, "--out", name + ".toml", cwd=cls.dir)
                if kind == "spur":
                    with open(os.path.join(cls.dir, name + ".toml"), "a", encoding="utf-8") as job:
                        job.write(PLATES[units])
                made = json.loads(palio("sheet", name + ".toml", "--json", "--out", name, cwd=cls.dir))["files"]
                gears = json.loads(palio("report", name + ".toml", "--json", cwd=cls.dir))["gears"]
                cls.sheets += [(name, f["part"], f["path"]) for f in made if f["part"] not in gears]

    @classmethod
    def tearDownClass(cls):
        cls.tmp.cleanup()

    def mesh(self, name, part):
        palio("make", name + ".toml", "--only", part, "--format", "stl", "--out", name + "_made", cwd=self.dir)
        return triangles(os.path.join(self.dir, name + "_made", part + ".stl"))

    def test_sizes_volume_and_holes_are_those_of_the_triangles(self):
        kinds, holes_met = set(), 0
        for name, part, path in self.sheets:
            rows, _ = table(os.path.join(self.dir, path))
            values, scale = dict(rows), 25.4 if name.endswith("in") else 1.0
            mesh = self.mesh(name, part)
            low = [min(p[i] for t in mesh for p in t) for i in range(3)]
            high = [max(p[i] for t in mesh for p in t) for i in range(3)]
            with self.subTest(job=name, part=part):
                over_all = re.findall(r"[\d.]+", values["size over all, x × y × z"])
                for i in range(3):
                    self.assertAlmostEqual(float(over_all[i]) * scale, high[i] - low[i], delta=0.012)
                volume = sum(
                    (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0]))
                    for a, b, c in mesh
                ) / 6
                self.assertAlmostEqual(number(values["volume"])[0], volume, delta=4e-3 * volume + 0.06)
                kinds.add(re.split("[,:]", values["what it is"])[0])
                at = None
                for label, feature in rows:
                    hole = re.match(r"(?:([a-z]) )?(?:(\d+) × )?⌀([\d.]+) through(?: (about 0|at|on) ?⌀?(.*))?$", label)
                    place = re.match(r"([a-z])(\d+)$", label)
                    places = []
                    if hole:
                        radius = float(hole.group(3)) * scale / 2
                        where, rest = hole.group(4), re.findall(r"-?[\d.]+", hole.group(5) or "")
                        if where == "about 0":
                            places = [(0.0, 0.0)]
                        elif where == "at":
                            places = [(float(rest[0]) * scale, float(rest[1]) * scale)]
                        elif where == "on":
                            n, r, a = int(hole.group(2)), float(rest[0]) * scale / 2, math.radians(float(rest[1]))
                            places = [
                                (r * math.cos(a + 2 * math.pi * k / n), r * math.sin(a + 2 * math.pi * k / n)) for k in range(n)
                            ]
                        at = radius if not places else None
                    elif place and at:
                        x, y = re.findall(r"-?[\d.]+", feature)
                        places, radius = [(float(x) * scale, float(y) * scale)], at
                    for x, y in places:
                        # Open in the middle and nearly as far as is said; closed a little beyond that.
                        self.assertEqual(crossed_upwards(mesh, x + 1e-4, y + 2e-4), [], label)
                        for way in (0.3, 1.7, 3.9):
                            inner, outer = radius - 0.03, radius + 0.03
                            self.assertEqual(crossed_upwards(mesh, x + inner * math.cos(way), y + inner * math.sin(way)), [], label)
                            self.assertNotEqual(crossed_upwards(mesh, x + outer * math.cos(way), y + outer * math.sin(way)), [], label)
                        holes_met += 1
        self.assertGreater(holes_met, 30)
        self.assertEqual(kinds, {"plate", "part of a reducer", "axle", "one piece"})

    def test_as_many_pieces_as_the_parts_list_counts(self):
        for kind in MACHINES:
            name = f"{kind}_mm"
            palio("make", name + ".toml", "--format", "parts", "--out", name + "_list", cwd=self.dir)
            listed = {}
            with open(os.path.join(self.dir, name + "_list", "assembly_parts.csv"), encoding="utf-8") as file:
                for row in csv.DictReader(file):
                    listed[row["name"]] = row["quantity"]
            for job, part, path in self.sheets:
                if job == name:
                    with self.subTest(job=job, part=part):
                        self.assertEqual(dict(table(os.path.join(self.dir, path))[0])["pieces"], listed[part])

    def test_no_word_leaves_the_page_or_covers_another(self):
        for name, part, path in self.sheets:
            with self.subTest(job=name, part=part):
                check_words(self, os.path.join(self.dir, path), 25)

    def test_an_axle_names_its_fit_with_limits_and_the_grooves_of_its_rings(self):
        asked = ["--set", 'shaft.last.fit="g6"', "--set", 'shaft.last.ring.side="both"']
        palio("sheet", "train_mm.toml", *asked, "--of", "last_axle", "--out", "fitted.pdf", cwd=self.dir)
        rows, text = table(os.path.join(self.dir, "fitted.pdf"))
        self.assertEqual(dict(rows)["⌀10 g6 from … to"], "⌀9.986 … ⌀9.995 mm")
        grooves = [label for label, what in rows if what == "groove of a ring"]
        self.assertEqual(len(grooves), 2)
        for label in grooves:
            start, end = map(float, re.search(r"⌀9.6 z ([\d.]+) … ([\d.]+)", label).groups())
            self.assertAlmostEqual(end - start, 1.1, delta=1e-9)
        self.assertEqual(sum("⌀10 g6 z" in label for label, _ in rows), 3)
        check_words(self, os.path.join(self.dir, "fitted.pdf"), 40)

    def test_one_pdf_holds_them_all_and_carries_the_job(self):
        told = json.loads(palio("sheet", "train_mm.toml", "--json", "--out", "all.pdf", cwd=self.dir))["files"]
        self.assertEqual(len(told), 1)
        pages = subprocess.run(["pdfinfo", "all.pdf"], cwd=self.dir, capture_output=True, text=True, check=True).stdout
        self.assertRegex(pages, rf"Pages:\s+{told[0]['parts']}\n")
        text = subprocess.run(["pdftotext", "all.pdf", "-"], cwd=self.dir, capture_output=True, text=True, check=True).stdout
        for part in ("drum_wheel", "vent_rack", "last_axle"):
            self.assertIn(part, text)
        palio("start", "--from", "all.pdf", "--out", "again.toml", cwd=self.dir)
        with open(os.path.join(self.dir, "again.toml"), encoding="utf-8") as again:
            with open(os.path.join(self.dir, "train_mm.toml"), encoding="utf-8") as first:
                self.assertEqual(again.read(), first.read())
        refused = subprocess.run([PALIO, "sheet", "train_mm.toml", "--out", "all.png"], cwd=self.dir, capture_output=True, text=True)
        self.assertEqual(refused.returncode, 2)
        self.assertIn("a .pdf takes them all", refused.stderr)


if __name__ == "__main__":
    unittest.main(verbosity=2)
