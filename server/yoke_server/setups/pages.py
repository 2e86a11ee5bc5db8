"""Pages of panes: how people look at a setup. Each person may have their own; one is the setup's.

A page is rows of columns of panes; which kinds of pane there are only the web client knows.
"""

from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints, TypeAdapter, ValidationError
from pydantic_core import PydanticCustomError

from yoke_server.common.http.fields import Name, comparison_key
from yoke_server.kinds.spec import Part

VERSION = 1  # of what pages consist of
MAX_PANES = 16

Share = Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]
Key = Annotated[str, StringConstraints(pattern=r"^[a-z0-9]{1,16}$")]
Word = Annotated[str, StringConstraints(min_length=1, max_length=40)]
Option = (
    bool | Annotated[float, Field(allow_inf_nan=False)] | Annotated[str, Field(max_length=2000)]
)


class ShownChannel(Part):
    """A channel in a pane; ``name`` is what it was called, for when it is gone."""

    key: Key
    name: Name


class PlacedPane(Part):
    """One pane: its kind, its channels in their order (none: what suits), and its options."""

    pane: Word
    channels: Annotated[list[ShownChannel], Field(max_length=64)] = []
    options: Annotated[dict[Word, Option | None], Field(max_length=80)] = {}
    share: Share = 1.0


class PageColumn(Part):
    """Panes below each other."""

    panes: Annotated[list[PlacedPane], Field(min_length=1, max_length=6)]
    share: Share = 1.0


class PageRow(Part):
    """Columns beside each other; shares are of what they divide among them."""

    columns: Annotated[list[PageColumn], Field(min_length=1, max_length=6)]
    share: Share = 1.0


class Page(Part):
    name: Name
    rows: Annotated[list[PageRow], Field(max_length=6)] = []

    @property
    def panes(self) -> list[PlacedPane]:
        return [pane for row in self.rows for column in row.columns for pane in column.panes]

    def with_channels(self, keys: dict[str, str]) -> "Page":
        """The same of other channels: ``keys`` gives new keys by the old ones."""

        def of(pane: PlacedPane) -> PlacedPane:
            shown = [c.model_copy(update={"key": keys.get(c.key, c.key)}) for c in pane.channels]
            return pane.model_copy(update={"channels": shown})

        def column(old: PageColumn) -> PageColumn:
            return old.model_copy(update={"panes": [of(pane) for pane in old.panes]})

        def row(old: PageRow) -> PageRow:
            return old.model_copy(update={"columns": [column(c) for c in old.columns]})

        return self.model_copy(update={"rows": [row(r) for r in self.rows]})


def _few(page: Page) -> Page:
    if len(page.panes) > MAX_PANES:
        given = {"name": page.name, "most": MAX_PANES}
        raise PydanticCustomError("rule", "“{name}” has more than {most} panes", given)
    return page


def _named_once(pages: list[Page]) -> list[Page]:
    keys = [comparison_key(page.name) for page in pages]
    for page, key in zip(pages, keys, strict=True):
        if keys.count(key) > 1:
            raise PydanticCustomError(
                "rule", "has a page “{name}” more than once", {"name": page.name}
            )
    return pages


PageList = Annotated[
    list[Annotated[Page, AfterValidator(_few)]],
    Field(min_length=1, max_length=8),
    AfterValidator(_named_once),
]
_LIST: TypeAdapter[list[Page]] = TypeAdapter(PageList)


def stored(pages: list[Page]) -> dict[str, object]:
    """As a row keeps them."""
    return {"version": VERSION, "pages": [page.model_dump(mode="json") for page in pages]}


def read_pages(document: dict[str, object]) -> list[Page]:
    """What a row keeps; raises `ValueError` for one that this version cannot read."""
    version = document.get("version")
    if version != VERSION:
        raise ValueError(
            "These pages were arranged with a newer version of Yoke Bench: update this one, or"
            " arrange them again."
        )
    try:
        return _LIST.validate_python(document.get("pages"))
    except ValidationError as error:
        raise ValueError("These pages cannot be read: arrange them again.") from error
