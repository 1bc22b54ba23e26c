"""What a bench in a browser sends, and what it is told."""

from __future__ import annotations

import datetime
import json
import math
from uuid import UUID

from zester.bench.models import Run
from zester.bench.refits import open_refit
from zester.bench.runs import Ticked, last_turn
from zester.core.errors import JobError, storable
from zester.plans.models import PaperFit

MOST_TICKS = 2000
MOST_TURNS = 2_000_000_000
LARGEST = 500_000


def read_ticks(body: bytes) -> list[Ticked]:
    """The ticks of a request, in order. Raises JobError if it is something else."""
    if len(body) > LARGEST:
        raise JobError("These are too many ticks at once", mend="Reload the page")
    try:
        entries = json.loads(body)
        if not isinstance(entries, list) or len(entries) > MOST_TICKS:
            raise ValueError("no list")
        return [_tick(entry) for entry in entries]
    except (ValueError, KeyError, TypeError, OverflowError, RecursionError) as error:
        raise JobError("These are no ticks", mend="Reload the page") from error


def _tick(entry: dict) -> Ticked:
    at = datetime.datetime.fromtimestamp(float(entry["at"]) / 1000, datetime.UTC)
    seconds = float(entry.get("seconds", 0))
    run, done, turn = entry["run"], entry["done"], entry.get("turn", 0)
    if not math.isfinite(seconds) or not all(type(n) is int and 0 <= n <= 30_000 for n in (run, done)):
        raise ValueError("no number")
    if type(turn) is not int or not 0 <= turn <= MOST_TURNS:
        raise ValueError("no turn")
    device = entry.get("device", "")
    if not isinstance(device, str) or not storable(device):
        raise ValueError("no name")
    return Ticked(UUID(str(entry["key"])), run, done, at, seconds, device, turn)


def state_of(fit: PaperFit) -> dict:
    """How far a paper is, and the others of its class, for a bench that asks."""
    fits = PaperFit.objects.filter(class_paper__card_class=fit.class_paper.card_class_id).exclude(shown=None)
    shown = {each.shown_id: each for each in fits.select_related("class_paper__paper").order_by("pk")}
    newest = {run.plan_id: run for run in Run.objects.filter(plan__in=shown).order_by("number")}
    papers = [
        {"key": each.key, "name": each.name, "held": each.held, **_how_far(newest.get(plan))}
        for plan, each in shown.items()
    ]
    mine = next(each for each in papers if each["key"] == fit.key)
    looking = open_refit(fit) is not None
    last = newest.get(fit.shown_id)
    turn = last_turn(last) if last else 0
    told = {"papers": papers, "looking": looking, "turn": turn}
    return {name: mine[name] for name in ("run", "done", "of", "held")} | told


def _how_far(run: Run | None) -> dict[str, int]:
    return {"run": run.number, "done": run.done, "of": len(run.steps)} if run else {"run": 0, "done": 0, "of": 0}
