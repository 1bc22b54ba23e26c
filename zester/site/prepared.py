"""Questions to the database that are asked at every keystroke: put together and turned into SQL once.

Afterwards only their values change. Putting a question together takes Django two to five times as long as the answer.

    @prepared
    def people(card_class: int) -> QuerySet[Person]:
        return Person.objects.filter(card_class=card_class)

    people(7)            what list(Person.objects.filter(card_class=7)) gives
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from copy import copy
from dataclasses import dataclass
from typing import Any

from django.db import DEFAULT_DB_ALIAS, connections
from django.db.models import QuerySet
from django.db.models.sql.compiler import SQLCompiler
from django.http import Http404

# What stands for values while SQL is made: numbers that are no limit of any question but that the smallest column
# holds, as PostgreSQL asks nothing where one does not fit; of long lists larger ones. And words that nobody is called.
_NUMBERS, _MORE_NUMBERS, _WORD = range(31_000, 32_700), 2_147_000_000, "\N{INVISIBLE SEPARATOR}value "
_LARGEST = 2**63 - 1
# So many different lengths of lists are kept.
_MOST = 200
Value = int | str | Sequence[int]


@dataclass(frozen=True)
class _Ready:
    """A question as SQL."""

    questions: QuerySet
    compiler: SQLCompiler
    sql: str
    # Values as they are, and by place the numbers of those that are filled in, with the type the database wants.
    params: tuple[Any, ...]
    places: dict[int, tuple[int, type]]
    converters: dict[int, Any]


class Prepared:
    """A question that is asked again and again with other values: keys, words, lists of keys."""

    def __init__(self, build: Callable[..., QuerySet]):
        self.build, self._ready = build, dict[tuple, _Ready]()
        self.__doc__, self.__name__ = build.__doc__, build.__name__

    def __call__(self, *values: Value) -> list[Any]:
        """The rows; none for an empty list, or a number that no column holds."""
        flat = [each for value in values for each in (value if _is_list(value) else (value,))]
        if any(_is_list(value) and not value for value in values) or any(_is_beyond(each) for each in flat):
            return []
        kind = connections[DEFAULT_DB_ALIAS].vendor, *(_kind(value) for value in values)
        ready = self._ready.get(kind)
        if ready is None:
            ready = self._make(values)
            if len(self._ready) < _MOST:
                self._ready[kind] = ready
        return list(_filled(ready, flat))

    def one_or_404(self, *values: Value) -> Any:
        """The first row; 404 if there is none."""
        found = self(*values)
        if not found:
            raise Http404
        return found[0]

    def _make(self, values: Sequence[Value]) -> _Ready:
        """The question with something in place of each value, as SQL, and where those stand in it."""
        stands_for: dict[Any, int] = {}

        def stand_in(value: int | str) -> int | str:
            number = len(stands_for)
            figure = _NUMBERS[number] if number < len(_NUMBERS) else _MORE_NUMBERS + number
            stands_for[_WORD + str(number) if isinstance(value, str) else figure] = number
            return next(reversed(stands_for))

        filled = [[stand_in(each) for each in value] if _is_list(value) else stand_in(value) for value in values]
        questions = self.build(*filled)
        compiler = questions.query.get_compiler(DEFAULT_DB_ALIAS)
        sql, params = compiler.as_sql()
        places = {
            at: (stands_for[value], type(value))
            for at, value in enumerate(params)
            if isinstance(value, int | str) and value in stands_for
        }
        if {number for number, _ in places.values()} != set(stands_for.values()):
            raise TypeError(f"{self.__name__} changes its values before it asks, so it cannot be prepared")
        shown = [column for column, *_ in compiler.select[: compiler.col_count]]
        return _Ready(questions, compiler, sql, tuple(params), places, compiler.get_converters(shown))


def prepared(build: Callable[..., QuerySet]) -> Prepared:
    """A question from a function that makes it from its values."""
    return Prepared(build)


def _is_list(value: object) -> bool:
    return isinstance(value, list | tuple)


def _is_value(value: object) -> bool:
    return type(value) in (int, str)


def _is_beyond(value: object) -> bool:
    return isinstance(value, int) and not -_LARGEST <= value <= _LARGEST


def _kind(value: Value) -> object:
    """What the SQL depends on; raises TypeError for what is compared in another way, as None is."""
    if _is_list(value):
        return len(value), _kind(value[0])
    if not _is_value(value):
        raise TypeError(f"{value!r} cannot be filled in")
    return type(value)


def _filled(ready: _Ready, values: Sequence[int | str]) -> QuerySet:
    """The question with these values; to be read, not to be built on."""
    params = list(ready.params)
    for at, (number, kind) in ready.places.items():
        params[at] = kind(values[number])
    compiler, query, asked = copy(ready.compiler), copy(ready.questions.query), ready.questions
    compiler.connection = connections[DEFAULT_DB_ALIAS]
    compiler.as_sql = lambda *_, **__: (ready.sql, tuple(params))
    compiler.get_converters = lambda _: ready.converters
    query.get_compiler = lambda *_, **__: compiler
    found = type(asked)(asked.model, query)
    for name in ("_iterable_class", "_fields", "_prefetch_related_lookups"):
        setattr(found, name, getattr(asked, name))
    return found
