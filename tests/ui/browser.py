"""A headless Chromium on a running server, and the few gestures that the walks are made of."""

import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from selenium import webdriver
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--hide-scrollbars",
    "--force-device-scale-factor=1",
    "--lang=en",
]

ASK = """
const [css, text, exact] = arguments;
const shown = (one) => {
  const box = one.getBoundingClientRect();
  return one.checkVisibility({ opacityProperty: true, visibilityProperty: true })
    && (box.width > 0 || box.height > 0 || one.childElementCount > 0);
};
const says = (one) => (one.innerText ?? one.textContent).replaceAll('\\u00a0', ' ').trim();
const all = [...document.querySelectorAll(css)];
"""
"""What the questions below begin with: one question is one command, however many elements are looked at."""
FIRST = (
    ASK
    + """
return all.find((one) => shown(one) && (exact ? says(one) === text : says(one).includes(text))) ?? null;
"""
)
TEXTS = ASK + "return all.map(says);"


def start_chromium(width: int = 1280, height: int = 800, *more: str, **sees: str) -> webdriver.Chrome:
    """A browser with a fresh profile, started with `more` switches; `sees` are variables of its surroundings."""
    options = webdriver.ChromeOptions()
    for flag in (*FLAGS, *more, f"--window-size={width},{height}", f"--user-data-dir={tempfile.mkdtemp()}"):
        options.add_argument(flag)
    options.binary_location = "/usr/bin/chromium"
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options, webdriver.ChromeService("/usr/bin/chromedriver", env={**os.environ, **sees}))
    resize(driver, width, height)
    return driver


def resize(driver: webdriver.Chrome, width: int = 1280, height: int = 800) -> None:
    """Give the page its size; the inner one counts, whatever the window's frame takes."""
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
    )


class Page:
    """What a person does: look for a thing by its name, press it, type, drag, wait until it shows."""

    def __init__(self, driver: webdriver.Chrome, address: str) -> None:
        self.driver = driver
        self.address = address

    def open(self, stage: str = "drivers") -> None:
        self.driver.get(f"{self.address}/wren/{stage}")
        self.until(lambda: self.driver.find_elements(By.CSS_SELECTOR, "[data-testid=save-state]"))
        self.settled()

    def until(self, true: Callable[[], object], seconds: float = 90.0):
        # React may put a new element in the place of one just found: that is no answer yet.
        patient = WebDriverWait(self.driver, seconds, 0.05, ignored_exceptions=[StaleElementReferenceException])
        return patient.until(lambda _d: true())

    def find(self, css: str) -> WebElement:
        return self.until(lambda: self.driver.execute_script(FIRST, css, "", False))

    def found(self, css: str) -> list[WebElement]:
        """All that there are now, visible or not."""
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def texts(self, css: str) -> list[str]:
        """What all that there are now say, visible or not."""
        return self.driver.execute_script(TEXTS, css)

    def saying(self, css: str, text: str, exact: bool = True) -> WebElement:
        """The first visible one that says this, or has it in what it says."""
        return self.until(lambda: self.driver.execute_script(FIRST, css, text, exact))

    def test_id(self, name: str) -> WebElement:
        return self.find(f"[data-testid='{name}']")

    def named(self, name: str) -> WebElement:
        return self.find(f"[aria-label='{name}']")

    def button(self, text: str) -> WebElement:
        return self.saying("button, [role=option], a", text, exact=False)

    def stage(self, name: str) -> None:
        self.test_id(f"stage-{name}").click()
        # The address is another before the page is.
        self.until(lambda: self.driver.execute_script("return document.documentElement.dataset.stage") == name)
        self.settled()

    def settled(self) -> None:
        """Until the drawn picture is that of the stage and the present revision, with no draft."""
        self.until(lambda: self.driver.execute_script("return document.documentElement.dataset.settled") == "yes")

    def revision(self) -> int:
        return int(self.test_id("save-state").text.split()[1])

    def after(self, act: Callable[[], object]) -> None:
        """Do something that makes a revision and wait until it is kept and drawn."""
        before = self.revision()
        act()
        self.until(lambda: self.revision() > before)
        self.settled()

    def type_into(self, label: str, text: str) -> None:
        """Put a value into a field and keep it."""
        field = self.find(f"input[aria-label^='{label}']")
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", field)
        field.click()
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text, Keys.ENTER)

    def choose(self, label: str, option: str) -> None:
        self.named(label).click()
        self.button(option).click()

    def key(self, *keys: str) -> None:
        ActionChains(self.driver).send_keys(*keys).perform()

    def drag(self, element: WebElement, right: int, down: int, steps: int = 6) -> None:
        chain = ActionChains(self.driver, duration=16).click_and_hold(element)
        for _ in range(steps):
            chain = chain.move_by_offset(right // steps, down // steps)
        chain.release().perform()

    def shot(self, path: Path) -> None:
        self.settled()
        self.driver.save_screenshot(str(path))
