"""A headless Chromium for tests of pages."""
import os

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
    "--window-size=1280,800",
]


def started(folder):
    """One with a profile of its own in a folder."""
    options = Options()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS + ["--user-data-dir=" + os.path.join(folder, "profile")]:
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    return webdriver.Chrome(service=Service("/usr/bin/chromedriver"), options=options)


def complaints(browser):
    """What stands in its console. Reading pictures back, as these tests do, makes it complain about its own speed."""
    noise = ("ReadPixels", "willReadFrequently")
    return [e for e in browser.get_log("browser") if not any(n in e["message"] for n in noise)]
