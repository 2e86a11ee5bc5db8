"""The message with which a screen subscribes to channels."""

import json

MAX_CHANNELS = 1024
MAX_KEY_LENGTH = 20


def wanted_of(text: str | None) -> frozenset[str] | None:
    """The channel keys of {"subscribe": [keys]}; None (for null) means all.

    Raises ValueError for anything else.
    """
    try:
        said = json.loads(text or "")
    except RecursionError:
        raise ValueError("nested too deep") from None
    if not isinstance(said, dict) or set(said) != {"subscribe"}:
        raise ValueError("not a subscription")
    keys = said["subscribe"]
    if keys is None:
        return None
    if not isinstance(keys, list) or len(keys) > MAX_CHANNELS:
        raise ValueError("not a list of channels")
    if not all(isinstance(key, str) and len(key) <= MAX_KEY_LENGTH for key in keys):
        raise ValueError("not channel keys")
    return frozenset(keys)
