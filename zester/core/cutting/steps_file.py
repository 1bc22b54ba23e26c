"""The steps at the trimmer as open JSON (``fit-steps/1``), with what they come to at somebody's pace."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

from zester.core.cutting.habits import USUAL, Habits
from zester.core.cutting.shared_rail import PaperToCut, share_rail
from zester.core.cutting.steps import CutSteps, Result, Step, cutting_steps
from zester.core.fitting.jobs.check_plan import check_plan
from zester.core.fitting.jobs.job import Job
from zester.core.fitting.jobs.plan import Plan
from zester.core.lengths import write_length
from zester.core.pace import Pace

FORMAT = "fit-steps/1"


def steps_of(job: Job, plan: Plan, habits: Habits = USUAL) -> str:
    """The steps of all papers of a plan as JSON text.

    Raises
    ------
    PlanError
        If the plan is not one of this job.
    """
    check_plan(job, plan)
    papers = {paper.id: paper for paper in job.papers}
    found = [(each.id, cutting_steps(papers[each.id], each, job.bench, habits)) for each in plan.papers]
    return write_steps(found, job.unit, habits.pace)


def shared_steps_of(job: Job, plan: Plan, habits: Habits = USUAL) -> str:
    """The steps of all papers of a plan in one order over the papers, as JSON text.

    Raises
    ------
    PlanError
        If the plan is not one of this job.
    """
    check_plan(job, plan)
    jobs = {paper.id: paper for paper in job.papers}
    papers = [
        PaperToCut(
            job=jobs[each.id],
            plan=each,
            bench=job.bench,
            habits=habits,
            alone=cutting_steps(jobs[each.id], each, job.bench, habits),
        )
        for each in plan.papers
    ]
    shared = share_rail(papers, habits.most_piles)
    names = [each.id for each in plan.papers]
    told = json.loads(write_steps(zip(names, shared.papers, strict=True), job.unit, habits.pace))
    told["order"] = [{"paper": names[leg.paper], "first": leg.first, "last": leg.last} for leg in shared.legs]
    told |= {"settings": shared.settings, "places": shared.places, "piles": shared.most_piles}
    told["seconds"] = shared.seconds(habits.pace)
    return json.dumps(told, indent=1, ensure_ascii=False)


def write_steps(papers: Iterable[tuple[str, CutSteps]], unit: str, pace: Pace) -> str:
    """Steps as JSON text, paper by paper."""
    entries = [_paper_entry(paper, steps, unit, pace) for paper, steps in papers]
    return json.dumps({"zester": FORMAT, "unit": unit, "papers": entries}, indent=1, ensure_ascii=False)


def _paper_entry(paper: str, cut_steps: CutSteps, unit: str, pace: Pace) -> dict[str, Any]:
    return {
        "id": paper,
        "settings": cut_steps.settings,
        "stacks": cut_steps.stacks,
        "strokes": cut_steps.strokes,
        "seconds": cut_steps.seconds(pace),
        "steps": [_step_entry(step, unit) for step in cut_steps.steps],
    }


def _step_entry(step: Step, unit: str) -> dict[str, Any]:
    return {
        "from": step.source,
        "take": step.source_label,
        "count": step.count,
        "width": write_length(step.width, unit),
        "height": write_length(step.height, unit),
        "axis": step.axis,
        "at": write_length(step.at, unit),
        "cuts": step.cuts,
        "stacks": list(step.stacks),
        "gives": [_given(result, unit) for result in step.results],
    }


def _given(result: Result, unit: str) -> dict[str, Any]:
    return {
        "kind": result.kind,
        "name": result.label,
        "width": write_length(result.width, unit),
        "height": write_length(result.height, unit),
        "count": result.count,
    }
