"""Corrections of a file that cannot be read: each undoes a slip of the hand, where the reader stopped."""

from __future__ import annotations

import re
from collections.abc import Iterator
from difflib import get_close_matches
from typing import Any

from ..language import loads
from ..language.text.editing import REMOVED, Edit, edited_text, plain
from ..level import LevelError, Problem
from ..level.names import in_list
from ..values import replace
from .correction import LIKELY, POSSIBLE, SURE, UNLIKELY, Correction, alike
from .map_corrections import map_corrections
from .statements import acts_said

#: Lines before and after the one where the reader stopped in which a slip may be.
AROUND = 2
#: How often to read a text again that was mended in part.
MOST_READINGS = 4
#: How many places to try for a symbol that is on no map.
MOST_DRAWN = 60

#: Other words that people write for a value.
SYNONYMS = {
    "spent": ("consumed", "used", "uses", "once", "single", "consumable", "lost", "spend"),
    "kept": ("keep", "keeps", "permanent", "reusable", "forever", "many"),
    "reward": ("treasure", "prize", "loot", "collectible", "gem", "secret", "goal"),
    "tool": ("object", "thing", "gear", "equipment", "ability", "item"),
    "supply": ("resource", "ammo", "stock", "consumable", "food"),
    "key": ("keys", "keycard", "card"),
    "touch": ("auto", "automatic", "walk"),
    "choice": ("manual", "choose", "optional"),
    "true": ("yes", "on"),
    "false": ("no", "off"),
}

#: What other languages write for the signs and words of conditions and ways.
_SIGNS = (
    (r"(?<=[\w)\"' ])\s*&&?\s*(?=[\w(])", " and "),
    (r"(?<=[\w)\"' ])\s*\|\|?\s*(?=[\w(])", " or "),
    (r"(?<![\w<>])!\s*(?=[\w(])", "not "),
    (r"\bAND\b", "and"),
    (r"\bOR\b", "or"),
    (r"\bNOT\b", "not"),
)
_ARROWS = r"(?<=[\w\"']) +(<-->|<=+>|<-+>|--+>|=+>|<-+|<=+|--+|-|>|<|→|↔|to|and) +(?=[\w\"'])"


def text_corrections(text: str, error: LevelError) -> Iterator[Correction]:
    """Yield every correction of a text that cannot be read, by the problem that its reader reports."""
    yield from _near_names(text, error)
    lines = text.splitlines(keepends=True)
    spots = dict.fromkeys(one.place.line - 1 for one in error.problems[:3] if one.place is not None)
    for spot in spots:
        near = sorted(
            range(max(0, spot - AROUND), min(len(lines), spot + AROUND + 1)),
            key=lambda number, spot=spot: abs(number - spot),  # type: ignore[misc]
        )
        for number in near:
            far = 0.2 * abs(number - spot)
            for say, idea, unlikely, new in _of_line(lines, number):
                changed = "".join([*lines[:number], new, *lines[number + 1 :]])
                yield Correction(f"line {number + 1}: {say}", idea, unlikely + far, text=changed)
    for one in error.problems[:3]:
        if one.code == "duplicate-name" and one.place is not None and len(lines) >= one.place.line:
            spot = one.place.line - 1
            say = f"take out line {spot + 1}, which names {one.text} again"
            less = "".join([*lines[:spot], *lines[spot + 1 :]])
            yield Correction(say, "copied", SURE, text=less)
            for number in range(2, 4):
                other = f"{one.text.rstrip('0123456789')}{number}"
                say = f"call the second {one.text} {other}"
                yield Correction(say, "copied", LIKELY, text=_rewritten(text, one, other))
    if "\t" in text:
        for wide in (4, 2, 8):
            blanks = text.replace("\t", " " * wide)
            yield Correction(f"write {wide} blanks for a tab", "tabs", SURE, text=blanks)
    try:
        document = plain(text, error.file)
    except LevelError:
        return
    yield from _of_document(text, document, error)


def _near_names(text: str, error: LevelError) -> Iterator[Correction]:
    near = [one for one in error.problems if one.near and one.place]
    fields = [one for one in near if one.code == "unknown-field"]
    if fields and len(fields) < error.count:  # what is in a field of no name counts as missing
        new = text
        for one in reversed(fields):
            new = _rewritten(new, one, str(one.near))
        says = dict.fromkeys(f"write {one.near!r} for {_wrong_word(one)!r}" for one in fields)
        yield Correction(" and ".join(says), "near", SURE, text=new)
    if near and len(near) == error.count:
        says = dict.fromkeys(f"write {one.near!r} for {_wrong_word(one)!r}" for one in near)
        new = text
        for one in reversed(near):  # the last first, so that places stay what they are
            new = _rewritten(new, one, str(one.near))
        yield Correction(" and ".join(says), "near", SURE, text=new)
        words = {(str(one.near), _wrong_word(one)) for one in near}
        if len(words) == 1:  # or the name is wrong where it was made, and right where it is used
            right, wrong = words.pop()
            if re.fullmatch(r"[\w-]+", wrong):
                other = re.sub(rf"(?<![\w-]){re.escape(right)}(?![\w-])", wrong, text)
                say = f"write {wrong!r} for {right!r} everywhere"
                yield Correction(say, "near", LIKELY, text=other)


def _of_line(lines: list[str], number: int) -> Iterator[tuple[str, str, float, str]]:
    """Corrections of one line: what to say, the idea, how unlikely it is, and the line."""
    line = lines[number]
    code = line.split(" #")[0]
    for sign, word in _SIGNS:
        new = re.sub(sign, word, line)
        if new != line:
            yield f"write {word.strip()!r}", "sign", SURE, new
    for found in re.finditer(_ARROWS, line):
        for arrow in ("<->", "->"):
            if arrow != found[1]:
                two = "<" in found[1] and ">" in found[1]
                one = ">" in found[1] and "<" not in found[1]
                fits = (arrow == "<->" and two) or (arrow == "->" and one)
                new = f"{line[: found.start(1)]}{arrow}{line[found.end(1) :]}"
                unlikely = SURE if fits else SURE + (0.1 if arrow == "<->" else 0.2)
                yield f"write {arrow} for {found[1]}", "arrow", unlikely, new
    for found in re.finditer(r"(?<=[\w\"'])(?= [\w{\[\"'])", code):
        new = f"{line[: found.start()]}:{line[found.start() :]}"
        yield "put a colon after " + repr(code[: found.start()].split()[-1]), "colon", LIKELY, new
    for found in re.finditer(r"[\w\"'](:)(?=[\w{\[\"'])", code):
        new = f"{line[: found.end()]} {line[found.end() :]}"
        yield "put a blank after the colon", "blank", LIKELY, new
    closers = _unclosed(code)
    ending = code.rstrip()
    if closers:
        yield f"close it with {closers}", "bracket", SURE, f"{ending}{closers}{line[len(ending) :]}"
    for found in re.finditer(r"(?=[,}\]])", code):
        for closer in "]}":
            new = f"{line[: found.start()]}{closer}{line[found.start() :]}"
            if not _unclosed(new.split(" #")[0]):
                yield f"close it with {closer}", "bracket", LIKELY, new
    for quote in "\"'":
        if code.count(quote) % 2:
            yield f"close it with {quote}", "quote", LIKELY, f"{ending}{quote}{line[len(ending) :]}"
    own = len(line) - len(line.lstrip(" "))
    around = lines[max(0, number - 8) : number] + lines[number + 1 : number + 3]
    indents = {len(one) - len(one.lstrip(" ")) for one in around if one.strip()}
    before = lines[number - 1] if number else ""
    for indent in sorted(
        {*indents, *(one + 2 for one in indents)} - {own}, key=lambda one: abs(one - own)
    ):
        if line.strip():
            beside = indent == len(before) - len(before.lstrip(" "))
            under = (
                f"under {before.strip().split(':')[0]!r}" if not beside else "like the line above"
            )
            say = f"indent it by {indent} blanks, {under}"
            yield say, "indent", LIKELY + 0.05 * abs(indent - own), " " * indent + line.lstrip(" ")


def _unclosed(code: str) -> str:
    """The brackets that close what a line leaves open; empty if something else is wrong."""
    ahead: list[str] = []
    for sign in re.sub(r"\"[^\"]*\"|'[^']*'", "", code):
        if sign in "{[":
            ahead.append("}" if sign == "{" else "]")
        elif sign in "}]" and (not ahead or ahead.pop() != sign):
            return ""
    return "".join(reversed(ahead))


def _of_document(text: str, document: Any, error: LevelError) -> Iterator[Correction]:
    """Yield corrections of what the text says, where it is YAML but no level."""
    strange = [_strange_symbol(one) for one in error.problems]
    if strange and all(strange):
        symbols = [one for one in strange if one]
        yield _with_floor(text, document, symbols, error.file)
        yield from _other_symbols(text, document, symbols, error.file)
    for path, room in _sides(document):
        say = f"let it be unlocked from either side, not from {room} alone"
        yield Correction(
            say, "side", UNLIKELY, text=edited_text(text, [Edit(path, REMOVED)], error.file)
        )
    yield from _in_full(text, document, error.file)
    names = _names(document)
    yield from _without_blanks(text, error, names)
    for problem in error.problems[:3]:
        yield from _of_problem(text, problem, names)
    unknown = dict.fromkeys(
        _wrong_word(one) for one in error.problems if one.code == "unknown-name"
    )
    for name in unknown:
        if re.fullmatch(r"[A-Za-z][\w-]*", name):
            yield from _declared(text, document, name, error.file)
            yield from _switched(text, document, name, error.file)
            yield from _locked(text, document, name, error.file)
    if any("is on no map" in one.message for one in error.problems):
        # The likeliest places first: each takes an edit of the whole text.
        drawn = (one for one in map_corrections(document) if one.idea.startswith("draw "))
        for one in sorted(drawn, key=lambda one: one.unlikely)[:MOST_DRAWN]:
            yield from _edit(text, one.say, one.idea, one.unlikely, one.edits[0], error.file)


def _in_full(text: str, document: Any, file: str | None) -> Iterator[Correction]:
    """Write items that are listed, and locks that say only what they need, as mappings; then correct near names."""
    items, locks = document.get("items"), document.get("locks")
    edits, says = [], []
    if isinstance(items, list) and all(isinstance(one, str) for one in items):
        edits.append(Edit(("items",), {one: {} for one in items}))
        says.append("write each of `items` with its fields")
    for name, said in locks.items() if isinstance(locks, dict) else ():
        if isinstance(said, str):
            edits.append(Edit(("locks", name), {"needs": said}))
            says.append(f"write {name!r} as a lock that needs {said}")
    if not edits:
        return
    say, new = in_list(says), edited_text(text, edits, file)
    yield Correction(say, "in full", SURE, text=new)
    try:
        loads(new, file)
    except LevelError as error:
        for one in _near_names(new, error):
            yield replace(one, say=f"{say}, and {one.say}", idea="in full")


def _locked(text: str, document: Any, name: str, file: str | None) -> Iterator[Correction]:
    """Give a named passage without a lock one: by each item that no passage and no lock asks for."""
    passages, items = document.get("passages"), document.get("items")
    if not isinstance(passages, list) or not isinstance(items, dict):
        return
    named = set(
        re.findall(r"[\w-]+", repr([passages, document.get("locks"), document.get("goal")]))
    )
    for number, said in enumerate(passages):
        way, fields = next(iter(said.items())) if isinstance(said, dict) and said else ("", None)
        if isinstance(fields, dict) and fields.get("name") == name and "lock" not in fields:
            for item in (one for one in items if one not in named):
                edit = Edit(("passages", number, way, "lock"), item)
                unlikely = SURE - 0.1 * alike(name, item)
                say = f"let {name} ask for {item} (a lock)"
                yield from _edit(text, say, f"lock {item}", unlikely, edit, file)


def _without_blanks(text: str, error: LevelError, names: list[str]) -> Iterator[Correction]:
    """Correct all names that were written with blanks, at once: some problems show only after others are mended."""
    blanks = {re.sub(r"[-_]", " ", name): name for name in names if re.search(r"[-_]", name)}
    new, says, problems = text, dict[str, str](), error.problems
    for _ in range(MOST_READINGS):
        before = new
        for one in reversed(problems):
            right = blanks.get(one.text) or one.near or ""
            if one.place and " " in one.text and _spoken(right) == _spoken(one.text):
                says[one.text] = right
                new = _rewritten(new, one, right)
        if new == before:
            break
        try:
            loads(new, error.file)
        except LevelError as next_:
            problems = next_.problems
        else:
            break
    if len(says) > 1:
        say = " and ".join(f"write {right!r} for {wrong!r}" for wrong, right in says.items())
        yield Correction(say, "blanks", SURE, text=new)


def _spoken(name: str) -> str:
    return re.sub(r"[-_]", " ", name)


def _of_problem(text: str, problem: Problem, names: list[str]) -> Iterator[Correction]:
    """Replace the word that a problem names."""
    if problem.place is None:
        return
    for right, others in SYNONYMS.items():
        if problem.text.lower() in others:
            yield _replaced(text, problem, right, SURE)
    for right in get_close_matches(problem.text.lower(), [*SYNONYMS], 2, 0.5):
        yield _replaced(text, problem, right, LIKELY)
    lines = text.splitlines(keepends=True)
    number = problem.place.line - 1
    if number >= len(lines):
        return
    for name in names:  # a name that was written with blanks
        blank = re.sub(r"[-_]", " ", name)
        if blank != name and blank in lines[number]:
            new = [*lines[:number], lines[number].replace(blank, name), *lines[number + 1 :]]
            say = f"write {name!r} for {blank!r}"
            yield Correction(say, "blank", SURE, text="".join(new))
    word = _wrong_word(problem)
    for name in get_close_matches(word, names, 4, 0.6):
        if name != problem.near:
            yield _replaced(text, problem, name, POSSIBLE)


def _replaced(text: str, problem: Problem, word: str, unlikely: float) -> Correction:
    say = f"write {word!r} for {_wrong_word(problem)!r}"
    return Correction(say, "word", unlikely, text=_rewritten(text, problem, word))


def _names(document: Any) -> list[str]:
    """All names that a file declares."""
    found: list[str] = []
    for field in ("items", "locks", "flags", "rooms", "players", "levels", "events"):
        said = document.get(field) if isinstance(document, dict) else None
        found += [str(one) for one in said] if isinstance(said, dict | list) else []
    rooms = document.get("rooms") if isinstance(document, dict) else None
    for room in rooms.values() if isinstance(rooms, dict) else ():
        for field in ("switches", "acts", "chests"):
            named = room.get(field) if isinstance(room, dict) else None
            found += [str(one) for one in named] if isinstance(named, dict) else []
    return found


def _declared(text: str, document: Any, name: str, file: str | None) -> Iterator[Correction]:
    """Add a forgotten declaration, written as those of the most similar names are."""
    items = document.get("items")
    if isinstance(items, dict | None):
        items = items or {}
        like = sorted(items, key=lambda one: -alike(str(one), name))
        used = name in str(document.get("goal", ""))
        kinds = [items[one] for one in like if alike(str(one), name)][:1]
        shown = (
            ({"kind": "reward"}, {})
            if used
            else ({}, {"use": "spent"}, {"kind": "reward"}, {"kind": "tool"})
        )
        tried: list[Any] = []
        for said in (*(_plain_fields(one) for one in kinds), *shown):
            if said not in tried:
                tried.append(said)
                yield from _edit(
                    text, f"declare the item {name}{_as_said(said)}", "declare",
                    LIKELY + 0.1 * len(tried),
                    Edit(("items", name), said) if items else Edit(("items",), {name: said}), file,
                )  # fmt: skip
    rooms = document.get("rooms")
    if isinstance(rooms, dict):
        yield from _edit(
            text, f"add the room {name}", "declare", LIKELY, Edit(("rooms", name), {}), file
        )
    elif isinstance(rooms, list):
        edit = Edit(("rooms", len(rooms)), name)
        yield from _edit(text, f"add the room {name}", "declare", LIKELY, edit, file)


def _plain_fields(said: Any) -> dict[str, Any]:
    fields = said if isinstance(said, dict) else {}
    return {key: one for key, one in fields.items() if key in ("kind", "use", "max", "slots")}


def _as_said(said: dict[str, Any]) -> str:
    return f" ({', '.join(f'{key}: {one}' for key, one in said.items())})" if said else ""


def _switched(text: str, document: Any, flag: str, file: str | None) -> Iterator[Correction]:
    """Let a switch or act without effect turn a flag on."""
    for path, name, does in acts_said(document):
        if not {"sets", "flips", "clears", "gives", "opens", "teaches"} & does.keys():
            first = "sets" if "act" in str(path[2]) else "flips"
            for effect in dict.fromkeys((first, "sets", "flips")):
                edit = Edit((*path, effect), flag) if does else Edit(path, {effect: flag})
                unlikely = LIKELY + (0 if effect == first else 0.2)
                say = f"let {name} {_does(effect)} {flag}"
                yield from _edit(text, say, "switch", unlikely, edit, file)


def _does(effect: str) -> str:
    return {"sets": "turn on", "flips": "turn on and off", "clears": "turn off"}[effect]


def _edit(
    text: str, say: str, idea: str, unlikely: float, edit: Edit, file: str | None
) -> Iterator[Correction]:
    try:
        yield Correction(say, idea, unlikely, text=edited_text(text, [edit], file))
    except LevelError:
        return  # the file says it in another way than was thought


def _strange_symbol(problem: Problem) -> tuple[str, str] | None:
    """The symbol that is in no legend, and the map it is on, if that is the problem."""
    found = re.match(r"the symbol '(.)' at (\S+)@\S+ is not in the legend", problem.message)
    return (found[1], found[2]) if found else None


def _with_floor(
    text: str, document: Any, strange: list[tuple[str, str]], file: str | None
) -> Correction:
    """Draw floor wherever a symbol is in no legend."""
    edits = []
    for name, drawing in (document.get("maps") or {}).items():
        if isinstance(drawing, str):
            new = drawing
            for symbol in (symbol for symbol, floor in strange if floor == name):
                new = new.replace(symbol, ".")
            edits.append(Edit(("maps", name), new))
    symbols = dict.fromkeys(repr(symbol) for symbol, _ in strange)
    say = f"draw floor ('.') for {in_list(symbols)}"
    return Correction(say, "floor", UNLIKELY, text=edited_text(text, edits, file))


def _other_symbols(
    text: str, document: Any, strange: list[tuple[str, str]], file: str | None
) -> Iterator[Correction]:
    """Draw a symbol of the legend for one that is in no legend; symbols that stand nowhere come first."""
    legend = document.get("legend") or {}
    drawn = "".join(str(one) for one in (document.get("maps") or {}).values())
    if len({*strange}) > 1:
        return
    symbol, floor = strange[0]
    drawing = document["maps"].get(floor)
    for other in legend:
        if isinstance(drawing, str) and len(str(other)) == 1:
            edit = Edit(("maps", floor), drawing.replace(symbol, str(other)))
            unlikely = (LIKELY if str(other) not in drawn else POSSIBLE) - (
                0.3 if str(other).lower() == symbol.lower() else 0
            )
            yield from _edit(
                text, f"draw {other!r} for {symbol!r}", f"symbol {other}", unlikely, edit, file
            )


def _wrong_word(problem: Problem) -> str:
    """The word that is not known. In a longer text, it is the one that the message begins with."""
    named = re.match(r"'([\w-]+)' ", problem.message)
    return named[1] if named and named[1] in problem.text else problem.text


def _rewritten(text: str, problem: Problem, word: str) -> str:
    assert problem.place is not None
    lines = text.splitlines(keepends=True)
    line = lines[problem.place.line - 1] if problem.place.line <= len(lines) else ""
    wrong = _wrong_word(problem)
    at = line.find(wrong, problem.place.column - 1) if wrong else -1
    if at < 0:
        return text
    lines[problem.place.line - 1] = line[:at] + word + line[at + len(wrong) :]
    return "".join(lines)


def _sides(
    said: Any, path: tuple[str | int, ...] = ()
) -> Iterator[tuple[tuple[str | int, ...], str]]:
    """Where a lock says from which room it is unlocked."""
    parts = (
        said.items()
        if isinstance(said, dict)
        else enumerate(said)
        if isinstance(said, list)
        else ()
    )
    for step, one in parts:
        if step == "from" and isinstance(one, str):
            yield (*path, step), one
        yield from _sides(one, (*path, step))
