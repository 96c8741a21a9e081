"""A language server for level files.

Serve the Language Server Protocol, version 3.17: report errors in a text as it is written, and the
findings of a search after a pause.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable
from difflib import SequenceMatcher
from functools import partial
from pathlib import Path
from typing import Any

from lsprotocol import types as lsp
from pygls.lsp.server import LanguageServer
from pygls.uris import from_fs_path, to_fs_path

from ..checks import Finding, Report, check_level
from ..checks.route_words import route_words
from ..findings.registry import layout
from ..language.files.campaign_files import campaigns_naming
from ..language.files.loading import read_text
from ..level import Level, LevelError, Place, Problem
from ..level.joined import Joined
from ..mends import add_mends, mends_of_text
from ..report.as_json import message_of
from ..report.describing import described
from ..spaces import Limits
from ..spaces.limits import Deadline
from .completing import options_at
from .document import Document, NamedThing
from .everywhere import Everywhere, UnreadableError, named_in_campaign
from .lines import Lines, split_lines
from .renaming import CannotRenameError, renamed_everywhere
from .what_if import SEARCH, SUPPOSE, changes_in_words, suppositions

#: How long nothing is typed before a search begins, in seconds.
PAUSE = 0.4
#: Changes that come within so many seconds are one.
TOGETHER = 0.02

_SEVERITIES = {
    "error": lsp.DiagnosticSeverity.Error,
    "warning": lsp.DiagnosticSeverity.Warning,
    "note": lsp.DiagnosticSeverity.Information,
}
_SYMBOLS = {
    "room": lsp.SymbolKind.Namespace, "item": lsp.SymbolKind.Variable, "flag": lsp.SymbolKind.Boolean,
    "lock": lsp.SymbolKind.Key, "thing": lsp.SymbolKind.Object,
}  # fmt: skip
_OPTIONS = {
    "field": lsp.CompletionItemKind.Property, "word": lsp.CompletionItemKind.Keyword,
    "room": lsp.CompletionItemKind.Module, "item": lsp.CompletionItemKind.Variable,
    "flag": lsp.CompletionItemKind.Constant, "lock": lsp.CompletionItemKind.Interface,
    "thing": lsp.CompletionItemKind.Class,
}  # fmt: skip
_SOURCE = "ukemi"


class Workspace:
    """The level files that are open, with what is known of each.

    Args:
        server: The server that speaks for it.
    """

    def __init__(self, server: LanguageServer) -> None:
        self.server = server
        self.documents: dict[str, Document] = {}
        self.reports: dict[str, Report] = {}
        self._searches: dict[str, tuple[asyncio.Task[None], Deadline]] = {}
        self._published: dict[str, set[str]] = {}
        self._tokens = 0
        self._known_lines: dict[str, tuple[Document, Lines]] = {}
        self._changed: dict[str, None] = {}

    # -- texts --------------------------------------------------------------------------------

    def note(self, uri: str) -> None:
        """Note that a file has changed; several changes at once are taken in as one."""
        if not self._changed:
            asyncio.get_running_loop().call_later(TOGETHER, self.take_in)
        self._changed[uri] = None

    def take_in(self) -> None:
        """Take in what was noted."""
        changed, self._changed = self._changed, {}
        for uri in changed:
            if uri in self.documents:
                self.read(uri)

    def document(self, uri: str) -> Document | None:
        """The newest text of an open file."""
        self.take_in()
        return self.documents.get(uri)

    def read(self, uri: str) -> None:
        """Take in the new text of a file: report its errors at once, and search after a pause."""
        document = Document(self._text(uri), _path(uri), self.opened, self.documents.get(uri))
        self.documents[uri] = document
        self._begin(uri)
        for other, one in self.documents.items():  # campaigns that name this file
            if other != uri and isinstance(one.level, Joined) and _path(uri) in one.level.texts:
                self.documents[other] = Document(one.text, one.file, self.opened, one)
                self._begin(other)

    def _begin(self, uri: str) -> None:
        self._stop(uri)
        self.reports.pop(uri, None)
        document = self.documents[uri]
        if document.error is not None:
            self._publish(uri, [self._of_problem(uri, one) for one in document.error.problems])
            return
        assert document.level is not None
        found = []
        for whole in self._wholes(uri, document):
            found += self._in(uri, whole, layout.all(_level(whole)))
        self._publish(uri, found)
        deadline = Deadline()
        task = asyncio.ensure_future(self._search(uri, document, deadline))
        self._searches[uri] = task, deadline

    def _wholes(self, uri: str, document: Document) -> list[Document]:
        """The check of a file: as a part of the campaigns that name it, or alone."""
        files = campaigns_naming(document.file) if not isinstance(document.level, Joined) else []
        found = []
        for file in files:
            text = self.opened(Path(file))
            try:
                whole = Document(read_text(file) if text is None else text, file, self.opened)
            except LevelError:
                continue
            if whole.level is not None:  # else the campaign reports the error
                found.append(whole)
        return found or [document]

    def _in(
        self, uri: str, whole: Document, findings: Iterable[Finding]
    ) -> list[tuple[str, lsp.Diagnostic]]:
        """Return findings as diagnostics; of a campaign that is not open, those in one file."""
        of = uri if whole is self.documents[uri] else _uri(whole.file)
        found = [self._of_finding(of, one, _level(whole)) for one in findings]
        return found if of == uri else [one for one in found if one[0] == uri]

    def close(self, uri: str) -> None:
        """Forget a file that is closed."""
        self._stop(uri)
        self.documents.pop(uri, None)
        self.reports.pop(uri, None)
        self._publish(uri, [])

    def _stop(self, uri: str) -> None:
        task, deadline = self._searches.pop(uri, (None, None))
        if task is not None and deadline is not None:
            deadline.stop()
            task.cancel()

    def _text(self, uri: str) -> str:
        return str(self.server.workspace.get_text_document(uri).source)

    def opened(self, path: Path) -> str | None:
        """The text of an open file; ``None`` for other files."""
        uri = from_fs_path(str(path.resolve())) or ""
        return self._text(uri) if uri in self.documents else None

    # -- searching ----------------------------------------------------------------------------

    async def _search(self, uri: str, document: Document, deadline: Deadline) -> None:
        await asyncio.sleep(PAUSE)
        token = await self._begin_progress()
        found: list[tuple[str, lsp.Diagnostic]] = []
        try:
            for whole in await asyncio.to_thread(self._wholes, uri, document):
                limits = Limits(seconds=SEARCH, deadline=Deadline(SEARCH, deadline))
                report = await asyncio.to_thread(check_level, _level(whole), limits)
                if self.documents.get(uri) is not document:
                    return
                self.reports[uri if whole is document else _uri(whole.file)] = report
                mine = report.findings if whole is document else report.in_file(document.file)
                found += self._in(uri, whole, mine)
        except LevelError as error:
            if self.documents.get(uri) is document:
                self._publish(uri, [self._of_problem(uri, one) for one in error.problems])
            return
        finally:
            if token is not None:
                end = lsp.WorkDoneProgressEnd(message="checked")
                self.server.work_done_progress.end(token, end)
        if self.documents.get(uri) is document:
            self._publish(uri, found)

    async def _begin_progress(self) -> str | None:
        window = self.server.client_capabilities.window
        if window is None or not window.work_done_progress:
            return None
        self._tokens += 1
        token = f"ukemi-{self._tokens}"
        await self.server.work_done_progress.create_async(token)
        begin = lsp.WorkDoneProgressBegin(title="Checking the level", cancellable=False)
        self.server.work_done_progress.begin(token, begin)
        return token

    # -- publishing ------------------------------------------------------------------------------

    def _publish(self, uri: str, found: list[tuple[str, lsp.Diagnostic]]) -> None:
        """Publish the problems by file: a problem of a campaign may be in one of its levels."""
        by_file: dict[str, list[lsp.Diagnostic]] = {uri: []}
        for where, diagnostic in found:
            by_file.setdefault(where, []).append(diagnostic)
        for other in self._published.get(uri, set()) - by_file.keys():
            by_file[other] = []
        self._published[uri] = {where for where, some in by_file.items() if some}
        for where, some in by_file.items():
            if where == uri or where not in self.documents:  # an open file reports by itself
                version = None
                if where in self.documents:
                    version = self.server.workspace.get_text_document(where).version
                params = lsp.PublishDiagnosticsParams(uri=where, diagnostics=some, version=version)
                self.server.text_document_publish_diagnostics(params)

    def _of_problem(self, uri: str, problem: Problem) -> tuple[str, lsp.Diagnostic]:
        hint = f" (did you mean {problem.near!r}?)" if problem.near else ""
        where, inside = self._range(uri, problem.place, problem.text)
        return where, lsp.Diagnostic(
            range=inside,
            message=problem.message + hint,
            severity=lsp.DiagnosticSeverity.Error,
            code=problem.code,
            source=_SOURCE,
        )

    def _of_finding(self, uri: str, finding: Finding, level: Level) -> tuple[str, lsp.Diagnostic]:
        where, inside = self._range(uri, finding.place)
        message = message_of(finding)
        if finding.route is not None:
            message += f" Route: {route_words(finding.route, level)}."
        return where, lsp.Diagnostic(
            range=inside,
            message=message,
            severity=_SEVERITIES[finding.severity],
            code=finding.code,
            source=_SOURCE,
            data={"of": uri, "code": finding.code, "subject": finding.subject},
        )

    def _range(self, uri: str, place: Place | None, text: str = "") -> tuple[str, lsp.Range]:
        """Return the file of a place and the range in it: to the end of the text, or of the word there."""
        if place is not None and place.file:
            uri = from_fs_path(str(Path(place.file).resolve())) or uri
        if place is None:
            return uri, lsp.Range(lsp.Position(0, 0), lsp.Position(0, 0))
        lines = self._lines(uri)
        first, last = lines.of(place.line - 1)
        line = lines.text[first:last]
        begin = min(place.column - 1, len(line))
        end = begin
        if text and line.startswith(text, begin):
            end += len(text)
        else:
            while end < len(line) and line[end] not in ":,{}[]#":
                end += 1
            end = begin + max(1, len(line[begin:end].rstrip()))
        return uri, lines.range(first + begin, min(first + end, last))

    # -- positions ----------------------------------------------------------------------------

    @property
    def units(self) -> Callable[[str], int]:
        """A function that counts the units in which the editor measures a text."""
        codec = self.server.workspace.position_codec
        return lambda text: len(text) if text.isascii() else int(codec.client_num_units(text))

    def _lines(self, uri: str) -> Lines:
        document = self.documents.get(uri)
        if document is None:
            return Lines(str(self.server.workspace.get_text_document(uri).source), self.units)
        known, lines = self._known_lines.get(uri, (None, None))
        if known is not document or lines is None:
            lines = Lines(document.text, self.units)
            self._known_lines[uri] = document, lines
        return lines

    def offset(self, uri: str, position: lsp.Position) -> int:
        """Where a position is, in characters from the start of the text."""
        return self._lines(uri).offset(position)

    def span(self, uri: str, begin: int, end: int) -> lsp.Range:
        """A stretch of a text, given in characters, as the editor counts."""
        return self._lines(uri).range(begin, end)

    def named(self, params: Any) -> tuple[Document, NamedThing] | None:
        """The document and the name that a request is about; ``None`` where there is none."""
        uri = params.text_document.uri
        document = self.document(uri)
        if document is None:
            return None
        offset = self.offset(uri, params.position)
        if isinstance(document.level, Joined):
            return named_in_campaign(document, offset, self.opened)
        found = document.named_at(offset)
        return (document, found) if found else None

    def mentions(self, document: Document, named: NamedThing, declared: bool) -> list[lsp.Location]:
        """Where a name stands, in every file of a campaign that means it."""
        found = {document.file: (document, document.mentions(named.name, named.kind))}
        try:
            found = Everywhere(document, named, self.opened).found
        except UnreadableError:
            pass  # what stands in this file is known all the same
        return [
            lsp.Location(self.uri_of(one), Lines(one.text, self.units).range(span.begin, span.end))
            for one, spans in found.values()
            for span in spans
            if span.declared or not declared
        ]

    def uri_of(self, document: Document) -> str:
        """The address of a document: that under which it is open, if it is."""
        open_under = (uri for uri, one in self.documents.items() if one is document)
        return next(open_under, None) or _uri(document.file)

    # -- mends --------------------------------------------------------------------------------

    async def mends(self, uri: str, diagnostics: Iterable[lsp.Diagnostic]) -> list[lsp.CodeAction]:
        """Return the changes that mend some diagnostics: each was made on a copy and checked."""
        document = self.documents.get(uri)
        found: list[lsp.CodeAction] = []
        wanted = [one for one in diagnostics if one.source == _SOURCE]
        if document is None or not wanted:
            return found
        if document.error is not None:
            some = await asyncio.to_thread(mends_of_text, document.text, document.error)
            return [
                self._action(uri, one.say, document.text, one.text, wanted) for one in some.mends
            ]
        for diagnostic in wanted:
            data: Any = diagnostic.data or {}
            report = self.reports.get(_of(data, "of") or uri)
            if report is None:
                continue
            for finding in report.findings:
                if (finding.code, finding.subject) == (diagnostic.code, _of(data, "subject")):
                    search = partial(add_mends, report, [finding], Limits())
                    mended = await asyncio.to_thread(search)
                    with_mends = next(one for one in mended.findings if one.code == finding.code
                                and one.subject == finding.subject)  # fmt: skip
                    for mend in with_mends.mends or ():
                        where = from_fs_path(str(Path(mend.file).resolve())) or uri
                        where = uri if mend.file == document.file else where
                        old = mend.before[mend.file]
                        found.append(self._action(where, mend.say, old, mend.text, [diagnostic]))
        return found

    def _action(
        self, uri: str, say: str, old: str, new: str, of: list[lsp.Diagnostic]
    ) -> lsp.CodeAction:
        return lsp.CodeAction(
            title=say[:1].upper() + say[1:],
            kind=lsp.CodeActionKind.QuickFix,
            diagnostics=of,
            edit=lsp.WorkspaceEdit(changes={uri: self._edits(old, new)}),
        )

    def _edits(self, old: str, new: str) -> list[lsp.TextEdit]:
        """The lines that differ between two texts, as edits."""
        before, after = split_lines(old), split_lines(new)
        edits = []
        for tag, a, b, c, d in SequenceMatcher(None, before, after, False).get_opcodes():
            if tag != "equal":
                inside = lsp.Range(lsp.Position(a, 0), lsp.Position(b, 0))
                edits.append(lsp.TextEdit(inside, "".join(after[c:d])))
        return edits


def _of(data: Any, name: str) -> Any:
    """A value of a diagnostic's data; the editor may have changed it."""
    return data.get(name) if isinstance(data, dict) else getattr(data, name, None)


def _level(document: Document) -> Level:
    assert document.level is not None
    return document.level


def _uri(file: str) -> str:
    return from_fs_path(str(Path(file).resolve())) or file


def _path(uri: str) -> str:
    return to_fs_path(uri) or uri


def make_server(version: str) -> LanguageServer:
    """A language server; its ``start_io`` serves an editor on standard input and output.

    Args:
        version: The version reported to the editor.
    """
    server = LanguageServer("ukemi", version)
    levels = Workspace(server)
    _texts(server, levels)
    _names(server, levels)
    _more(server, levels)
    return server


def _texts(server: LanguageServer, levels: Workspace) -> None:
    """Files that are opened, changed and closed."""

    @server.feature(lsp.TEXT_DOCUMENT_DID_OPEN)
    async def opened(params: lsp.DidOpenTextDocumentParams) -> None:
        levels.read(params.text_document.uri)

    @server.feature(lsp.TEXT_DOCUMENT_DID_CHANGE)
    async def changed(params: lsp.DidChangeTextDocumentParams) -> None:
        levels.note(params.text_document.uri)

    @server.feature(lsp.TEXT_DOCUMENT_DID_CLOSE)
    async def closed(params: lsp.DidCloseTextDocumentParams) -> None:
        levels.close(params.text_document.uri)


def _names(server: LanguageServer, levels: Workspace) -> None:
    """Names: what they stand for, where they stand, and other names for them."""

    @server.feature(lsp.TEXT_DOCUMENT_HOVER)
    def hover(params: lsp.HoverParams) -> lsp.Hover | None:
        found = levels.named(params)
        if found is None:
            return None
        document, named = found
        uri = levels.uri_of(document)
        level = document.readable
        lines = (
            described(level, named.kind, named.name, levels.reports.get(uri))
            if level is not None
            else []
        )
        if not lines:
            return None
        first, *rest = (_markdown(line) for line in lines)
        says = "\n".join([f"**{first}**", *(f"- {line}" for line in rest)])
        content = lsp.MarkupContent(lsp.MarkupKind.Markdown, says)
        inside = levels.span(params.text_document.uri, named.mention.begin, named.mention.end)
        return lsp.Hover(content, inside)

    @server.feature(lsp.TEXT_DOCUMENT_DEFINITION)
    def definition(params: lsp.DefinitionParams) -> list[lsp.Location]:
        return _locations(params, True)

    @server.feature(lsp.TEXT_DOCUMENT_REFERENCES)
    def references(params: lsp.ReferenceParams) -> list[lsp.Location]:
        return _locations(params, False)

    def _locations(params: Any, declared: bool) -> list[lsp.Location]:
        found = levels.named(params)
        return levels.mentions(*found, declared) if found else []

    @server.feature(lsp.TEXT_DOCUMENT_PREPARE_RENAME)
    def may_rename(params: lsp.PrepareRenameParams) -> lsp.Range | None:
        found = levels.named(params)
        if found is None or not levels.mentions(*found, True):
            return None
        return levels.span(params.text_document.uri, *found[1].mention[:2])

    @server.feature(lsp.TEXT_DOCUMENT_RENAME, lsp.RenameOptions(prepare_provider=True))
    def rename(params: lsp.RenameParams) -> lsp.WorkspaceEdit | None:
        found = levels.named(params)
        if found is None:
            return None
        document, named = found
        try:
            files = renamed_everywhere(document, named, params.new_name, levels.opened)
        except CannotRenameError as error:
            message = lsp.ShowMessageParams(lsp.MessageType.Error, str(error))
            server.window_show_message(message)
            return None
        changes = {}
        for one, spans in files.values():
            uri = levels.uri_of(one)
            lines = Lines(one.text, levels.units)
            changes[uri] = [
                lsp.TextEdit(lines.range(span.begin, span.end), params.new_name) for span in spans
            ]
        return lsp.WorkspaceEdit({uri: edits for uri, edits in changes.items() if edits})

    @server.feature(lsp.TEXT_DOCUMENT_DOCUMENT_SYMBOL)
    def symbols(params: lsp.DocumentSymbolParams) -> list[lsp.DocumentSymbol]:
        uri = params.text_document.uri
        document = levels.document(uri)
        found = []
        for one in document.declarations() if document else ():
            inside = levels.span(uri, one.mention.begin, one.mention.end)
            if one.name:
                found.append(
                    lsp.DocumentSymbol(one.name, _SYMBOLS[one.kind], inside, inside, one.kind)
                )
        return sorted(found, key=lambda one: (one.range.start.line, one.range.start.character))


def _more(server: LanguageServer, levels: Workspace) -> None:
    """The completions and the mends."""

    options = lsp.CompletionOptions(trigger_characters=[" ", "[", "{", ":", ","])

    @server.feature(lsp.TEXT_DOCUMENT_COMPLETION, options)
    def completion(params: lsp.CompletionParams) -> lsp.CompletionList:
        uri = params.text_document.uri
        document = levels.document(uri)
        if document is None:
            return lsp.CompletionList(False, [])
        offset = levels.offset(uri, params.position)
        items = []
        for number, one in enumerate(options_at(document, offset)):
            inside = levels.span(uri, offset - one.typed, offset)
            items.append(
                lsp.CompletionItem(
                    one.text,
                    kind=_OPTIONS[one.kind],
                    detail=one.help or one.kind,
                    sort_text=f"{number:04}",
                    text_edit=lsp.TextEdit(inside, one.text),
                )
            )
        return lsp.CompletionList(False, items)

    kinds = lsp.CodeActionOptions(code_action_kinds=[lsp.CodeActionKind.QuickFix])

    @server.feature(lsp.TEXT_DOCUMENT_CODE_ACTION, kinds)
    async def actions(params: lsp.CodeActionParams) -> list[lsp.CodeAction | lsp.Command]:
        levels.take_in()
        mends: list[lsp.CodeAction | lsp.Command] = []
        mends += await levels.mends(params.text_document.uri, params.context.diagnostics)
        uri = params.text_document.uri
        document = levels.documents.get(uri)
        if document is None:
            return mends
        return [*mends, *suppositions(uri, document, levels.offset(uri, params.range.start))]

    @server.command(SUPPOSE)
    async def suppose(uri: str, said: str) -> str:
        """Return what a supposition changes."""
        document = levels.document(uri)
        changes = "the level cannot be read"
        if document is not None and document.level is not None:
            changes = await asyncio.to_thread(
                changes_in_words, document.level, said, levels.reports.get(uri)
            )
        server.window_show_message(lsp.ShowMessageParams(lsp.MessageType.Info, changes))
        return changes


def _markdown(text: str) -> str:
    for mark in "\\`*_[]<>":
        text = text.replace(mark, f"\\{mark}")
    return text
