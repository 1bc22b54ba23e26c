"""Files that somebody asked for, to print or to keep, and that workers make."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models

FOLDER = "prints"


class Print(models.Model):
    """A file: asked for, being made, there, or why it is not.

    ``key`` is what it is made from, so that the same is made once; the file lies beside the database, as long as it is
    used. Another page asks for the same by the same key.
    """

    class Kind(models.TextChoices):
        """What is made; the end of the file's name."""

        PDF = "pdf", "a page to print"
        ZIP = "zip", "everything of one person"

    class State(models.TextChoices):
        """How far it is."""

        WAITING = "waiting", "waits"
        MAKING = "making", "is being made"
        DONE = "done", "ready"
        FAILED = "failed", "could not be made"

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    key = models.CharField(max_length=64)
    kind = models.CharField(max_length=3, choices=Kind, default=Kind.PDF)
    # What a saved file is called, and what people call it.
    name = models.CharField(max_length=160)
    title = models.CharField(max_length=160)
    state = models.CharField(max_length=7, choices=State, default=State.WAITING)
    # Why it is not there; or what to know about it.
    problem = models.CharField(max_length=300, blank=True)
    asked_at = models.DateTimeField(auto_now_add=True)
    began_at = models.DateTimeField(null=True)
    used_at = models.DateTimeField(auto_now_add=True)
    # Whose turn it was: the higher, the later.
    turn = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["-pk"]
        constraints = [models.UniqueConstraint("owner", "key", name="the_same_is_made_once")]

    def __str__(self) -> str:
        return self.title

    @property
    def folder(self) -> Path:
        """Where its files lie."""
        return Path(settings.MEDIA_ROOT, FOLDER, str(self.owner_id))

    @property
    def source(self) -> Path:
        """The page it is made from."""
        return self.folder / f"{self.key}.html"

    @property
    def file(self) -> Path:
        """The file itself."""
        return self.folder / f"{self.key}.{self.kind}"

    @property
    def lock(self) -> Path:
        """What whoever makes it holds on to: the system lets it go when they die."""
        return self.folder / f"{self.key}.lock"

    @property
    def ready(self) -> bool:
        """Whether it is there."""
        return self.state == self.State.DONE and self.file.is_file()

    @property
    def gone(self) -> bool:
        """Whether it was there once."""
        return self.state == self.State.DONE and not self.file.is_file()
