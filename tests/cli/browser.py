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


def show(browser, path, width=1280, height=800):
    """Opens a page of this machine, by its path or address, in a window of that size: a phone's where it is narrow."""
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 600},
    )
    browser.get(path if path.startswith("http:") else "file://" + path)
