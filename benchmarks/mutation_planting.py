"""Puts a mutant into the modules that this process has loaded. Change a forked process only."""

from __future__ import annotations

import ast
import dis
import gc
import inspect
import sys
import types
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

from mutation_kinds import Mutant

ROOT = Path(__file__).resolve().parent.parent
# Line numbers by file, relative to the project.
Lines = dict[str, set[int]]


def plant(mutant: Mutant, source: str) -> Lines | None:
    """Change the loaded code: functions that contain the mutant, or all copies of a constant.

    Args:
        mutant: The mutant.
        source: Text of its file.

    Returns:
        The lines that execute the mutant; None if only a new import would.
    """
    path, text = str(mutant.path), mutant.apply(source)
    old, new = (dict(_iterate_codes(compile(text, path, "exec"))) for text in (source, text))
    changed = {key for key, code in new.items() if code != old[key]}
    imported = {
        key
        for key in changed
        if not _is_function(old[key]) and _get_import_code(old[key]) != _get_import_code(new[key])
    }
    if imported == {(1, "<module>")}:
        return _plant_constant(mutant, source, text)
    if imported:
        return None
    for function in _list_functions():
        code = function.__code__
        key = (code.co_firstlineno, code.co_qualname)
        if code.co_filename == path and key in changed:
            function.__code__ = new[key]
    return {str(mutant.path.relative_to(ROOT)): set(_find_statement(source, mutant.line))}


def _plant_constant(mutant: Mutant, source: str, text: str) -> Lines | None:
    """Give the constants of a module their new values in every module that imported them.

    Args:
        mutant: The mutant.
        source: Text of its file.
        text: The same text with the mutant.

    Returns:
        The lines of the functions that use the constants; None for other statements, and for
        constants that a module or a class uses while it is imported.
    """
    first = _find_statement(source, mutant.line)[0]
    node = next(n for n in ast.parse(source).body if n.lineno <= first <= (n.end_lineno or 0))
    if not isinstance(node, ast.Assign | ast.AnnAssign):
        return None
    names = {
        n.id for n in ast.walk(node) if isinstance(n, ast.Name) and isinstance(n.ctx, ast.Store)
    }
    name = ".".join(mutant.path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
    loaded, fresh = sys.modules[name], types.ModuleType(name)
    fresh.__dict__.update(__file__=str(mutant.path), __package__=loaded.__package__)
    sys.modules[name] = fresh
    try:
        exec(compile(text, str(mutant.path), "exec"), fresh.__dict__)
    finally:
        sys.modules[name] = loaded
    copies = [
        (module, key)
        for module in list(sys.modules.values())
        if getattr(module, "__name__", "").startswith("wisearc")
        for key in names
        if vars(module).get(key) is vars(loaded)[key]
    ]
    if any(_is_used_on_import(module, key) for module, key in copies):
        return None
    users = defaultdict(set)
    for module, key in copies:
        vars(module)[key] = vars(fresh)[key]
        users[module.__file__].add(key)
    lines: Lines = defaultdict(set)
    for function in _list_functions():
        code = function.__code__
        if users.get(code.co_filename, set()) & _list_global_names(code):
            rows = {row for _, _, row in code.co_lines() if row}
            # An import runs the first line of a function, which is the only one of most lambdas.
            lines[str(Path(code.co_filename).relative_to(ROOT))] |= (
                rows - {code.co_firstlineno} or rows
            )
    return lines or None


def _is_used_on_import(module: types.ModuleType, key: str) -> bool:
    """Return whether a module reads a constant outside its functions."""
    source = Path(module.__file__ or "").read_text(encoding="utf-8")
    return any(
        instruction.opname in ("LOAD_NAME", "LOAD_GLOBAL") and instruction.argval == key
        for _, code in _iterate_codes(compile(source, module.__file__ or "", "exec"))
        if not _is_function(code)
        for instruction in dis.get_instructions(code)
    )


def _list_global_names(code: types.CodeType) -> set[str]:
    """List the global names that a function uses, with its inner functions."""
    return {name for _, inner in _iterate_codes(code) for name in inner.co_names}


def _list_functions() -> list[types.FunctionType]:
    """List all loaded functions."""
    return [item for item in gc.get_objects() if isinstance(item, types.FunctionType)]


def _iterate_codes(code: types.CodeType) -> Iterator[tuple[tuple[int, str], types.CodeType]]:
    """Iterate over all code objects of a module, by first line and qualified name."""
    yield (code.co_firstlineno, code.co_qualname), code
    for inner in code.co_consts:
        if isinstance(inner, types.CodeType):
            yield from _iterate_codes(inner)


def _is_function(code: types.CodeType) -> bool:
    """Return whether a code object belongs to a function, not to a module or a class."""
    return bool(code.co_flags & inspect.CO_NEWLOCALS)


def _get_import_code(code: types.CodeType) -> tuple[object, ...]:
    """Return the code that a module or a class executes during import, without its functions."""
    constants = [value for value in code.co_consts if not isinstance(value, types.CodeType)]
    return code.co_code, code.co_names, tuple(map(repr, constants))


def _find_statement(source: str, line: int) -> range:
    """Return the lines of the innermost statement that contains a line."""
    spans = (
        range(node.lineno, (node.end_lineno or node.lineno) + 1)
        for node in ast.walk(ast.parse(source))
        if isinstance(node, ast.stmt)
    )
    return min((span for span in spans if line in span), key=len)
