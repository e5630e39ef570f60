"""The handbook of findings, written from the registry."""

from oddlamp.core.checks.registry import RULES


def findings_page() -> str:
    """Write every finding with its exact conditions and source, as Markdown."""
    lines = [
        "# Findings",
        "",
        "Written from the rule registry by `make schema`; a test fails while it is stale. `stop`: nominal values already break",
        "a limit or the thing cannot work. `look`: only the worst case does, or it works at a cost. Everything else is clear,",
        "and what is not worked out yet is never called clear. Values marked from memory hold until someone confirms them.",
        "",
        "| Code | stop when | look when | Source |",
        "|---|---|---|---|",
    ]
    lines += [f"| {rule.code} | {rule.stop or '-'} | {rule.look or '-'} | {rule.source} |" for rule in RULES]
    return "\n".join(lines) + "\n"
