"""What pages know of the example."""

from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils.functional import SimpleLazyObject

from zester.demo.models import Example
from zester.site.prepared import prepared


@prepared
def _examples(owner: int) -> QuerySet:
    return Example.objects.filter(owner=owner, card_class__isnull=False).values_list("card_class", flat=True)


def example(request: HttpRequest) -> dict:
    """The key of the example class in one's account, looked up where a page asks; 0 without one."""

    def key() -> int:
        user = getattr(request, "user", None)
        found = _examples(user.pk) if user and user.pk else []
        return found[0] if found else 0

    return {"example_class": SimpleLazyObject(key)}
