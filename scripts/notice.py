"""Put together the notice of what ships with the pages and runs behind them: name, version, licence and its text.

The bundler has listed what it bundled, fonts included; styles that are generated and the Python packages are added here.
"""

import re
from importlib.metadata import Distribution, PackageNotFoundError, distribution
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
STATIC = ROOT / "src" / "oddlamp" / "api" / "static"
LEGAL = re.compile(r"(^|/)(licen[cs]es?/|(licen[cs]e|copying|notice)[^/]*$)", re.IGNORECASE)
RULE = "=" * 80


def main() -> None:
    """Write ``notice.txt`` beside the pages."""
    names = dict.fromkeys(re.findall(r"^([\w.-]+)==", (ROOT / "requirements.lock").read_text(), re.MULTILINE))
    styles = (ROOT / "web" / "node_modules" / "tailwindcss" / "LICENSE").read_text()
    listed = STATIC / "licences.md"
    parts = [
        "What Odd Lamp is built from, with the licences of all of it: fonts, scripts and styles of its pages first,\n"
        "then the packages of its server, in the versions this one was built with.",
        listed.read_text(),
        f"## tailwindcss (MIT), whose styles are part of ours\n\n{styles}",
        *(_of(it) for it in map(_installed, names) if it is not None),
    ]
    (STATIC / "notice.txt").write_text(f"\n\n{RULE}\n\n".join(part.strip() for part in parts) + "\n")
    listed.unlink()


def _installed(name: str) -> Distribution | None:
    try:
        return distribution(name)
    except PackageNotFoundError:
        return None  # only other systems need it


def _of(package: Distribution) -> str:
    """Write what a package says of its licence, and every file of it that does."""
    told = package.metadata.get("License-Expression") or package.metadata.get("License") or ""
    kinds = [it.rpartition(" :: ")[2] for it in package.metadata.get_all("Classifier") or () if it.startswith("License ::")]
    said = told if 0 < len(told) < 80 else ", ".join(kinds) or "see below"
    inside = [it for it in package.files or () if it.parts[0].endswith(".dist-info") and LEGAL.search("/".join(it.parts[1:]))]
    texts = [it.read_text(encoding="utf-8") for it in inside]
    return "\n\n".join([f"## {package.name} - {package.version} ({said})", *texts])


if __name__ == "__main__":
    main()
