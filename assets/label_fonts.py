"""Make the two faces that labels are printed in: static TrueType cuts of the variable web fonts, small enough to embed.

    python assets/label_fonts.py FOLDER_WITH_WOFF2 FOLDER_TO_WRITE
"""

import sys
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

CUTS = {"label-text.ttf": 500, "label-strong.ttf": 800}
"""What is written, and its weight."""
PARTS = ("sofia-condensed.woff2", "sofia-condensed-ext.woff2")


def main(source: Path, target: Path) -> None:
    """Cut, merge and write; the same input gives the same bytes."""
    target.mkdir(parents=True, exist_ok=True)
    for name, weight in CUTS.items():
        cuts = []
        for part in PARTS:
            font = TTFont(source / part, recalcTimestamp=False)
            font = instantiateVariableFont(font, {"wght": weight}, inplace=True)
            for table in ("GSUB", "GPOS", "GDEF", "STAT", "DSIG"):  # a PDF places its glyphs itself
                if table in font:
                    del font[table]
            font.flavor = None
            cut = target / f"{name}.{part}.part"
            font.save(cut)
            cuts.append(cut)
        merged = Merger().merge([str(cut) for cut in cuts])
        merged.recalcTimestamp = False
        own = f"GoodCrate-{Path(name).stem}"  # faces of one name are one face to whoever shows a PDF
        for number in (1, 4, 6, 16):
            merged["name"].setName(own, number, 3, 1, 0x409)
            merged["name"].setName(own, number, 1, 0, 0)
        merged["head"].modified = merged["head"].created = 0  # not today: the same input gives the same bytes
        merged.save(target / name)
        for cut in cuts:
            cut.unlink()


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
