"""The whole job through the visible interface, step by step; each step leaves the page in its stage."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui.browser import Page

DRIVERS = ("mid-l", "sub", "midbass-l", "midbass-r", "mid-r", "tweeter-l", "tweeter-r")
"""In the order of the round: a harmless one first."""
CORNERS = (
    ("midbass-l", "sub-midbass-left", "75"),
    ("mid-l", "midbass-mid-left", "320"),
    ("tweeter-l", "mid-tweeter-left", "3000"),
)
SEAMS = (
    "sub-midbass-left",
    "midbass-mid-left",
    "mid-tweeter-left",
    "midbass-mid-right",
    "mid-tweeter-right",
    "left-right",
)
PILLS = {
    "sub-midbass": "seam sub to midbass",
    "midbass-mid": "seam midbass to mid",
    "mid-tweeter": "seam mid to tweeter",
}


def record_round(page: Page) -> None:
    """Neutral and safe, then every driver in turn; the next one is chosen by itself."""
    page.stage("drivers")
    page.test_id("neutral").click()
    page.until(lambda: "muted" in page.test_id("processor").text)
    page.test_id("driver-mid-l").click()
    for n, driver in enumerate(DRIVERS):
        page.until(lambda d=driver: page.test_id(f"driver-{d}").get_attribute("aria-current") == "true")
        before = page.driver.execute_script("return document.documentElement.dataset.takes")
        if n % 2:
            page.key(Keys.SPACE)
        else:
            page.test_id("record").click()
        page.until(
            lambda b=before: page.driver.execute_script("return document.documentElement.dataset.takes") != b, 60
        )
        page.until(lambda: page.found("[data-testid=record]"))
    page.settled()


def record_one(page: Page) -> None:
    """Record what is chosen and wait until it is kept and drawn."""
    before = page.driver.execute_script("return document.documentElement.dataset.takes")
    page.test_id("record").click()
    page.until(lambda: page.driver.execute_script("return document.documentElement.dataset.takes") != before, 120)
    page.settled()


def apply_findings(page: Page) -> list[str]:
    """Apply every remedy that the stage offers; returns what the findings said."""
    said = []
    while page.found("[data-testid=finding] button"):
        finding = page.test_id("finding")
        said.append(finding.text)
        page.after(finding.find_element(By.TAG_NAME, "button").click)
    return said


def open_seam(page: Page, seam: str) -> None:
    """Through the pill on the band strip, then the side in the panel."""
    if seam == "left-right":
        page.named("L+R: seam left to right").click()
    else:
        ways, side = seam.rsplit("-", 1)
        page.find(f"[aria-label*='{PILLS[ways]}']").click()
        page.until(lambda: "/seams" in page.driver.current_url)
        page.settled()
        page.button(side.capitalize()).click()
    page.settled()


def set_corners(page: Page) -> None:
    """A Linkwitz-Riley 24 dB seam at each overlap, ends and sides tied."""
    for _, seam, hertz in CORNERS:
        open_seam(page, seam)
        fields = page.found("input[aria-label*='high-pass corner']")
        if not fields:
            page.after(page.button("Set a high-pass").click)
        field = page.find("input[aria-label*='high-pass corner']")
        label, shown = field.get_attribute("aria-label"), field.get_attribute("value").split(" ")[0]
        if float(shown) != float(hertz):  # it may begin there
            page.after(lambda name=label, h=hertz: page.type_into(name, h))


def record_wires(page: Page) -> None:
    """The four wires of the source, in turn against the first."""
    for number, name in ((2, "2 · Front right"), (3, "3 · Rear left"), (4, "4 · Rear right")):
        page.choose("Second wire, of input", name)
        page.test_id("record-wires").click()
        page.until(lambda n=number: page.found(f"[data-testid=feed-{n}]"), 120)
    page.settled()


def take_best_offers(page: Page) -> None:
    """Delays by arrival first, then at each seam the first of the best settings with the slope as it is."""
    page.button("Whole system").click()
    page.after(page.button("Set delays by arrival").click)
    for seam in SEAMS:
        open_seam(page, seam)
        offers = page.until(lambda: page.found("[data-testid=offer]"))
        plain = next(o for o in offers if o.text[0] in "+−-0")
        shown = plain.text.split(" ")[0]
        now = page.find("input[aria-label='Delay, ms']").get_attribute("value").split(" ")[0]
        if shown != now:
            page.after(plain.find_element(By.TAG_NAME, "button").click)


def fit_all(page: Page, level: str = "72") -> None:
    """Target at a level, every channel fitted one by one, then the correction common to all."""
    page.stage("voice")
    page.test_id("voice-mid-l").click()
    page.settled()
    page.after(lambda: page.type_into("Level at 1 kHz", level))
    page.test_id("fit-each").click()
    page.until(lambda: page.test_id("stage-voice").text.endswith("7 of 7 set"), 120)
    page.until(lambda: page.test_id("fit").is_enabled(), 120)
    page.test_id("voice-all").click()
    page.settled()
    page.after(page.test_id("fit").click)


def record_whole(page: Page) -> None:
    """Send what is unsent and record all channels."""
    page.stage("proof")
    before = page.driver.execute_script("return document.documentElement.dataset.takes")
    page.test_id("record-proof").click()
    page.until(lambda: page.driver.execute_script("return document.documentElement.dataset.takes") != before, 120)
    page.test_id("plus-minus")
    page.settled()
