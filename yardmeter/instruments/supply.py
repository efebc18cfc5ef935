"""A supply with a current limit on the plug: never switched on blindly, and off whatever happens.

Before its output is switched on it has said back the volts and the limit it was set to; after, what comes out of it is read.
One that does otherwise, or says nothing, is switched off and refused.
"""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable

from yardmeter.core.errors import YardError
from yardmeter.instruments.connection import Connection, Shown, UnreachableError
from yardmeter.instruments.scpi import number

VOLTS_FRAC, VOLTS_V = 0.01, 0.02
AMPS_FRAC, AMPS_A = 0.02, 0.011
"""How far what it says back may be from what was asked: its last digit; our choice."""
OVER_FRAC, OVER_A, OVER_V = 0.1, 0.03, 0.3
"""How far what it gives may be over what it was set to, measured by itself."""
SETTLES_S = 0.15
AGAIN_S = 0.5
TRIES = 60
"""A supply whose link is lost is sought for half a minute, to be switched off."""


class SupplyError(YardError):
    """The supply does not do what it was told; its output is off, or was never on."""


class Supply:
    """The builder's supply; `open_again` makes a new connection to the same address."""

    def __init__(self, connection: Connection, open_again: Callable[[], Connection]) -> None:
        self.connection = connection
        self._open_again = open_again
        self.on = False
        self.limit_a = 0.0
        """What it was set to last, and said back."""
        self.lost = False
        """Whether its link broke while its output was on."""

    def switch_on(self, volts_v: float, limit_a: float) -> None:
        """Set it, have it say back what it was set to, switch it on, look at what it gives.

        Raises SupplyError where it does otherwise, UnreachableError where it is gone; its output is off then.
        """
        self.switch_off()
        self._tell("*CLS")
        self._tell(f"VOLT {volts_v:.3f}")
        self._tell(f"CURR {limit_a:.3f}")
        self._must_say("VOLT?", volts_v, "V", VOLTS_FRAC, VOLTS_V)
        self._must_say("CURR?", limit_a, "A", AMPS_FRAC, AMPS_A)
        self._must_have_no_error()
        self.limit_a = limit_a
        self.on = True
        try:
            self._tell("OUTP ON")
            if number(self._ask("OUTP?")) != 1:
                raise self._refused("It does not say that its output is on.")
            time.sleep(SETTLES_S)
            self.must_keep_to(volts_v, limit_a)
        except YardError:
            self._make_sure_off()
            raise

    def must_keep_to(self, volts_v: float, limit_a: float) -> None:
        """Raises SupplyError where it gives more than it was set to."""
        amps, volts = self.amps(), self.connection.measured("MEAS:VOLT?")
        if amps.value is None or volts.value is None:
            raise self._refused("It does not say what it gives.")
        if amps.value > limit_a * (1 + OVER_FRAC) + OVER_A:
            raise self._refused(f"It gives {amps.value:.3g} A where {limit_a:.3g} A is its limit.")
        if volts.value > volts_v * (1 + OVER_FRAC) + OVER_V:
            raise self._refused(f"It gives {volts.value:.3g} V where {volts_v:.3g} V are set.")

    def switch_off(self) -> None:
        """Its output off, and said to be off. Never waits behind a reading. Raises SupplyError and UnreachableError."""
        try:
            self.connection.write("OUTP OFF", urgent=True)
            still = number(self.connection.ask("OUTP?", urgent=True))
        except UnreachableError:
            self._sought_later()
            raise
        if still != 0:
            raise self._refused("It does not say that its output is off.")
        self.on = False

    def let_go(self) -> None:
        """Off as far as can be, then closed."""
        self._make_sure_off()
        self.connection.close()

    def amps(self) -> Shown:
        """What it measures at its output; a link that is lost meanwhile is sought again to switch it off."""
        found = self.connection.measured("MEAS:CURR?")
        if found.state == "unreachable":
            self._sought_later()
        return found

    def _make_sure_off(self) -> None:
        with contextlib.suppress(YardError):
            self.switch_off()

    def _sought_later(self) -> None:
        """Behind the caller's back: as soon as it answers again its output goes off."""
        if self.on and not self.lost:
            self.lost = True
            threading.Thread(target=self._seek, name="supply-off", daemon=True).start()

    def _seek(self) -> None:
        for _ in range(TRIES):
            try:
                again = self._open_again()
            except YardError:
                time.sleep(AGAIN_S)
                continue
            self.connection.close()
            self.connection = again
            with contextlib.suppress(YardError):
                again.write("OUTP OFF", urgent=True)
                if number(again.ask("OUTP?", urgent=True)) == 0:
                    self.on = self.lost = False
                    return
            time.sleep(AGAIN_S)

    def _tell(self, line: str) -> None:
        self.connection.write(line)

    def _ask(self, line: str) -> str:
        return self.connection.ask(line)

    def _must_say(self, line: str, wanted: float, unit: str, frac: float, least: float) -> None:
        said = self._ask(line)
        value = number(said)
        if value is None or not abs(value - wanted) <= frac * wanted + least:
            raise self._refused(f"It was told {wanted:.3g} {unit} and says “{said[:20]}”.")

    def _must_have_no_error(self) -> None:
        said = self._ask("SYST:ERR?")
        if number(said.split(",")[0]) != 0:
            raise self._refused(f"It says it cannot: {said[:60]}.")

    def _refused(self, what: str) -> SupplyError:
        return SupplyError(
            f"The supply does not do as it was told. {what}",
            where=self.connection.address,
            remedy="Its output is switched off, or was never on: look at its own display. Set it by hand, and type what it shows.",
        )
