"""How soon an editor is answered on a level of forty rooms: the first answer, and the last.

Run ``python benchmarks/editor.py``. A client of its own types a letter and waits: for what is wrong with
the text, told at once, and for what the search finds. The pause that is waited for more letters is part
of the second. Each is beside the time a check takes by itself, of the same run.
"""

import asyncio
import statistics
import sys
import tempfile
from pathlib import Path
from time import perf_counter

from lsprotocol import types as lsp
from pygls.lsp.client import LanguageClient

import ukemi
from families import designed

ROOMS, ROUNDS = 40, 5


async def measure(seed: int, folder: Path) -> tuple[float, float, float]:
    """The seconds of a check, to the first answer after a key, and to the last."""
    file = folder / f"level-{seed}.yaml"
    ukemi.save(designed(ROOMS, seed), file)
    text = file.read_text()
    began = perf_counter()
    found = ukemi.check(file)
    alone = perf_counter() - began
    client, told = LanguageClient("benchmark", "1"), asyncio.Queue()

    @client.feature(lsp.TEXT_DOCUMENT_PUBLISH_DIAGNOSTICS)
    def take(params: lsp.PublishDiagnosticsParams) -> None:
        told.put_nowait((perf_counter(), params.diagnostics))

    await client.start_io(sys.executable, "-m", "ukemi", "language-server")
    await client.initialize_async(lsp.InitializeParams(capabilities=lsp.ClientCapabilities()))
    document = lsp.TextDocumentItem(file.as_uri(), "yaml", 1, text)
    client.text_document_did_open(lsp.DidOpenTextDocumentParams(document))
    await told.get()
    await told.get()
    typed = lsp.VersionedTextDocumentIdentifier(2, file.as_uri())
    whole = [lsp.TextDocumentContentChangeWholeDocument(text + "#")]
    began = perf_counter()
    client.text_document_did_change(lsp.DidChangeTextDocumentParams(typed, whole))
    first, _ = await told.get()
    last, diagnostics = await told.get()
    assert len(diagnostics) == len(found.findings)
    await client.shutdown_async(None)
    client.exit(None)
    await client.stop()
    return alone, first - began, last - began


def main() -> None:
    """Print a row for each level, and the medians."""
    rows = []
    print(f"{ROOMS} rooms as designers build them; milliseconds")
    print(f"{'':14}{'a check':>10}{'first':>10}{'last':>10}{'last / check':>14}")
    with tempfile.TemporaryDirectory() as folder:
        for seed in range(1, ROUNDS + 1):
            rows.append(asyncio.run(measure(seed, Path(folder))))
            show(f"seed {seed}", rows[-1])
    show("median", [statistics.median(column) for column in zip(*rows, strict=True)])


def show(name: str, row: tuple[float, ...] | list[float]) -> None:
    """Print one row."""
    print(
        f"{name:14}" + "".join(f"{1000 * one:>10,.0f}" for one in row) + f"{row[2] / row[0]:>14.2f}"
    )


if __name__ == "__main__":
    main()
