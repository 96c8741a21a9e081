"""The page of a report, in a real browser: Debian's chromium, headless."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from .helpers import DEMO, run

CHROMIUM, DRIVER = shutil.which("chromium"), shutil.which("chromedriver")
needs_browser = pytest.mark.skipif(
    not (CHROMIUM and DRIVER), reason="needs chromium and chromedriver (Debian: chromium-driver)"
)

NASTY = """start: a
goal: b
name: "<script>document.title='gone'</script> & \\"מגדל\\""
items: {key: {label: x}}
rooms:
  a: {label: "</script><b>bold</b>", items: [key]}
  b: {label: "טחנה ישנה"}
passages: [a <-> b: {lock: key, name: door}]
"""


@pytest.fixture(scope="module")
def pages(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    folder = tmp_path_factory.mktemp("pages")
    (folder / "nasty.yaml").write_text(NASTY, encoding="utf-8")
    one = folder / ("longname" * 12) / "wasted-key.yaml"
    one.parent.mkdir()
    one.write_bytes((DEMO / "wasted-key.yaml").read_bytes())
    made = {
        "one": [one],
        "map": [DEMO / "flooded-cellar.yaml"],
        "all": sorted(DEMO.glob("*.yaml")),
        "nasty": [folder / "nasty.yaml"],
    }
    for name, levels in made.items():
        done = run("report", *levels, "-o", folder / f"{name}.html")
        assert done.returncode == 0, done.stderr
    return {name: folder / f"{name}.html" for name in made}


@pytest.fixture(scope="module")
def browser() -> Iterator[Any]:
    from selenium import webdriver

    options = webdriver.ChromeOptions()
    options.binary_location = str(CHROMIUM)
    for argument in ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"):
        options.add_argument(argument)
    driver = webdriver.Chrome(options=options, service=webdriver.ChromeService(str(DRIVER)))
    yield driver
    driver.quit()


def look(browser: Any, page: Path, width: int = 1280) -> Any:
    size = {"width": width, "height": 800, "deviceScaleFactor": 1, "mobile": width < 600}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    browser.get(page.as_uri())
    return lambda selector: browser.find_elements("css selector", selector)


def test_the_page_needs_nothing_but_itself(pages: dict[str, Path]) -> None:
    for page in pages.values():
        text = page.read_text(encoding="utf-8")
        assert not re.findall(r"(?:src|href)=[\"'](?!#)", text)
        assert "http" not in text
        assert text.count("<article") == text.count("</article>")


@needs_browser
def test_a_route_is_stepped_through_with_buttons_and_keys(
    browser: Any, pages: dict[str, Path]
) -> None:
    find = look(browser, pages["one"])
    find("select")[0].send_keys("Mistake")
    assert find(".now")[0].text == "Step 0 of 3: at the start. In quay."
    assert find(".carried tbody")[0].text == "nothing"
    find("[data-go=on]")[0].click()
    assert find(".carried tbody")[0].text == "iron-key 1 (+1)"
    assert "gone" in find("[data-lying='quay/iron-key']")[0].get_attribute("class")
    find("[data-go=on]")[0].send_keys("\ue014")  # the right arrow
    assert [one.get_attribute("data-room") for one in find(".here")] == ["granary"]
    assert not find("[data-opens].open")
    find("[data-go=on]")[0].send_keys("\ue010")  # end
    assert "No run finishes the level after this" in find(".now")[0].text
    assert find(".carried tbody")[0].text == "iron-key 0 (−1)"
    assert [one.get_attribute("data-opens") for one in find("[data-opens].open")] == ["store-door"]
    find("input[type=range]")[0].send_keys("\ue012")  # the slider's own left arrow
    assert find(".now")[0].text.startswith("Step 2 of 3")
    assert "step 2 of 3" in find("input[type=range]")[0].get_attribute("aria-valuetext")
    assert find("[role=status]")[0].get_attribute("aria-live") == "polite"


@needs_browser
def test_what_was_put_down_is_told(browser: Any, tmp_path: Path) -> None:
    level = tmp_path / "hands.yaml"
    level.write_text(
        "start: quay\ngoal: at mill and oak\nitems: {lamp: {}, oak: {}}\nrooms: {quay: {}, mill: {items: oak}}\n"
        "inventory: {start: lamp, slots: 1, drop: true}\npassages: [quay <-> mill: {gate: lamp}]\n"
    )
    run("report", level, "-o", tmp_path / "hands.html")
    find = look(browser, tmp_path / "hands.html")
    find("[data-go=last]")[0].click()
    assert find(".down")[0].text == "1 lamp in mill"


@needs_browser
def test_maps_are_stepped_through_too(browser: Any, pages: dict[str, Path]) -> None:
    find = look(browser, pages["map"])
    find("[data-go=last]")[0].click()
    assert [one.get_attribute("data-room") for one in find(".here")] == ["bell-stair"]
    assert {one.get_attribute("data-opens") for one in find("[data-opens].open")} == {
        "grating",
        "loft-door",
    }
    assert "crowbar" in find(".carried tbody")[0].text


@needs_browser
@pytest.mark.parametrize("width", [1280, 390])
def test_pages_fit_their_window_and_everything_has_a_name(
    browser: Any, pages: dict[str, Path], width: int
) -> None:
    for name, page in pages.items():
        find = look(browser, page, width)
        assert (
            name and browser.execute_script("return document.documentElement.scrollWidth") <= width
        )
        assert all(button.accessible_name for button in find("button, select, input"))
        assert all(picture.get_attribute("aria-label") for picture in find("svg"))
        errors = [one for one in browser.get_log("browser") if one["level"] == "SEVERE"]
        assert not errors


@needs_browser
def test_odd_names_are_text(browser: Any, pages: dict[str, Path]) -> None:
    find = look(browser, pages["nasty"])
    assert "gone" not in browser.title.replace("document.title='gone'", "")
    assert find("h2 bdi")[0].text == "<script>document.title='gone'</script> & \"מגדל\""
    texts = [one.text for one in find("svg text")]
    assert "</script><b>bold</b>" in texts
    assert "טחנה ישנה" in texts
    assert not find("b b, svg b")
    find("[data-go=last]")[0].click()
    assert "In b" in find(".now")[0].text


@needs_browser
def test_several_levels_begin_with_an_index(browser: Any, pages: dict[str, Path]) -> None:
    find = look(browser, pages["all"])
    links = find("nav a")
    assert len(links) == len(find("article")) == len(list(DEMO.glob("*.yaml")))
    for link in links:
        assert find(link.get_attribute("href").partition("#")[2].join(["#", ""]))
    assert len({one.get_attribute("id") for one in find("article")}) == len(links)


def test_bad_calls_leave_nothing_behind(tmp_path: Path) -> None:
    bad = tmp_path / "bad.yaml"
    bad.write_text("start: quay\ngoal: mill\nrooms: [quay]\n")
    for args in (
        [bad, "-o", tmp_path / "x.html"],
        [DEMO / "tide-mill.yaml", "-o", tmp_path / "no" / "x.html"],
    ):
        done = run("report", *args)
        assert done.returncode == 2
        assert "Traceback" not in done.stderr
    assert [one.name for one in tmp_path.iterdir()] == ["bad.yaml"]
