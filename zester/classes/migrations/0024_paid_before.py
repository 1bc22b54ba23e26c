"""Whoever was said to have paid has a payment of what the order came to."""

from decimal import Decimal

from django.db import migrations
from django.utils import timezone

WORDS = "paid, before amounts were kept"


def write_payments(apps, schema_editor):
    """One payment each, on the day of the order."""
    participants = apps.get_model("classes", "Participant").objects.filter(state="paid", payments=None)
    payment = apps.get_model("classes", "Payment")
    rows = []
    for person in participants.prefetch_related("orders__offer", "card_class__offers").iterator(chunk_size=500):
        ordered = [(order.offer, order.count) for order in person.orders.all()]
        usual = next((each for each in person.card_class.offers.all() if each.free_above is None), None)
        if not ordered and usual:
            ordered = [(usual, 1)]
        due = sum(((offer.price or 0) * count for offer, count in ordered), Decimal(0))
        if due:
            on = person.ordered_on or timezone.localdate()
            rows.append(payment(participant=person, amount=due, on=on, words=WORDS))
    payment.objects.bulk_create(rows)


class Migration(migrations.Migration):
    """After the tables are there."""

    dependencies = [("classes", "0023_amounts_and_payments")]
    operations = [migrations.RunPython(write_payments, migrations.RunPython.noop)]
