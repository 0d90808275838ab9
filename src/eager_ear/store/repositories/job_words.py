"""The words that jobs are looked for by: how they are kept, and how they are found."""

from __future__ import annotations

import math
import re
import string
from collections.abc import Sequence

from sqlalchemy import Select
from sqlalchemy.dialects.mysql import match
from sqlalchemy.orm import Session

from eager_ear.store.tables import JobRow

# The full-text index keeps words from this length on.
SHORTEST_WORD, MOST_WORDS = 3, 12
# And leaves these out (InnoDB's own list; INFORMATION_SCHEMA.INNODB_FT_DEFAULT_STOPWORD).
STOPWORDS = (
    "a about an are as at be by com de en for from how i in is it la of "
    "on or that the this to was what when where who will with und www"
)
NOT_INDEXED = frozenset(STOPWORDS.split())
# Numbers of houses and machines are shorter than that: what begins with a digit is kept, and looked for, behind this.
NUMBER = "nr"
# So many pages of the newest are read for words: a word that one job in so many holds fills a page.
NEAR_PAGES = 20
# Where a part of a page was found there, so many times as far at most is worth reading on, and a half more than that
# part promises.
FAR_TIMES, MORE = 8, 1.5


def words_of(looked_for: str) -> list[str]:
    """The words of what was typed; more than a dozen are not looked for."""
    return re.findall(r"\w+", looked_for)[:MOST_WORDS]


def kept_words(words: str) -> str:
    """Words as the index keeps them, a space before each."""
    return "".join(f" {_kept_as(word)}" for word in words.split())


def _kept_as(word: str) -> str:
    return NUMBER + word if word[0] in string.digits else word


def with_words(session: Session, words: Sequence[str], asked: Select[JobRow], *, limit: int) -> list[tuple[int, int]]:
    """Which of the jobs asked for hold all the words, each as the beginning of one, and their machines; in their order.

    What many jobs hold is found among the newest, read one by one, as many as the share of them that held it asks
    for; what few hold, by the index. An index alone would fetch and sort all that hold a common word. Words that it
    does not keep, alone, are looked for among the newest only.
    """
    indexed = [word for word in words if len(_kept_as(word)) >= SHORTEST_WORD and word.lower() not in NOT_INDEXED]
    # A number is one of many: the newest hardly ever fill a page with it.
    if not indexed or not any(word[0] in string.digits for word in words):
        found = _among_newest(session, words, asked, pages=NEAR_PAGES, limit=limit)
        if limit / FAR_TIMES <= len(found) < limit:
            pages = math.ceil(MORE * NEAR_PAGES * limit / len(found))
            found = _among_newest(session, words, asked, pages=pages, limit=limit)
        if len(found) == limit or not indexed:
            return found
    against = " ".join(f"+{_kept_as(word)}*" for word in indexed)
    others = [JobRow.words.contains(f" {word}", autoescape=True) for word in words if word not in indexed]
    held = match(JobRow.__table__.c.words, against=against).in_boolean_mode()
    return _ids(session, asked.where(held, *others).limit(limit))


def _among_newest(
    session: Session, words: Sequence[str], asked: Select[JobRow], *, pages: int, limit: int
) -> list[tuple[int, int]]:
    last = asked.with_only_columns(JobRow.changed_at).offset(pages * limit - 1).limit(1)
    edge = session.scalar(last)
    near = asked.where(JobRow.changed_at >= edge) if edge is not None else asked
    beginnings = [JobRow.words.contains(f" {_kept_as(word)}", autoescape=True) for word in words]
    return _ids(session, near.where(*beginnings).limit(limit))


def _ids(session: Session, asked: Select[JobRow]) -> list[tuple[int, int]]:
    rows = session.execute(asked.with_only_columns(JobRow.id, JobRow.machine_id))
    return [(row.id, row.machine_id) for row in rows]
