"""Labels of groups and seats are no names of people: one that looks like a name is asked about."""

from __future__ import annotations

import re

#: Words that groups are called by; beside one of them another capital letter is no surname.
_OF_GROUPS = frozenset(
    ["team", "group", "table", "bench", "lane", "class", "crew", "house", "set", "year", "row", "pair", "squad", "station", "desk", "red", "blue", "green", "yellow", "orange", "purple", "pink", "black", "white", "grey", "brown", "gold", "silver", "north", "south", "east", "west", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "big", "little", "great", "the", "and", "of"]
)
_CAPITAL = re.compile(r"^[^\W\d_][\w'’\-]*$")
_INITIAL = re.compile(r"^[^\W\d_]\.?$")


def looks_like_a_name(label: str) -> bool:
    """Whether a label reads like the name of a person: two or three words with capital letters ("Xaviera Quillfeather"), a word and an initial, a surname
    with a comma, or an address of mail. One word alone cannot be told from a bird or a colour."""
    text = " ".join(label.split())
    if "@" in text and "." in text.rpartition("@")[2]:
        return True
    words = text.replace(",", " ").split()
    if not 2 <= len(words) <= 3 or any(w.casefold().strip(".") in _OF_GROUPS for w in words):
        return False
    initials = [bool(_INITIAL.match(w)) and w[0].isupper() for w in words]
    capital = [bool(_CAPITAL.match(w)) and w[0].isupper() and len(w) > 1 and not w.isupper() for w in words]
    return any(capital) and all(a or b for a, b in zip(initials, capital, strict=True))


def asked_about(label: str) -> str:
    """What is asked about such a label."""
    return f"“{' '.join(label.split())}” looks like a person’s name. Bendro keeps no names of pupils: use a label such as Curlew, Red or seat 2. If it is no name, leave it."
