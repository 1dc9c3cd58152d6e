"""What palio explains: every word of a report, formulas whose numbers come out, a schema that takes jobs and refuses broken ones."""
import json
import math
import os
import re
import struct
import subprocess
import sys
import tempfile
import tomllib
import unittest

import jsonschema

PALIO = sys.argv.pop(1)
STARTERS = "spur helical double_helical internal rack crossed bevel cycloidal clock lantern reducer coupon planetary train greenhouse".split()


def palio(*args, text=None, fails=False):
    run = subprocess.run([PALIO, *args], input=text, capture_output=True, text=True)
    if not fails and run.returncode != 0:
        raise AssertionError(f"palio {' '.join(args)}: {run.stderr}")
    return run.stderr if fails else run.stdout


def starter(kind, units="mm"):
    return palio("start", kind, "--units", units)


class Arithmetic:
    """The formulas as they are printed: numbers with units, implied multiplication, functions before their argument."""

    TOKENS = re.compile(r"\d+(?:\.\d+)?(?:e[+-]?\d+)?|sin²|sin|cos|tan|inv|π|½|[()+\-−/·]|[^\s()+\-−/·]+")

    def __init__(self, text):
        text = re.sub(r"(?<=\d) (mm|in)\b", "", text).replace("/in", "")
        self.degrees = "°"
        self.tokens = self.TOKENS.findall(re.sub(r"(\d)°", r"\1 °", text))
        self.at = 0

    def peek(self):
        return self.tokens[self.at] if self.at < len(self.tokens) else None

    def take(self):
        self.at += 1
        return self.tokens[self.at - 1]

    def value(self):
        result = self.sum()
        if self.peek() is not None:
            raise ValueError(self.peek())
        return result

    def sum(self):
        result = self.product()
        while self.peek() in ("+", "-", "−"):
            result = result + self.product() if self.take() == "+" else result - self.product()
        return result

    def product(self):
        result = self.factor()
        while self.peek() is not None and self.peek() not in ("+", "-", "−", ")"):
            if self.peek() == "/":
                self.take()
                result /= self.factor()
            else:
                if self.peek() == "·":
                    self.take()
                result *= self.factor()
        return result

    def factor(self):
        token = self.take()
        if token in ("-", "−"):
            return -self.factor()
        if token == "(":
            result = self.sum()
            if self.take() != ")":
                raise ValueError("(")
            return result
        if token in ("sin", "cos", "tan", "inv", "sin²"):
            x = self.factor()
            functions = {"sin": math.sin, "cos": math.cos, "tan": math.tan}
            return math.sin(x) ** 2 if token == "sin²" else math.tan(x) - x if token == "inv" else functions[token](x)
        if token == "π":
            return math.pi
        if token == "½":
            return 0.5
        number = float(token)  # ValueError: a symbol that no number stands for
        if self.peek() == "°":
            self.take()
            return math.radians(number)
        return number


class Explain(unittest.TestCase):
    def words_of(self, report):
        """Every key of a report but the names of things, those that tables have by name too."""
        words = set(report)
        names = {name for things in report.values() if isinstance(things, dict) for name in things}
        for section in ("trains", "planetaries"):
            names |= {member for train in report[section].values() for member in train["members"]}
        for section, things in report.items():
            if section == "findings":
                for finding in things:
                    words |= set(finding) | {finding["id"]}
            elif section == "process":
                words |= set(things)
            elif isinstance(things, dict):
                for thing in things.values():
                    stack = [thing]
                    while stack:
                        at = stack.pop()
                        if isinstance(at, dict):
                            words |= set(at)
                            stack += at.values()
                        elif isinstance(at, list):
                            stack += at
        return words - names

    def test_no_word_of_any_report_is_unknown(self):
        words = set()
        for kind in STARTERS:
            words |= self.words_of(json.loads(palio("report", "-", "--json", text=starter(kind))))
        self.assertGreater(len(words), 180)
        for word in sorted(words - {"diameter", "allowance"}):
            with self.subTest(word=word):
                self.assertIn(word, palio("explain", word))

    def test_every_word_listed_is_explained_and_what_is_near_is_named(self):
        listed = [w for line in palio("explain").splitlines() if line.startswith("  ") for w in line.split()]
        self.assertGreater(len(listed), 300)
        for word in sorted(set(listed)):
            self.assertIn(word.split(".")[-1], palio("explain", word))
        self.assertIn("tip_diameter", palio("explain", "tip_diamter", fails=True))

    def test_a_word_is_drawn_on_the_teeth_with_its_number(self):
        with tempfile.TemporaryDirectory() as folder:
            job = folder + "/vent.toml"
            palio("start", "spur", "--out", job)
            told = palio("explain", "span", job, "--out", folder + "/span.svg")
            self.assertIn("what a caliper across so many teeth reads", told)
            with open(folder + "/span.svg", encoding="utf-8") as f:
                self.assertIn("</svg>", f.read())
            palio("explain", "pair.first_stage.tip_clearance", job, "--out", folder + "/gap.png", "--size", "640x400")
            with open(folder + "/gap.png", "rb") as f:
                head = f.read(24)
            self.assertEqual((head[:4], struct.unpack(">II", head[16:24])), (b"\x89PNG", (640, 400)))
            for args, why in ((("span", "--out", folder + "/x.png"), "name the job too"),
                              (("mass_kg", job, "--out", folder + "/x.png"), "no one place on teeth"),
                              (("spann", job, "--out", folder + "/x.png"), "near it: span"),
                              (("keys", "--out", folder + "/x.png"), "name the job too"),
                              (("span", job, "--out", folder + "/x.stl"), "x.stl")):
                self.assertIn(why, palio("explain", *args, fails=True))
            self.assertFalse(os.path.exists(folder + "/x.png"))

    def test_formulas_come_to_the_values_beside_them(self):
        come_out, readings = 0, set()
        for kind in ("spur", "helical", "internal", "rack", "bevel", "cycloidal", "reducer"):
            text = starter(kind)
            report = json.loads(palio("report", "-", "--json", text=text))
            keys = {key for section in ("gears", "pairs", "reducers") for thing in report[section].values() for key in thing}
            for key in sorted(keys):
                for line in palio("explain", key, "-", text=text).splitlines():
                    match = re.match(r"    ((?:gear|pair|reducer)\.\w+): (.*)  →  ⌀? ?(-?[\d.e-]+)(°?)", line)
                    if not match:
                        continue
                    left = match.group(2).split(" = ")[0].split()
                    for part in match.group(2).split(" = ")[1:]:
                        try:
                            value = Arithmetic(part).value()
                        except (ValueError, IndexError):
                            continue  # not all of it is a reading
                        told = float(match.group(3))
                        if match.group(4):
                            told = math.radians(told)
                        if len(left) == 2:  # "tan α_n = …"
                            told = {"sin": math.sin, "cos": math.cos, "tan": math.tan}[left[0]](told)
                        with self.subTest(kind=kind, key=key, line=line):
                            self.assertAlmostEqual(value, told, delta=2e-4 * max(1.0, abs(told)))
                        come_out += 1
                        readings.add(key)
        self.assertGreater(come_out, 100)
        self.assertGreater(len(readings), 20)


class Only(unittest.TestCase):
    def test_only_prints_what_the_report_has(self):
        for kind in ("spur", "internal", "bevel", "clock"):
            text = starter(kind)
            report = json.loads(palio("report", "-", "--json", text=text))
            for section, head in (("gears", "gear"), ("pairs", "pair")):
                for name, thing in report[section].items():
                    paths = [f"{head}.{name}.{key}" for key in thing]
                    args = [a for path in paths for a in ("--only", path)]
                    told = json.loads(palio("report", "-", "--json", *args, text=text))
                    self.assertEqual(told, {path: thing[path.split(".")[2]] for path in paths})

    def test_the_remedies_of_a_verdict_work(self):
        """Every number that a verdict gives, put into the job, takes the finding away."""
        cases = [
            ("spur", ["gear.motor_pinion.addendum=1.4"]),
            ("spur", ["pair.first_stage.mounted_center_distance=46.6"]),
            ("spur", ["gear.motor_pinion.bore.diameter=20"]),
            ("spur", ["pair.first_stage.backlash=0.14", "pair.first_stage.mounted_center_distance=45.2"]),
            ("helical", ["shared.addendum=1.35"]),
            ("rack", ["shared.addendum=1.35"]),
            ("internal", ["shared.addendum=1.3"]),
            ("reducer", ["reducer.motor_reducer.disc_offset=0"]),
        ]
        tried = 0
        for kind, changes in cases:
            text = starter(kind)
            sets = [a for c in changes for a in ("--set", c)]
            verdict = json.loads(palio("report", "-", "--brief", "--json", *sets, text=text))
            self.assertGreater(verdict["errors"] + verdict["warnings"], 0, (kind, changes))
            self.assertLessEqual(len(palio("report", "-", "--brief", *sets, text=text).splitlines()), 10)
            for doubt in verdict["doubts"]:
                if not doubt["remedy"]:
                    continue
                tried += 1
                value = f"{doubt['remedy']['path']}={doubt['remedy']['value']}"
                after = json.loads(palio("report", "-", "--json", *sets, "--set", value, text=text))["findings"]
                with self.subTest(kind=kind, changes=changes, remedy=value):
                    self.assertNotIn((doubt["id"], doubt["subject"]), [(f["id"], f["subject"]) for f in after])
        self.assertGreater(tried, 9)


class Schema(unittest.TestCase):
    def setUp(self):
        schema = json.loads(palio("explain", "--schema"))
        jsonschema.Draft202012Validator.check_schema(schema)
        self.validator = jsonschema.Draft202012Validator(schema)

    def test_every_starter_in_both_units_fits(self):
        for kind in STARTERS:
            for units in ("mm", "in"):
                errors = [e.message for e in self.validator.iter_errors(tomllib.loads(starter(kind, units)))]
                self.assertEqual(errors, [], (kind, units))

    def test_what_palio_takes_fits_and_what_a_table_can_tell_is_refused(self):
        gear = {"kind": "spur", "teeth": 20, "module": 1}
        good = [
            {**gear, "bore": 5},
            {**gear, "bore": {"diameter": "5 mm + 0.1 mm"}},
            {**gear, "root": {"fillet_radius": 0.3}},
            {**gear, "keyway": "standard", "bore": {"diameter": 12}},
            {**gear, "hubs": [{"diameter": 12, "length": 3}]},
            {"kind": "cycloidal", "form": "clock", "role": "pinion", "leaves": 8, "mate_leaves": 60, "module": 1},
        ]
        bad = [
            {**gear, "kind": "spurr"},
            {**gear, "teeth": 2.5},
            {**gear, "teeth": -3},
            {**gear, "modul": 1},
            {**gear, "pressure_angle": 90},
            {**gear, "face_width": 0},
            {**gear, "bore": {"radius": 3}},
            {**gear, "hubs": [{"diameter": 12, "size": 3}]},
            {**gear, "keyway": "big"},
            {**gear, "apex": "clockwise"},
            {**gear, "kind": "rack", "bore": 5},
            {**gear, "kind": "bevel", "spokes": {"count": 5, "width": 4}},
        ]
        for job in good:
            self.assertTrue(self.validator.is_valid({"gear": {"a": job}}), job)
            palio("report", "-", text=json.dumps({"gear": {"a": job}}))
        for job in bad:
            self.assertFalse(self.validator.is_valid({"gear": {"a": job}}), job)
            self.assertIn("gear.a", palio("report", "-", text=json.dumps({"gear": {"a": job}}), fails=True))
        for job in ({"unit": "mm", "gear": {"a": gear}}, {"units": "m", "gear": {"a": gear}}, {"shared": {"teeth": 20}}):
            self.assertFalse(self.validator.is_valid(job), job)


if __name__ == "__main__":
    unittest.main()
