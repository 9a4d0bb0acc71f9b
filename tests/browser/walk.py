"""Drive the application in headless Chromium the way a person would; shared with the screenshot script."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

from selenium import webdriver
from selenium.common.exceptions import TimeoutException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from ..nursery import Born, Nursery

T = TypeVar("T")
AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
DRIVER = "/usr/bin/chromedriver"
SHELL = "/usr/lib/chromium/chromium-headless-shell"
WAIT = float(os.environ.get("ASSAYER_WALK_WAIT", "75"))
"""Seconds; generous, since the machines are shared."""
PACE = 0.06
"""Seconds between two keys: a scanner's come within 45 ms."""
SETTLE = 0.12
"""Seconds after a letter: it acts after 90 ms without another key."""


@contextmanager
def running_server(folder: Path, nursery: Nursery | None = None) -> Iterator[Server]:
    server = Server(folder, nursery=nursery)
    server.start()
    try:
        yield server
    finally:
        server.stop()


class Server:
    """The real server in a process of its own, so that it can be killed."""

    def __init__(self, folder: Path, port: int = 0, more: Sequence[str] = (), nursery: Nursery | None = None) -> None:
        self.folder = folder
        self.port = port
        self.nursery = nursery
        self.more = more
        self.process: subprocess.Popen[str] | Born | None = None

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @property
    def command(self) -> list[str]:
        return [sys.executable, "-m", "assayer.cli", *self.arguments]

    @property
    def arguments(self) -> list[str]:
        return ["serve", "--data", str(self.folder), "--port", str(self.port), *self.more]

    def start(self) -> None:
        if self.nursery is not None:
            self.process = self.nursery.start(self.arguments)
            line = self.process.first_line(WAIT)
        else:
            self.process = subprocess.Popen(self.command, stdout=subprocess.PIPE, text=True)
            assert self.process.stdout is not None
            line = self.process.stdout.readline()
        self.port = int(line.split("http://127.0.0.1:")[1].split()[0])
        deadline = time.monotonic() + WAIT
        while True:
            try:
                with urllib.request.urlopen(f"{self.url}/api/health", timeout=2):
                    return
            except OSError:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.05)

    def kill(self) -> None:
        """As a power cut would: no time to tidy up."""
        assert self.process is not None
        self.process.kill()
        self._reap()

    def stop(self) -> None:
        if self.process is not None:
            self.process.terminate()
            self._reap()

    def _reap(self) -> None:
        assert self.process is not None
        self.process.wait(10)
        if self.process.stdout:
            self.process.stdout.close()
        self.process = None

    def get(self, path: str) -> Any:
        return self.ask(path)[1]

    def ask(self, path: str, body: Any = None, refused: bool = False, method: str | None = None) -> tuple[int, Any]:
        """Status and answer; `refused` gives back a refusal too."""
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.url + path, data, {"Content-Type": "application/json"}, method=method)
        try:
            with urllib.request.urlopen(request, timeout=WAIT) as answer:
                return answer.status, json.load(answer)
        except urllib.error.HTTPError as error:
            if not refused:
                raise
            return error.code, json.load(error)


@contextmanager
def browser(width: int = 1280, height: int = 800, dark: bool = False) -> Iterator[Walk]:
    """A browser of its own, of this size: the whole of chromium, as people have it."""
    with chrome() as walk:
        walk.begin(width, height, dark)
        yield walk


def windowless() -> str | None:
    """Debian's chromium without its windows, which does a third less work (decision 0041), where it is there and fits the driver."""
    try:
        driver, shell = (subprocess.run([program, "--version"], capture_output=True, text=True, check=True).stdout.split()[1] for program in (DRIVER, SHELL))
    except (OSError, subprocess.CalledProcessError):
        return None
    return SHELL if shell == driver else None


@contextmanager
def chrome(program: str | None = None) -> Iterator[Walk]:
    """A browser: chromium, or this program in its place."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        downloads = Path(profile) / "saved"
        downloads.mkdir()
        options = webdriver.ChromeOptions()
        for flag in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--force-device-scale-factor=1",
            "--hide-scrollbars",
            # what slides and fades in takes as long as what is looked at
            "--force-prefers-reduced-motion",
            "--window-size=1280,800",
        ]:
            options.add_argument(flag)
        if program is None:
            options.add_argument(f"--user-data-dir={profile}")
        else:
            # it opens no page where it is told a profile; the driver makes one of its own
            options.binary_location = program
            # a page is left before compiling its scripts for speed has paid for itself
            options.add_argument("--js-flags=--no-maglev --no-turbofan")
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        options.add_experimental_option(
            "prefs",
            {
                "download.default_directory": str(downloads),
                "download.prompt_for_download": False,
                "profile.default_content_setting_values.automatic_downloads": 1,
            },
        )
        driver = webdriver.Chrome(options=options, service=Service(DRIVER))
        try:
            yield Walk(driver, downloads)
        finally:
            driver.quit()


# what can be pressed, and whose name does not hold the words that are read on it, in one piece:
# axe finds it too, but looks only where a walk asks it to
UNLIKE = r"""
const words = (text) => (text.normalize('NFKD').replace(/\([^()]*\)/g, '').toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? []).join(' ');
const read = (e) => e.matches('title, .visually-hidden') || !e.checkVisibility() ? [] : [...e.childNodes].flatMap((n) => (n.nodeType === 3 ? [n.data] : n.nodeType === 1 ? read(n) : []));
return [...document.querySelectorAll('button[aria-label], a[aria-label], summary[aria-label], [role=button][aria-label]')]
  .filter((e) => e.checkVisibility())
  .map((e) => [words(read(e).join(' ')), words(e.ariaLabel)])
  .filter(([text, name]) => text.length > 1 && !` ${name} `.includes(` ${text} `));
"""


class Walk:
    """What a person does and sees, in words."""

    def __init__(self, driver: webdriver.Chrome, downloads: Path) -> None:
        self.driver = driver
        self.downloads = downloads
        self.base = ""
        self.script = ""

    def begin(self, width: int = 1280, height: int = 800, dark: bool = False, origin: str | None = None) -> None:
        """As a browser that was just started: one empty window of this size, nothing kept, nothing downloaded."""
        first, *others = self.driver.window_handles
        for other in others:
            self.driver.switch_to.window(other)
            self.driver.close()
        self.driver.switch_to.window(first)
        if self.script:
            self.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", {"identifier": self.script})
            self.script = ""
        self.driver.get("about:blank")
        if origin is not None:
            # ports come again, and with them what an earlier page kept
            self.driver.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": "all"})
        self.resize(width, height)
        self.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": [{"name": "prefers-color-scheme", "value": "dark" if dark else "light"}]})
        for old in self.downloads.iterdir():
            old.unlink()
        self.console()

    def sits_here(self, person: str, origin: str) -> None:
        """Whose name goes along, from the first page on; drawing one only to say so would take as long as a short walk."""
        once = f"if (location.origin === '{origin}' && !localStorage.begun) {{ localStorage.begun = 1; localStorage.setItem('assayer.person', '{person}'); }}"
        self.script = self.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": once})["identifier"]

    def resize(self, width: int, height: int) -> None:
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False})

    def open(self, url: str) -> None:
        self.driver.get(url)

    def until(self, what: Callable[[], T], why: str = "") -> T:
        try:
            return WebDriverWait(self.driver, WAIT, poll_frequency=0.05, ignored_exceptions=[Exception]).until(lambda _: what())
        except TimeoutException:
            pass
        raise AssertionError(f"{why or 'it never came true'}; the page says: {self.text()[:1500]}")

    def see(self, text: str) -> None:
        """Wait until `text` stands on the page."""
        self.until(lambda: text in self.text(), f"'{text}' never appeared")
        unlike = self.driver.execute_script(UNLIKE)
        assert not unlike, f"called otherwise than they read: {unlike}"

    def gone(self, text: str) -> None:
        self.until(lambda: text not in self.text(), f"'{text}' never went away")

    def text(self) -> str:
        return str(self.driver.execute_script("return document.body.innerText"))

    def find(self, css: str) -> WebElement:
        return self.until(lambda: self.driver.find_element(By.CSS_SELECTOR, css), f"nothing matches {css}; the page says: {self.text()[:800]}")

    def all(self, css: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def labelled(self, label: str) -> WebElement:
        """The control with this accessible name (or one that starts with it)."""
        return self.find(f'[aria-label^="{label}"]')

    def field(self, label: str) -> WebElement:
        """The field under this label."""
        return self.until(
            lambda: self.driver.find_element(By.XPATH, f"//label[starts-with(., '{label}')]/following::input[1]"), f"no field is labelled {label}"
        )

    def click(self, text: str, tag: str = "*") -> None:
        """Click the innermost visible thing with this text."""
        path = f"//{tag}[normalize-space(.)='{text}' or starts-with(normalize-space(.), '{text}')][not(.//*[starts-with(normalize-space(.), '{text}')])]"

        def attempt() -> bool:
            for element in self.driver.find_elements(By.XPATH, path):
                if element.is_displayed():
                    element.click()
                    return True
            return False

        self.until(attempt, f"nothing to click says '{text}'")

    def take_figure(self, which: int, item: str) -> None:
        """Choose how a figure goes along, from its own menu: the one before it may still be fading out under the pointer."""
        button = self.all("figcaption button[aria-haspopup=menu]")[which]
        button.click()
        menu = self.until(lambda: button.get_attribute("aria-expanded") == "true" and button.get_attribute("aria-controls"), "the menu did not open")
        self.until(lambda: not self.driver.execute_script("return document.getAnimations().some(a => a.playState === 'running')"))
        path = f"//*[@id='{menu}']//button[starts-with(normalize-space(.), '{item}')]"
        self.until(lambda: self.driver.find_element(By.XPATH, path).click() or True, f"the menu of figure {which} has no '{item}'")

    def type_slowly(self, text: str) -> None:
        """As a person types: no two keys closer than a scanner's pace."""
        time.sleep(PACE)
        for char in text:
            self.driver.switch_to.active_element.send_keys(char)
            time.sleep(PACE)

    def press(self, *keys: str) -> None:
        """Single keys, as a person presses them; a letter acts only once it is clear that no scanner sent it."""
        time.sleep(PACE)
        for key in keys:
            self.driver.switch_to.active_element.send_keys(key)
            time.sleep(SETTLE if key.isalpha() else PACE)

    def scan(self, code: str) -> None:
        """A scanner: the whole code in one burst, then Enter, dispatched by the browser itself within milliseconds."""
        time.sleep(PACE)
        self.driver.switch_to.active_element.send_keys(code + Keys.ENTER)

    def console(self) -> list[str]:
        return [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] == "SEVERE"]

    def axe(self, only_colours: bool = False) -> list[str]:
        """All that axe-core finds, each with where; or all that can be wrong with colours."""
        # what is still fading in has another contrast
        deadline = time.monotonic() + 3
        while time.monotonic() < deadline and self.driver.execute_script("return document.getAnimations().some(a => a.playState === 'running')"):
            time.sleep(0.05)
        if not self.driver.execute_script("return 'axe' in window"):
            self.driver.execute_script(AXE.read_text("utf-8"))
        found = self.driver.execute_async_script(
            # only what is wrong comes back: all that is right, on a large page, takes longer to send than to find
            "axe.run(arguments[0]).then(r => arguments[1](r.violations), e => arguments[1]([{impact: 'critical', id: String(e), nodes: []}]))",
            {"resultTypes": ["violations"], "preload": False}
            | ({"runOnly": {"type": "rule", "values": ["color-contrast", "link-in-text-block"]}} if only_colours else {}),
        )
        return [f"{v['id']}: {[n['target'] for n in v['nodes']][:4]} {[n.get('failureSummary', '')[:200] for n in v['nodes']][:1]}" for v in found]

    def picture(self, path: Path) -> None:
        self.driver.save_screenshot(str(path))
