"""What axe-core finds wrong with a view by WCAG 2.1 AA."""

from pathlib import Path

from playwright.sync_api import Page

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]


def violations(page: Page) -> list[str]:
    page.evaluate(AXE.read_text())
    found = page.evaluate("tags => axe.run(document, { runOnly: { type: 'tag', values: tags } })", RULES)
    assert found["passes"], "nothing was looked at"
    return [f"{one['id']}: {node['html'][:140]} {node['failureSummary'][-150:]}" for one in found["violations"] for node in one["nodes"]]
