"""The page of a report, in a real browser: Debian's chromium, headless."""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import tarfile
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest

import ukemi

from .clock import wait_for
from .helpers import DEMO, ROOT, run

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
        "all": [DEMO / f"{name}.yaml" for name in ("ground-floor", "tide-mill", "two-at-the-gate")],
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
    assert "Step 3 of 3" in find(".now")[0].text  # it opens on the problem
    find("[data-go=first]")[0].click()
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
    find("select")[0].send_keys("Shortest")
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
    assert len(links) == len(find("article")) == 3
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


@needs_browser
def test_the_map_is_read_zoomed_and_shows_the_way(browser: Any, tmp_path: Path) -> None:
    from benchmarks.families import designed

    (tmp_path / "forty.html").write_text(ukemi.check(designed(40, 1)).to_html(), encoding="utf-8")
    find = look(browser, tmp_path / "forty.html")

    def smallest() -> float:
        return float(
            browser.execute_script(
                "const svg = document.querySelector('.map svg'),"
                " k = svg.getBoundingClientRect().width / svg.viewBox.baseVal.width;"
                "return Math.min(...[...svg.querySelectorAll('text')].map("
                "(one) => k * parseFloat(getComputedStyle(one).fontSize)));"
            )
        )

    def wide() -> float:
        return float(find(".map svg")[0].rect["width"])

    assert wide() <= find(".map")[0].rect["width"]  # the whole level first
    assert find(".map svg")[0].rect["height"] <= 600
    find("[data-zoom=read]")[0].click()
    assert smallest() >= 10.99
    first = wide()
    find("[data-zoom=in]")[0].click()
    assert wide() > first * 1.2
    find(".map")[0].send_keys("-")
    assert abs(wide() - first) < 2
    find("[data-zoom=fit]")[0].click()
    assert wide() <= find(".map")[0].rect["width"]
    find(".map")[0].send_keys("0")
    assert smallest() >= 10.99
    find("[data-go=last]")[0].click()
    here, frame = find(".here")[0].rect, find(".map")[0].rect
    assert frame["x"] <= here["x"] and here["x"] + here["width"] <= frame["x"] + frame["width"] + 1
    assert len(find("svg .trail")[0].get_attribute("d")) > 50
    assert not find("svg .ahead")[0].get_attribute("d")
    find = look(browser, pages_map(tmp_path))
    find("[data-go=on]")[0].click()
    # on a tile map the way goes from cell to cell: straight lines only
    points = re.findall(r"[ML]([0-9.]+) ([0-9.]+)", find("svg .trail")[0].get_attribute("d"))
    assert len(points) > 2
    assert all(a[0] == b[0] or a[1] == b[1] for a, b in pairwise(points))


def pages_map(folder: Path) -> Path:
    run("report", DEMO / "ground-floor.yaml", "-o", folder / "floors.html")
    return folder / "floors.html"


@needs_browser
def test_a_row_points_at_its_thing_and_findings_are_sifted(browser: Any, tmp_path: Path) -> None:
    run("report", DEMO / "jumbled-keys.yaml", DEMO / "wasted-key.yaml", "-o", tmp_path / "two.html")
    find = look(browser, tmp_path / "two.html")
    for name, pointed in (("pit-door", "[data-opens=pit-door]"), ("quay", "[data-room=quay]"),
                          ("granary/meal-chest", None), ("search-the-nets", "[data-does=search-the-nets]"),
                          ("store-room/ledger", "[data-lying='store-room/ledger']")):  # fmt: skip
        rows = find(f"#level-0 .things tr[data-name='{name}'] button")
        if pointed is None:
            assert not rows  # no reward is in it
            continue
        rows[0].click()
        assert rows[0].get_attribute("aria-pressed") == "true"
        assert "pointed" in find(f"#level-0 svg {pointed}")[0].get_attribute("class")
    shown = lambda: [one for one in find("#level-1 .finding") if one.is_displayed()]  # noqa: E731
    every = len(shown())
    assert every > 1
    find("#level-1 [data-words]")[0].send_keys("ledger")
    assert 0 < len(shown()) < every and "of" in find("#level-1 .left")[0].text
    find("#level-1 [data-words]")[0].clear()
    find("#level-1 [data-words]")[0].send_keys(" ")
    find("#level-1 [data-severity=error][type=checkbox]")[0].click()
    assert all(one.get_attribute("data-severity") != "error" for one in shown())


@needs_browser
@pytest.mark.skipif(not shutil.which("npm"), reason="needs npm, for axe-core")
def test_nothing_keeps_a_screen_reader_out(
    browser: Any, pages: dict[str, Path], tmp_path: Path
) -> None:
    fetched = subprocess.run(
        ["npm", "pack", "axe-core"], cwd=tmp_path, capture_output=True, text=True
    )
    if fetched.returncode:
        pytest.skip("npm cannot fetch axe-core here")
    with tarfile.open(tmp_path / fetched.stdout.split()[-1]) as packed:
        axe = packed.extractfile("package/axe.min.js")
        assert axe is not None
        script = axe.read().decode()
    for name in ("all", "map", "nasty"):
        look(browser, pages[name])
        browser.execute_script(script)
        found = browser.execute_async_script("axe.run().then(arguments[arguments.length - 1])")
        grave = [one for one in found["violations"] if one["impact"] in ("serious", "critical")]
        assert not grave, [(one["id"], one["nodes"][0]["html"][:200]) for one in grave]


def test_a_page_grows_no_faster_than_its_level() -> None:
    from benchmarks.families import hall

    small, large = (len(ukemi.check(hall(rooms)).to_html()) for rooms in (40, 80))
    assert large < 2.2 * small


@contextmanager
def served(level: Path) -> Iterator[tuple[str, subprocess.Popen[str]]]:
    """The page of a level that is watched: its address, and the command."""
    watching = subprocess.Popen(
        [sys.executable, "-m", "ukemi", "watch", "--page", str(level)],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, encoding="utf-8",
        env={**os.environ, "PYTHONPATH": str(ROOT / "src"), "PYTHONUNBUFFERED": "1"},
    )  # fmt: skip
    try:
        assert watching.stdout is not None
        address = ""
        while not address.startswith("The report: "):
            address = watching.stdout.readline()
            assert address, "the command ended"
        yield address.removeprefix("The report: ").strip(), watching
    finally:
        watching.terminate()
        watching.communicate(timeout=30)


@needs_browser
def test_a_page_that_is_watched_renews_itself_where_it_was(browser: Any, tmp_path: Path) -> None:
    level = tmp_path / "mill.yaml"
    text = (DEMO / "wasted-key.yaml").read_text()
    level.write_text(text)
    find = lambda selector: browser.find_elements("css selector", selector)  # noqa: E731
    with served(level) as (address, watching):
        browser.get(address)
        find("select")[0].send_keys("Shortest")
        find("[data-go=on]")[0].click()
        find("[data-go=on]")[0].click()
        find("[data-zoom=in]")[0].click()
        wide = find(".map svg")[0].rect["width"]
        level.write_text(text.replace("use: spent, color: slategray", "color: slategray"))
        verdict = "return document.querySelector('.verdict')?.textContent ?? ''"
        # an element that was found may be gone before it is read
        wait_for(lambda: "players never get stuck" in browser.execute_script(verdict))
        assert "players never get stuck" in find(".verdict")[0].text
        assert find(".now")[0].text.startswith("Step 2 of")
        assert abs(find(".map svg")[0].rect["width"] - wide) < 30
        level.write_text("goal: [")
        wait_for(lambda: find(".notice"))
        assert "the `[` is not closed" in find(".notice")[0].text and find(".verdict")
        watching.send_signal(signal.SIGINT)
        assert watching.wait(timeout=10) == 0


def test_only_the_page_itself_may_ask(tmp_path: Path) -> None:
    level = tmp_path / "mill.yaml"
    level.write_text((DEMO / "wasted-key.yaml").read_text())

    def code(address: str, data: bytes | None = None, **headers: str) -> int:
        request = urllib.request.Request(address, data, headers)
        try:
            with urllib.request.urlopen(request) as found:
                return int(found.status)
        except urllib.error.HTTPError as error:
            error.close()
            return error.code

    with served(level) as (address, _):
        found = re.fullmatch(r"(http://127\.0\.0\.1:[0-9]+)/[\w-]{20,}/", address)
        assert found and code(address) == 200
        assert code(address, Host="mill.example") == 400
        assert {code(f"{found[1]}/{path}") for path in ("", "changes", "no-word/")} == {404}
        write = f"{address}write?level=0&suppose=no+lock+store-door"
        for origin in ({}, {"Origin": "http://mill.example"}, {"Origin": "null"}):
            assert code(write, b"", **origin) == 403
        assert code(f"{found[1]}/write?level=0&suppose=start+granary", b"", Origin=found[1]) == 404
        assert level.read_text() == (DEMO / "wasted-key.yaml").read_text()
        assert code(f"{address}write?level=7&suppose=start+granary", b"", Origin=found[1]) == 409
        assert code(write, b"", Origin=found[1]) == 200
        assert "{granary <-> store-room: {name: store-door}}" in level.read_text()


@needs_browser
def test_what_if_is_asked_taken_back_and_written_on_the_page(browser: Any, tmp_path: Path) -> None:
    from selenium.webdriver import ActionChains

    level = tmp_path / "mill.yaml"
    text = (DEMO / "wasted-key.yaml").read_text()
    level.write_text(text)
    find = lambda selector: browser.find_elements("css selector", selector)  # noqa: E731
    said = lambda: [one.text.partition(" take")[0] for one in find(".said li")]  # noqa: E731
    with served(level) as (address, _):
        browser.get(address)
        assert "can get stuck" in find(".verdict")[0].text
        ActionChains(browser).move_to_element(
            find("svg [data-opens=pit-door]")[0]
        ).click().perform()
        offered = [one.text for one in find(".menu a")]
        assert offered == ["open pit-door", "no lock pit-door", "shut pit-door"]
        browser.switch_to.active_element.send_keys("\ue00c")  # Escape
        assert not find(".menu")[0].is_displayed()
        ActionChains(browser).move_to_element(
            find("svg [data-opens=pit-door]")[0]
        ).click().perform()
        browser.switch_to.active_element.send_keys("\ue007")  # Enter: the first has the focus
        wait_for(lambda: said() == ["open pit-door"])
        assert "never get stuck" in find(".verdict")[0].text
        assert "supposed" in find("svg [data-opens=pit-door]")[0].get_attribute("class")
        assert "better: players can no longer get stuck" in find(".supposing")[0].text
        find("input[name=suppose][type=text]")[0].send_keys("iron-key in granary\ue007")
        wait_for(lambda: said() == ["open pit-door", "iron-key in granary"])
        find(".said a")[0].click()
        wait_for(lambda: said() == ["iron-key in granary"])
        assert level.read_text() == text
        find("form[method=post] button")[0].click()
        wait_for(lambda: "suppose" not in browser.current_url and not said())
        assert "granary: {items: [iron-key]}" in level.read_text()
        wait_for(lambda: "never get stuck" in find(".verdict")[0].text)
        find("tr[data-name=ledger] button, tr[data-name='store-room/ledger'] button")[0].click()
        assert [one.text for one in find(".menu a")] == ["carry ledger", "carry 2 ledger"]
        browser.get(f"{address}?level=0&suppose=opne+pit-door")
        assert "cannot be supposed: write `open DOOR`" in find(".notice")[0].text and find("svg")
