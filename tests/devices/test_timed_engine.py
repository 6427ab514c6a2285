"""The engine behind the lamp, and the lamp itself over its link."""

from collections.abc import Iterator
from itertools import pairwise

import pytest

from eldrim.devices.adapter import DeviceError
from eldrim.devices.hub import Hub, Listener, Notice, Reading, read_line
from eldrim.devices.play import StandIns
from eldrim.devices.timed_engine import FASTEST, TimedEngine


@pytest.fixture
def played() -> Iterator[StandIns]:
    """Every stand-in, as the demo starts them."""
    standins = StandIns().start()
    yield standins
    standins.stop()


@pytest.mark.parametrize("rotor", ["left", "right"])
def test_the_body_against_the_rotor_advances_twice_as_far(rotor: str) -> None:
    """A degree of the body is two of the crank; with the rotor it retards."""
    one = TimedEngine(rotor=rotor, body=0.0, speed=900)
    before = one.advance
    other = "left" if rotor == "right" else "right"
    one.play(["turn", "1.5", other])
    assert one.advance == pytest.approx(before + 3)
    one.play(["turn", "4", rotor])
    assert one.advance == pytest.approx(before - 5)


def test_the_advance_rises_with_speed_and_stays_where_it_ends() -> None:
    """From idle to the end of the curve and beyond."""
    one = TimedEngine()
    shown = []
    for speed in (0, 600, 900, 1500, 2200, 3000, 3400, 5000):
        one.play(["speed", str(speed)])
        shown.append(one.advance)
    assert all(low <= high for low, high in pairwise(shown))
    assert shown[-1] == shown[-2]
    assert shown[0] == shown[2]


def test_a_tired_advance_stays_under_and_a_stuck_one_does_not_come_back() -> None:
    """Both as the trade knows them."""
    well, tired, stuck = TimedEngine(), TimedEngine(), TimedEngine()
    tired.play(["advance", "tired"])
    stuck.play(["advance", "stuck"])
    for one in (well, tired, stuck):
        one.play(["speed", "3400"])
    assert tired.advance < well.advance == stuck.advance
    for one in (well, stuck):
        one.play(["speed", "900"])
    assert stuck.advance > well.advance


@pytest.mark.parametrize(
    "said",
    ["", "speed", "speed fast", f"speed {FASTEST + 1}", "turn 2 up", "turn 99 left", "dial 90"],
)
def test_what_cannot_be_done_at_it_is_refused(said: str) -> None:
    """And changes nothing."""
    one = TimedEngine()
    before = one.told()
    with pytest.raises(ValueError, match=r"."):
        one.play(said.split())
    assert one.told() == before


def _next(listener: Listener, unit: str) -> Reading:
    for _ in range(200):
        said = listener.messages.get(timeout=20)
        if isinstance(said, Reading) and said.unit == unit:
            return said
    raise AssertionError("nothing was heard")


def test_a_lamp_streams_speed_and_advance_and_follows_the_body(played: StandIns) -> None:
    """Live, never final; a dial in the place of the advance; lost and back like any device."""
    hub, mine = Hub(played.urls), Listener("one")
    hub.take(mine, ["lamp"])
    first = _next(mine, "°")
    assert first.passing == "live"
    assert _next(mine, "rev/min").value == 900
    assert "with the rotor" in played.play("lamp", "turn 6 right")
    while (now := _next(mine, "°")).value == first.value:
        pass
    assert now.value == pytest.approx(first.value - 12)
    played.play("lamp", "dial 20")
    while _next(mine, "°").passing != "dial":
        pass
    with pytest.raises(DeviceError, match="write speed"):
        played.play("lamp", "wiggle")
    played.play("lamp", "off")
    while mine.messages.get(timeout=20) != Notice("lamp", "lost"):
        pass
    hub.close()


def test_what_a_lamp_says_again_at_once_is_not_passed_on() -> None:
    """The line all processes hear is not flooded; what changed goes through."""
    said: list[str] = []
    hub = Hub({"lamp": "socket://127.0.0.1:1"}, line=said.append)
    live = read_line("lamp", "LIVE 7.5 °")
    other = read_line("lamp", "LIVE 7.7 °")
    wrench = read_line("wrench", "CLICK 17 N·m")
    assert live
    assert other
    assert wrench
    assert not hub._just_said(live, "LIVE 7.5 °")
    assert hub._just_said(live, "LIVE 7.5 °")
    assert not hub._just_said(other, "LIVE 7.7 °")
    assert not hub._just_said(wrench, "CLICK 17 N·m")
    assert not hub._just_said(wrench, "CLICK 17 N·m")
