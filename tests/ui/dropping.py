"""Dropping files on a page as a hand does: on whatever lies there."""

import base64
from pathlib import Path

from playwright.sync_api import Page

DROP = """([files, selector]) => {
  const data = new DataTransfer();
  for (const [name, text] of files) {
    const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
    data.items.add(new File([bytes], name));
  }
  const target = document.querySelector(selector);
  return ['dragenter', 'dragover', 'drop'].map((kind) => {
    const event = new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: data });
    target.dispatchEvent(event);
    // what nobody prevents, the browser does: it opens the file in place of the page
    return event.defaultPrevented;
  });
}"""


def drop(page: Page, files: list[Path], onto: str = "main") -> None:
    told = [[path.name, base64.b64encode(path.read_bytes()).decode()] for path in files]
    assert page.evaluate(DROP, [told, onto]) == [True, True, True]
