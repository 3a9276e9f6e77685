"""What is said of a plant's spreadsheet."""

from pydantic import BaseModel

from beacon.background.view import MadeView


class LineView(BaseModel):
    """One row of the file: its sheet and line, what it is, what it is called and where, and why it is refused."""

    sheet: str
    line: int
    what: str
    name: str
    where: str
    refused: list[str]


class InvitedView(BaseModel):
    """Somebody who is invited; `link` is told once, to be handed over, and only where no mail is sent."""

    name: str
    address: str
    link: str


class SetUpView(BaseModel):
    """What a file came to. `taken`: it was kept, all of it; where a row is refused nothing is. `mailed`: who is invited gets their link by mail."""

    taken: bool
    lines: list[LineView]
    refused: int
    new_sites: list[str]
    mailed: bool
    invited: list[InvitedView]


class LongSetUp(MadeView):
    """A spreadsheet that is gone through in the background; `found` is what it came to. No links: people are invited again for them."""

    file: str
    keep: bool
    found: SetUpView | None
