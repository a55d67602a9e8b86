"""Draws forty faults from the catalogue, each of another kind, by a seed: python3 draw.py 20261201

With further seeds it draws beside the faults of those: python3 draw.py 20261202 20261201
"""
import pathlib
import random
import re
import sys

FORMS = ["register", "enter", "offer", "edit", "ask"]


def drawn(seed, *earlier, count=40):
    text = pathlib.Path(__file__).with_name("catalogue.yaml").read_text()
    pairs = [(kind, form) for kind, forms in re.findall(r"^(\w+): \[([^\]]*)\]", text, re.M) for form in forms.split(", ")]
    taken = [pair for other in earlier for pair in drawn(other, count=count)]
    pairs = [pair for pair in pairs if pair not in taken]
    random.Random(seed).shuffle(pairs)
    chosen = {}
    for kind, form in pairs:
        if len(chosen) < count:
            chosen.setdefault(kind, form)
    return sorted(chosen.items(), key=lambda p: (FORMS.index(p[1]), p[0]))


if __name__ == "__main__":
    for kind, form in drawn(*map(int, sys.argv[1:])):
        print(f"{form}.{kind}")
