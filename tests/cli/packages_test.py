"""The Debian packages of a build: what they hold, what lintian says, and that they work where they are unpacked."""
import glob
import os
import subprocess
import sys
import tempfile
import unittest

BUILD = os.path.abspath(sys.argv.pop(1)) if len(sys.argv) > 1 else "build"


def run(*words, **more):
    return subprocess.run(words, capture_output=True, text=True, **more)


class Packages(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        made = run("cpack", "-G", "DEB", "--config", os.path.join(BUILD, "CPackConfig.cmake"), "-B", cls.folder.name)
        assert made.returncode == 0, made.stdout + made.stderr
        cls.debs = {os.path.basename(p).split("_")[0]: p for p in glob.glob(os.path.join(cls.folder.name, "*.deb"))}
        cls.root = os.path.join(cls.folder.name, "root")
        for deb in cls.debs.values():
            assert run("dpkg-deb", "-x", deb, cls.root).returncode == 0

    @classmethod
    def tearDownClass(cls):
        cls.folder.cleanup()

    def names_in(self, package):
        listed = run("dpkg-deb", "-c", self.debs[package]).stdout.split("\n")
        return [line.split()[5].lstrip(".") for line in listed if line and not line.split()[5].endswith("/")]

    def depends_of(self, package):
        return run("dpkg-deb", "-f", self.debs[package], "Depends").stdout

    def test_lintian_finds_no_error(self):
        told = run("lintian", "--allow-root", *self.debs.values())
        self.assertEqual([line for line in told.stdout.split("\n") if line.startswith("E:")], [])

    def test_each_holds_its_own_and_the_tool_needs_no_kernel(self):
        everything = []
        for package in self.debs:
            names = self.names_in(package)
            everything += names
            self.assertIn(f"/usr/share/doc/{package}/copyright", names)
        self.assertEqual(len(everything), len(set(everything)))
        tool = self.names_in("palio")
        for name in ("/usr/bin/palio", "/usr/share/man/man1/palio.1.gz", "/usr/share/man/man5/palio-job.5.gz",
                     "/usr/share/palio/job-schema.json", "/usr/share/bash-completion/completions/palio",
                     "/usr/share/zsh/vendor-completions/_palio", "/usr/share/fish/vendor_completions.d/palio.fish"):
            self.assertIn(name, tool)
        self.assertFalse([name for name in tool if "include" in name or name.endswith(".a")])
        self.assertNotIn("libocct", self.depends_of("palio"))
        self.assertNotIn("embree", self.depends_of("palio"))
        if "palio-step" in self.debs:
            self.assertIn("libocct", self.depends_of("palio-step"))

    def test_modules_have_names_with_versions(self):
        for package in self.debs:
            for name in self.names_in(package):
                if ".so." not in name:
                    continue
                told = run("objdump", "-p", self.root + name).stdout
                self.assertRegex(told, r"SONAME +lib\w+\.so\.\d+\.\d+\n", name)
                self.assertNotRegex(told, r"R(UN)?PATH", name)

    def test_what_was_unpacked_works(self):
        tool = os.path.join(self.root, "usr", "bin", "palio")
        job, parts = os.path.join(self.folder.name, "vent.toml"), os.path.join(self.folder.name, "parts")
        for words in (("--version",), ("start", "spur", "--out", job), ("make", job, "--out", parts),
                      ("draw", job, "--view", "iso", "--quality", "quick", "--out", os.path.join(parts, "iso.png"))):
            told = run(tool, *words)
            self.assertEqual(told.returncode, 0, told.stderr)
        # Without its module the tool says which one is missing, and what to do.
        for module in glob.glob(os.path.join(self.root, "usr", "lib", "libpalio_step.so*")):
            os.remove(module)
        told = run(tool, "make", job, "--format", "step", "--out", parts)
        self.assertEqual(told.returncode, 1)
        self.assertIn("palio-step", told.stderr)


if __name__ == "__main__":
    unittest.main()
