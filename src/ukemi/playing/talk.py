"""The dialogue of a play: it takes a typed line and returns lines to print."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TypeVar

from ..checks import Answer
from ..level import Level, Passage
from ..rules import END, FINISHED
from ..rules.words import some
from ..spaces import CutShortError, Limits
from .around import around
from .commands import (
    COMMANDS,
    VERBS,
    find_bare,
    find_route_line,
    find_verb,
    things_here,
    try_option,
)
from .keeping import read_file, write_file
from .options import Option
from .own_names import with_level, without_level
from .play import CannotDoError, Play, Turn
from .said import Said
from .session import SessionError
from .trying import NotUnderstoodError, refusal, with_item
from .view import carried, carried_as_seen, seen_by_player, standing, tries
from .why import why

T = TypeVar("T")

#: Words of messages that give nothing away.
SAFE = (
    "does not fit",
    "is open already",
    "you carry no",
    "you are at",
    "nothing here is locked",
    "`use ",
)

#: Commands that give away more than a player sees.
NOT_FOR_PLAYERS = ("why", "hint", "tried")


class Talk:
    """Answers typed lines.

    Args:
        level: The level to play.
        alarm: Whether to say so at once when the level can no longer be finished.
        limits: How far to search for each question.
        as_player: Whether to show only what the player sees.

    Attributes:
        leaving: Whether the player has asked to leave.
        failed: Whether some line was not understood, or could not be done.
        width: The most columns that a map takes.
    """

    def __init__(
        self,
        level: Level,
        alarm: bool = True,
        limits: Limits | None = None,
        as_player: bool = False,
    ) -> None:
        self.play = Play(level, limits, as_player)
        self.alarm = alarm and not as_player
        self.as_player = as_player
        self._met: set[str] = set()  # what the player has met, for texts that are read once
        self.leaving = False
        self.failed = False
        self.width = 60
        self._own: tuple[Path, str] | None = None  # the file of this play, and what it holds
        self._sounded = False

    def opening(self) -> list[Said]:
        """Return the first lines."""
        level = self.play.level
        goal = "" if self.as_player else f": the goal is `{self.play.goal}`"
        first = Said("", f"{level.name}{goal}.", "title")
        return self._in_own_names([first, *self._first_seen(), *self._alarm(), *self._standing()])

    def _in_own_names(self, said: list[Said]) -> list[Said]:
        """Lines with names as the player uses them."""
        level, stage = self.play.level, self.play.stage
        return [
            one._replace(
                label=without_level(level, stage, one.label),
                text=without_level(level, stage, one.text),
            )
            for one in said
        ]

    def _standing(self) -> list[Said]:
        return seen_by_player(self.play) if self.as_player else standing(self.play)

    def _first_seen(self) -> list[Said]:
        """Return the texts of the things that the player meets for the first time."""
        play = self.play
        found = play.senses.first_seen(play.position, play.room, self._met)
        return [Said("says", text) for text in found]

    def answer(self, line: str, whole: bool = False) -> list[Said]:
        """Return the lines that answer a typed line.

        Args:
            line: The line: a number, a move such as ``take iron-key``, or a command.
            whole: Whether names have to be whole, as at the end of input that was cut off.

        Returns:
            The lines to show; :attr:`failed` is set where it could not be done.
        """
        return self._in_own_names(self._answered(line, whole))

    def _answered(self, line: str, whole: bool) -> list[Said]:
        turn, players = self.play.player, self.play.level.players
        name, colon, rest = line.partition(":")
        one_move = bool(colon) and name.strip() in players
        words = (rest if one_move else line).split()
        known = {*COMMANDS, *VERBS, "walk", "use", "pull", "put"}
        verb = words[:1] if words and words[0].casefold() in known else []
        if words and words[0].casefold() != "finish":  # that names levels, not things
            named = " ".join(words[len(verb) :])
            words = [*verb, *with_level(self.play.level, self.play.stage, named).split()]
        if not words:
            return []
        try:
            if one_move:
                self.play.player = name.strip()
            said = self._answer(words, whole)
            if one_move and turn != self.play.player:
                self.play.player = turn
                said += self._standing()
            return said
        except (NotUnderstoodError, CannotDoError, SessionError) as error:
            self.failed = True
            self.play.player = turn
            return [Said("", str(error), "bad")]

    def _answer(self, words: list[str], whole: bool) -> list[Said]:
        if _is_number(words[0]):
            if words[1:]:
                raise NotUnderstoodError(f"{' '.join(words)!r}: a number stands alone")
            if self.as_player:
                return self._answer(self._numbered(int(words[0]), tries(self.play)).split(), whole)
            return self._do(self._numbered(int(words[0]), self.play.moves()))
        if whole and words[0].casefold() not in {*COMMANDS, *VERBS}:
            raise NotUnderstoodError(f"{words[0]!r} is no whole command")
        if (option := find_route_line(self.play, " ".join(words))) is not None:
            return self._do(option)
        bare = None if whole else self._bare(words)
        verb, name = bare or (find_verb(words[0]), " ".join(words[1:]))
        if verb in VERBS:
            if verb != "finish" and not name and whole:
                raise NotUnderstoodError(f"{verb} what?")
            return self._do(self._tried_option(verb, name, whole))
        if self.as_player and verb in NOT_FOR_PLAYERS:
            raise NotUnderstoodError(
                f"`{verb}` shows more than a player sees; play without --as-player"
            )
        return self._command(verb, name)

    def _bare(self, words: list[str]) -> tuple[str, str] | None:
        """The verb and the name that a line without a verb stands for."""
        name = " ".join(words)
        if words[0].casefold() in {*COMMANDS, *VERBS}:
            return None
        return find_bare(self.play, name)

    def _tried_option(self, verb: str, name: str, whole: bool) -> Option:
        if self.as_player and self._is_elsewhere(name):
            raise NotUnderstoodError(f"`{verb} {name}` is not possible here")
        try:
            return try_option(self.play, verb, name, whole)
        except NotUnderstoodError as error:
            if not self.as_player:
                raise
            raise NotUnderstoodError(self._to_player(verb, name, error)) from None

    def _is_elsewhere(self, name: str) -> bool:
        """Whether a name is that of a thing, and the player sees no such thing here."""
        level, tried = self.play.level, {one.partition(" ")[2] for one in tries(self.play)}
        here = {
            *tried,
            *(thing for one in self.play.moves() for thing in self.play.choices.things_ahead(one)),
            *(one.part.name for one in things_here(self.play) if isinstance(one.part, Passage)),
        }
        return (
            name not in here
            and (name in level.things or name in level.items)
            and (name not in self.play.inventory)
        )

    def _to_player(self, verb: str, name: str, error: NotUnderstoodError) -> str:
        """Why a line cannot be done, without conditions and without things that are not seen."""
        pair = with_item(name)
        thing = next(
            (one for one in things_here(self.play) if one.name == (pair or (name,))[0]), None
        )
        if thing is not None and "does not fit" not in str(error):
            item = pair[1] if pair else None
            carried = item is None or item in self.play.inventory
            return refusal(self.play.senses, thing, item, carried)
        if any(words in str(error) for words in SAFE):
            return str(error)
        return f"`{f'{verb} {name}'.strip()}` is not possible here"

    def _numbered(self, number: int, options: list[T]) -> T:
        if not 1 <= number <= len(options):
            most = f"they go from 1 to {len(options)}" if options else "nothing can be done now"
            raise NotUnderstoodError(f"there is no number {number}: {most}")
        return options[number - 1]

    def _do(self, option: Option) -> list[Said]:
        turn = self.play.do(option)
        words = turn.option.words.partition(": ")[0]
        if self.as_player:
            words = words.partition(" with ")[0]
        said = [Said("", f"{words[:1].upper()}{words[1:]}.", "title"), *self._texts(turn)]
        said += [*self._alarm(), *self._standing()]
        if self.play.position[END] == FINISHED:
            shortest = self.play.outlook.shortest_of_all
            if shortest is not None and not self.as_player:
                said.append(Said("", f"The shortest finishing run takes {shortest} steps."))
        return said

    def _texts(self, turn: Turn) -> list[Said]:
        """Return the texts that the player reads after doing something."""
        position, found = turn.before, []
        for move in turn.option.moves:
            after = self.play.rules.after(position, move)
            assert after is not None
            found += [Said("says", text) for text in self.play.senses.read(move, position, after)]
            position = after
        return [*found, *self._first_seen()]

    def _command(self, verb: str, name: str) -> list[Said]:
        if name and verb not in ("as", "why", "undo", "save", "load"):
            raise NotUnderstoodError(f"`{verb}` stands alone")
        if not name and verb in ("as", "why", "save", "load"):
            raise NotUnderstoodError(f"{COMMANDS[verb]}; which?")
        match verb:
            case "as":
                self.play.player = name
                return self._standing()
            case "undo":
                return self._undo(name)
            case "redo":
                self.play.redo()
                return [*self._alarm(), *self._standing()]
            case "restart":
                self.play.restart()
                self._sounded = False
                return [*self._alarm(), *self._standing()]
            case "save":
                return self._save(Path(name))
            case "load":
                return self._load(Path(name))
            case "why":
                return why(self.play, name)
            case "map":
                return around(self.play, self.width)
            case "inventory":
                return [carried_as_seen(self.play)] if self.as_player else carried(self.play)
            case "hint":
                return self._hint()
            case "tried":
                return self.tried()
            case "help":
                moves = [Said(verb, words) for verb, words in VERBS.items()]
                number = Said("1, 2, ...", "do what is listed under that number")
                return [number, *moves, *(Said(verb, words) for verb, words in COMMANDS.items())]
            case "quit":
                self.leaving = True
                return []
        return self._standing()

    def _undo(self, count: str) -> list[Said]:
        if count and not (_is_number(count) and int(count)):
            raise NotUnderstoodError(f"`undo {count}`: write `undo`, or `undo 3` for three moves")
        self.play.undo(int(count or 1))
        self._sounded = self._sounded and self.play.can_finish == Answer.NO
        return self._standing()

    # -- what is still possible ---------------------------------------------------------------

    def _alarm(self) -> list[Said]:
        """Return the lines for the moment the level is lost."""
        play = self.play
        if play.position[END] == FINISHED or not (self.alarm or play.over):
            return []
        now = play.can_finish
        if now == Answer.UNKNOWN:
            return [Said("", "Whether the level can still be finished is undecided.", "bad")]
        if now == Answer.YES:
            self._sounded = False
            return []
        back = play.turns_since_good()
        if back is not None and play.turns and back <= len(play.turns):
            play.tried.met(play.turns[-back].option.moves[-1])
        if play.over:
            return [Said("ALARM", "dead: the run has ended", "bad"), *self._way_back(back)]
        if self._sounded:
            return [Said("ALARM", "still: the level can no longer be finished", "bad")]
        self._sounded = True
        found = [Said("ALARM", "the level can no longer be finished", "bad")]
        reason = play.outlook.reason(play.route)
        if reason is not None and reason.why:
            found.append(Said("why", reason.why))
        return [*found, *self._way_back(back)]

    def _way_back(self, back: int | None) -> list[Said]:
        if back is None:
            return [Said("back", "no position of this run is known to be better")]
        which = (
            "the last good position is 1 move"
            if back == 1
            else f"the last good position is {back} moves"
        )
        return [Said("back", f"{which} back: `undo{'' if back == 1 else f' {back}'}`")]

    def _hint(self) -> list[Said]:
        play = self.play
        if play.over:
            return [Said("hint", "the run has ended", "bad")]
        try:
            option = play.hint()
        except CutShortError:
            return [Said("hint", "undecided: the search was cut short", "bad")]
        if option is None:
            nothing = Said("hint", "nothing finishes from here; `undo`", "bad")
            return [nothing, *self._way_back(play.turns_since_good())]
        steps = sum(move.cost for move in play.outlook.shortest(play.position) or ())
        far = f"finishing takes {steps} step{'' if steps == 1 else 's'} from here at least"
        by = option.moves[0].what.get("by")
        asked = option.asked if by is None else f"{by}: {option.asked}"
        return [Said("hint", f"{asked} ({far})", "good")]

    # -- what has been tried ------------------------------------------------------------------

    def tried(self) -> list[Said]:
        """Return how much of everything has been tried so far, and the things not tried."""
        mistakes = self.play.outlook.mistakes
        found = []
        for tally in self.play.tried.tallies(mistakes):
            total = len(tally.tried) + len(tally.left)
            of = (
                "not all known" if mistakes is None and tally.kind == "mistakes met" else str(total)
            )
            left = f"; not yet: {some(tally.left, 8)}" if tally.left else ""
            found.append(Said("", f"{tally.kind}: {len(tally.tried)} of {of}{left}"))
        return found

    def closing(self) -> list[Said]:
        """Return the last lines."""
        if self.as_player:
            return []
        said = [Said("", ""), Said("", "Tried in this play:", "title"), *self.tried()]
        return self._in_own_names(said)

    # -- keeping ------------------------------------------------------------------------------

    def _save(self, path: Path) -> list[Said]:
        mine = self._own[1] if self._own and self._own[0] == path else None
        self._own = path, write_file(path, self.play.session(), before=mine)
        return [Said("", f"Saved {len(self.play.route.moves)} moves to {path}.", "good")]

    def _load(self, path: Path) -> list[Said]:
        session = read_file(path, self.play.level.name)
        loaded = Play(self.play.level, as_player=self.as_player)
        loaded.outlook, loaded.tried = self.play.outlook, self.play.tried
        for number, what in enumerate(session.moves, 1):
            try:
                loaded.do(what)
            except CannotDoError as error:
                raise SessionError(
                    f"{path}: move {number} of {len(session.moves)} no longer works: {error}; "
                    "nothing was changed here"
                ) from error
        self.play, self._own, self._sounded = loaded, (path, session.text), False
        return [*self._alarm(), *self._standing()]

    def completions(self) -> Iterator[str]:
        """Every line that could be typed now."""
        if self.as_player:
            yield from tries(self.play)
            return
        for option in self.play.moves():
            yield option.asked
        for option in self.play.choices.reachable(self.play.position).values():
            yield option.asked
        yield from COMMANDS
        level = self.play.level
        for name in (*level.things, *level.items, *sorted(level.all_flags()), *level.rooms, "goal"):
            yield f"why {name}"


def _is_number(word: str) -> bool:
    """Whether a word is a number that a player would type."""
    return word.isascii() and word.isdigit() and len(word) < 10
