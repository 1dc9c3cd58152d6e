"""The README is run as it stands: its commands in their order, its jobs, its links, its exit statuses. And the motion in GLB files is
the mechanism's: every gear turns by the ratio of its pairs, racks slide as far as their pinions roll, all ends where it began."""
import importlib.machinery
import importlib.util
import json
import math
import os
import re
import signal
import struct
import subprocess
import sys
import tempfile
import unittest

PALIO = sys.argv.pop(1)
ROOT = os.path.dirname(os.path.dirname(os.path.dirname(os.path.abspath(__file__))))


def run(*args, cwd):
    return subprocess.run([PALIO, *args], cwd=cwd, capture_output=True, text=True)


def desk_ended(*args, cwd):
    """The exit status of a desk that is ended as soon as it has told its address."""
    desk = subprocess.Popen([PALIO, *args, "--no-browser"], cwd=cwd, stdout=subprocess.PIPE, text=True)
    desk.stdout.readline()
    desk.send_signal(signal.SIGINT)
    desk.communicate(timeout=30)
    return desk.returncode


class Documents(unittest.TestCase):
    """README and the chapters of the tutorial, each alone."""

    @classmethod
    def setUpClass(cls):
        chapters = os.path.join(ROOT, "docs", "tutorial")
        cls.paths = [os.path.join(ROOT, "README.md"), *(os.path.join(chapters, n) for n in sorted(os.listdir(chapters)))]
        cls.texts = []
        for path in cls.paths:
            with open(path, encoding="utf8") as f:
                cls.texts.append(f.read())
        cls.blocks = [re.findall(r"```(\w+)\n(.*?)```", text, re.S) for text in cls.texts]

    def commands(self, blocks):
        for kind, block in blocks:
            for line in block.splitlines() if kind == "sh" else ():
                line = line.split("#")[0].strip()
                if line.startswith("printf "):
                    yield ["sh", "-c", line]
                elif line.startswith("palio "):
                    yield from (command.split() for command in line.split("&&"))

    def test_every_command_works_in_its_order(self):
        made, verbs = set(), set()
        for path, blocks in zip(self.paths, self.blocks):
            with tempfile.TemporaryDirectory() as folder:
                ran = 0
                for words in self.commands(blocks):
                    if words[0] == "sh":
                        subprocess.run(words, cwd=folder, check=True)
                        continue
                    self.assertEqual(words[0], "palio")
                    command = " ".join(words)
                    verbs.add(words[1])
                    ran += 1
                    with self.subTest(document=os.path.basename(path), command=command):
                        if words[1] == "desk":  # it stays until it is ended
                            self.assertEqual(0, desk_ended(*words[1:], cwd=folder))
                            continue
                        done = run(*words[1:], cwd=folder)
                        # The one that asks what happens when it is mounted too close is told so.
                        # So is the one whose measurements hold a mistake.
                        against = "mounted_center_distance=45.3" in command or "recover worn.toml" in command
                        self.assertEqual(done.returncode, 3 if against else 0, done.stderr)
                self.assertGreater(ran, 4, path)
                made.update(os.listdir(folder))
        for name in ("vent.toml", "rolled", "pictures", "shift.html", "parts", "sheets", "assembly.png", "counter.mp4",
                     "tool.html"):
            self.assertIn(name, made)
        self.assertEqual(verbs, set(re.findall(r"^  ([a-z]+) {2,}", run("--help", cwd="/").stdout, re.M)) - {"demo"})

    def test_its_jobs_are_jobs(self):
        jobs = [block for blocks in self.blocks for kind, block in blocks if kind == "toml"]
        self.assertEqual(len(jobs), 5)
        jobs = [jobs[k] for k in (0, 3, 1, 2, 4)]
        with tempfile.TemporaryDirectory() as folder:
            with open(os.path.join(folder, "first.toml"), "w", encoding="utf8") as f:
                f.write(jobs[0])
            done = run("report", "first.toml", "--json", cwd=folder)
            self.assertEqual(done.returncode, 0, done.stderr)
            report = json.loads(done.stdout)
            self.assertEqual([report["gears"][g]["teeth"] for g in ("motor_pinion", "drum_wheel")], [17, 43])
            self.assertAlmostEqual(report["gears"]["motor_pinion"]["bore_diameter"], 3 / 16 * 25.4, places=9)
            self.assertAlmostEqual(report["pairs"]["first_stage"]["circumferential_backlash"], 0.14, places=9)
            # The fourth is found, and what was found is a job.
            with open(os.path.join(folder, "open.toml"), "w", encoding="utf8") as f:
                f.write(jobs[3])
            done = run("find", "open.toml", "--out", "found.toml", "--json", cwd=folder)
            self.assertEqual(done.returncode, 0, done.stderr)
            best = json.loads(done.stdout)["solutions"][0]
            self.assertTrue(all(w["holds"] for w in best["wants"].values()))
            done = run("report", "found.toml", "--only", "pair.first_stage.center_distance", cwd=folder)
            self.assertAlmostEqual(float(done.stdout), 45.5, places=10)
            with open(os.path.join(folder, "found.toml"), encoding="utf8") as f:
                self.assertIn('# or "find", "find 1, 1.25, 1.5"', f.read())
            # The fifth makes a machine of the greenhouse's gears and pairs.
            house = run("start", "greenhouse", cwd=folder).stdout
            kept, of_machine = [], ("[planetary.", "[shaft.", "[train.", "[reducer.", "[frame.")
            for table in house.split("\n\n"):
                if not table.startswith(of_machine):
                    kept.append(table)
            with open(os.path.join(folder, "machine.toml"), "w", encoding="utf8") as f:
                f.write("\n\n".join(kept) + "\n\n" + jobs[4])
            done = run("report", "machine.toml", "--json", cwd=folder)
            self.assertEqual(done.returncode, 0, done.stderr)
            report = json.loads(done.stdout)
            self.assertEqual(report["planetaries"]["step_down"]["ratio"], "78/19")
            self.assertEqual(report["shafts"]["middle"]["members"], ["drum_wheel", "quiet_pinion"])
            self.assertIn("opener", report["trains"])
            # The third is what a drawing says of the first.
            with open(os.path.join(folder, "drawn.toml"), "w", encoding="utf8") as f:
                f.write(jobs[0] + jobs[2])
            done = run("report", "drawn.toml", "--json", cwd=folder)
            self.assertEqual(done.returncode, 0, done.stderr)
            said = [f["subject"] for f in json.loads(done.stdout)["findings"] if f["id"] == "agrees-with-drawing"]
            self.assertEqual(said, ["gear.motor_pinion.span.length", "pair.first_stage.center_distance"])
            # The second goes on with the first: its tables are added to it.
            more = jobs[1].replace("[gear.drum_wheel]", "").split("[process]")
            wheel = "\n".join(
                line for line in more[0].splitlines() if line.strip() and not line.strip().startswith("#")
            )
            whole = jobs[0].replace("teeth = 43\n", "teeth = 43\n" + wheel + "\n") + "\n[process]" + more[1]
            with open(os.path.join(folder, "second.toml"), "w", encoding="utf8") as f:
                f.write(whole)
            done = run("report", "second.toml", "--json", cwd=folder)
            self.assertEqual(done.returncode, 0, done.stderr + whole)

    def test_jobs_of_parts_have_nothing_against_them(self):
        folder = os.path.join(ROOT, "examples", "parts")
        jobs = [name for name in os.listdir(folder) if name.endswith(".toml")]
        self.assertGreater(len(jobs), 5)
        for name in jobs:
            done = run("report", name, "--json", cwd=folder)
            self.assertEqual(done.returncode, 0, name + done.stderr)
            against = [f for f in json.loads(done.stdout)["findings"] if f["severity"] == "error"]
            self.assertEqual(against, [], name)

    def test_what_it_links_to_exists(self):
        links = re.findall(r"\]\(([^)#]+)\)", self.texts[0])
        self.assertGreater(len(links), 25)
        for link in links:
            if "://" not in link:
                self.assertTrue(os.path.exists(os.path.join(ROOT, link)), link)
        for name in os.listdir(os.path.join(ROOT, "docs", "screenshots")):
            self.assertIn("docs/screenshots/" + name, self.texts[0], "a picture that nothing shows")

    def test_pages_of_the_docs_link_to_what_is_there_and_name_no_file_that_is_not(self):
        checked = 0
        for folder, _, names in os.walk(os.path.join(ROOT, "docs")):
            for name in names:
                if not name.endswith(".md"):
                    continue
                with open(os.path.join(folder, name), encoding="utf8") as f:
                    text = f.read()
                for link in re.findall(r"\]\(([^)#]+)\)", text):
                    if "://" not in link:
                        self.assertTrue(os.path.exists(os.path.join(folder, link)), f"{name}: {link}")
                        checked += 1
                for path in re.findall(r"`((?:src|include|cli|tests|scripts)/[\w/.]+\.\w+)`", text):
                    self.assertTrue(os.path.exists(os.path.join(ROOT, path)), f"{name}: {path}")
                    checked += 1
        self.assertGreaterEqual(checked, 10)


class Figures(unittest.TestCase):
    """Of the theory: drawn by what stands behind them."""

    def test_each_is_drawn_by_its_commands(self):
        pages = os.path.join(ROOT, "docs", "theory")
        drawn = set()
        for name in sorted(os.listdir(pages)):
            if not name.endswith(".md"):
                continue
            with open(os.path.join(pages, name), encoding="utf8") as f:
                text = f.read()
            for figure, commands in re.findall(r"!\[[^\]]+\]\((figures/\w+\.png)\)\n<!-- figure\n(.*?)-->", text, re.S):
                drawn.add(os.path.basename(figure))
                with tempfile.TemporaryDirectory() as folder, self.subTest(figure=figure):
                    os.mkdir(os.path.join(folder, "figures"))
                    os.mkdir(os.path.join(folder, "bin"))
                    os.symlink(os.path.realpath(PALIO), os.path.join(folder, "bin", "palio"))
                    path = os.path.join(folder, "bin") + ":" + os.environ["PATH"]
                    done = subprocess.run(["bash", "-euo", "pipefail", "-c", commands], cwd=folder, env={**os.environ, "PATH": path},
                                          capture_output=True, text=True)
                    self.assertEqual(done.returncode, 0, done.stderr)
                    self.assertGreater(os.path.getsize(os.path.join(folder, figure)), 10000)
        self.assertGreater(len(drawn), 7)
        self.assertEqual(drawn, set(os.listdir(os.path.join(pages, "figures"))))


LITERAL = re.compile(r'"((?:[^"\\]|\\.)*)"')


def refusals(names):
    """(file, what it is called with) of every call of one of these in the sources: the literals of its arguments, without what is
    put in between."""
    for top in ("src", "cli"):
        for folder, _, files in os.walk(os.path.join(ROOT, top)):
            for name in sorted(files):
                if not name.endswith(".cpp"):
                    continue
                with open(os.path.join(folder, name), encoding="utf8") as f:
                    text = f.read()
                for call in re.finditer(rf"\b(?:{names})\s*\(", text):
                    at, depth, pieces = call.end() - 1, 0, [""]
                    while True:
                        literal = LITERAL.match(text, at)
                        if literal:
                            pieces[-1] += literal.group(1).replace('\\"', '"')
                            at = literal.end()
                            continue
                        if not text[at].isspace() and pieces[-1]:
                            pieces.append("")
                        depth += (text[at] == "(") - (text[at] == ")")
                        at += 1
                        if depth == 0:
                            break
                    yield os.path.relpath(os.path.join(folder, name), ROOT), [piece for piece in pieces if piece]


def stretches(texts):
    """The stretches of some literals in which nothing is put in, the longest first."""
    whole = [part.strip(" ;,:") for text in texts for part in re.split(r"\{[^{}]*\}|\{\{|\}\}|\\n", text)]
    return sorted((" ".join(part.split()) for part in whole), key=len, reverse=True)


class Errors(unittest.TestCase):
    """docs/errors.md: every sort of mistake and every complaint of a verb stands there, as the tool says it."""

    # What only a machine that is broken or out of its kind says.
    UNSHOWN = {"no pipe to", "no process to read it in", "cannot be loaded", "it belongs to another version of palio", "cannot write",
               "films are made by the program ffmpeg", "ffmpeg could not make it", "the B-rep kernel", "is longer than the", "places that are no numbers"}

    @classmethod
    def setUpClass(cls):
        spec = importlib.machinery.SourceFileLoader("errors", os.path.join(ROOT, "scripts", "errors"))
        cls.errors = importlib.util.module_from_spec(importlib.util.spec_from_loader("errors", spec))
        sys.dont_write_bytecode = True
        spec.exec_module(cls.errors)
        cls.runs = cls.errors.runs(PALIO)
        cls.said = [" ".join(message.split()) for *_, message in cls.runs]

    def test_the_page_is_what_the_examples_say(self):
        with open(os.path.join(ROOT, "docs", "errors.md"), encoding="utf8") as f:
            written = f.read()
        # What a parser of another version says of the same mistake may differ.
        plain = [re.sub(r"(this is not (?:TOML|JSON): |cannot be worked out: ).*", r"\1", text).split("\n")
                 for text in (written, self.errors.page(self.runs))]
        self.assertEqual(*plain, "run scripts/errors")

    def test_every_example_is_refused_in_words(self):
        for _, _, example, status, message in self.runs:
            with self.subTest(example=example):
                self.assertIn(status, (1, 2))
                self.assertGreater(len(message), 20)
                self.assertNotRegex(message, r"(?m)^: |\bin range\b|not in \{|std::|terminate|\{\}")

    def test_every_sort_of_mistake_has_one(self):
        told = {}
        for _, pieces in refusals("note|fail|refuse|refuse_where|JobError"):
            if len(pieces) > 1 and re.fullmatch(r"[a-z]+(-[a-z]+)+|syntax|contradiction", pieces[0]):
                told.setdefault(pieces[0], []).extend(t for t in stretches(pieces[1:]) if len(t) > 9)
        self.assertGreater(len(told), 35)
        shown = {}
        for _, sort, _, _, message in self.runs:
            if "id" in sort:
                shown.setdefault(sort["id"], []).append(" ".join(message.split()))
        self.assertEqual(set(told) - {"no-convergence", "no-job"}, set(shown) - {"bad-table"})
        for sort, texts in told.items():
            # It is that sort which is told: one of its sentences stands there.
            if sort in shown and sort not in ("bad-value", "bad-path", "features-collide"):
                self.assertTrue(any(text in said for text in texts for said in shown[sort]), (sort, texts, shown[sort]))

    def test_every_complaint_of_a_verb_stands_there(self):
        missing = []
        for path, pieces in refusals("throw (?:Misuse|FileError|InvalidParameter)"):
            text = stretches(pieces)[0] if pieces else ""
            # What the desk refuses is told on its page, and tested there.
            if path.startswith("cli") and path not in ("cli/desk.cpp", "cli/work.cpp") and " " in text and not any(text in said for said in self.said):
                if not any(part in piece for part in self.UNSHOWN for piece in pieces):
                    missing.append((path, text))
        self.assertEqual(missing, [], missing)


class Arrows(unittest.TestCase):
    """Every include goes along an arrow of the map."""

    @classmethod
    def setUpClass(cls):
        with open(os.path.join(ROOT, "docs", "architecture.md"), encoding="utf8") as f:
            table = f.read().split("## Arrows")[1].split("\n## ")[0]
        cls.arrows = {}
        for folder, targets in re.findall(r"^\| `(\w+)` \|([^|]*)\|$", table, re.M):
            cls.arrows[folder] = set(re.findall(r"`(\w+)`", targets))
        cls.used = {folder: set() for folder in cls.arrows}

    def files(self):
        for top in ("src", os.path.join("include", "palio"), "cli"):
            for folder, _, names in os.walk(os.path.join(ROOT, top)):
                for name in names:
                    if name.endswith((".cpp", ".hpp")):
                        path = os.path.join(folder, name)
                        below = os.path.relpath(path, os.path.join(ROOT, top)).split(os.sep)
                        yield path, "cli" if top == "cli" else below[0] if len(below) > 1 else ""

    def test_every_include_goes_along_an_arrow_and_private_headers_stay_in_their_folder(self):
        looked = 0
        for path, folder in self.files():
            with open(path, encoding="utf8") as f:
                includes = re.findall(r'^#include "([^"]+)"', f.read(), re.M)
            for header in includes:
                looked += 1
                where = f"{os.path.relpath(path, ROOT)}: {header}"
                if not header.startswith("palio/"):
                    beside = os.path.join(os.path.dirname(path), header)
                    self.assertTrue(os.path.exists(beside) or os.path.exists(os.path.join(ROOT, "src", header)) and "/" not in header, where)
                    continue
                parts = header.split("/")
                if len(parts) == 2 or folder in ("", parts[1]):
                    continue
                self.assertIn(parts[1], self.arrows[folder], where)
                self.used[folder].add(parts[1])
        self.assertGreater(looked, 500)
        # And no arrow is drawn that nothing goes along.
        self.assertEqual(self.used, self.arrows)

    def test_arrows_close_no_circle_and_every_folder_is_on_the_map(self):
        left = {folder: set(targets) for folder, targets in self.arrows.items()}
        while left:
            free = [folder for folder, targets in left.items() if not targets & set(left)]
            self.assertTrue(free, f"a circle among {sorted(left)}")
            for folder in free:
                del left[folder]
        self.assertEqual({folder for _, folder in self.files()} - {""}, set(self.arrows))


class Motion(unittest.TestCase):
    """What turns in assembly.glb."""

    @classmethod
    def setUpClass(cls):
        cls.tmp = tempfile.TemporaryDirectory()

    @classmethod
    def tearDownClass(cls):
        cls.tmp.cleanup()

    def motion(self, kind):
        """Turns about the own axis and ways of each moving part, and the report."""
        d = self.tmp.name
        self.assertEqual(run("start", kind, "--out", kind + ".toml", cwd=d).returncode, 0)
        self.assertEqual(
            run("make", kind + ".toml", "--format", "glb", "--chord-error", "0.05", "--out", kind, cwd=d).returncode, 0
        )
        report = json.loads(run("report", kind + ".toml", "--json", cwd=d).stdout)
        with open(os.path.join(d, kind, "assembly.glb"), "rb") as f:
            data = f.read()
        size = struct.unpack("<I", data[12:16])[0]
        tree, binary = json.loads(data[20 : 20 + size]), data[28 + size :]

        def values(index, each):
            accessor = tree["accessors"][index]
            at = tree["bufferViews"][accessor["bufferView"]]["byteOffset"] + accessor.get("byteOffset", 0)
            flat = struct.unpack_from(f"<{each * accessor['count']}f", binary, at)
            return [flat[i : i + each] for i in range(0, len(flat), each)]

        parents = {child: n for n, node in enumerate(tree["nodes"]) for child in node.get("children", [])}
        turns, ways = {}, {}
        for channel in tree["animations"][0]["channels"]:
            node, sampler = channel["target"]["node"], tree["animations"][0]["samplers"][channel["sampler"]]
            name = tree["nodes"][node].get("name")
            while name is None:
                node = parents[node]
                name = tree["nodes"][node].get("name")
            if channel["target"]["path"] == "rotation":
                keys, angle, path = values(sampler["output"], 4), 0.0, [0.0]
                for a, b in zip(keys, keys[1:]):
                    # b a⁻¹, about z alone.
                    self.assertLess(abs(b[0]) + abs(b[1]), 1e-6)
                    step = 2 * math.atan2(b[2] * a[3] - b[3] * a[2], b[3] * a[3] + b[2] * a[2])
                    angle += math.remainder(step, 2 * math.pi)
                    path.append(angle / 2 / math.pi)
                turns[name] = path
            else:
                ways[name] = values(sampler["output"], 3)
        return turns, ways, report

    def test_gears_turn_by_the_ratio_of_their_pairs_and_end_where_they_began(self):
        pairs = 0
        for kind in (
            "spur",
            "helical",
            "double_helical",
            "internal",
            "crossed",
            "bevel",
            "cycloidal",
            "clock",
            "lantern",
        ):
            turns, _, report = self.motion(kind)
            for name, pair in report["pairs"].items():
                with self.subTest(kind=kind, pair=name):
                    driver, driven = turns[pair["driver"]], turns[pair["driven"]]
                    z1, z2 = (report["gears"][pair[g]]["teeth"] for g in ("driver", "driven"))
                    self.assertAlmostEqual(abs(driven[-1] / driver[-1]), z1 / z2, places=5)
                    # Whole turns of both: the film of it has no jump.
                    for path in (driver, driven):
                        self.assertGreaterEqual(abs(path[-1]), 1 - 1e-5)
                        self.assertAlmostEqual(path[-1], round(path[-1]), places=4)
                    same_way = driver[-1] * driven[-1] > 0
                    if kind not in ("crossed", "bevel"):  # there, senses are about axes of their own
                        self.assertEqual(
                            same_way,
                            "internal" in (report["gears"][pair["driven"]]["kind"], kind)
                            or report["gears"][pair["driven"]].get("internal", False),
                        )
                    pairs += 1
        self.assertGreaterEqual(pairs, 10)

    def test_a_rack_slides_as_far_as_its_pinion_rolls_and_comes_back(self):
        turns, ways, report = self.motion("rack")
        pair = next(iter(report["pairs"].values()))
        pinion, rack = report["gears"][pair["driver"]], ways[pair["driven"]]
        most = max(abs(t) for t in turns[pair["driver"]])
        self.assertAlmostEqual(
            math.dist(rack[0], rack[1]), most * math.pi * pinion["teeth"] * pinion["normal_module"], delta=1e-3
        )
        self.assertLess(math.dist(rack[0], rack[-1]), 1e-6)

    def test_the_discs_of_a_reducer_go_round_with_the_crank_and_turn_back_a_lobe_each_round(self):
        turns, ways, report = self.motion("reducer")
        name, values = next(iter(report["reducers"].items()))
        discs = [part for part in ways if "disc" in part]
        self.assertGreaterEqual(len(discs), 1)
        shaft = next(path for part, path in turns.items() if "shaft" in part)
        flange = next(path for part, path in turns.items() if "flange" in part)
        self.assertAlmostEqual(
            shaft[-1] / flange[-1], -values["ratio"] if values["ratio"] > 0 else values["ratio"], places=4
        )
        for part in discs:
            with self.subTest(part=part):
                self.assertAlmostEqual(abs(turns[part.replace("_place", "")][-1] / flange[-1]), 1, places=4)
                centre = [sum(p[k] for p in ways[part][:-1]) / (len(ways[part]) - 1) for k in (0, 1)]
                for p in ways[part]:
                    self.assertAlmostEqual(math.dist(p[:2], centre), values["eccentricity"], delta=1e-4)
                self.assertLess(math.dist(ways[part][0], ways[part][-1]), 1e-4)


if __name__ == "__main__":
    unittest.main(verbosity=2)
