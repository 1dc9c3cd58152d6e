"""Reads what palio wrote with libraries that did not write it: ezdxf, admesh, an XML parser, poppler."""
import csv
import json
import math
import os
import re
import subprocess
import sys
import tempfile
import unittest
import xml.etree.ElementTree as ET

import ezdxf
from ezdxf import path as dxf_path

PALIO = sys.argv.pop(1)
FORMATS = "stl,dxf,svg,csv"


def palio(*args, cwd):
    return subprocess.run([PALIO, *args], cwd=cwd, check=True, capture_output=True, text=True).stdout


class Files(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.tmp = tempfile.TemporaryDirectory()
        cls.dir = cls.tmp.name
        palio("start", "spur", "--out", "vent.toml", cwd=cls.dir)
        palio("make", "vent.toml", "--format", FORMATS, "--out", "mm", cwd=cls.dir)
        palio("start", "spur", "--units", "in", "--out", "inch.toml", cwd=cls.dir)
        palio("make", "inch.toml", "--format", FORMATS, "--out", "in", cwd=cls.dir)
        palio("draw", "vent.toml", "--format", "pdf", "--out", "pdf", cwd=cls.dir)
        cls.report = json.loads(palio("report", "vent.toml", "--json", cwd=cls.dir))

    @classmethod
    def tearDownClass(cls):
        cls.tmp.cleanup()

    def file(self, name):
        return os.path.join(self.dir, name)

    def flank_error(self, gear, x, y):
        """Distance of a point from the exact involutes of a gear, by the polar equation; None beside the flanks."""
        r, rb = math.hypot(x, y), gear["base_diameter"] / 2
        if not gear["root_form_diameter"] / 2 + 1e-6 < r < gear["tip_diameter"] / 2 - 1e-6:
            return None
        alpha, alpha_t = math.acos(rb / r), math.radians(gear["transverse_pressure_angle_deg"])
        half = gear["transverse_tooth_thickness"] / gear["reference_diameter"] + math.tan(alpha_t) - alpha_t - math.tan(alpha) + alpha
        angle = math.remainder(math.atan2(y, x), math.radians(gear["angular_pitch_deg"]))
        return abs(abs(angle) - half) * rb

    def test_dxf_audits_clean_and_is_one_closed_loop_each(self):
        for folder, unit, scale in (("mm", 4, 1.0), ("in", 1, 25.4)):
            doc = ezdxf.readfile(self.file(folder + "/motor_pinion.dxf"))
            audit = doc.audit()
            self.assertEqual((len(audit.errors), len(audit.fixes)), (0, 0), [str(e) for e in audit.errors + audit.fixes])
            self.assertEqual(doc.dxfversion, "AC1021")
            self.assertEqual(doc.header["$INSUNITS"], unit)
            loops = list(doc.modelspace())
            self.assertEqual([e.dxftype() for e in loops], ["LWPOLYLINE"] * 2)
            self.assertTrue(all(e.closed for e in loops))
            with open(self.file(folder + "/motor_pinion.dxf"), encoding="utf8") as f:
                comments = f.read()
            self.assertIn("999\ntitle: Roof vent, first stage", comments)
            self.assertRegex(comments, r"999\npalio \d.*within [0-9.e-]+ mm of the exact curves")
            bore = loops[1]
            for x, y, *_ in bore.get_points():
                self.assertAlmostEqual(math.hypot(x, y) * scale, 2.25 if folder == "mm" else 0.1875 / 2 * 25.4, delta=1e-12)

    def test_dxf_arcs_follow_the_exact_involute(self):
        gear = self.report["gears"]["motor_pinion"]
        worst, seen = 0.0, 0
        outline = next(iter(ezdxf.readfile(self.file("mm/motor_pinion.dxf")).modelspace()))
        for p in dxf_path.make_path(outline).flattening(1e-7):
            error = self.flank_error(gear, p.x, p.y)
            if error is not None:
                worst, seen = max(worst, error), seen + 1
        self.assertGreater(seen, 500)
        self.assertLessEqual(worst, 0.005)

    def test_csv_points_lie_on_the_exact_flanks(self):
        gear = self.report["gears"]["drum_wheel"]
        with open(self.file("mm/drum_wheel.csv"), newline="") as f:
            rows = list(csv.DictReader(f))
        self.assertEqual(list(rows[0]), ["loop", "segment", "role", "x", "y"])
        self.assertEqual({r["role"] for r in rows}, {"flank", "root", "tip", "bore"})
        worst, seen = 0.0, 0
        for r in rows:
            x, y = float(r["x"]), float(r["y"])
            if r["role"] == "flank":
                error = self.flank_error(gear, x, y)
                if error is not None:
                    worst, seen = max(worst, error), seen + 1
            elif r["role"] == "bore":
                self.assertAlmostEqual(math.hypot(x, y), 4, delta=1e-12)
            elif r["role"] == "tip":
                self.assertAlmostEqual(2 * math.hypot(x, y), gear["tip_diameter"], delta=1e-10)
        self.assertGreater(seen, 200)
        self.assertLess(worst, 1e-11)
        # A tooth is centred on +x: its outline mirrors itself there.
        first = [r for r in rows if r["loop"] == "0"]
        self.assertAlmostEqual(sum(float(r["y"]) for r in first), 0, delta=1e-8)

    def test_stl_is_manifold_with_the_right_volume(self):
        for folder, name, bodies in (("mm", "motor_pinion", 1), ("mm", "drum_wheel", 1), ("mm", "assembly", 2), ("in", "drum_wheel", 1)):
            out = subprocess.run(["admesh", "-c", "-n", "-d", self.file(f"{folder}/{name}.stl")], capture_output=True, text=True, check=True).stdout
            with self.subTest(folder=folder, name=name):
                self.assertRegex(out, r"All facets connected\.|Number of parts\s*:\s*%d" % bodies)
                for what in ("Total disconnected facets", "Degenerate facets", "Edges fixed", "Facets removed", "Facets added", "Facets reversed", "Backwards edges"):
                    found = re.search(what + r"\s*:\s*(\d+)", out)
                    if found:
                        self.assertEqual(found.group(1), "0", what)
                if bodies == 1 and folder == "mm":
                    volume = float(re.search(r"Volume\s*:\s*([0-9.]+)", out).group(1))
                    self.assertAlmostEqual(volume / self.report["gears"][name]["volume"], 1, delta=1e-3)
        with open(self.file("mm/motor_pinion.stl"), "rb") as f:
            header = f.read(80)
        for part in (b"palio", b"motor_pinion", b"within", b"mm", b"Roof vent"):
            self.assertIn(part, header)

    def test_every_sort_of_teeth_is_manifold_and_its_outline_closed(self):
        for kind, parts in (("helical", 2), ("double_helical", 2), ("internal", 2), ("rack", 2), ("crossed", 2)):
            job = os.path.join(self.tmp.name, kind + ".toml")
            subprocess.run([PALIO, "start", kind, "--out", job], check=True)
            made = json.loads(subprocess.run([PALIO, "make", job, "--format", "stl,dxf", "--chord-error", "0.02", "--json", "--out", self.file(kind)], check=True, capture_output=True, text=True).stdout)["files"]
            report = json.loads(subprocess.run([PALIO, "report", job, "--json"], check=True, capture_output=True, text=True).stdout)["gears"]
            self.assertEqual(len([f for f in made if f["part"] != "assembly" and f["format"] == "stl"]), parts)
            for f in made:
                with self.subTest(kind=kind, part=f["part"], format=f["format"]):
                    self.assertLessEqual(f["deviation"], 0.0201)
                    if f["format"] == "dxf":
                        doc = ezdxf.readfile(f["path"])
                        audit = doc.audit()
                        self.assertEqual((len(audit.errors), len(audit.fixes)), (0, 0))
                        self.assertTrue(all(e.dxftype() == "LWPOLYLINE" and e.closed for e in doc.modelspace()))
                        continue
                    out = subprocess.run(["admesh", "-c", "-n", "-d", f["path"]], capture_output=True, text=True, check=True).stdout
                    for what in ("Total disconnected facets", "Degenerate facets", "Edges fixed", "Facets removed", "Facets added", "Facets reversed", "Backwards edges"):
                        found = re.search(what + r"\s*:\s*(\d+)", out)
                        if found:
                            self.assertEqual(found.group(1), "0", what)
                    if f["part"] in report:
                        volume = float(re.search(r"Volume\s*:\s*([0-9.]+)", out).group(1))
                        self.assertAlmostEqual(volume / report[f["part"]]["volume"], 1, delta=6e-3)

    def test_svg_is_one_to_one_and_carries_its_stamp(self):
        for folder, unit, tip in (("mm", "mm", self.report["gears"]["motor_pinion"]["tip_diameter"]), ("in", "in", None)):
            root = ET.parse(self.file(folder + "/motor_pinion.svg")).getroot()
            ns = {"s": "http://www.w3.org/2000/svg"}
            self.assertTrue(root.get("width").endswith(unit))
            box = [float(v) for v in root.get("viewBox").split()]
            self.assertEqual(float(root.get("width")[:-2]), box[2])
            self.assertIn("Roof vent", root.find("s:title", ns).text)
            self.assertIn("of the exact curves", root.find("s:metadata", ns).text)
            paths = root.findall(".//s:path", ns)
            self.assertEqual(len(paths), 2)
            points = [(float(a), float(b)) for a, b in re.findall(r"(?:M|L|A\S+ \S+ 0 \d \d )(-?[\d.e-]+) (-?[\d.e-]+)", paths[0].get("d"))]
            if tip:
                self.assertAlmostEqual(2 * max(math.hypot(x, y) for x, y in points), tip, delta=1e-9)

    def test_pdf_pages_have_their_words(self):
        for name, word in (("motor_pinion-gear", "reference"), ("first_stage-contact", "line of action"), ("first_stage-pair", "drum_wheel, 43 teeth")):
            text = subprocess.run(["pdftotext", self.file(f"pdf/{name}.pdf"), "-"], capture_output=True, text=True, check=True).stdout
            self.assertIn(word, text)
            self.assertIn("⌀", text)


if __name__ == "__main__":
    unittest.main(verbosity=2)
