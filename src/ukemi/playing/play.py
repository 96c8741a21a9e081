"""A level played one move at a time."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..checks import Answer
from ..level import Condition, Level
from ..level.joined import Joined
from ..rules import END, PLACE, Move, Position, compile_level
from ..rules.words import move_words
from ..spaces import Limits, Route, replay
from ..values import dataclass
from .options import Choices, Option
from .outlook import LookAhead
from .session import Session, how_it_ends
from .tried import Tried
from .trying import Senses
from .waiting import Waiting
from .what_changed import changes


class CannotDoError(ValueError):
    """A move that cannot be made, with what it waits for."""


@dataclass(frozen=True, eq=False)
class Turn:
    """Something the player did.

    Attributes:
        option: What it was.
        before: The position before it.
    """

    option: Option
    before: Position

    @property
    def after(self) -> Position:
        """The position after it."""
        return self.option.after

    def __repr__(self) -> str:
        return f"<Turn {self.option.asked}>"


class Play:
    """A level that is being played.

    Args:
        level: The level.
        limits: How far to search, at each question, for whether the level can still be finished.
        as_player: Whether to leave out what the player does not see.

    Raises:
        LevelError: The level cannot be played.

    Example:
        >>> from ukemi.demo import DEMO_LEVELS
        >>> from ukemi.language import loads
        >>> play = Play(loads(DEMO_LEVELS[1].text()))
        >>> play.level.name, play.room, play.can_finish
        ('The Wasted Key', 'quay', <Answer.YES: 'yes'>)
        >>> for words in ("take iron-key", "go granary", "unlock store-door"):
        ...     turn = play.do(words)
        >>> play.can_finish
        <Answer.NO: 'no'>
        >>> play.undo()
        >>> play.can_finish, [option.asked for option in play.moves()]
        (<Answer.YES: 'yes'>, ['unlock store-door', 'unlock pit-door', 'go quay'])
    """

    def __init__(self, level: Level, limits: Limits | None = None, as_player: bool = False) -> None:
        self.level = level
        self.as_player = as_player
        self.rules = compile_level(level)
        self.outlook = LookAhead(level, self.rules, limits)
        self.senses = Senses(level, self.rules)
        self.choices = Choices(level, self.rules, self.senses if as_player else None)
        self.waiting = Waiting(level, self.rules)
        self.turns: list[Turn] = []
        self.tried = Tried(level, self.rules)
        self._start = self.rules.start()
        self._undone: list[Turn] = []
        self.tried.see(None, self._start)

    # -- how things stand ---------------------------------------------------------------------

    @property
    def position(self) -> Position:
        """The position: the values of the rules' variables."""
        return self.turns[-1].after if self.turns else self._start

    @property
    def player(self) -> str | None:
        """Whose turn it is, where several play; another's can be set."""
        return self.choices.player

    @player.setter
    def player(self, name: str | None) -> None:
        if name not in (self.level.players or [None]):
            raise CannotDoError(f"{name!r} is not the name of a player")
        self.choices.player = name

    @property
    def goal(self) -> Condition | None:
        """The goal; in a campaign, that of the level the player is in."""
        if isinstance(self.level, Joined):
            return self.level.goals[self.level.stage_of(self.room)]
        return self.level.goal

    @property
    def room(self) -> str:
        """The room of the player whose turn it is."""
        return self.room_of(self.player)

    def room_of(self, player: str | None) -> str:
        """The room a player is in."""
        return self.rules.places[self.position[self.rules.place_of(player)]]

    @property
    def inventory(self) -> dict[str, int]:
        """The inventory of the player whose turn it is."""
        return self.inventory_of(self.player)

    def inventory_of(self, player: str | None) -> dict[str, int]:
        """The inventory of a player."""
        index = self.rules.index
        counts = {
            item: self.position[index.get(("carried", item, str(player)), index["carried", item])]
            for item in self.level.items
        }
        return {item: count for item, count in counts.items() if count}

    @property
    def flags(self) -> list[str]:
        """The flags that are on."""
        return list(self._counts("flag"))

    @property
    def opened(self) -> list[str]:
        """The doors and chests that have been opened."""
        return list(self._counts("opened"))

    @property
    def over(self) -> bool:
        """Whether the run has ended, by finishing or by death."""
        return bool(self.position[END])

    @property
    def ends(self) -> str:
        """How it stands: ``playing``, ``finished``, ``dead`` or ``stuck``."""
        return how_it_ends(self.position[END], self.can_finish)

    @property
    def can_finish(self) -> Answer:
        """Whether the level can still be finished; ``unknown`` where that is undecided."""
        return self.outlook.can_finish(self.position)

    @property
    def steps(self) -> int:
        """The steps taken so far."""
        return sum(turn.option.steps for turn in self.turns)

    @property
    def route(self) -> Route:
        """The moves made so far."""
        moves = [move for turn in self.turns for move in turn.option.moves]
        return replay(self.rules, moves, self._start)

    @property
    def last_changes(self) -> list[str]:
        """The changes of the last move, such as ``iron-key +1``."""
        found = changes(self.rules, self.turns[-1].before, self.position) if self.turns else []
        if not isinstance(self.level, Joined):
            return found
        # Leaving a level resets what was done in it: no player sees that.
        other = tuple(f"{one}/" for one in self.level.campaign.stages if one != self.stage)
        return [one for one in found if not one.startswith(other)]

    @property
    def stage(self) -> str | None:
        """In a campaign, the level that the player is in."""
        return self.level.stage_of(self.room) if isinstance(self.level, Joined) else None

    def _counts(self, kind: str) -> dict[str, int]:
        values = zip(self.rules.variables, self.position, strict=True)
        return {one[1]: value for one, value in values if one[0] == kind and value}

    # -- playing ------------------------------------------------------------------------------

    def moves(self) -> list[Option]:
        """The options now."""
        return self.choices.options(self.position)

    def do(self, wanted: Option | str | Mapping[str, Any]) -> Turn:
        """Do something.

        Args:
            wanted: An option of :meth:`moves`, the words that ask for one, or a move as reports
                write it. ``go ROOM`` also leads to rooms further off over free ground.

        Returns:
            What was done.

        Raises:
            CannotDoError: It cannot be done now; the message says what it waits for.
        """
        option = wanted if isinstance(wanted, Option) else self._find(wanted)
        if any(self.rules.after(self.position, move) is None for move in option.moves[:1]):
            raise CannotDoError(f"{option.words} cannot be done now")
        turn = Turn(option, self.position)
        self.turns.append(turn)
        self._undone.clear()
        self._saw(turn)
        return turn

    def _saw(self, turn: Turn) -> None:
        position = turn.before
        for move in turn.option.moves:
            after = self.rules.after(position, move)
            assert after is not None
            self.tried.see(move, after, position)
            position = after

    def _find(self, wanted: str | Mapping[str, Any]) -> Option:
        if isinstance(wanted, str):
            for option in self.moves():
                if option.asked == wanted:
                    return option
            for option in self.choices.reachable(self.position).values():
                if option.asked == wanted:
                    return option
            raise CannotDoError(f"{wanted!r} cannot be done now")
        return self._by_what(wanted)

    def _by_what(self, wanted: Mapping[str, Any]) -> Option:
        """The single move that a session or a report writes so."""
        if "by" in wanted:
            self.player = wanted["by"]
        named = {key: value for key, value in wanted.items() if key not in ("with", "again")}
        alike = [
            move
            for move in self.rules.moves_at(self.position[PLACE])
            if named.items() <= move.what.items()
        ]
        possible = [
            (move, after)
            for move in alike
            if (after := self.rules.after(self.position, move)) is not None
        ]
        if not possible:
            raise CannotDoError(self._why_not(wanted, alike))
        same = [one for one in possible if one[0].what.get("with") == wanted.get("with")]
        move, after = (same or possible)[-1 if wanted.get("again") else 0]
        asked = self.choices.asked(move, self.position, after)
        return Option((move,), after, asked, move_words(move.what))

    def _why_not(self, wanted: Mapping[str, Any], alike: list[Move]) -> str:
        if self.over:
            return "the run has ended"
        for move in alike:
            why = self.waiting.why_not(self.position, move)
            if why is not None:
                return f"{move_words({**move.what, 'with': {}})}: {why}"
        words = move_words({**wanted, "with": {}})
        about = ("do", "name", "item")
        if not any(
            all(move.what.get(key) == wanted.get(key) for key in about) for move in self.rules.moves
        ):
            return f"{words}: the level has no such move"
        return f"{words}: not from {self.room}" if not alike else f"{words}: there is none left"

    def undo(self, turns: int = 1) -> None:
        """Take moves back.

        Args:
            turns: How many.

        Raises:
            CannotDoError: So many were not made.
        """
        if turns > len(self.turns):
            made = len(self.turns)
            raise CannotDoError(
                f"{made} move{'' if made == 1 else 's'} to take back" if made
                else "nothing to take back: this is the start"
            )  # fmt: skip
        for _ in range(turns):
            self._undone.append(self.turns.pop())

    def redo(self) -> Turn:
        """Make the move again that was last taken back.

        Raises:
            CannotDoError: There is none.
        """
        if not self._undone:
            raise CannotDoError("nothing to make again")
        turn = self._undone.pop()
        self.turns.append(turn)
        return turn

    def restart(self) -> None:
        """Take every move back; :meth:`redo` makes them again."""
        self.undo(len(self.turns))

    # -- looking ahead ------------------------------------------------------------------------

    def turns_since_good(self) -> int | None:
        """Count the moves that lead back to a position from which finishing is proven possible.

        Returns:
            0 where that is now; ``None`` where no such position is known.
        """
        positions = [self._start, *(turn.after for turn in self.turns)]
        for back, position in enumerate(reversed(positions)):
            if self.outlook.can_finish(position) == Answer.YES:
                return back
        return None

    def hint(self) -> Option | None:
        """The next option of a shortest finishing run from here.

        Returns:
            A move, or the walk as long as it changes nothing and can be walked back; ``None`` if
            nothing finishes.

        Raises:
            CutShortError: The search was cut short before it found one.
        """
        moves = None if self.over else self.outlook.shortest(self.position)
        return self.choices.beginning(self.position, moves) if moves else None

    # -- keeping ------------------------------------------------------------------------------

    def session(self) -> Session:
        """The moves made so far, to be kept and run again by :func:`~ukemi.playing.replaying.replay_session`."""
        moves: list[dict[str, Any]] = []
        for turn in self.turns:
            for move in turn.option.moves:
                again = {"again": True} if turn.option.asked.endswith(" again") else {}
                moves.append({**move.what, **again})
        return Session(self.level.name, tuple(moves), self.ends)

    def __repr__(self) -> str:
        return f"<Play of {self.level.name}: {self.ends} in {self.room}, {self.steps} steps>"
