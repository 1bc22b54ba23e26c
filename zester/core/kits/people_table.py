"""The people of a class as a table, in and out: CSV (RFC 4180), and a workbook out.

One row a person: name, orders, state, contact, address, note, papers, ordered; what goods come to, what of that is the
teacher's own, what was paid, whether members' prices hold, where the kit goes. Cells that a spreadsheet would take for
formulas are written with an apostrophe before them, which reading takes away again.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from zester.core.csv_files import open_csv, unguarded, write_csv
from zester.core.errors import ZesterError
from zester.core.kits.offers import MOST_PEOPLE
from zester.core.kits.order_lines import OrderLine
from zester.core.kits.order_money import SENT_WORDS

COLUMNS: tuple[str, ...] = ("name", "orders", "state", "contact", "address", "note", "papers", "ordered")
COLUMNS += ("amount", "own", "paid", "price", "sent")
# What other people's tables call the columns.
HEADS = {
    "name": "name",
    "participant": "name",
    "who": "name",
    "orders": "orders",
    "order": "orders",
    "offer": "orders",
    "kit": "orders",
    "kits": "orders",
    "state": "state",
    "status": "state",
    "contact": "contact",
    "mail": "contact",
    "e-mail": "contact",
    "email": "contact",
    "phone": "contact",
    "telephone": "contact",
    "address": "address",
    "note": "note",
    "notes": "note",
    "remark": "note",
    "papers": "papers",
    "choice": "papers",
    "choices": "papers",
    "amount": "amount",
    "goods": "amount",
    "own": "own",
    "own share": "own",
    "paid": "paid",
    "payments": "paid",
    "price": "price",
    "member": "price",
    "sent": "sent",
    "ordered": "ordered",
    "ordered on": "ordered",
    "date": "ordered",
    "how many": "count",
    "count": "count",
    "number": "count",
}


def lines_of_csv(data: bytes) -> list[str]:
    """The lines that a table's rows are, as somebody would write them.

    Raises
    ------
    ZesterError
        If it is no CSV, its first row names no column of names, or it has more rows than a class has people.
    """
    rows = open_csv(data, MOST_PEOPLE + 1)
    if not rows:
        raise ZesterError("The table is empty", mend=f"Its first row names the columns: {', '.join(COLUMNS)}")
    heads = [HEADS.get(" ".join(head.casefold().split()), "") for head in rows[0]]
    if "name" not in heads:
        told = ", ".join(head.strip()[:30] or "(empty)" for head in rows[0][:8])
        raise ZesterError(
            f"No column is called “name”; the first row says: {told}",
            mend=f"Name the columns in the first row: {', '.join(COLUMNS)}",
        )
    unknown = [head.strip() for head, known in zip(rows[0], heads, strict=True) if head.strip() and not known]
    if unknown:
        raise ZesterError(f"The column “{unknown[0][:40]}” is not known", mend=f"There are {', '.join(COLUMNS)}")
    if len(rows) - 1 > MOST_PEOPLE:
        raise ZesterError(f"The table has more than {MOST_PEOPLE} people", mend="Send the rest as a second file")
    return [_line(heads, row) for row in rows[1:] if any(cell.strip() for cell in row)]


def _line(heads: Sequence[str], row: Sequence[str]) -> str:
    """A row as a written line: what it says, labelled where a line wants a label."""
    cells: dict[str, str] = {}
    for head, cell in zip(heads, row, strict=False):
        text = " ".join(unguarded(cell).replace(";", ",").split())
        if head and text:
            cells[head] = f"{cells[head]}, {text}" if head in cells else text
    order = " ".join(filter(None, [cells.get("orders", ""), cells.get("count", "").removesuffix(".0")]))
    parts = [
        f"{cells.get('name', '').replace(',', ' ')}: {order}" if order else cells.get("name", "").replace(",", " ")
    ]
    parts += [cells[name] for name in ("state",) if name in cells]
    parts += [f"contact {cells['contact']}"] if "contact" in cells else []
    parts += [f"address {cells['address']}"] if "address" in cells else []
    parts += [f"papers {cells['papers']}"] if "papers" in cells else []
    parts += [f"ordered {cells['ordered']}"] if "ordered" in cells else []
    parts += [_labelled_amount(cells["amount"])] if "amount" in cells else []
    parts += [f"own {cells['own']}"] if "own" in cells else []
    paid = cells.get("paid", "").split("+")
    parts += [_paid(each.strip()) for each in paid if each.strip()]
    parts += ["member"] if cells.get("price", "").casefold() in ("member", "yes") else []
    parts += [cells["sent"]] if "sent" in cells else []
    return ", ".join([*parts, *([f"note {cells['note']}"] if "note" in cells else [])])


def _labelled_amount(cell: str) -> str:
    """``supplies 62.50`` as it is; a bare ``62.50`` is an amount."""
    return cell if any(char.isalpha() for char in cell) else f"amount {cell}"


def _paid(cell: str) -> str:
    """``40 on 2026-11-03``, ``back 5``; a bare ``paid`` or ``yes`` is the state."""
    if not any(char.isdigit() for char in cell):
        return "paid" if cell.casefold() in ("yes", "paid", "y", "x") else cell
    return cell if cell.casefold().startswith("paid") else f"paid {cell}"


def write_people_csv(people: Iterable[OrderLine], offers: Mapping[str, str], papers: Mapping[str, str]) -> bytes:
    """The people as CSV, with a byte order mark so that spreadsheets know it is UTF-8."""
    return write_csv(COLUMNS, (_cells(person, offers, papers) for person in people))


def _cells(person: OrderLine, offers: Mapping[str, str], papers: Mapping[str, str]) -> tuple[str, ...]:
    orders = " + ".join(f"{offers[key]} {count}" for key, count in person.orders if key in offers)
    chosen = " / ".join(papers[key] for key in person.chosen if key in papers)
    on = person.ordered_on.isoformat() if person.ordered_on else ""
    about = person.name, orders, person.state, person.contact, person.address, person.note, chosen, on
    return (*about, *_money_cells(person))


def _money_cells(person: OrderLine) -> tuple[str, ...]:
    paid = " + ".join(
        f"{'back ' if each.kind == 'back' else ''}{each.amount}{f' on {each.on.isoformat()}' if each.on else ''}"
        for each in person.payments
    )
    amount = f"{person.goods} {person.amount}".strip() if person.amount else ""
    sent = next((words for words, key in SENT_WORDS.items() if key == person.sent), "")
    return amount, str(person.own or ""), paid, "member" if person.member else "", sent
