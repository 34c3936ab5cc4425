"""What a survey found wrong, by kind, and of how many."""

from dataclasses import dataclass, field

import numpy as np


@dataclass
class Wrong:
    """Cases by kind, and how many there were to be right or wrong."""

    cases: dict[str, list[str]] = field(default_factory=dict)
    of: dict[str, int] = field(default_factory=dict)
    errors: dict[str, list[float]] = field(default_factory=dict)

    def count(self, kind: str, wrong: bool, says: str = "", error: float | None = None) -> None:
        self.of[kind] = self.of.get(kind, 0) + 1
        if wrong:
            self.cases.setdefault(kind, []).append(says)
        if error is not None:
            self.errors.setdefault(kind, []).append(error)

    def add(self, other: "Wrong") -> None:
        for kind, number in other.of.items():
            self.of[kind] = self.of.get(kind, 0) + number
        for kind, cases in other.cases.items():
            self.cases.setdefault(kind, []).extend(cases)
        for kind, errors in other.errors.items():
            self.errors.setdefault(kind, []).extend(errors)

    def show(self, heading: str) -> None:
        """Every case, then a line for each kind."""
        for kind, cases in self.cases.items():
            print(f"\n{kind}:")
            for case in cases:
                print(f"  {case}")
        print(f"\n{heading}")
        width = max(map(len, self.of), default=0)
        for kind, number in self.of.items():
            wrong = len(self.cases.get(kind, []))
            spread = np.abs(self.errors.get(kind, []))
            more = f"   median {np.median(spread):.3g}, 99 % {np.percentile(spread, 99):.3g}" if spread.size else ""
            print(f"{kind:{width}} {wrong:5} of {number:5}  {100 * wrong / number:5.1f} %{more}")
