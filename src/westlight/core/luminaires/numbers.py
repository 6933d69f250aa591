"""Numbers out of text files that were written by many programs, some of them careless."""

from __future__ import annotations

from ..errors import PhotometricError


class NumberStream:
    """Numbers of a text one after another, across line ends, commas and decimal commas."""

    def __init__(self, text: str, what: str) -> None:
        self._words = text.replace(",", " ").split()
        self._at = 0
        self._what = what

    def take(self) -> float:
        """The next number; raises `PhotometricError` if the file ends or holds something else."""
        if self._at >= len(self._words):
            raise PhotometricError(f"{self._what} ends too early; copy or download it again.")
        word = self._words[self._at]
        self._at += 1
        try:
            value = float(word)
        except ValueError:
            raise PhotometricError(
                f"{self._what} holds “{word[:20]}” where a number belongs; it is damaged."
            ) from None
        if value != value or abs(value) > 1e12:
            raise PhotometricError(f"{self._what} holds an impossible number, {word[:20]}.")
        return value

    def many(self, count: int) -> list[float]:
        """The next ``count`` numbers."""
        return [self.take() for _ in range(count)]

    def whole(self, low: int, high: int, name: str) -> int:
        """The next number as a whole one between limits."""
        value = self.take()
        if value != int(value) or not low <= value <= high:
            raise PhotometricError(
                f"{self._what} gives {value:g} as its {name}; {low} to {high} is possible."
            )
        return int(value)
