"""The menus of the window, left to right, and the letters that reach menus and their entries by Alt."""

from collections.abc import Iterable

from notcher.ui.commands.wording import MENU_PATHS


def with_access_letters(labels: Iterable[str]) -> list[str]:
    """Return each label with & before its access letter: a word's first where that can be, no letter twice.

    As many labels as possible get one: where none is free, another label is moved on to a letter that is (augmenting
    paths, Kuhn 1955).
    """
    labels = list(labels)
    places = [_places(label) for label in labels]
    owner: dict[str, int] = {}
    at_of: dict[int, int] = {}

    def take(number: int, tried: set[str]) -> bool:
        for at in places[number]:
            letter = labels[number][at].lower()
            if letter in tried:
                continue
            tried.add(letter)
            if letter not in owner or take(owner[letter], tried):
                owner[letter], at_of[number] = number, at
                return True
        return False

    for number, label in enumerate(labels):
        free = next((at for at in places[number] if label[at].lower() not in owner), None)
        if free is not None:
            owner[label[free].lower()], at_of[number] = number, free
        else:
            take(number, set())
    return [_marked(label, at_of.get(number)) for number, label in enumerate(labels)]


def _places(label: str) -> list[int]:
    """Where an access letter may stand, the beginnings of words first."""
    letters = [at for at, char in enumerate(label) if char.isalpha() and char.isascii()]
    return sorted(letters, key=lambda at: (at > 0 and label[at - 1].isalnum(), at))


def _marked(label: str, at: int | None) -> str:
    if at is None:
        return label.replace("&", "&&")
    return f"{label[:at].replace('&', '&&')}&{label[at:].replace('&', '&&')}"


def plain(marked: str) -> str:
    """Return a label without its access letter's mark."""
    return marked.replace("&&", "\0").replace("&", "").replace("\0", "&")


MENUS = tuple(with_access_letters(path for path in MENU_PATHS if "/" not in path))
