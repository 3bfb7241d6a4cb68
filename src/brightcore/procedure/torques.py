"""Torques: the maker's figure as described comes first, then common practice, and it says which."""

from brightcore.bike.model import Part

COMMON_NM = {"disc_bolt_nm": 4.0, "screw_nm": 3.5, "cover_nm": 3.5}
"""Torques of common practice: disc bolts, and the small screws of modules and covers."""

MAKERS = "the maker's figure"


def torque_words(part: Part, name: str, words: str) -> str:
    """Return one torque in words, such as `disc bolts 4 N·m, common practice`.

    `name` is the field of the part's spec that holds the maker's figure, where its kind has one.
    """
    by_maker = float(getattr(part.spec, name, 0.0) or 0.0)
    if by_maker > 0:
        return f"{words} {by_maker:g} N·m, by its maker"
    if name in COMMON_NM:
        return f"{words} {COMMON_NM[name]:g} N·m, common practice; {MAKERS} first"
    return f"{words}: {MAKERS}"
