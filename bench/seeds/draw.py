"""Draws forty faults from the catalogue, each of another kind, by a seed: python3 draw.py 20261201"""
import pathlib
import random
import re
import sys

FORMS = ["register", "enter", "offer", "edit", "ask"]


def drawn(seed, count=40):
    text = pathlib.Path(__file__).with_name("catalogue.yaml").read_text()
    pairs = [(kind, form) for kind, forms in re.findall(r"^(\w+): \[([^\]]*)\]", text, re.M) for form in forms.split(", ")]
    random.Random(seed).shuffle(pairs)
    chosen = {}
    for kind, form in pairs:
        if len(chosen) < count:
            chosen.setdefault(kind, form)
    return sorted(chosen.items(), key=lambda p: (FORMS.index(p[1]), p[0]))


if __name__ == "__main__":
    for kind, form in drawn(int(sys.argv[1])):
        print(f"{form}.{kind}")
