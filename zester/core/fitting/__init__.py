"""Fitting: from a job (papers, sheets, pieces) to a plan of edge-to-edge cuts.

job.py        the job, read from and written to open JSON
plan.py       the plan, read from and written to open JSON
positions.py  where a cut can usefully lie
knapsack.py   the best single sheet for given values of the pieces
columns.py    the linear program over sheets, made column by column, and its exact lower bound
rounding.py   whole numbers of sheets out of it
naming.py     which slot gets which piece, layouts out of cut trees
engine.py     all of it together: ``fit(job)``
check.py      replays a plan without knowing any of the above
solver.py     the only module that knows the linear and integer programming library
"""
