"""Lists in running text."""

from collections.abc import Sequence


def and_list(words: Sequence[str]) -> str:
    """Words as a list in a sentence.

    >>> and_list(["walk", "flight", "lap"])
    'walk, flight and lap'
    """
    return " and ".join([", ".join(words[:-1]), words[-1]]) if len(words) > 1 else "".join(words)


def few(labels: Sequence[str], most: int = 3) -> str:
    """Some labels, and how many more there are.

    >>> few(["A", "B", "C", "D", "E"]), few(["A", "B"])
    ('A, B, C and 2 more', 'A and B')
    """
    return and_list([*labels[:most], *([f"{len(labels) - most} more"] if len(labels) > most else [])])


def counted(count: int, one: str, many: str = "") -> str:
    """So many of something.

    >>> counted(1, "test"), counted(3, "pass", "passes")
    ('1 test', '3 passes')
    """
    return f"{count} {one if count == 1 else many or one + 's'}"


def numbers_of(numbers: Sequence[int]) -> str:
    """Numbers of passes as a list, with runs of three or more drawn together.

    >>> numbers_of([1, 2, 3, 4, 6, 7]), numbers_of([2])
    ('1 to 4, 6 and 7', '2')
    """
    runs: list[list[int]] = []
    for number in sorted(set(numbers)):
        if runs and number == runs[-1][-1] + 1:
            runs[-1].append(number)
        else:
            runs.append([number])
    words = [
        word
        for run in runs
        for word in ([f"{run[0]} to {run[-1]}"] if len(run) > 2 else [str(number) for number in run])
    ]
    return and_list(words)
