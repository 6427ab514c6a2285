"""The engine behind the lamp's stand-in: it answers to its speed and to its body being turned.

Angles are degrees of the crank before top dead centre, but for the body's own. The distributor
turns at half the crank's speed; its body turned against the rotor advances.
"""

from dataclasses import dataclass
from itertools import pairwise

from eldrim.core.words.messages import gettext

# Speed and what the weights add to the static timing, at their best.
GAINS = ((900.0, 0.0), (1200.0, 3.5), (1800.0, 11.0), (2600.0, 17.5), (3400.0, 22.5))
# What a tired advance still adds of that, and from which speed on a stuck one stays out.
TIRED, STUCK_FROM = 0.6, 2000.0
FASTEST = 6000.0
# How far a body can be turned on its clamp, to either side, in its own degrees.
FAR = 25.0


@dataclass
class TimedEngine:
    """How fast it runs, how its body stands, and how its advance is.

    ``body`` is in degrees of the body from where the timing is ``static``, against the rotor over
    0. ``dial`` is that of the lamp: 0 for a lamp that has none, or is not turned.
    """

    speed: float = 900.0
    static: float = 7.5
    body: float = 3.0
    rotor: str = "right"
    advance_is: str = "well"
    dial: float = 0.0
    out: float = 0.0

    @property
    def advance(self) -> float:
        """The advance now, with all that the weights add."""
        gain = self._gain()
        if self.advance_is == "tired":
            gain *= TIRED
        elif self.advance_is == "stuck":
            gain = max(gain, self.out)
        return round(self.static + 2 * self.body + gain, 1)

    def _gain(self) -> float:
        points = GAINS
        if self.speed <= points[0][0]:
            return points[0][1]
        for (low, below), (high, above) in pairwise(points):
            if self.speed <= high:
                return below + (above - below) * (self.speed - low) / (high - low)
        return points[-1][1]

    def play(self, words: list[str]) -> None:
        """Do what a person does at it. Raises :class:`ValueError` with what is understood."""
        match words:
            case ["speed", number]:
                self._run_at(float(number))
            case ["turn", number, ("left" | "right") as way]:
                sense = -1 if way == self.rotor else 1
                self._turn(sense * float(number))
            case ["rotor", ("left" | "right") as way]:
                self.rotor = way
            case ["static", number]:
                self.static, self.body = float(number), 0.0
            case ["advance", ("well" | "tired" | "stuck") as how]:
                self.advance_is, self.out = how, 0.0
            case ["dial", number] if 0 <= float(number) <= 60:
                self.dial = float(number)
            case ["tell"]:
                pass
            case _:
                raise ValueError(
                    gettext(
                        "write speed 900, turn 1.5 left, rotor right, static 7.5, advance "
                        "tired or dial 20"
                    )
                )

    def _run_at(self, speed: float) -> None:
        if not 0 <= speed <= FASTEST:
            raise ValueError(gettext("it runs up to {fastest} rev/min", fastest=f"{FASTEST:.0f}"))
        self.speed = speed
        if speed >= STUCK_FROM:
            self.out = max(self.out, self._gain())

    def _turn(self, by: float) -> None:
        if abs(self.body + by) > FAR:
            raise ValueError(
                gettext("the body turns {far}° to either side at most", far=f"{FAR:.0f}")
            )
        self.body = round(self.body + by, 2)

    def lines(self) -> tuple[str, ...]:
        """What the lamp sends now; nothing flashes while it stands."""
        if not self.speed:
            return ("LIVE 0 rev/min",)
        speed = f"LIVE {self.speed:g} rev/min"
        return (speed, f"DIAL {self.dial:g} °" if self.dial else f"LIVE {self.advance:g} °")

    def told(self) -> str:
        """How it stands, for whoever plays it; with a dial turned, what is left at the mark."""
        side = "against" if self.body >= 0 else "with"
        at = f"body {abs(self.body):g}° {side} the rotor, which turns {self.rotor}"
        if self.dial:
            left = round(self.advance - self.dial, 1)
            return f"{self.speed:g} rev/min, dial {self.dial:g}°, {left:g}° left at the mark; {at}"
        return f"{self.speed:g} rev/min, {self.advance:g}° at the mark; {at}"
