"""What a class taught, written into the notes of the next one: minutes, what was spoiled and missing, spares enough."""

from __future__ import annotations

from collections import Counter

from zester.bags.models import Shortage
from zester.bench.models import CutLog
from zester.classes.models import CardClass
from zester.core.tally import some
from zester.site.dates import day

# With this the lines begin that the next copy writes anew.
LAST_TIME = "Last time"


def learnt_in(card_class: CardClass) -> list[str]:
    """What was learnt in it, a line each; none if nothing was cut."""
    logs = list(CutLog.objects.filter(plan__class_paper__card_class=card_class).defer("plan"))
    lacked = _lacked(card_class, logs)
    planned, taken = (sum(getattr(log, name) for log in logs) for name in ("planned_seconds", "seconds"))
    lines = []
    if taken and planned:
        lines.append(f"{-(-taken // 60)} minutes at the trimmer, {-(-planned // 60)} reckoned")
    if lacked:
        words = ", ".join(f"{count} {name}" for name, count in lacked.most_common(8))
        lines.append(f"spoiled or missing: {words}")
        most = max(lacked.values())
        by_piece = card_class.spare_by == CardClass.SpareBy.PIECE
        if not by_piece or (not card_class.spare_percent and card_class.spare_number < most):
            lines.append(f"{some(most, 'spare')} of every piece would have been enough")
    return lines


def _lacked(card_class: CardClass, logs: list[CutLog]) -> Counter[str]:
    """What was spoiled at the bench, and missing at the packing table, by handle."""
    found: Counter[str] = Counter()
    for log in logs:
        for each in log.spoiled:
            if each.get("kind") == "piece":
                found[str(each.get("label", "")).partition(" ")[0] or "a piece"] += int(each.get("count", 1))
    for row in Shortage.objects.filter(card_class=card_class, is_piece=True):
        found[row.thing] += row.count
    return found


def copy_learnt(card_class: CardClass, new: CardClass) -> None:
    """Write it into the notes of a copy; what an earlier copy had written there is left out."""
    lines = learnt_in(card_class)
    kept = [line for line in new.notes.splitlines() if not line.startswith(LAST_TIME)]
    when = f" ({day(card_class.date)})" if card_class.date else ""
    told = [f"{LAST_TIME}{when}: {line}." for line in lines]
    notes = "\n".join([*told, *kept])
    # What she has written herself comes first where there is no room for both.
    if len(notes) > CardClass._meta.get_field("notes").max_length:
        notes = "\n".join(kept)
    if notes != new.notes:
        new.notes = notes
        new.save(update_fields=["notes"])
