"""Running a recorded session again: a regression test for a level."""

from __future__ import annotations

from ..checks import Answer
from ..level import Level
from ..spaces import Limits
from ..values import dataclass
from .play import CannotDoError, Play
from .session import Session


@dataclass(frozen=True)
class Replayed:
    """How a recorded session went.

    Attributes:
        play: The play, up to the end of the recorded moves.
        failed: The number of the move that no longer works, from 1; ``None`` if all do.
        why: Why it does not.
        lost: The number of the move after which nothing finishes any more, from 0, which is the
            start; ``None`` where there is none.
        recorded: How the session ended when it was recorded.
    """

    play: Play
    failed: int | None
    why: str
    lost: int | None
    recorded: str

    @property
    def works(self) -> Answer:
        """Whether it goes as it was recorded: every move, and the end."""
        if self.failed is not None or self.play.over != (self.recorded in ("finished", "dead")):
            return Answer.NO
        if not self.play.over and self.play.can_finish == Answer.UNKNOWN:
            return Answer.UNKNOWN
        return Answer.YES if self.play.ends == self.recorded else Answer.NO


def replay_session(level: Level, session: Session, limits: Limits | None = None) -> Replayed:
    """Run a recorded session.

    Args:
        level: The level, as it is now.
        limits: How far to search for whether the level can still be finished.

    Returns:
        How it went; the first move that no longer works ends it.

    Raises:
        LevelError: The level cannot be played.
    """
    play = Play(level, limits)
    failed, why = None, ""
    for number, what in enumerate(session.moves, 1):
        try:
            play.do(what)
        except CannotDoError as error:
            failed, why = number, str(error)
            break
    positions = play.route.positions
    can = [play.outlook.can_finish(position) for position in positions]
    lost = can.index(Answer.NO) if can[-1] == Answer.NO else None
    return Replayed(play, failed, why, lost, session.ends)
