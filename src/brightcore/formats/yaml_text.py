"""Reading YAML that comes from outside: by size, by pieces, without anything that unfolds."""

import yaml

from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import MAX_BYTES
from brightcore.formats.border import check_border
from brightcore.formats.plain import Json

LOADER = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
"""The loader that is written in C, where it is there: ten times faster."""

MOST_EVENTS = 150_000
"""Pieces that a YAML file of the greatest size and some sense may have."""


def read_yaml(text: str | bytes) -> Json:
    """Return the value of a YAML text; raises FormatError where it is none, or holds what no file
    may."""
    if len(text) > MAX_BYTES:
        raise FormatError((Problem("$", f"the file is larger than {MAX_BYTES // 1_000_000} MB"),))
    try:
        document = _checked(text)
    except (yaml.YAMLError, ValueError, RecursionError) as error:
        words = " ".join(str(error).split())[:200]
        raise FormatError((Problem("$", f"this is not YAML: {words}"),)) from None
    check_border(document)
    return document


def _checked(text: str | bytes) -> Json:
    """Return the value of a YAML text without aliases: a small file cannot unfold into a large
    one."""
    for count, event in enumerate(yaml.parse(text, Loader=LOADER)):
        if isinstance(event, yaml.events.AliasEvent) or getattr(event, "anchor", None):
            raise yaml.YAMLError("anchors and aliases are not used in files of this shop")
        if count > MOST_EVENTS:
            raise yaml.YAMLError("the file holds too many pieces")
    return yaml.load(text, Loader=LOADER)
