"""Proofs of plans: kept with the plan, offered as a file."""

from __future__ import annotations

import json
from contextlib import suppress

from zester.core.fitting.proofs.proof import FORMAT, PRICES, ProofError, check_proof, proof_entry, read_proof
from zester.core.fitting.proofs.prove import prove
from zester.plans.kept import read_made
from zester.plans.models import PaperPlan

SECONDS = 5.0


def proof_of(kept: PaperPlan) -> dict:
    """The proof of a plan that is proven, as JSON data: the one that is kept, or one found now and checked."""
    if kept.proof:
        return kept.proof
    made = read_made(kept)
    same = PaperPlan.objects.filter(class_paper=kept.class_paper_id, need=kept.need, labels=kept.labels)
    known = same.filter(weighed=kept.weighed).exclude(proof={}).first()
    if known:
        # The shelf may have been another when that was found.
        with suppress(ProofError):
            check_proof(made.paper, made.plan, read_proof(known.proof))
            return known.proof
    return proof_entry(prove(made.paper, made.plan, SECONDS))


def keep_proofs(class_paper: int, need: str) -> None:
    """Find the proofs of the proven plans for a need that have none, once for all that cost the same."""
    for kept in PaperPlan.objects.filter(class_paper=class_paper, need=need, proven=True, proof={}):
        PaperPlan.objects.filter(pk=kept.pk).update(proof=proof_of(kept))


def proof_file(kept: PaperPlan) -> str:
    """The proof as a file of open JSON."""
    return json.dumps({"zester": FORMAT, "papers": [proof_of(kept)]}, indent=1, ensure_ascii=False)


def proof_words(kept: PaperPlan) -> str:
    """What the proof rests on; empty where none is kept yet."""
    if not kept.proof:
        return ""
    if kept.proof["rests_on"] == PRICES:
        return "Checked once more by a part of Zester that has nothing to do with the search."
    return "It rests on the search itself, which went through what was left open; that is not checked a second time."
