"""--watch: an editor writes the job, and terminal, files and pages follow."""
import os
import queue
import re
import signal
import subprocess
import sys
import tempfile
import threading
import time
import unittest

from selenium.webdriver.common.by import By

import browser

PALIO = sys.argv.pop(1)


class Watching:
    """A palio that goes on, and what it has said so far."""

    def __init__(self, folder, *words):
        self.process = subprocess.Popen(
            [PALIO, *words, "--watch", "--no-browser"],
            cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        self.lines, self.said = queue.Queue(), ""
        threading.Thread(target=self.read, daemon=True).start()

    def read(self):
        for line in self.process.stdout:
            self.lines.put(line)

    def until(self, pattern, seconds=20):
        """The match of a pattern in what is said from here on."""
        end = time.time() + seconds
        while time.time() < end:
            while not self.lines.empty():
                self.said += self.lines.get()
            match = re.search(pattern, self.said)
            if match:
                self.said = self.said[match.end():]
                return match
            time.sleep(0.02)
        raise AssertionError(f"no {pattern} in {self.said!r}")

    def end(self):
        if self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
        return self.process.wait(timeout=20)


class Watch(unittest.TestCase):
    def setUp(self):
        self.tmp = tempfile.TemporaryDirectory()
        self.folder = self.tmp.name
        self.job = os.path.join(self.folder, "vent.toml")
        subprocess.run([PALIO, "start", "spur", "--out", self.job], check=True)
        with open(self.job, encoding="utf-8") as f:
            # The gears' own distance, so that any number of teeth will do.
            self.text = re.sub(r"(?m)^center_distance.*\n", "", f.read())
        self.write(self.text)
        self.running = []

    def tearDown(self):
        for one in self.running:
            one.end()
        self.tmp.cleanup()

    def watch(self, *words):
        self.running.append(Watching(self.folder, *words))
        return self.running[-1]

    def write(self, text):
        # As editors do: a new file in the old one's place.
        beside = self.job + ".new"
        with open(beside, "w", encoding="utf-8") as f:
            f.write(text)
        os.replace(beside, self.job)

    def teeth(self, count):
        self.assertIn("teeth = 43", self.text)
        return self.text.replace("teeth = 43", f"teeth = {count}", 1)

    def test_report_says_it_again_at_every_change_and_waits_for_mistakes_to_be_mended(self):
        one = self.watch("report", "vent.toml", "--only", "gear.drum_wheel.teeth")
        one.until(r"^43\n")
        for count in (42, 41):
            self.write(self.teeth(count))
            one.until(rf"vent.toml has changed\n{count}\n")
        self.write(self.teeth("41.5"))
        one.until(r"has changed\n.*gear.drum_wheel.teeth is 41.5")
        os.remove(self.job)  # being replaced, for a while
        time.sleep(0.6)
        self.write(self.teeth(40))
        one.until(r"has changed\n40\n")
        # The same bytes again are no change.
        self.write(self.teeth(40))
        time.sleep(0.8)
        self.assertTrue(one.lines.empty())
        self.assertIsNone(one.process.poll())
        self.assertEqual(one.end(), 0)

    def test_what_cannot_be_watched_is_refused(self):
        for words, why in ((("report", "-"), "instead of -"), (("roll", "gone.toml"), "gone.toml")):
            done = subprocess.run([PALIO, *words, "--watch"], cwd=self.folder, input=self.text, capture_output=True, text=True)
            self.assertNotEqual(done.returncode, 0)
            self.assertIn(why, done.stderr)

    def test_a_page_loads_itself_anew_and_tells_a_mistake(self):
        one = self.watch("roll", "vent.toml", "--out", "rolled")
        address = one.until(r"shown at (http://127\.0\.0\.1:\S+)").group(1)
        page = browser.started(self.folder)
        try:
            page.get(address)

            def within(script):
                return page.execute_script("const d = document.getElementById('shown').contentDocument; return " + script)

            def until(what, seconds=20):
                end = time.time() + seconds
                while time.time() < end:
                    try:
                        if what():
                            return
                    except Exception:  # between two pages
                        pass
                    time.sleep(0.05)
                self.fail("the page does not follow: " + page.find_element(By.ID, "told").text)

            until(lambda: "43" in within("d.body.textContent"))
            # Asked for at once: between finding and reading an element the page may put another in its place.
            buttons = page.execute_script("return [...document.querySelectorAll('#views button')].map(b => b.textContent)")
            self.assertEqual(buttons, ["machine.html", "first_stage.html"])
            page.execute_script("document.querySelectorAll('#views button')[1].click()")
            until(lambda: "drum_wheel" in within("d.title + d.body.textContent") and within("d.querySelector('canvas') !== null"))
            page.save_screenshot(os.path.join(self.folder, "watch.png"))
            self.write(self.teeth(42))
            one.until("has changed")
            until(lambda: "42" in within("d.body.textContent") and "43" not in within("d.getElementById('data')?.textContent.slice(0, 400) ?? ''"))
            # The page that was chosen is still the one.
            self.assertEqual(page.execute_script("return document.querySelector('#views [aria-current=true]').textContent"), "first_stage.html")
            self.write(self.teeth("42.5"))
            until(lambda: "42.5" in page.find_element(By.ID, "told").text)
            self.assertIn("bad", page.find_element(By.ID, "told").get_attribute("class"))
            self.assertTrue(within("d.querySelector('canvas') !== null"))
            self.write(self.text)
            until(lambda: "as of" in page.find_element(By.ID, "told").text)
            self.assertEqual(browser.complaints(page), [])
            one.end()
            until(lambda: "has ended" in page.find_element(By.ID, "told").text)
        finally:
            page.quit()

    def test_pictures_are_drawn_anew(self):
        one = self.watch("draw", "vent.toml", "--of", "first_stage:contact", "--out", "contact.png")
        one.until("shown at")
        picture = os.path.join(self.folder, "contact.png")
        with open(picture, "rb") as f:
            before = f.read()
        self.write(self.text.replace("profile_shift = 0.18", "profile_shift = 0.3"))
        one.until("has changed")
        one.until("contact.png")
        with open(picture, "rb") as f:
            self.assertNotEqual(f.read(), before)


if __name__ == "__main__":
    unittest.main()
