"""The dialogue of a play: a typed line in, what is shown out."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ..checks import Answer
from ..level import Level
from ..rules import END, FINISHED
from ..rules.words import some
from ..spaces import CutShortError, Limits
from .around import around
from .commands import COMMANDS, VERBS, NotUnderstoodError, find_option, find_told, find_verb
from .keeping import read_file, write_file
from .options import Option
from .play import CannotDoError, Play
from .said import Said
from .session import SessionError
from .view import standing
from .why import why


class Talk:
    """Answers typed lines.

    Args:
        level: The level to play.
        alarm: Whether to say so at once when the level can no longer be finished.

    Attributes:
        play: The play.
        leaving: Whether the player has asked to leave.
        failed: Whether some line was not understood, or could not be done.
        width: The most columns that a map takes.
    """

    def __init__(self, level: Level, alarm: bool = True, limits: Limits | None = None) -> None:
        self.play = Play(level, limits)
        self.alarm = alarm
        self.leaving = False
        self.failed = False
        self.width = 60
        self._own: tuple[Path, str] | None = None  # the file of this play, and what it holds
        self._sounded = False

    def opening(self) -> list[Said]:
        """What is shown first."""
        level = self.play.level
        first = Said("", f"{level.name}: the goal is `{self.play.goal}`.", "title")
        return [first, *self._alarm(), *standing(self.play)]

    def answer(self, line: str, whole: bool = False) -> list[Said]:
        """What a typed line leads to.

        Args:
            line: The line: a number, a move such as ``take iron-key``, or a command.
            whole: Whether names have to be whole, as at the end of input that was cut off.

        Returns:
            The lines to show; :attr:`failed` is set where it could not be done.
        """
        turn, players = self.play.player, self.play.level.players
        name, colon, rest = line.partition(":")
        one_move = bool(colon) and name.strip() in players
        words = (rest if one_move else line).split()
        if not words:
            return []
        try:
            if one_move:
                self.play.player = name.strip()
            said = self._answer(words, whole)
            if one_move and turn != self.play.player:
                self.play.player = turn
                said += standing(self.play)
            return said
        except (NotUnderstoodError, CannotDoError, SessionError) as error:
            self.failed = True
            self.play.player = turn
            return [Said("", str(error), "bad")]

    def _answer(self, words: list[str], whole: bool) -> list[Said]:
        if _is_number(words[0]):
            if words[1:]:
                raise NotUnderstoodError(f"{' '.join(words)!r}: a number stands alone")
            return self._do(self._numbered(int(words[0])))
        if whole and words[0].casefold() not in {*COMMANDS, *VERBS}:
            raise NotUnderstoodError(f"{words[0]!r} is no whole command")
        if (told := find_told(self.play, " ".join(words))) is not None:
            return self._do(told)
        verb, name = find_verb(words[0]), " ".join(words[1:])
        if verb in VERBS:
            if verb != "finish" and not name and whole:
                raise NotUnderstoodError(f"{verb} what?")
            return self._do(find_option(self.play, verb, name, whole))
        return self._command(verb, name)

    def _numbered(self, number: int) -> Option:
        options = self.play.moves()
        if not 1 <= number <= len(options):
            most = f"they go from 1 to {len(options)}" if options else "nothing can be done now"
            raise NotUnderstoodError(f"there is no number {number}: {most}")
        return options[number - 1]

    def _do(self, option: Option) -> list[Said]:
        turn = self.play.do(option)
        words = turn.option.words.partition(": ")[0]
        said = [Said("", f"{words[:1].upper()}{words[1:]}.", "title")]
        said += [*self._alarm(), *standing(self.play)]
        if self.play.position[END] == FINISHED:
            shortest = self.play.outlook.shortest_of_all
            if shortest is not None:
                said.append(Said("", f"The shortest finishing run takes {shortest} steps."))
        return said

    def _command(self, verb: str, name: str) -> list[Said]:
        if name and verb not in ("as", "why", "undo", "save", "load"):
            raise NotUnderstoodError(f"`{verb}` stands alone")
        if not name and verb in ("as", "why", "save", "load"):
            raise NotUnderstoodError(f"{COMMANDS[verb]}; which?")
        match verb:
            case "as":
                self.play.player = name
                return standing(self.play)
            case "undo":
                return self._undo(name)
            case "redo":
                self.play.redo()
                return [*self._alarm(), *standing(self.play)]
            case "restart":
                self.play.restart()
                self._sounded = False
                return [*self._alarm(), *standing(self.play)]
            case "save":
                return self._save(Path(name))
            case "load":
                return self._load(Path(name))
            case "why":
                return why(self.play, name)
            case "map":
                return around(self.play, self.width)
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
        return standing(self.play)

    def _undo(self, count: str) -> list[Said]:
        if count and not (_is_number(count) and int(count)):
            raise NotUnderstoodError(f"`undo {count}`: write `undo`, or `undo 3` for three moves")
        self.play.undo(int(count or 1))
        self._sounded = self._sounded and self.play.can_finish == Answer.NO
        return standing(self.play)

    # -- what is still possible ---------------------------------------------------------------

    def _alarm(self) -> list[Said]:
        """What is said at the moment the level can no longer be finished."""
        play = self.play
        if play.position[END] == FINISHED or not (self.alarm or play.over):
            return []
        now = play.can_finish
        if now == Answer.UNKNOWN:
            return [Said("", "Whether the level can still be finished is not settled.", "bad")]
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
            return [Said("hint", "not settled: the search was cut short", "bad")]
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
        """What has been tried so far, of all there is, and what has not."""
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
        """What is said on leaving."""
        return [Said("", ""), Said("", "Tried in this play:", "title"), *self.tried()]

    # -- keeping ------------------------------------------------------------------------------

    def _save(self, path: Path) -> list[Said]:
        mine = self._own[1] if self._own and self._own[0] == path else None
        self._own = path, write_file(path, self.play.session(), before=mine)
        return [Said("", f"Saved {len(self.play.route.moves)} moves to {path}.", "good")]

    def _load(self, path: Path) -> list[Said]:
        session = read_file(path, self.play.level.name)
        loaded = Play(self.play.level)
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
        return [*self._alarm(), *standing(self.play)]

    def completions(self) -> Iterator[str]:
        """Every line that could be typed now."""
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
