"""The factor in an instrument, for every method that may ask for a new one."""

from wary.fields import AboveZero, Decimals, Direction, Inputs, field, plate


class FactorInputs(Inputs):
    """The factor in an instrument, and how it takes one."""

    factor: AboveZero | None = plate("Factor in the instrument", "as it stands there before anything is changed")
    factor_decimals: Decimals | None = plate("Decimals that the instrument takes")
    direction: Direction | None = plate("What the factor does", "multiplies the raw reading, or divides it")


class LeftFactorInputs(FactorInputs):
    """With the factor that was keyed in, for methods that go on with it.

    `after_change` says whether evidence was taken with it.
    """

    as_left_factor: AboveZero | None = field("Factor keyed in, where it is not the one worked out")

    @property
    def after_change(self) -> bool:
        """Whether anything was read after a change."""
        return False
