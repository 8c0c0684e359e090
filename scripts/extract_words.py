"""Collects the words of the window from the sources for translation.

    .venv/bin/python scripts/extract_words.py

Writes ``languages/words.txt`` (every text, one a line, gaps as %1 %2), the patterns that ship with the program, and the
catalogue of each language that has a list of translations: ``languages/de.tsv`` (English, a tab, German) becomes
``data/languages/de.qm`` by way of Qt's ``lrelease``. Texts that a list lacks are told.
"""

from __future__ import annotations

import ast
import json
import re
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from xml.sax.saxutils import escape

from vivid_thimble.core.messages import Message

ROOT = Path(__file__).resolve().parent.parent
SOURCES = ROOT / "src" / "vivid_thimble"
OUT = SOURCES / "data" / "languages"
LISTS = ROOT / "languages"
CONTEXT = "Vivid Thimble"
NOT_SHOWN = (
    "__main__.py",
    "demo/jobs.py",
    "demo/files.py",
    "kept_results.py",
    "theme.py",
    "svg_styles.py",
    "pdf_page.py",
    "limited.py",
    "reading.py",
    "plain_data.py",
    "project.py",
    "desktop_entry.py",
    "cache.py",
    "crash.py",
    "label_map.py",
    "centre_lines.py",
    "path.py",
)
"""Modules whose texts the window does not show, or that hold names of styles and files."""
NOT_WORDS = (
    "FillPinholes",
    "RemoveSpecks",
    "RoundCorners",
    "Cabin-Regular.otf",
    "Cabin-SemiBold.otf",
    "Cabin",
    "Fusion",
    "Vivid Thimble",
    "%1 %2 %3 rg",
    "%s could not be computed",
    "%s could not be read",
    "the recovery journal could not be written: %s",
    "the set could not be worked out",
    "the audition ended early",
    "evaluation failed",
    "bundled:League Spartan",
    "League Spartan",
    "Courier Prime",
    "Stardos Stencil",
    "the lazy dog jumps quickly over hidden bronze waxing vessel",
    "sized picture",
    "latest survey",
    "line frame",
    "waste cuts",
    "on item",
    "Band",
    "Step",
    "fit page",
    "size page",
    "widths page",
    "a copy has no shape of its own: evaluate the element",
    "a design cannot be scaled by %1",
    "element %1",
    "grow %1",
    "move %1",
    "turn %1",
    "nudge %1",
    "tones %1",
    "text %1",
    "slide a bridge",
    "origin %1",
    "Station",
    "English",
    "Deutsch",
    "Lantern",
    "Regatta",
    "Quillfen",
)
"""Keys, names of faces and of languages, words of the log."""
SMALL_WORDS = (
    *[
        "fits",
        "mirrored",
        "%1 steps",
        "%1 picks",
        "wider",
        "narrower",
        "left",
        "right",
        "top",
        "bottom",
        "line",
        "gap",
        "words",
        "drawing",
        "letters",
        "lines",
        "openings",
        "picture",
        "portrait",
    ],
    *[
        "monogram",
        "grid",
        "item",
        "film",
        "element",
        "step",
        "fine",
        "look",
        "stop",
        "dabbed",
        "sprayed",
        "stripped",
        "paint",
        "ink",
        "bands",
        "wide",
        "long",
    ],
    *["fades", "fill", "circle", "any", "none", "new", "joined"],
)
"""Single small words that stand in gaps of sentences."""


def docstrings(tree: ast.AST) -> set[int]:
    """The ids of all string statements, and of names of types."""
    told = {id(n.value) for n in ast.walk(tree) if isinstance(n, ast.Expr) and isinstance(n.value, ast.Constant)}
    casts = (n for n in ast.walk(tree) if isinstance(n, ast.Call) and getattr(n.func, "id", "") == "cast")
    return told | {id(call.args[0]) for call in casts}


def texts_in(path: Path) -> Iterator[str]:
    """Every string of a module that is no docstring; strings with gaps as patterns."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    skipped = docstrings(tree)
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            skipped |= {id(part) for part in ast.walk(node)} - {id(node)}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            yield from pattern_of(node)
            yield from inner_texts(node)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in skipped:
            yield Message(node.value).template


def pattern_of(node: ast.JoinedStr) -> Iterator[str]:
    holes, text = 0, ""
    for part in node.values:
        if isinstance(part, ast.Constant):
            text += str(part.value)
        else:
            holes += 1
            text += f"%{holes}"
    if holes <= 9:
        yield text


def inner_texts(node: ast.JoinedStr) -> Iterator[str]:
    """Words inside the gaps: one piece or the other."""
    for part in node.values:
        if isinstance(part, ast.FormattedValue):
            for inner in ast.walk(part.value):
                if isinstance(inner, ast.Constant) and isinstance(inner.value, str):
                    yield inner.value


def is_shown(text: str) -> bool:
    """Whether a string looks like something that people read."""
    bare = re.sub(r"%\d", "", text)
    if (
        not re.search(r"[A-Za-z]{2}", bare)
        or "\t" in text
        or text.startswith(("--", "*.", "#", ".", "/", "<", "M ", "padding"))
    ):
        return False
    if re.fullmatch(r"[a-z0-9_.\-/:%{}#+*=;, ]+", text) and (" " not in text.strip() or re.search(r"[_=/{}#;]", text)):
        return False
    if re.fullmatch(r"[A-Za-z0-9]*[_+][A-Za-z0-9_+%]*", text) or re.fullmatch(r"[a-z]+[A-Z][A-Za-z]*%?\d?", text):
        return False
    if re.search(r"[{}]|xmlns|rgb\(|font-|color:|\\x|^Ctrl|^Alt|^Shift", text):
        return False
    return " " in text.strip() or bool(re.match(r"^[&\s]*[A-Z][a-z]+", text))


def all_words() -> list[str]:
    found: dict[str, None] = {}
    for path in sorted([*(SOURCES / "desktop").rglob("*.py"), *(SOURCES / "core").rglob("*.py")]):
        if "cli" in path.parts or path.name in NOT_SHOWN or f"{path.parent.name}/{path.name}" in NOT_SHOWN:
            continue
        core = "core" in path.relative_to(SOURCES).parts
        for text in texts_in(path):
            told = text.strip()
            if (
                told not in NOT_WORDS
                and is_shown(told)
                and (not core or " " in told or path.parent.name in ("blanks", "steps"))
            ):
                found.setdefault(told, None)
    return list(dict.fromkeys([*found, *SMALL_WORDS]))


def read_list(path: Path) -> dict[str, str]:
    """English and the translation by tabs; a backslash and n stand for a new line."""
    pairs: dict[str, str] = {}
    for line in path.read_text(encoding="utf-8").splitlines():
        english, tab, said = line.partition("\t")
        if tab and said.strip():
            pairs[english.replace("\\n", "\n")] = said.replace("\\n", "\n")
    return pairs


def catalogue(pairs: dict[str, str], language: str) -> str:
    """A catalogue as Qt's tools read it."""
    messages = "\n".join(
        f"<message><source>{escape(english)}</source><translation>{escape(said)}</translation></message>"
        for english, said in pairs.items()
    )
    return (
        f'<?xml version="1.0" encoding="utf-8"?>\n<!DOCTYPE TS>\n<TS version="2.1" language="{language}">\n'
        f"<context><name>{CONTEXT}</name>\n{messages}\n</context>\n</TS>\n"
    )


def release(pairs: dict[str, str], language: str) -> None:
    import PySide6

    tool = Path(PySide6.__file__).parent / "lrelease"
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / f"{language}.ts"
        source.write_text(catalogue(pairs, language), encoding="utf-8")
        subprocess.run([tool, "-silent", source, "-qm", OUT / f"{language}.qm"], check=True)


def main() -> int:
    words = all_words()
    LISTS.mkdir(exist_ok=True)
    OUT.mkdir(parents=True, exist_ok=True)
    (LISTS / "words.txt").write_text("".join(word.replace("\n", "\\n") + "\n" for word in words), encoding="utf-8")
    patterns = [word for word in words if re.search(r"%\d", word)]
    (OUT / "patterns.json").write_text(json.dumps(patterns, ensure_ascii=False, indent=0) + "\n", encoding="utf-8")
    missing = 0
    for path in sorted(LISTS.glob("*.tsv")):
        pairs = read_list(path)
        lacking = [word for word in words if word not in pairs]
        missing += len(lacking)
        release({word: pairs[word] for word in words if word in pairs}, path.stem)
        print(f"{path.stem}: {len(words) - len(lacking)} of {len(words)}")
        for word in lacking:
            print(f"   lacks: {word!r}")
    return 1 if missing else 0


if __name__ == "__main__":
    sys.exit(main())
