"""What is said of a plant's spreadsheet."""

from pydantic import BaseModel


class LineView(BaseModel):
    """One row of the file: its sheet and line, what it is, what it is called and where, and why it is refused."""

    sheet: str
    line: int
    what: str
    name: str
    where: str
    refused: list[str]


class FirstPassword(BaseModel):
    """The first password of somebody new, to be handed over; it is shown this once."""

    name: str
    address: str
    password: str


class SetUpView(BaseModel):
    """What a file came to. `taken`: it was kept, all of it; where a row is refused nothing is."""

    taken: bool
    lines: list[LineView]
    refused: int
    new_sites: list[str]
    passwords: list[FirstPassword]
