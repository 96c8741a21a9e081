"""The rules of play, one by one: each level is made so that a single rule decides the answer."""

from __future__ import annotations

import pytest

import ukemi

from .helpers import check

TWO = "start: quay\ngoal: mill\nrooms: {quay: {%s}, mill: {%s}}\n"

# Each row: the rule, the level, and what follows: the steps of the shortest finishing run (None
# where there is none), whether anyone can get stuck, and whether the player can die.
RULES = [
    ("a door is unlocked by a move of its own and stays open",
     TWO % ("items: key", "") + "items: {key: {use: spent}}\npassages: [quay <-> mill: {lock: key}]", 3, "never", "no"),
    ("a kept key opens every door of its lock",
     "start: a\ngoal: c\nitems: {key: {}}\nlocks: {k: {needs: key}}\nrooms: {a: {items: key}, b: {}, c: {}}\n"
     "passages: [a <-> b: {lock: k}, b <-> c: {lock: k}]", 5, "never", "no"),
    ("unlocking one door of a lock together unlocks all, for one key",
     "start: a\ngoal: c\nitems: {key: {use: spent}}\nlocks: {k: {needs: key, together: true}}\n"
     "rooms: {a: {items: key}, b: {}, c: {}}\npassages: [a <-> b: {lock: k}, b <-> c: {lock: k}]", 4, "never", "no"),
    ("a door that relocks takes a key for each walk",
     TWO % ("items: {key: 2}", "") + "items: {key: {use: spent}}\n"
     "passages: [quay <-> mill: {lock: {needs: key, relocks: true}}]", 2, "possible", "no"),
    ("a door that relocks can only be walked from where it can be unlocked",
     "start: quay\ngoal: quay and gem\nitems: {gem: {}}\nflags: [quay]\nrooms: {quay: {acts: {x: {sets: quay}}}, mill: {items: gem}}\n"
     "passages: [quay <-> mill: {lock: {relocks: true, from: quay}}]", 3, "possible", "no"),
    ("a lock is unlocked from its own side only",
     TWO % ("", "") + "passages: [quay <-> mill: {lock: {from: mill}}]", None, "possible", "no"),
    ("a one-way door is unlocked from its near end",
     "start: quay\ngoal: mill\nrooms: [quay, mill, yard]\n"
     "passages: [quay <-> yard, yard -> mill: {lock: {}}]", 3, "never", "no"),
    ("each alternative of a lock spends its own keys",
     "start: quay\ngoal: iron and at mill\nitems: {iron: {use: spent}, oak: {use: spent}}\n"
     "rooms: {quay: {items: [iron, oak]}, mill: {}}\npassages: [quay <-> mill: {lock: iron or oak}]", 4, "possible", "no"),
    ("`spends: nothing` spares the key",
     "start: quay\ngoal: key and at mill\nitems: {key: {use: spent}}\nrooms: {quay: {items: key}, mill: {}}\n"
     "passages: [quay <-> mill: {lock: {needs: key, spends: nothing}}]", 3, "never", "no"),
    ("`all` counts what was placed, whatever was spent",
     TWO % ("items: {key: 2}", "") + "items: {key: {use: spent}}\n"
     "passages: [quay <-> mill: {gate: all key}]", 3, "never", "no"),
    ("a gate takes nothing and is asked at each walk",
     "start: quay\ngoal: quay and gem\nitems: {gem: {}, lamp: {}}\nflags: [quay]\n"
     "rooms: {quay: {items: lamp, acts: {x: {sets: quay}}}, mill: {items: gem}}\n"
     "passages: [quay <-> mill: {gate: lamp}]", 4, "never", "no"),
    ("a passage that collapses is walked once, whichever way",
     "start: quay\ngoal: at quay and gem\nitems: {gem: {}}\nrooms: {quay: {}, mill: {items: gem}}\n"
     "passages: [quay <-> mill: {once: true}]", None, "possible", "no"),
    ("a walk costs its steps, finishing nothing",
     TWO % ("", "") + "passages: [quay -> mill: {steps: 7}]", 7, "never", "no"),
    ("items may be taken only when what they need holds",
     "start: quay\ngoal: key\nitems: {key: {}}\nrooms: {quay: {items: {key: {needs: done search}}, acts: {search: {}}}}", 2, "never", "no"),
    ("what is spent must be carried, what is lost need not be",
     TWO % ("acts: {pay: {spends: coin, sets: paid}, drop-all: {loses: {coin: 5}, sets: paid}}", "")
     + "items: {coin: {}}\npassages: [quay -> mill: {gate: paid}]", 2, "never", "no"),
    ("what is spent is taken before what is given is handed over",
     "start: quay\ngoal: done trade\nitems: {bag: {max: 1}}\ninventory: {start: bag}\n"
     "rooms: {quay: {acts: {trade: {spends: bag, gives: bag}}}}", 1, "never", "no"),
    ("a flag set and another flipped in one move",
     "start: quay\ngoal: lit and not wet\nflags: {wet: true}\nrooms: {quay: {acts: {x: {sets: lit, flips: wet}}}}", 1, "never", "no"),
    ("a switch can be used again, with `once` it cannot",
     "start: quay\ngoal: mark\nitems: {mark: {}}\nrooms: {quay: {switches: {a: {flips: on, once: true}, b: {flips: on, once: true}},\n"
     "  items: {mark: {needs: not on and done a}}}}", 3, "never", "no"),
    ("a supply is cut off at its max, and can be taken all the same",
     "start: quay\ngoal: 2 grain\nitems: {grain: {kind: supply, max: 2}}\nrooms: {quay: {items: {grain: 5}}}", 2, "never", "no"),
    ("what does not fit cannot be handed over",
     "start: quay\ngoal: opened chest\nitems: {gem: {max: 1}}\ninventory: {start: gem}\n"
     "rooms: {quay: {chests: {chest: {holds: gem}}}}", None, "possible", "no"),
    ("slots bound what is carried; what weighs nothing fits",
     "start: quay\ngoal: gem and note\nitems: {gem: {}, note: {slots: 0}}\ninventory: {slots: 1}\n"
     "rooms: {quay: {items: [gem, note]}}", 2, "never", "no"),
    ("what was put down can be taken again",
     "start: quay\ngoal: gem\nitems: {gem: {}, junk: {}}\ninventory: {slots: 1, start: junk, drop: true}\n"
     "rooms: {quay: {items: gem}}", 2, "never", "no"),
    ("what follows a pickup happens once, not when it is taken again",
     "start: quay\ngoal: 2 coin\nitems: {coin: {}, purse: {on-pickup: {gives: coin}}}\ninventory: {drop: true}\n"
     "rooms: {quay: {items: purse}}", None, "possible", "no"),
    ("what follows a pickup follows from chests and acts too",
     "start: quay\ngoal: mill\nitems: {key: {on-pickup: {opens: door}}}\nrooms: {quay: {chests: {c: {holds: key}}}, mill: {}}\n"
     "passages: [quay <-> mill: {lock: key, name: door}]", 2, "never", "no"),
    ("a pickup that costs what is not carried cannot be made",
     "start: quay\ngoal: gem\nitems: {coin: {}, gem: {on-pickup: {spends: coin}}}\nrooms: {quay: {items: gem}}", None, "possible", "no"),
    ("`opens` with a lock's name opens every door of it",
     "start: a\ngoal: c\nitems: {key: {}}\nlocks: {k: {needs: key}}\nrooms: {a: {acts: {lever: {opens: k}}}, b: {}, c: {}}\n"
     "passages: [a <-> b: {lock: k}, b <-> c: {lock: k}]", 3, "never", "no"),
    ("under touch a key is taken, wanted or not, and finishing ends the level",
     "start: quay\ngoal: mill and not key\nitems: {key: {}}\nflags: [mill]\nrooms: {quay: {}, loft: {items: key, acts: {x: {sets: mill}}}}\n"
     "rules: {pickup: touch, finish: touch}\npassages: [quay <-> loft]", None, "possible", "no"),
    ("touch takes in the order of the file what fits",
     "start: quay\ngoal: oak\nitems: {iron: {}, oak: {}}\ninventory: {slots: 1}\nrules: {pickup: touch}\n"
     "rooms: {quay: {items: [iron, oak]}}", None, "possible", "no"),
    ("touch at the goal's room counts before the goal is looked at",
     TWO.replace("goal: mill", "goal: gem") % ("", "items: gem") + "items: {gem: {}}\nrules: {pickup: touch, finish: touch}\n"
     "passages: [quay -> mill]", 1, "never", "no"),
    ("a vital supply at 0 ends the run, before the goal is looked at",
     TWO % ("", "") + "items: {air: {kind: supply, vital: true}}\ninventory: {start: air}\nrules: {finish: touch}\n"
     "passages: [quay -> mill: {loses: air}]", None, "possible", "yes"),
    ("a supply touched on entering saves the player",
     TWO % ("", "items: air") + "items: {air: {kind: supply, vital: true}}\ninventory: {start: air}\nrules: {pickup: touch}\n"
     "passages: [quay -> mill: {loses: air}]", 1, "never", "no"),
    ("`opened` and `done` remember",
     "start: quay\ngoal: opened c and done s and not on\nrooms: {quay: {chests: {c: {}}, switches: {s: {flips: on}}}}", 3, "never", "no"),
    ("playing on at the goal can lose the level, where finishing is a choice",
     "start: quay\ngoal: not wet\nrooms: {quay: {acts: {flood: {sets: wet}}}}", 0, "possible", "no"),
    ("and cannot where touching the goal ends it",
     "start: quay\ngoal: not wet\nrules: {finish: touch}\nrooms: {quay: {acts: {flood: {sets: wet}}}}", 0, "never", "no"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("rule", "level", "steps", "stuck", "deadly"), RULES, ids=[row[0] for row in RULES]
)
def test_rule(rule: str, level: str, steps: int | None, stuck: str, deadly: str) -> None:
    report = check(level)
    finish = report.routes.get("finish")
    assert (finish.steps if finish else None) == steps
    assert report.answers.stuck == stuck
    assert report.answers.deadly == deadly
    assert report.search.complete


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{start: a, goal: a, items: {k: {}}, rooms: {a: {acts: {x: {gives: k, repeat: true}}}}}", "give 'k' a max"),
        ("{start: a, goal: a, items: {k: {}}, rooms: [a, b], passages: [a <-> b: {gives: k}]}", "give 'k' a max"),
        ("{start: a, goal: a, items: {k: {max: 2}}, inventory: {drop: true}, rooms: [a, b],"
         " passages: [a <-> b: {gives: k}]}", "pile up without end"),
        ("{start: a, goal: a, items: {k: {on-pickup: {gives: j}}, j: {on-pickup: {gives: k}}}, rooms: [a]}", "without end"),
        ("{start: a, goal: a, items: {k: {on-pickup: {gives: k}}}, rooms: [a]}", "gives 'k' again, without end"),
        ("{start: a, goal: a, items: {" + ", ".join(f"k{n}: {{on-pickup: {{gives: {{k{n + 1}: 9}}}}}}" for n in range(400))
         + ", k400: {}}, rooms: [a]}", "more than 1000 pickups"),
        ("{start: a, goal: a, items: {k: {on-pickup: {sets: f}}}, rooms: {a: {chests: {c: {holds: {k: 5000}}}}}}", "more than 1000 pickups"),
        ("{start: a, goal: a, items: {k: {kind: supply, vital: true}}, rooms: [a]}", "starts at 0"),
        ("{start: a, goal: a, items: {k: {vital: true}}, inventory: {start: k}, rooms: [a]}", "kind must be supply"),
        ("{start: a, goal: a, items: {k: {max: 1}}, inventory: {start: {k: 2}}, rooms: [a]}", "1 is its max"),
        ("{start: a, goal: a, items: {k: {}}, inventory: {start: {k: 2}, slots: 1}, rooms: [a]}", "2 slots full"),
        ("{start: a, goal: a, locks: {l: {together: true}}, rooms: {a: {chests: {c: {lock: l}}}}}", "doors only"),
        ("{start: a, goal: a, rooms: {a: {chests: {c: {lock: {relocks: true}}}}}}", "doors only"),
        ("{start: a, goal: a, rooms: [a, b], passages: [a <-> b: {lock: {together: true}}]}", "describe it under locks"),
        ("{start: a, goal: a, rooms: [a, b, c], passages: [a <-> b: {lock: {from: c}}]}", "not one of its ends"),
        ("{start: a, goal: a, rooms: {a: {acts: {x: {sets: f, clears: f}}}}}", "contradicting-effects"),
        ("{start: a, goal: a, rooms: {a: {acts: {x: {opens: d}}}, b: {}}, passages: [a <-> b: {lock: {relocks: true}, name: d}]}",
         "cannot be opened from afar"),
        ("{start: a, goal: a, items: {k: {}}, rooms: {a: {acts: {x: {sets: k}}}}}", "both an item and a flag"),
        ("{start: a, goal: a, items: {k: {}}, locks: {k: {needs: k}}, rooms: [a, b], passages: [a <-> b: {lock: k}]}",
         "both a lock and an item"),
        ("{start: a, goal: a, items: {a: {}}, rooms: [a]}", "write `at a`"),
        ("{start: a, goal: opened d, rooms: [a, b], passages: [a <-> b: {name: d}]}", "a passage without a lock"),
        ("{start: a, goal: 2 lit, rooms: {a: {acts: {x: {sets: lit}}}}}", "on or off, not counted"),
        ("{start: a, goal: a, items: {and: {}}, rooms: [a]}", "a word of the condition language"),
        ("{start: a, goal: a, items: {g: {kind: reward}}, rooms: [a, b], passages: [a <-> b: {gives: g, once: true}]}",
         "let a chest or an act give it"),
        ("{start: a, goal: a, rooms: {a: {acts: {x: {sets: f}}}}, passages: ["
         + "a -> a: {lock: '" + " and ".join(f"({'not ' * (n % 2)}f or a{n})" for n in range(9)) + "'}], flags: ["
         + ", ".join(f"a{n}" for n in range(9)) + "]}", "more than 200 ways"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_told(text: str, says: str) -> None:
    import ukemi

    with pytest.raises(ukemi.LevelError) as caught:
        ukemi.loads(text, "mill.yaml")
    assert says in str(caught.value)
    assert all(problem.place is not None for problem in caught.value.problems)


def test_a_move_names_all_that_it_spends() -> None:
    level = ukemi.loads(
        "{start: quay, goal: ledger, items: {ledger: {}, oak: {use: spent}, iron: {use: spent}},"
        " rooms: {quay: {items: {oak: 3, iron: 1},"
        " chests: {bin: {lock: oak, spends: {oak: 2, iron: 1}, holds: ledger}}}}, passages: []}"
    )
    move = ukemi.check(level).routes["finish"].moves[-2]
    assert move.what == {"do": "open", "name": "bin", "with": {"oak": 3, "iron": 1}}


def test_the_gate_of_a_room_is_asked_at_each_way_in() -> None:
    """As if each passage that leads there asked for it: in files, in Python, in tables and graphs."""
    text = """
start: quay
goal: loft
items: {lantern: {}, oak-key: {}}
rooms: {quay: {items: lantern}, cave: {gate: lantern, items: oak-key}, loft: {}}
passages:
  - quay <-> cave: {name: crack}
  - quay <-> loft: {lock: oak-key, name: loft-door}
"""
    level = ukemi.loads(text)
    report = ukemi.check(level)
    assert report.routes["finish"].steps == 6 and report.sound
    dark = ukemi.check(ukemi.loads(text.replace("quay: {items: lantern}", "quay: {}")))
    (error,) = dark.with_code("cannot-finish")
    assert error.why.startswith("Needs 1 lantern to walk to cave by crack")
    built = ukemi.loads(text.replace("gate: lantern, ", ""))
    built.rooms["cave"].gate = level.rooms["cave"].gate
    assert ukemi.loads(ukemi.dumps(built)) == level
    with pytest.raises(ukemi.LevelError, match="'lanten' is not the name of an item"):
        ukemi.loads(text.replace("gate: lantern", "gate: lanten"))
