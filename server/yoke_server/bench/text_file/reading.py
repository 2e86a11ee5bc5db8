"""Reading a bench file: what is wrong is named by its line and key."""

import re
from difflib import get_close_matches
from typing import Any

from pydantic import ValidationError
from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.error import MarkedYAMLError
from ruamel.yaml.events import AliasEvent, CollectionEndEvent, CollectionStartEvent, NodeEvent

from yoke_server.bench.text_file.shape import BenchFile, DeviceEntry
from yoke_server.common.http.problems import Problem, from_validation

MAX_TEXT_LENGTH = 16 << 10  # characters; 64 devices are half of it
MAX_ERRORS = 50  # that are looked at, to find the one that stands first
MAX_DEPTH = 4
NESTED = re.compile(rf"(?:[\[{{]\s*){{{MAX_DEPTH + 1}}}")


def read_bench_file(text: str) -> BenchFile:
    """The bench that a file describes; raises a 422 problem naming line and key."""
    if len(text) > MAX_TEXT_LENGTH:
        raise wrong(
            0, f"the file has more than {MAX_TEXT_LENGTH >> 10} kB", "No bench needs that much."
        )
    root = _load(text)
    if not isinstance(root, CommentedMap):
        raise wrong(1, "the file holds no bench", "Write the bench out to see what one is like.")
    try:
        return BenchFile.model_validate(_plain(root))
    except ValidationError as error:
        errors = [dict(e) for e in error.errors(include_input=False)[:MAX_ERRORS]]
        raise _of_entry(root, errors) from error


def _load(text: str) -> Any:
    """What the YAML holds; whatever the library raises over a text, it is the text's fault."""
    try:
        _refuse_tricks(text)
        return YAML(typ="rt", pure=True).load(text)
    except Problem:
        raise
    except MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        raise _of_yaml(text, mark.line + 1 if mark else 0, str(error.problem or "")) from error
    except Exception as error:
        raise wrong(0, "the file is no YAML", "Write the bench out to see what one is.") from error


def _refuse_tricks(text: str) -> None:
    """No aliases, which could make a small file immense, and nothing nested without end."""
    depth = 0
    if found := NESTED.search(text):  # the library takes seconds to come to the end of these
        raise _too_deep(text.count("\n", 0, found.start()) + 1)
    for event in YAML(typ="rt", pure=True).parse(text):
        if isinstance(event, AliasEvent) or (isinstance(event, NodeEvent) and event.anchor):
            raise wrong(
                event.start_mark.line + 1,
                "anchors and aliases (& and *) are not read here",
                "Write each device out.",
            )
        depth += isinstance(event, CollectionStartEvent)
        depth -= isinstance(event, CollectionEndEvent)
        if depth > MAX_DEPTH:
            raise _too_deep(event.start_mark.line + 1)


def _too_deep(line: int) -> Problem:
    return wrong(line, "this is nested too deep", "Keep to the form.")


def _of_yaml(text: str, line: int, said: str) -> Problem:
    lines = text.split("\n")
    if 0 < line <= len(lines) and "\t" in lines[line - 1]:
        return wrong(line, "a tab stands where spaces must", "Indent with spaces.")
    if said.startswith("found duplicate key"):
        key = said.split('"')[1] if '"' in said else "a key"
        return wrong(line, f"“{key[:40]}” is there twice", "Keep one of them.")
    return wrong(line, f"this is no YAML: {said or 'it cannot be read'}", "Put the line right.")


def _of_entry(root: CommentedMap, errors: list[dict[str, Any]]) -> Problem:
    """The first error in the file; a misspelt key comes before the key that is missing for it."""
    errors.sort(key=lambda e: (e["type"] != "extra_forbidden", _line_of(root, e["loc"])))
    first = errors[0]
    place = ".".join(str(part) for part in first["loc"])
    if first["type"] == "extra_forbidden":
        known = DeviceEntry if "devices" in first["loc"][:1] else BenchFile
        near = get_close_matches(str(first["loc"][-1]), known.model_fields, 1)
        hint = (
            f"Did you mean “{near[0]}”?" if near else f"Keys are {', '.join(known.model_fields)}."
        )
        text = f"the key “{str(first['loc'][-1])[:40]}” is not known"
        return wrong(_line_of(root, first["loc"]), text, hint, place)
    found = from_validation([{**first, "loc": ("body", "file", *first["loc"])}])
    text = found.title[:1].lower() + found.title[1:].rstrip(".")
    more = f" Another {len(errors) - 1} follow." if len(errors) > 1 else ""
    return wrong(_line_of(root, first["loc"]), text, found.hint + more, place)


def _line_of(root: Any, place: tuple[int | str, ...]) -> int:
    """Where an entry stands; of one that is missing, where what should hold it begins."""
    line, at = 1, root
    for part in place:
        try:
            row, _ = at.lc.key(part) if isinstance(at, CommentedMap) else at.lc.item(part)
        except (KeyError, AttributeError, IndexError, TypeError):
            break
        line = row + 1
        at = at[part]
    return int(line)


def wrong(line: int, text: str, hint: str, place: str = "") -> Problem:
    """A 422 problem; line 0 is the file as a whole."""
    title = f"Line {line}: {text}." if line else f"{text[:1].upper()}{text[1:]}."
    return Problem(422, title, field=place or "text", hint=hint)


def _plain(node: Any) -> Any:
    if isinstance(node, CommentedMap):
        return {str(key): _plain(value) for key, value in node.items()}
    if isinstance(node, CommentedSeq):
        return [_plain(value) for value in node]
    for plain in (bool, int, float, str):
        if isinstance(node, plain):
            return plain(node)
    return node
