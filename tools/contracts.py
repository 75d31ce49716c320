"""A contract of import-linter's for parts of an external package, of which it sees only the whole."""

from __future__ import annotations

import ast
import importlib.util
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from importlinter import Contract, ContractCheck, fields, output


class PartsContract(Contract):
    """The modules below ``source_modules`` import none of ``forbidden_parts``, anywhere in their text."""

    type_name = "parts"

    source_modules = fields.ListField(subfield=fields.StringField())
    forbidden_parts = fields.ListField(subfield=fields.StringField())

    def check(self, graph: Any, verbose: bool) -> ContractCheck:  # noqa: ARG002
        wrong = []
        for source in self.source_modules:
            modules = {source, *graph.find_descendants(source)}
            for module in sorted(modules):
                named = set(_imported(module))
                wrong += [
                    (module, part)
                    for part in self.forbidden_parts
                    if any(name == part or name.startswith(part + ".") for name in named)
                ]
        return ContractCheck(kept=not wrong, metadata={"wrong": wrong})

    def render_broken_contract(self, check: ContractCheck) -> None:
        for module, part in check.metadata["wrong"]:
            output.print_error(f"{module} imports {part}")


def _imported(module: str) -> Iterator[str]:
    """The full names of all that a module's text imports."""
    spec = importlib.util.find_spec(module)
    if spec is None or spec.origin is None:
        return
    for node in ast.walk(ast.parse(Path(spec.origin).read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module:
            yield node.module
            yield from (f"{node.module}.{alias.name}" for alias in node.names)
