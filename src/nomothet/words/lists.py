"""Lists in running text."""

from collections.abc import Sequence


def and_list(words: Sequence[str]) -> str:
    """Words as a list in a sentence.

    >>> and_list(["walk", "flight", "lap"])
    'walk, flight and lap'
    """
    return " and ".join([", ".join(words[:-1]), words[-1]]) if len(words) > 1 else "".join(words)


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
