"""What two descriptions of a bike differ in, line by line."""

from dataclasses import fields

from brightcore.bike.model import Bike, BikeInfo, Part
from brightcore.describing.join_words import join_words
from brightcore.describing.labels import field_label
from brightcore.describing.measured import label_of, shown_value
from brightcore.describing.specs import show_spec_value, shown_unit
from brightcore.kinds.base import Registry


def compare(old: Bike, new: Bike, registry: Registry) -> tuple[str, ...]:
    """Return every difference of two descriptions as one line each."""
    lines = []
    for f in fields(BikeInfo):
        was, now = getattr(old.info, f.name), getattr(new.info, f.name)
        if was != now:
            unit = shown_unit(f.name)
            lines.append(
                (
                    f"{field_label(f.name, '')}: {show_spec_value(was)} → "
                    f"{show_spec_value(now)} {unit}"
                ).rstrip()
            )
    before, after = {p.id: p for p in old.parts}, {p.id: p for p in new.parts}
    lines += _thing_lines(before, after, registry)
    for i in (i for i in before if i in after):
        lines += _part_lines(before[i], after[i], registry)
    joins = {join.id: join for join in old.joins}
    fresh = {join.id: join for join in new.joins}
    lines += [f"Disconnected: {join_words(old, j)}" for i, j in joins.items() if i not in fresh]
    lines += [f"Connected: {join_words(new, j)}" for i, j in fresh.items() if i not in joins]
    lines += [
        f"Connected otherwise: {join_words(new, j)}"
        for i, j in fresh.items()
        if i in joins and joins[i] != j
    ]
    settings = {(item.part, item.role): item.value for item in old.settings}
    wanted = {(item.part, item.role): item.value for item in new.settings}
    names = {**{p.id: p for p in old.parts}, **after}
    for part_id, role in sorted({*settings, *wanted}):
        was_set, now_set = settings.get((part_id, role)), wanted.get((part_id, role))
        if was_set != now_set:
            label = registry[names[part_id].kind].settings.get(role, role.replace("_", " "))
            lines.append(f"{names[part_id].name}, {label}: {_number(was_set)} → {_number(now_set)}")
    lines += _space_lines(old, new)
    lines += _measured_lines(old, new)
    for k, words, a, b in _frame_rows(old, new):
        if dict(a).get(k) != dict(b).get(k):
            lines.append(f"{words}: {dict(a).get(k, 'usual')} → {dict(b).get(k, 'usual')}")
    if (old.frame.pattern, old.frame.wrapped) != (new.frame.pattern, new.frame.wrapped):
        lines.append(
            f"Frame: {old.frame.pattern or 'guessed'} → "
            f"{new.frame.pattern or 'guessed'}{', wrapped' if new.frame.wrapped else ', tied'}"
        )
    return tuple(lines)


def replaced_words(old: str, new: str) -> str:
    """Return in words that one thing came in the place of another; like for like where both are
    called alike."""
    if old == new:
        return f"{old} replaced, like for like"
    return f"{old} replaced by {new}"


def _number(value: float | None) -> str:
    if value is None:
        return "—"
    return f"{value:.6g}"


def _thing_lines(before: dict[str, Part], after: dict[str, Part], registry: Registry) -> list[str]:
    """Return what came, what went, and what came in whose place."""
    came = [part for name, part in after.items() if name not in before]
    went = [part for name, part in before.items() if name not in after]
    replaced = {part.replaces: part for part in came if part.replaces in before}
    lines = []
    for part in went:
        new = replaced.get(part.id)
        lines.append(replaced_words(part.name, new.name) if new else f"Removed: {part.name}")
    for part in came:
        if part.replaces not in {gone.id for gone in went}:
            lines.append(f"Fitted: {part.name} ({registry[part.kind].title})")
    return lines


Pairs = tuple[tuple[str, float], ...] | tuple[tuple[str, str], ...]


def _measured_lines(old: Bike, new: Bike) -> list[str]:
    """Return what Set measured anew, and what it measured no longer."""
    before = {(value.part, value.name): value for value in old.measured}
    after = {(value.part, value.name): value for value in new.measured}
    lines = []
    for k, v in after.items():
        if before.get(k) != v:
            lines.append(f"Measured: {label_of(v)} {shown_value(v.value, v.unit)}, {v.on}")
    return lines + [
        f"No longer measured: {label_of(v)}" for k, v in before.items() if k not in after
    ]


def _space_lines(old: Bike, new: Bike) -> list[str]:
    """Return what was measured anew, one line a part or room."""
    names = {part.id: part.name for part in (*old.parts, *new.parts)}
    before = {size.part: size for size in old.space.sizes}
    after = {size.part: size for size in new.space.sizes}
    lines = []
    for i in after:
        if before.get(i) != after[i]:
            lines.append(f"Measured: {names.get(i, i)}")
    rooms = {room.id: room for room in old.space.rooms}
    fresh = {room.id: room for room in new.space.rooms}
    for i in fresh:
        if rooms.get(i) != fresh[i]:
            lines.append(f"Room: {fresh[i].name}")
    return lines + [f"Room no more: {rooms[i].name}" for i in rooms if i not in fresh]


def _frame_rows(old: Bike, new: Bike) -> list[tuple[str, str, Pairs, Pairs]]:
    """Return (key, words, old pairs, new pairs) of everything said of the frame."""
    rows: list[tuple[str, str, Pairs, Pairs]] = []
    said: tuple[tuple[str, Pairs, Pairs], ...] = (
        ("Stretch {}, m", old.frame.lengths, new.frame.lengths),
        ("{} sits at", old.frame.places, new.frame.places),
        ("{} is led by", old.frame.via, new.frame.via),
    )
    for words, a, b in said:
        keys = sorted({key for key, _ in (*a, *b)})
        rows += [(key, words.format(key), a, b) for key in keys]
    return rows


def _part_lines(old: Part, new: Part, registry: Registry) -> list[str]:
    if old.kind != new.kind:
        return [
            f"{old.name} ({registry[old.kind].title}) → {new.name} ({registry[new.kind].title})"
        ]
    if old.name == new.name:
        lines = []
    else:
        lines = [f"Name: {old.name} → {new.name}"]
    for f in fields(old.spec):
        a, b = getattr(old.spec, f.name), getattr(new.spec, f.name)
        if a != b:
            label = field_label(f.name, f.metadata.get("label", ""))
            unit = shown_unit(f.name)
            lines.append(
                f"{new.name}, {label}: {show_spec_value(a)} → {show_spec_value(b)} {unit}".rstrip()
            )
    return lines + ([f"{new.name}: plugs changed"] if old.ports != new.ports else [])
