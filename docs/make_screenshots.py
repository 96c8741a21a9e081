"""Make the pictures in docs/screenshots from the demo levels.

Run ``python docs/make_screenshots.py`` where Ukemi is installed. Pictures of the terminal need
Debian's xvfb, xterm, imagemagick and tmux; those of the page chromium and
chromium-driver.
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import ukemi
from ukemi.demo import DEMO_CAMPAIGN, DEMO_LEVELS, campaign_text
from ukemi.draw import draw_campaign, draw_inventory, draw_locks, draw_order, draw_pace, save

SHOTS = Path(__file__).parent / "screenshots"
DISPLAY = ":97"


def levels(folder: Path) -> None:
    """Write the demo levels into a folder."""
    for level in DEMO_LEVELS:
        (folder / level.file).write_text(level.text(), encoding="utf-8")
    for file in DEMO_CAMPAIGN:
        (folder / file).write_text(campaign_text(file), encoding="utf-8")


def terminal(name: str, command: str, folder: Path, size: str = "140x110") -> None:
    """Take a picture of a terminal window in which a command has run."""
    server = subprocess.Popen(
        ["Xvfb", DISPLAY, "-screen", "0", "1280x2100x24"], stderr=subprocess.DEVNULL
    )
    environment = {**os.environ, "DISPLAY": DISPLAY}
    environment["PATH"] = f"{Path(sys.executable).parent}:{environment['PATH']}"
    time.sleep(1)
    lines = size.partition("x")[2]  # of more output, the first lines
    shown = f"FORCE_COLOR=1 {command} | head -n $(({lines} - 2))"
    script = f"tput civis; echo '$ {command}'; {shown}; sleep 20"
    if command.startswith("tmux"):
        script = command
    look = ["-fa", "DejaVu Sans Mono", "-fs", "11", "-bg", "#14161a", "-fg", "#e8e8e8", "-b", "8"]
    window = subprocess.Popen(
        ["xterm", "-geometry", f"{size}+0+0", *look, "-e", "bash", "-c", script],
        env=environment,
        cwd=folder,
    )
    try:
        time.sleep(9)
        shot = str(SHOTS / f"{name}.png")
        subprocess.run(["import", "-window", "root", shot], env=environment, check=True)
        border = ["-bordercolor", "#14161a", "-border", "16"]
        subprocess.run(
            ["mogrify", "-fuzz", "4%", "-trim", "+repage", "-trim", "+repage", *border, shot],
            check=True,
        )
    finally:
        window.kill()
        server.terminate()
        server.wait()


def playing(folder: Path) -> list[str]:
    """Start a play in a terminal of its own, type some moves, and say how to look at it."""
    tmux = ["tmux", "-L", "ukemi-shots", "-f", "/dev/null"]
    command = f"{sys.executable} -m ukemi play wasted-key.yaml"
    start = [*tmux, "new-session", "-d", "-x", "110", "-y", "52", command]
    subprocess.run(start, check=True, cwd=folder)
    subprocess.run([*tmux, "set", "status", "off"], check=True)
    time.sleep(2)
    for line in ("take iron-key", "go granary", "unlock store-door", "why pit-door", "undo"):
        subprocess.run([*tmux, "send-keys", line, "Enter"], check=True)
        time.sleep(1)
    return tmux


def page(folder: Path, files: list[str]) -> None:
    """Take pictures of the page of a report, wide and narrow, in the middle of a route."""
    subprocess.run(
        [sys.executable, "-m", "ukemi", "report", *files, "-o", "report.html"],
        cwd=folder,
        check=True,
    )
    from selenium import webdriver

    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium") or ""
    for argument in ("--headless=new", "--no-sandbox", "--hide-scrollbars"):
        options.add_argument(argument)
    service = webdriver.ChromeService(shutil.which("chromedriver"))
    browser = webdriver.Chrome(options=options, service=service)
    try:
        for name, width, dark in (("report", 1280, False), ("report-narrow", 390, True)):
            size = {"width": width, "height": 800, "deviceScaleFactor": 1, "mobile": dark}
            browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
            scheme = {"name": "prefers-color-scheme", "value": "dark" if dark else "light"}
            browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": [scheme]})
            browser.get((folder / "report.html").as_uri() + "#level-1")
            browser.find_elements("css selector", "article")[1].find_element(
                "css selector", "select"
            ).send_keys("Mistake")
            buttons = browser.find_elements("css selector", "[data-go=last]")
            browser.execute_script("arguments[0].click()", buttons[1])
            browser.save_screenshot(str(SHOTS / f"{name}.png"))
    finally:
        browser.quit()


def main() -> None:
    """Make every picture."""
    SHOTS.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        levels(folder)
        save(draw_pace(ukemi.check(folder / "jumbled-keys.yaml")), SHOTS / "draw-pace.png")
        wasted = ukemi.check(folder / "wasted-key.yaml")
        (stuck,) = wasted.with_code("can-get-stuck")
        ukemi.draw_map(wasted.level, SHOTS / "draw-stuck.png", route=stuck.route)
        floors = ukemi.check(folder / "ground-floor.yaml")
        ukemi.draw_map(floors.level, SHOTS / "draw-map.png", route=floors.routes["finish"])
        cellar = ukemi.check(folder / "flooded-cellar.yaml")
        (slide,) = cellar.with_code("can-get-stuck")
        ukemi.draw_map(cellar.level, SHOTS / "draw-map-stuck.png", route=slide.route)
        save(draw_inventory(floors.level, floors.routes["finish"]), SHOTS / "draw-inventory.png")
        save(draw_order(cellar), SHOTS / "draw-order.png")
        both = ukemi.check(folder / "two-at-the-gate.yaml")
        ukemi.draw_map(both.level, SHOTS / "draw-players.png", route=both.routes["finish"])
        year = ukemi.check(folder / DEMO_CAMPAIGN[0])
        save(draw_campaign(year.level, year.answers.levels), SHOTS / "draw-campaign.png")
        save(draw_locks(floors), SHOTS / "draw-locks.png")
        command = ["scatter", "jumbled-keys.yaml", "-n", "60", "-o", "rounds", "--picture"]
        subprocess.run(
            [sys.executable, "-m", "ukemi", *command, SHOTS / "scatter.png"], cwd=folder, check=True
        )
        page(folder, ["wasted-key.yaml", "flooded-cellar.yaml"])
        changed = (folder / "tide-mill.yaml").read_text().replace("  - sluice-walk <-> quay\n", "")
        (folder / "changed.yaml").write_text(changed, encoding="utf-8")
        terminal("compare", "ukemi compare tide-mill.yaml changed.yaml", folder, "118x14")
        terminal("check", "ukemi check wasted-key.yaml", folder)
        terminal("mend", "ukemi mend wasted-key.yaml", folder)
        terminal("demo", "ukemi demo", folder)
        tmux = playing(folder)
        terminal("play", f"{' '.join(tmux)} attach", folder, "110x52")
        subprocess.run([*tmux, "kill-server"], check=True)
        architecture = Path(__file__).with_name("make_architecture.py")
        subprocess.run([sys.executable, architecture], check=True)
        crowd = ["crowd", "wasted-key.yaml", "-o", str(SHOTS / "crowd.png")]
        subprocess.run([sys.executable, "-m", "ukemi", *crowd], cwd=folder, check=True)


if __name__ == "__main__":
    main()
