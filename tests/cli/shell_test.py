"""What a shell is told of palio: completion, manual pages, help that fits a terminal, manners of the options."""
import json
import os
import pty
import random
import re
import subprocess
import sys
import tempfile
import threading
import unittest

TOOL = os.path.abspath(sys.argv.pop(1)) if len(sys.argv) > 1 else "palio"
SOURCE = os.path.dirname(os.path.dirname(os.path.dirname(os.path.abspath(__file__))))
COMPLETION = os.path.join(SOURCE, "cli", "completion")


def run(*words, **more):
    return subprocess.run([TOOL, *words], capture_output=True, text=True, **more)


def completed(*words):
    done = run("--complete", *words)
    assert done.returncode == 0, done.stderr
    return done.stdout.split()


def verbs():
    return re.findall(r"^  ([a-z]+) {2,}", run("--help").stdout.split("Verbs:")[1], re.M)


def on_terminal(words, width, **environment):
    """What the tool says on a terminal so many columns wide."""
    master, slave = pty.openpty()
    import fcntl
    import struct
    import termios
    fcntl.ioctl(slave, termios.TIOCSWINSZ, struct.pack("HHHH", 40, width, 0, 0))
    env = {k: v for k, v in os.environ.items() if k != "NO_COLOR"}
    env.update({"TERM": "xterm"}, **environment)
    process = subprocess.Popen([TOOL, *words], stdout=slave, stderr=slave, stdin=slave, env=env)
    text = b""

    def end():
        """A terminal whose last writer has gone may forget what is still on its way: it stays open until a mark is read."""
        process.wait()
        os.write(slave, b"\x04")

    waiting = threading.Thread(target=end)
    waiting.start()
    while not text.endswith(b"\x04"):
        text += os.read(master, 65536)
    waiting.join()
    os.close(slave)
    os.close(master)
    return text[:-1].decode().replace("\r\n", "\n")


class Shell(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        cls.jobs = {}
        for kind in completed("start", ""):
            if kind in ("coupon", "measurements", "greenhouse"):
                continue
            path = os.path.join(cls.folder.name, kind + ".toml")
            assert run("start", kind, "--out", path).returncode == 0
            cls.jobs[kind] = path

    @classmethod
    def tearDownClass(cls):
        cls.folder.cleanup()

    def leaves(self, before, start=""):
        """All that completion can lead to, a step at a time."""
        for word in completed(*before, start):
            self.assertTrue(word.startswith(start), word)
            if word.endswith("."):
                self.assertNotEqual(word, start)
                yield from self.leaves(before, word)
            else:
                yield word

    def test_verbs_and_options_are_those_of_the_help(self):
        self.assertEqual(set(completed("")), set(verbs()) | {"--help", "--version"})
        for verb in verbs():
            said = set(re.findall(r"(--[a-z-]+)", run(verb, "--help").stdout.split("Example")[0].split("Options:")[1]))
            offered = set(completed(verb, "--"))
            self.assertTrue(offered <= said, (verb, offered - said))
            declared = set(re.findall(r"^  (?:-\w,)?(--[a-z-]+)", run(verb, "--help").stdout, re.M))
            self.assertEqual(offered, declared, verb)

    def test_every_path_that_is_offered_is_known_to_the_job(self):
        draw = random.Random(3)
        for kind, job in self.jobs.items():
            offered = list(self.leaves(["report", job, "--set"]))
            self.assertGreater(len(offered), 20, kind)
            self.assertEqual(len(offered), len(set(offered)))
            for path in draw.sample(offered, min(12, len(offered))):
                self.assertTrue(path.endswith("="), path)
                # Whatever is wrong with the value, it is not that nobody knows the key.
                told = run("report", job, "--brief", "--set", path + "§").stderr
                self.assertNotIn("is no key of", told, path)
        known = run("report", self.jobs["spur"], "--set", "gear.motor_pinion.teht=3").stderr
        self.assertIn("is no key of", known)  # so the check above can fail

    def test_every_reading_that_is_offered_can_be_read(self):
        draw = random.Random(5)
        for kind, job in self.jobs.items():
            offered = list(self.leaves(["report", job, "--only"]))
            for path in draw.sample(offered, min(6, len(offered))):
                self.assertEqual(run("report", job, "--only", path).returncode, 0, (kind, path))

    def test_choices_and_names(self):
        job = self.jobs["spur"]
        self.assertEqual(completed("draw", job, "--view", ""), ["iso", "front", "section"])
        self.assertEqual(completed("make", job, "--format", "step,dx"), ["step,dxf"])
        self.assertIn("gear.drum_wheel.kind=helical", completed("report", job, "--set", "gear.drum_wheel.kind="))
        self.assertEqual(completed("make", job, "--only", "dr"), ["drum_wheel"])
        self.assertEqual(completed("explain", "tip_dia"), ["tip_diameter"])
        self.assertEqual(completed("nonsense", ""), [])
        self.assertEqual(completed("report", "no_such.toml", "--set", "g"), [])

    def test_bash_zsh_and_fish_say_the_same(self):
        job = self.jobs["spur"]
        lines = [["re"], ["make", job, "--format", "st"], ["report", job, "--set", "gear.d"],
                 ["report", job, "--set", "gear.drum_wheel.kind=hel"], ["draw", job, "--view", ""]]
        for words in lines:
            expected = completed(*words)
            line = " ".join([TOOL, *words])
            script = (f"source {COMPLETION}/palio.bash\ncompopt() {{ :; }}\nCOMP_LINE={line!r} COMP_POINT={len(line)}\n"
                      "_palio\nprintf '%s\\n' \"${COMPREPLY[@]}\"")
            bash = subprocess.run(["bash", "-c", script], capture_output=True, text=True)
            cut = re.sub(r"[^=:]*$", "", words[-1])
            self.assertEqual(bash.stdout.split(), [w[len(cut):] for w in expected], bash.stderr)
            script = ("compadd() { local w; for w in \"$@\"; do [[ $w == -* ]] || [[ -z $w ]] || print -r -- $w; done }\n"
                      f"_files() {{ :; }}\nwords=({' '.join(repr(w) for w in [TOOL, *words])}) CURRENT={len(words) + 1}\n"
                      f"f() {{ source {COMPLETION}/palio.zsh }}\nf")
            zsh = subprocess.run(["zsh", "-fc", script], capture_output=True, text=True)
            self.assertEqual(set(zsh.stdout.split()), set(expected), zsh.stderr)
            link = os.path.join(self.folder.name, "palio")
            if not os.path.exists(link):
                os.symlink(TOOL, link)
            env = dict(os.environ, PATH=self.folder.name + ":" + os.environ["PATH"], HOME=self.folder.name)
            asked = "palio " + " ".join(words)
            fish = subprocess.run(["fish", "-c", f"source {COMPLETION}/palio.fish; complete -C '{asked}'"],
                                  capture_output=True, text=True, env=env)
            said = {w.split("\t")[0] for w in fish.stdout.split("\n") if w}
            self.assertTrue(set(expected) <= said, (expected, said, fish.stderr))

    def test_manual_pages_say_what_the_help_says(self):
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual(run("--manual", folder).returncode, 0)
            pages = sorted(os.listdir(folder))
            self.assertEqual(pages, sorted(["palio.1", "palio-job.5", "job-schema.json"] +
                                           [f"palio-{verb}.1" for verb in verbs()]))
            with open(os.path.join(folder, "job-schema.json")) as schema:
                json.load(schema)
            shown = {}
            for page in pages[1:]:
                path = os.path.join(folder, page)
                lint = subprocess.run(["mandoc", "-T", "lint", "-W", "error", path], capture_output=True, text=True)
                self.assertEqual(lint.returncode, 0, lint.stdout)
                text = subprocess.run(["mandoc", "-T", "utf8", "-O", "width=200", path], capture_output=True, text=True)
                shown[page] = re.sub(r".\x08", "", text.stdout)
            for verb in verbs():
                text = re.sub(r"\s+", " ", shown[f"palio-{verb}.1"])
                for option in completed(verb, "--"):
                    self.assertIn(option, text)
                self.assertNotRegex(text, r"\b(TEXT|U?INT|FLOAT)\b")
                example = re.sub(r"\s+", " ", run(verb, "--help").stdout.split("Example:\n")[1].strip())
                self.assertIn(example, text)
                self.assertIn(f"palio-{verb}(1)", shown["palio.1"].replace(" (1)", "(1)"))
            keys = re.findall(r"^\| `([a-z_.]+)`", run("explain", "keys").stdout.split("## Reference profiles")[0], re.M)
            self.assertGreater(len(keys), 150)
            for key in keys:
                self.assertRegex(shown["palio-job.5"], rf"(?m)^ +{re.escape(key)}\b")

    def test_help_is_wrapped_and_loses_no_word(self):
        for verb in verbs():
            whole = run(verb, "--help").stdout
            self.assertNotRegex(whole, r"\b(TEXT|U?INT|FLOAT|REQUIRED|POSITIVE)\b|\w in \[|:\{", "names of types are no words")
            for width in (60, 80, 200):
                shown = on_terminal([verb, "--help"], width)
                self.assertEqual(shown.split(), whole.split(), verb)
                for line in shown.split("Example")[0].split("\n"):
                    unbroken = max((len(word) for word in line.split()), default=0)
                    self.assertTrue(len(line) <= width or unbroken > width - 32, (verb, width, line))
        told = on_terminal(["report", "no/such/file.toml"], 50)
        self.assertTrue(all(len(line) <= 50 for line in told.split("\n")), told)
        self.assertEqual(told.split(), run("report", "no/such/file.toml").stderr.split())

    def test_manners(self):
        job = self.jobs["spur"]
        with tempfile.TemporaryDirectory() as folder:
            told = run("make", job, "--format", "STL,Dxf", "-o", folder)
            self.assertEqual((told.returncode, told.stderr), (0, ""))
            self.assertIn(".stl", told.stdout)
            quiet = run("make", job, "--format", "stl", "-o", folder, "--quiet")
            self.assertEqual((quiet.returncode, quiet.stdout, quiet.stderr), (0, "", ""))
            self.assertIn("\x1b", on_terminal(["report", job], 100))
            for plain in (on_terminal(["report", job, "--color", "never"], 100), on_terminal(["report", job], 100, NO_COLOR="1"),
                          on_terminal(["report", job], 100, TERM="dumb"), run("report", job).stdout):
                self.assertNotIn("\x1b", plain)
            picture = os.path.join(folder, "DRUM.PNG")
            self.assertEqual(run("draw", job, "--of", "drum_wheel", "-o", picture).returncode, 0)
            with open(picture, "rb") as written:
                self.assertEqual(written.read(4), b"\x89PNG")
        for words, meant in ((["make", job, "--fromat", "stl"], "--format"), (["roll", job, "--positons=3"], "--positions"),
                             (["report", job, "--breif"], "--brief")):
            told = run(*words)
            self.assertEqual(told.returncode, 2)
            self.assertIn(f"did you mean {meant}?", told.stderr)


if __name__ == "__main__":
    unittest.main()
