"""Level files in a text editor: through a real client, and through texts in every state."""

from __future__ import annotations

import asyncio
import json
import os
import subprocess
import sys
from collections.abc import AsyncIterator
from pathlib import Path
from random import Random
from typing import Any

import pytest
import pytest_lsp
from lsprotocol import types as lsp
from pytest_lsp import ClientServerConfig, LanguageClient, client_capabilities

import ukemi
from ukemi.editor.completing import options_at
from ukemi.editor.cursor import cursor_at
from ukemi.editor.document import Document
from ukemi.editor.lines import Lines
from ukemi.language.text.yaml_nodes import compose
from ukemi.report.describing import described

from .helpers import DEMO, ROOT

EDITS = int(os.environ.get("UKEMI_EDITS", "600"))
WASTED = (DEMO / "wasted-key.yaml").read_text()
SERVER = [sys.executable, "-m", "ukemi", "language-server"]


@pytest_lsp.fixture(
    config=ClientServerConfig(server_command=SERVER, server_env={**os.environ, "PYTHONPATH": str(ROOT / "src")})
)  # fmt: skip
async def client(lsp_client: LanguageClient) -> AsyncIterator[None]:
    """A client of a server of its own."""
    asked = lsp.InitializeParams(capabilities=client_capabilities("visual-studio-code"))
    await lsp_client.initialize_session(asked)
    yield
    await lsp_client.shutdown_session()


def open_file(client: LanguageClient, path: Path, text: str) -> str:
    uri = path.as_uri()
    document = lsp.TextDocumentItem(uri, "yaml", 1, text)
    client.text_document_did_open(lsp.DidOpenTextDocumentParams(document))
    return uri


def replace(client: LanguageClient, uri: str, text: str, version: int = 2) -> None:
    client.text_document_did_change(
        lsp.DidChangeTextDocumentParams(
            lsp.VersionedTextDocumentIdentifier(version, uri),
            [lsp.TextDocumentContentChangeWholeDocument(text)],
        )
    )


async def told(client: LanguageClient, uri: str, code: str, about: str = "") -> Any:
    """The first diagnostic of a code, as soon as it is told."""
    for _ in range(400):
        for one in client.diagnostics.get(uri, []):
            if one.code == code and about in one.message:
                return one
        await asyncio.sleep(0.05)
    raise AssertionError(f"{code} was not told: {client.diagnostics.get(uri)}")


def at(text: str, word: str, into: int = 1) -> lsp.Position:
    """A place in a text, as an editor counts: in units of UTF-16."""
    offset = text.index(word) + into
    line = text.count("\n", 0, offset)
    before = text[text.rfind("\n", 0, offset) + 1 : offset]
    return lsp.Position(line, len(before.encode("utf-16-le")) // 2)


@pytest.mark.asyncio
async def test_a_session_from_a_mistyped_name_to_a_mended_level(
    client: LanguageClient, tmp_path: Path
) -> None:
    broken = WASTED.replace("lock: iron-key, name: store-door", "lock: irn-key, name: store-door")
    uri = open_file(client, tmp_path / "mill.yaml", broken)
    mistyped = await told(client, uri, "unknown-name")
    assert "did you mean 'iron-key'?" in mistyped.message
    assert mistyped.range.start == at(broken, "irn-key", 0)
    assert mistyped.range.end == at(broken, "irn-key", 7)

    replace(client, uri, WASTED)
    stuck = await told(client, uri, "can-get-stuck")
    assert "Route: take iron-key, walk to granary" in stuck.message and stuck.source == "ukemi"
    assert all(str(token).startswith("ukemi-") for token in client.progress_reports)
    assert client.progress_reports

    document = lsp.TextDocumentIdentifier(uri)
    hover = await client.text_document_hover_async(
        lsp.HoverParams(document, at(WASTED, "iron-key"))
    )
    assert hover is not None and "lies in quay" in hover.contents.value  # type: ignore[union-attr]
    door = at(WASTED, "loft-door")
    said = await client.text_document_hover_async(lsp.HoverParams(document, door))
    assert said is not None
    assert "by the last check: required" in said.contents.value  # type: ignore[union-attr]

    used = at(WASTED, "lock: iron-key", 7)
    definition = await client.text_document_definition_async(lsp.DefinitionParams(document, used))
    assert [one.range.start for one in definition] == [at(WASTED, "iron-key:", 0)]  # type: ignore
    context = lsp.ReferenceContext(include_declaration=True)
    references = await client.text_document_references_async(
        lsp.ReferenceParams(context, document, used)
    )
    assert references is not None and len(references) == 4
    symbols = await client.text_document_document_symbol_async(lsp.DocumentSymbolParams(document))
    assert {"quay", "iron-key", "store-door"} <= {one.name for one in symbols}  # type: ignore

    renamed = await client.text_document_rename_async(
        lsp.RenameParams(text_document=document, position=used, new_name="rust-key")
    )
    assert renamed is not None and renamed.changes is not None
    new = applied(WASTED, renamed.changes[uri])
    assert new == ukemi.dumps(ukemi.rename(ukemi.loads(WASTED), "iron-key", "rust-key"))
    taken = await client.text_document_rename_async(
        lsp.RenameParams(text_document=document, position=used, new_name="oak-key")
    )
    assert taken is None

    action = lsp.CodeActionParams(document, stuck.range, lsp.CodeActionContext([stuck]))
    mends = await client.text_document_code_action_async(action)
    assert mends and isinstance(
        mends[0], lsp.CodeAction
    )  # what can be supposed there comes after them
    for mend in (one for one in mends if isinstance(one, lsp.CodeAction)):
        assert mend.edit and mend.edit.changes
        better = ukemi.check(ukemi.loads(applied(WASTED, mend.edit.changes[uri])))
        assert not better.with_code("can-get-stuck")


def applied(text: str, edits: list[Any]) -> str:
    """A text with edits made, as an editor makes them."""
    lines = text.splitlines(keepends=True)

    def offset(place: lsp.Position) -> int:
        if place.line >= len(lines):
            return len(text)
        units = lines[place.line].encode("utf-16-le")[: 2 * place.character]
        return sum(map(len, lines[: place.line])) + len(units.decode("utf-16-le"))

    spans = sorted(
        ((offset(e.range.start), offset(e.range.end), e.new_text) for e in edits), reverse=True
    )
    for begin, end, new in spans:
        text = text[:begin] + new + text[end:]
    return text


@pytest.mark.asyncio
async def test_typing_stops_a_search_and_places_count_in_utf16(
    client: LanguageClient, tmp_path: Path
) -> None:
    text = "name: 🌊 Mühle\nstart: quay\ngoal: loft\nitems: {öl-🔑: {}}\n"
    uri = open_file(client, tmp_path / "flood.yaml", text)
    await told(client, uri, "bad-value")
    odd = [one for one in client.diagnostics[uri] if "cannot be the name" in one.message]
    assert [one.range.start for one in odd] == [lsp.Position(3, 8)]
    named = (
        "start: quay  # 🌊\ngoal: loft\nitems: {öl: {}}\nrooms: {quay: {items: [öl]}, loft: {}}\n"
        "passages: [quay <-> loft: {lock: öl, name: tür}, {loft -> quay: {label: '🔑🔑', name: rückweg, lock: ül}}]\n"
    )
    for version in range(2, 12):
        replace(client, uri, named + "#" * version, version)
    wrong = await told(client, uri, "unknown-name", "ül")
    assert wrong.range.start == at(named, "ül}", 0) and wrong.range.end == at(named, "ül}", 2)
    replace(client, uri, named.replace("ül}", "öl}"), 20)
    for _ in range(100):
        if not any(one.code == "unknown-name" for one in client.diagnostics[uri]):
            break
        await asyncio.sleep(0.05)
    assert not any(one.code == "unknown-name" for one in client.diagnostics[uri])
    document = lsp.TextDocumentIdentifier(uri)
    found = await client.text_document_completion_async(
        lsp.CompletionParams(document, at(named, "lock: öl", 6))
    )
    assert found is not None
    items = found.items if isinstance(found, lsp.CompletionList) else found
    assert "öl" in [one.label for one in items]


@pytest.mark.asyncio
async def test_a_campaign_is_checked_with_what_is_not_saved_yet(
    client: LanguageClient, tmp_path: Path
) -> None:
    for file in (DEMO.parent / "campaign").glob("*.yaml"):
        (tmp_path / file.name).write_text(file.read_text())
    whole = open_file(
        client, tmp_path / "mill-year.yaml", (tmp_path / "mill-year.yaml").read_text()
    )
    for _ in range(200):
        if any(one.code == "left-behind" for some in client.diagnostics.values() for one in some):
            break
        await asyncio.sleep(0.05)
    else:
        raise AssertionError(client.diagnostics)
    cellar = tmp_path / "year-cellar.yaml"
    text = cellar.read_text()
    level = open_file(client, cellar, text)
    replace(client, level, text.replace("goal:", "gaol:"))
    await told(client, level, "unknown-field")
    for _ in range(200):
        if any(one.code == "unknown-field" for one in client.diagnostics.get(whole, [])):
            break
        await asyncio.sleep(0.05)
    assert cellar.read_text() == text


@pytest.mark.parametrize(
    ("written", "wanted"),
    [
        ("rooms:\n  quay: {items: [iro", ["iron-key"]),
        ("rooms:\n  quay:\n    it", ["items"]),
        ("rooms:\n  quay:\n    chests:\n      bin: {lock: iron-key, ho", ["holds"]),
        ("passages:\n  - quay <-> gran", ["granary"]),
        ("passages:\n  - quay <-> granary: {lo", ["lock", "loses"]),
        ("passages:\n  - quay <-> granary: {gate: at qu", ["quay"]),
        ("passages:\n  - quay <-> granary:\n      gate: not low and iron", ["iron-key"]),
        ("goal: opened store", ["store-door"]),
        ("rules: {pickup: ", ["choice", "touch"]),
        ("inventory: {drop: t", ["true"]),
        ("expect:\n  required: [store-", ["store-door", "store-room"]),
        ("items:\n  rope: {kind: re", ["reward"]),
        ("items:\n  rope: {kind: reward}  # kind: re", []),
        ("name: \"The ", []),
        ("maps:\n  ground: |\n    ##", []),
        ("scatter:\n  keys: {into: [gra", ["granary"]),
        ("expect:\n  order: [[store-", ["store-door", "store-room"]),
        ("areas:\n  shore: [gran", ["granary"]),
    ],
)  # fmt: skip
def test_what_can_be_written_at_a_place(written: str, wanted: list[str]) -> None:
    before = Document(WASTED, "mill.yaml")
    text = WASTED.rstrip() + "\n" + written
    document = Document(text, "mill.yaml", before=before)
    assert [one.text for one in options_at(document, len(text))] == wanted


def test_every_name_of_the_demo_levels_is_described() -> None:
    for file in DEMO.glob("*.yaml"):
        document = Document(file.read_text(), str(file))
        assert document.level is not None
        for one in document.declarations():
            lines = described(document.level, one.kind, one.name)
            assert lines and one.name in lines[0], (file, one)


def test_whatever_is_typed_is_answered() -> None:
    random = Random(1)
    texts = [file.read_text() for file in sorted(DEMO.glob("*.yaml"))]
    pieces = [*"{}[]:,|#-\"'\n @&*!?%\t", "  ", "- ", "items", ": ", "iron-key", "🔑", "é", "\u2028", "{}", "at ", "\r\n"]  # fmt: skip
    document = None
    text = texts[0]
    for number in range(EDITS):
        if number % 60 == 0:
            text, document = random.choice(texts), None
        begin = random.randrange(len(text) + 1)
        end = min(len(text), begin + random.choice([0, 0, 0, 1, 1, 5, 40]))
        text = text[:begin] + random.choice([*pieces, "", ""]) + text[end:]
        document = Document(text, "mill.yaml", before=document)
        assert (document.level is None) == (document.error is not None)
        for offset in (begin, random.randrange(len(text) + 1)):
            cursor_at(text, offset)
            options_at(document, offset)
            named = document.named_at(offset)
            if named is not None and document.readable is not None:
                described(document.readable, named.kind, named.name)
        list(document.declarations())


def keys_of(node: Any, path: tuple[str, ...] = ()) -> Any:
    """Every key of a file, with the fields and names that lead to it, by the real parser."""
    if node.id == "mapping":
        for key, value in node.value:
            yield key, path
            yield from keys_of(value, (*path, key.value))
    elif node.id == "sequence":
        for one in node.value:
            yield from keys_of(one, (*path, "[]"))


@pytest.mark.parametrize("file", sorted(DEMO.rglob("*.yaml")), ids=lambda one: one.stem)
def test_where_a_place_is_agrees_with_the_parser(file: Path) -> None:
    text = file.read_text()
    count = 0
    for key, path in keys_of(compose(text)):
        if key.style in ("'", '"'):
            continue
        context = cursor_at(text, key.start_mark.index + 1)
        assert context is not None and context.path == path, (key.value, path, context)
        assert context.key and context.written == key.value[:1]
        count += 1
    assert count > 10


@pytest.mark.parametrize("file", sorted(DEMO.glob("*.yaml")), ids=lambda one: one.stem)
def test_every_mention_of_a_name_is_found_from_every_other(file: Path) -> None:
    document = Document(file.read_text(), str(file))
    assert document.level is not None
    seen = 0
    for one in document.declarations():
        if not one.name or one.kind == "flag":
            continue
        places = document.mentions(one.name, one.kind)
        assert any(place.declared for place in places), one
        for place in places:
            assert document.text[place.begin : place.end] == one.name
            there = document.named_at(place.begin)
            assert there is not None and there.name == one.name
            seen += 1
        if [*document.names.values()].count(one.name) == 1:
            new = ukemi.rename(document.level, one.name, "windlass", one.kind)
            text = document.text
            for place in reversed(places):
                text = text[: place.begin] + "windlass" + text[place.end :]
            assert ukemi.dumps(new) == text
    assert seen > 5


def test_hovering_tells_what_is_written_and_steers_nothing(tmp_path: Path) -> None:
    from ukemi.editor.server import _markdown

    assert _markdown("a [link](http://x) `code` <b>") == "a \\[link\\](http://x) \\`code\\` \\<b\\>"
    level = ukemi.loads(WASTED)
    document = Document(WASTED, "mill.yaml")
    for word, lines in {
        "granary:": ["room granary", "nothing lies in it"],
        "oak-key:": ["key oak-key", "lies in wheel-pit", "asked for by loft-door"],
        "pit-door": ["door pit-door in granary", "granary <-> wheel-pit", "needs iron-key"],
    }.items():
        named = document.named_at(WASTED.index(word) + 1)
        assert named is not None
        told = described(level, named.kind, named.name)
        assert set(lines) <= set(told), told


# -- campaigns, odd texts and odd messages --------------------------------------------------------

LANDING = "start: quay\ngoal: gate\nitems: {oar: {}}\nrooms: {quay: {items: oar}, gate: {}}\npassages: [quay -> gate]\n"
MILL = "start: hall\ngoal: loft\nitems: {oar: {}}\nrooms: {hall: {}, loft: {}}\npassages: [hall <-> loft: {lock: oar}]\n"
YEAR = (
    "campaign: Year\nlevels: {landing: landing.yaml, mill: {file: mill.yaml, brings: [oar]}}\n"
    "ways: [landing -> mill: {when: oar and at gate}]\nexpect: {required: [landing/quay/oar], never: [not oar and oar]}\n"
    "accept: {unused-item: [oar]}\n"
)


def campaign(folder: Path) -> dict[str, Path]:
    texts = {"landing": LANDING, "mill": MILL, "year": YEAR}
    for name, text in texts.items():
        (folder / f"{name}.yaml").write_text(text)
    return {name: folder / f"{name}.yaml" for name in texts}


def moved(text: str, edits: Any) -> str:
    """A text after the edits that an editor is given."""
    lines = Lines(text, len)
    for edit in sorted(edits, key=lambda one: -lines.offset(one.range.start)):
        begin, end = lines.offset(edit.range.start), lines.offset(edit.range.end)
        text = text[:begin] + edit.new_text + text[end:]
    return text


@pytest.mark.asyncio
async def test_a_name_is_changed_in_every_file_that_means_it(
    client: LanguageClient, tmp_path: Path
) -> None:
    files = campaign(tmp_path)
    uri = open_file(client, files["landing"], LANDING)
    document = lsp.TextDocumentIdentifier(uri)

    async def rename(word: str, new: str) -> dict[str, str]:
        asked = lsp.RenameParams(text_document=document, position=at(LANDING, word), new_name=new)
        found = await client.text_document_rename_async(asked)
        changes = (found and found.changes) or {}
        return {
            name: moved(path.read_text(), changes[path.as_uri()])
            for name, path in files.items()
            if path.as_uri() in changes
        }

    item = await rename("oar", "pole")
    assert item == {
        "landing": LANDING.replace("oar", "pole"), "mill": MILL.replace("oar", "pole"),
        "year": YEAR.replace("oar", "pole"),
    }  # fmt: skip
    room = await rename("quay: {items", "jetty")
    assert room == {
        "landing": LANDING.replace("quay", "jetty"), "year": YEAR.replace("quay", "jetty"),
    }  # fmt: skip
    for name, new in item.items():
        files[name].write_text(new)
    assert ukemi.check(files["year"]).answers.finish == ukemi.Answer.YES
    campaign(tmp_path)
    for taken in ("and", "not", "at", "by", "nothing", "opened", "2x"):
        assert await rename("oar", taken) == {}, taken
    assert client.messages[-1].message.startswith("'2x' cannot be a name")


@pytest.mark.asyncio
async def test_names_are_found_and_changed_from_every_file_of_a_campaign(
    client: LanguageClient, tmp_path: Path
) -> None:
    files = campaign(tmp_path)
    texts = {"landing": LANDING, "mill": MILL, "year": YEAR}
    uris = {name: path.as_uri() for name, path in files.items()}
    open_file(client, files["year"], YEAR)
    open_file(client, files["landing"], LANDING)  # the mill is not open

    async def found(file: str, word: str, declared: bool) -> set[str]:
        document, place = lsp.TextDocumentIdentifier(uris[file]), at(texts[file], word)
        if declared:
            told = await client.text_document_definition_async(
                lsp.DefinitionParams(document, place)
            )
        else:
            context = lsp.ReferenceContext(include_declaration=True)
            asked = lsp.ReferenceParams(context, document, place)
            told = await client.text_document_references_async(asked)
        names = {uri: name for name, uri in uris.items()}
        return {
            f"{names[one.uri]}:{texts[names[one.uri]].splitlines()[one.range.start.line]}"
            for one in told or []  # type: ignore[union-attr]
        }

    def lines(word: str, *names: str) -> set[str]:
        return {
            f"{name}:{line}" for name in names for line in texts[name].splitlines() if word in line
        }

    for file in ("landing", "year"):
        assert await found(file, "oar", False) == lines("oar", "landing", "mill", "year")
        assert await found(file, "oar", True) == lines("items: {oar", "landing", "mill")
        document = lsp.TextDocumentIdentifier(uris[file])
        asked = lsp.RenameParams(
            text_document=document, position=at(texts[file], "oar"), new_name="pole"
        )
        renamed = await client.text_document_rename_async(asked)
        assert renamed is not None and renamed.changes is not None
        for name, uri in uris.items():
            assert applied(texts[name], renamed.changes[uri]) == texts[name].replace("oar", "pole")


@pytest.mark.asyncio
async def test_what_if_is_asked_at_a_thing_and_told_as_a_comparison(
    client: LanguageClient, tmp_path: Path
) -> None:
    uri = open_file(client, tmp_path / "mill.yaml", WASTED)
    place = at(WASTED, "store-door")
    asked = lsp.CodeActionParams(
        lsp.TextDocumentIdentifier(uri), lsp.Range(place, place), lsp.CodeActionContext([])
    )
    actions = await client.text_document_code_action_async(asked)
    titles = {one.title: one for one in actions or []}
    assert {"Suppose: open store-door", "Suppose: shut store-door"} <= titles.keys()
    command = titles["Suppose: open store-door"]
    assert isinstance(command, lsp.Command)
    told = await client.workspace_execute_command_async(
        lsp.ExecuteCommandParams(command.command, command.arguments)
    )
    assert "players can no longer get stuck" in told
    assert client.messages[-1].message == told


@pytest.mark.asyncio
async def test_a_level_of_a_campaign_is_told_what_the_campaign_finds_in_it(
    client: LanguageClient, tmp_path: Path
) -> None:
    files = campaign(tmp_path)
    uri = open_file(client, files["mill"], MILL)  # alone, nothing gives the oar
    broken = MILL.replace("hall <-> loft", "loft -> hall")
    replace(client, uri, broken)
    found = await told(client, uri, "never-opens")
    assert found.source == "ukemi"
    replace(client, uri, MILL, version=3)
    used = MILL.replace("items: {oar: {}}", "items: {oar: {}, bell: {}}")
    replace(client, uri, used, version=4)
    assert (await told(client, uri, "unused-item", "bell")).severity != 1
    assert [one.code for one in client.diagnostics[uri]] == ["unused-item"]


@pytest.mark.asyncio
async def test_places_that_there_are_not_are_answered(
    client: LanguageClient, tmp_path: Path
) -> None:
    text = f'name: "a\u2028b\x85c"\n{LANDING}'
    uri = open_file(client, tmp_path / "odd.yaml", text)
    document = lsp.TextDocumentIdentifier(uri)
    for place in (lsp.Position(9_999, 0), lsp.Position(2, 9_999), lsp.Position(0, 9_999)):
        where = lsp.TextDocumentPositionParams(document, place)
        await client.text_document_hover_async(lsp.HoverParams(document, place))
        await client.text_document_definition_async(lsp.DefinitionParams(document, place))
        found = await client.text_document_completion_async(lsp.CompletionParams(document, place))
        assert found is not None and where
    symbols = await client.text_document_document_symbol_async(lsp.DocumentSymbolParams(document))
    (quay,) = [one for one in symbols or () if one.name == "quay"]
    assert quay.range.start == at(text, "quay: {items", 0)


@pytest.mark.asyncio
async def test_the_symbols_of_many_rooms_arrive(client: LanguageClient, tmp_path: Path) -> None:
    rooms = "".join(f"  r{number}: {{}}\n" for number in range(4_000))
    text = f"start: r0\ngoal: r1\nrooms:\n{rooms}passages: [r0 -> r1]\n"
    uri = open_file(client, tmp_path / "many.yaml", text)
    asked = lsp.DocumentSymbolParams(lsp.TextDocumentIdentifier(uri))
    symbols = await client.text_document_document_symbol_async(asked)
    assert symbols is not None and len(symbols) == 4_000
    assert symbols[-1].range.start == at(text, "r3999", 0)


def test_broken_headers_do_not_end_the_server() -> None:
    body = json.dumps({"jsonrpc": "2.0", "id": 7, "method": "initialize",
                       "params": {"processId": None, "rootUri": None, "capabilities": {}}})  # fmt: skip
    good = f"Content-Length: {len(body)}\r\n\r\n{body}"
    odd = [
        "Content-Length: many\r\n\r\n{}", "Content-Length: 99999999999999999999\r\n\r\n{}",
        "X" * 200_000 + "\r\n\r\n", "Content-Length: -4\r\n\r\n", "Content-Length: 2\r\n\r\n[]",
    ]  # fmt: skip
    done = subprocess.run(
        SERVER, input=("".join(odd) + good).encode(), capture_output=True, timeout=120,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )  # fmt: skip
    assert b'"id": 7' in done.stdout or b'"id":7' in done.stdout, done.stderr[-2_000:]


def test_many_changes_at_once_are_one_and_what_is_told_names_its_version(tmp_path: Path) -> None:
    uri = (tmp_path / "mill.yaml").as_uri()
    broken = WASTED.replace("goal: bell-loft", "goal: nowhere")

    def message(method: str, params: dict[str, Any], **more: Any) -> str:
        body = json.dumps({"jsonrpc": "2.0", "method": method, "params": params, **more})
        return f"Content-Length: {len(body.encode())}\r\n\r\n{body}"

    opened = {"uri": uri, "languageId": "yaml", "version": 1, "text": WASTED}
    said = [
        message("initialize", {"processId": None, "rootUri": None, "capabilities": {}}, id=1),
        message("initialized", {}),
        message("textDocument/didOpen", {"textDocument": opened}),
    ]
    for version in range(2, 30):
        changes = [{"text": broken if version == 29 else f"{WASTED}# {version}\n"}]
        said.append(
            message(
                "textDocument/didChange",
                {"textDocument": {"uri": uri, "version": version}, "contentChanges": changes},
            )
        )
    asked = {"textDocument": {"uri": uri}, "position": {"line": 0, "character": 0}}
    said += [
        message("textDocument/hover", asked, id=2), message("shutdown", {}, id=3), message("exit", {})
    ]  # fmt: skip
    done = subprocess.run(
        SERVER, input="".join(said).encode(), capture_output=True, timeout=120,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )  # fmt: skip
    told = [
        json.loads(part[part.index(b"{") :])["params"]
        for part in done.stdout.split(b"Content-Length: ")
        if b"publishDiagnostics" in part
    ]
    assert told[0]["version"] == 1 and told[-1]["version"] == 29
    assert [one["code"] for one in told[-1]["diagnostics"]] == ["unknown-name"]
    assert len(told) < 10  # not one for each change
