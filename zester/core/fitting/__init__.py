"""Fitting: from a job (papers, sheets, pieces) to a plan of edge-to-edge cuts.

engine.py     all of it together: ``fit(job)``
offcuts.py    offcuts before new sheets        size_mix.py  sheets of several sizes     sequence.py  several jobs

proofs/       why no plan costs less
  prove.py      finds prices that prove a plan the cheapest
  room.py       how much a plan of a sheet fewer could lose
  proof.py      checks them without knowing anything of the search

search/       whole numbers of sheets, and what becomes of them
  rounding.py   out of the fractional mix, one way after the other; what is known meanwhile is in found.py:
    filling.py    sheets filled one by one; correcting.py with values that learn
    whole.py      integer programs over the columns there are
    smaller.py    smaller problems out of one; diving.py one sheet decided after the other
    gaps.py       whether there is anything cheaper: closing.py lists every column that a cheaper plan could use,
                  mixes.py takes one number of sheets of each price after the other
  naming.py     which slot gets which piece, rows divided, margins, the way the sheet lies
  fillers.py    pieces that come for free
  portions.py   whole sheets in equal portions

minutes/      plans that take few minutes for their cost
  easing.py     the search for them
  easy_columns.py  the columns they are chosen from
  stripping.py  sheets in alike strips, some of these columns
  carrying.py   what is left over trimmed off later, in all of them
  least_minutes.py  a lower bound of the seconds
  hand_table.py  the most a sheet can be worth where a stack may stay in the hand

patterns/     ways to cut one sheet
  problem.py    one paper as the solver sees it: sizes, stocks (sheets and hidden middles)
  positions.py  where a cut can usefully lie
  knapsack.py   the best single sheet for given values of the pieces
  loops.py      the loops behind it, plain
  kernels.py    the same compiled, and others; the only module that knows the compiler
  columns.py    the linear program over sheets, made column by column, and its exact lower bound
  rows.py       the best single sheet when handling has a price
  greedy.py     piece after piece where it fits best
  handling.py   what cutting layouts takes, estimated
  tidy.py       the same layout cut in fewer strokes and settings
  strokes.py    how many strokes stacks take

jobs/         what is asked and what is answered
  job.py        the job with all its rules       job_file.py   read from and written to open JSON
  check_job.py  finds what is wrong with one     plan.py       the plan, read from and written to open JSON
  check_plan.py  replays a plan without knowing any of the above
  need.py       what of a job its plan depends on, and a plan renamed for a job that differs in names only
  supply.py     whether a shelf is enough, the cheapest of several plans, which pieces are missing
  drawing.py    where everything lies            summary.py, leftovers.py   what it comes to, what is left

parts.py      cut trees, and what a trimmer can do
solver.py     the only module that knows the linear and integer programming library
"""
