"""Lay out a small level in Python, check it, mend it, and check it again.

Run it as it stands: ``python examples/check_a_level.py``.
"""

import ukemi


def tide_mill(pit_key: str) -> ukemi.Level:
    """The mill, with a given key for the pit door."""
    level = ukemi.Level("The Tide Mill")
    level.item("iron-key", use="spent", color="slategray")
    level.item("brass-key", use="spent", color="goldenrod")
    level.item("ledger", kind="reward")
    level.room("quay", items=["iron-key", "brass-key"])
    level.room("granary")
    level.room("store-room", items="ledger")
    level.room("bell-loft")
    level.passage("quay <-> granary")
    level.passage("granary <-> store-room", lock="iron-key", name="store-door")
    level.passage("granary <-> bell-loft", lock=pit_key, name="loft-door")
    level.set_start("quay")
    level.set_goal("bell-loft")
    return level


def main() -> None:
    """Check the level with a shared key, and with a key of its own for each door."""
    for key in ("iron-key", "brass-key"):
        report = ukemi.check(tide_mill(key))
        print(f"loft-door needs {key}: {report}")
        for finding in report.findings:
            print(f"  {finding.severity}: {finding.message} {finding.why}.")
            if finding.route:
                print(f"  route: {finding.route}")
    print(f"shortest run: {report.routes['finish'].steps} steps")


if __name__ == "__main__":
    main()
