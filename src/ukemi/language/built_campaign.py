"""A campaign built in Python, level by level."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..level.displayed import Displayed
from ..level.joined import Joined
from ..level.level import Level
from ..level.names import in_list, is_name
from ..level.problems import LevelError, Problem
from .fields.campaign_fields import read_campaign
from .fields.nodes import plain_node

if TYPE_CHECKING:
    from typing import Unpack

    from ..level import keywords as given


class Campaign(Displayed):
    """Levels played one after another, laid out in Python.

    Whatever takes a level takes a campaign, too: :func:`ukemi.check`, :func:`ukemi.play`, :func:`ukemi.save` and so
    on.

    Args:
        name: The campaign's name.

    Attributes:
        levels: The levels by their names in the campaign, in order; it begins with the first.

    Example:
        >>> landing, mill = Level("The Landing"), Level("The Mill")
        >>> for level in (landing, mill):
        ...     level.item("lantern", kind="tool")
        ...     level.room("quay", items="lantern" if level is landing else [])
        ...     level.room("gate")
        ...     level.passage("quay <-> gate", gate="lantern")
        ...     level.set_start("quay")
        ...     level.set_goal("gate")
        >>> year = Campaign("A Year at the Mill")
        >>> year.level("landing", landing)
        >>> year.level("mill", mill, brings="lantern")
        >>> year
        <Campaign 'A Year at the Mill': 2 levels, landing and mill>
        >>> import ukemi
        >>> ukemi.check(year).answers.finish
        <Answer.YES: 'yes'>
    """

    def __init__(self, name: str = "campaign") -> None:
        self.name = name
        self.levels: dict[str, Level] = {}
        self._said: dict[str, Any] = {}
        self._stages: dict[str, dict[str, Any]] = {}
        #: What was written to each file of a level when the campaign was saved.
        self.written: dict[str, str] = {}

    def level(
        self,
        name: str,
        level: Level,
        *,
        brings: given.NamesGiven = "all",
        keeps: bool = False,
    ) -> None:
        """Add a level.

        Args:
            name: Its name in the campaign.
            level: The level.
            brings: The items that come along into it, of what is carried: names, ``all`` or ``nothing``.
            keeps: Whether it is found as it was left when it is entered again.

        Raises:
            LevelError: The name is taken or not valid, or the level does not fit the others.

        Example:
            >>> quay = Level("Quay")
            >>> quay.room("quay")
            >>> quay.set_start("quay")
            >>> quay.set_goal("quay")
            >>> year = Campaign("A Year")
            >>> year.level("first", quay)
            >>> year.level("second", quay, brings="nothing")
            >>> list(year.levels)
            ['first', 'second']
        """
        if not is_name(name):
            raise _refused(f"{name!r} cannot be the name of a level", name)
        if name in self.levels:
            raise _refused(f"there is a level {name!r} already", name, "duplicate-name")
        if isinstance(level, Joined):
            raise _refused(f"{name!r} is a campaign itself, and no level", name)
        fields = {} if brings == "all" else {"brings": brings}
        self.levels[name] = level
        self._stages[name] = {"file": name, **fields, **({"keeps": True} if keeps else {})}
        try:
            self.joined()
        except LevelError:
            del self.levels[name], self._stages[name]
            raise

    def way(
        self,
        text: str,
        *,
        when: given.ConditionGiven | None = None,
        sets: given.NamesGiven = (),
    ) -> None:
        """Add a way from one level to another. Without any, the levels come one after the other.

        Args:
            text: ``landing -> mill``.
            when: The condition for it as the first level is finished.
            sets: Flags that are turned on: shared ones, or ones of the level it leads to.

        Raises:
            LevelError: A level, or a name in the condition, is not known.

        Example:
            >>> quay = Level("Quay")
            >>> quay.room("quay")
            >>> quay.set_start("quay")
            >>> quay.set_goal("quay")
            >>> year = Campaign("A Year")
            >>> year.level("first", quay)
            >>> year.level("second", quay)
            >>> year.way("first -> second", when="at quay")
            >>> year.way("second -> third")
            Traceback (most recent call last):
                ...
            ukemi.level.problems.LevelError: 'third' is not a level of the campaign [unknown-name]
        """
        fields: dict[str, Any] = {} if when is None else {"when": str(when)}
        fields |= {"sets": sets} if sets else {}
        self._say("ways", [*self._said.get("ways", []), {text: fields} if fields else text])

    def set_goal(self, level: str) -> None:
        """Say which level ends the campaign; by default, the last.

        Args:
            level: Its name in the campaign.

        Raises:
            LevelError: There is no such level.
        """
        self._say("goal", level)

    def share(self, *flags: str) -> None:
        """Say which flags all levels share.

        Args:
            flags: The flags.

        Raises:
            LevelError: One is no flag of any level.
        """
        self._say("shares", [*self._said.get("shares", []), *flags])

    def expect(self, **fields: Unpack[given.ExpectFields]) -> None:
        """Claim something about the campaign, as :meth:`Level.expect`; names are written ``LEVEL/NAME``.

        Raises:
            LevelError: A name is not known, or a field is wrong.
        """
        self._say("expect", {name.replace("_", "-"): value for name, value in fields.items()})

    def accept(self, code: str, *names: str) -> None:
        """Say that findings are meant as they are, as :meth:`Level.accept`.

        Args:
            code: The code of the findings.
            names: The subjects, as a check names them.

        Raises:
            LevelError: There is no such finding, or it cannot be accepted.
        """
        self._say("accept", {**self._said.get("accept", {}), code: list(names)})

    def _say(self, field: str, value: Any) -> None:
        before = dict(self._said)
        self._said[field] = value
        try:
            self.joined()
        except LevelError:
            self._said = before
            raise

    def plain(self, files: Mapping[str, str]) -> dict[str, Any]:
        """Return what a campaign file would say.

        Args:
            files: The file of each level.
        """
        levels = {name: {**said, "file": files[name]} for name, said in self._stages.items()}
        return {"ukemi": 1, "campaign": self.name, "levels": levels, **self._said}

    def joined(self) -> Level:
        """Return its levels as one level, in which every name has its level's name before it.

        Raises:
            LevelError: Something is wrong with the campaign.
        """
        node = plain_node(self.plain({name: name for name in self.levels}))
        return read_campaign(node, None, self.levels.__getitem__)

    def __repr__(self) -> str:
        names = in_list(self.levels) if self.levels else "none yet"
        count = f"{len(self.levels)} level" + ("" if len(self.levels) == 1 else "s")
        return f"<Campaign {self.name!r}: {count}, {names}>"


def _refused(message: str, name: str, code: str = "bad-value") -> LevelError:
    return LevelError([Problem(code, message, None, name)])
