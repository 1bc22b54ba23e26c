"""The usual cautions, beside every step with a tool that can hurt. Common practice, no source.

They do not take the place of what the maker of a tool says, or of local rules.
"""

from __future__ import annotations

CAUTIONS = {
    "blade": "Hand behind the guard and clear of the rail; blade parked and locked between cuts.",
    "knife": "Cut away from your body, on a mat, along a metal edge; cap the knife between cuts.",
    "rollers": "Fingers, hair and sleeves clear of the rollers; plates stacked as the maker says.",
    "heat": "Heat tool on a heat-proof rest and off between uses; it burns skin and scorches paper.",
    "solvent": "Open a window; follow the label of the ink or spray; keep it away from heat.",
    "punch": "Fingers out of the slot of the punch; press it flat on the table.",
}
ALWAYS = "Children only with an adult at the tool. What the maker of the tool says, and local rules, come first."


def cautions_for(tools: set[str]) -> list[str]:
    """The cautions for these tools, and what always holds; none if there is no tool that can hurt."""
    found = [words for tool, words in CAUTIONS.items() if tool in tools]
    return [*found, ALWAYS] if found else []
