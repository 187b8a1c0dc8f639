"""A long list of invented adverts, for measuring: python3 scripts/adverts.py 2000 > list.txt

Twelve kinds, as people write them; about a fifth repeats another or lacks a price. The same list every time.
"""

import random
import sys

KINDS = [
    ("diesel van manual", 9800), ("diesel van automatic", 10900), ("petrol hatchback manual", 6900),
    ("petrol saloon automatic", 8200), ("diesel estate manual", 8900), ("diesel estate automatic", 9600),
    ("petrol estate manual", 8100), ("diesel off-roader automatic", 13800), ("petrol mpv manual", 7400),
    ("diesel mpv automatic", 9900), ("hybrid hatchback automatic", 11800), ("petrol coupe manual", 9400),
]  # fmt: skip
COLOURS = ["white", "silver", "grey", "blue", "red", "green", "black", "brown"]
WORDS = ["two keys", "tow bar", "new clutch last year", "needs a windscreen", "one owner", "rust at the arches",
         "fresh test", "selling for my father", "new battery", "second set of wheels", "oil leak", "no rust"]  # fmt: skip

rng = random.Random(2_000)
lines = []
for _ in range(int(sys.argv[1]) if len(sys.argv) > 1 else 2_000):
    if lines and rng.random() < 0.15:
        lines.append(rng.choice(lines))
        continue
    kind, new = rng.choice(KINDS)
    year = rng.randint(2011, 2021)
    km = round((2024 - year + rng.random()) * rng.uniform(9_000, 24_000), -2)
    price = round(new * 0.93 ** (2024 - year) * (km / 90_000) ** -0.18 * rng.uniform(0.75, 1.3) * 1.6, -1)
    asked = "price on request" if rng.random() < 0.08 else f"{price:.0f}"
    lines.append(f"{rng.choice(COLOURS)} {kind}, {year}, {km:.0f} km, {asked}, {rng.choice(WORDS)}")
print("\n".join(lines))
