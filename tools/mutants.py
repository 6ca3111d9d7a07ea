"""Small faults put into the program on purpose: where they can be, and the text of a module with one of them in it."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

COMPARED: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
}
CALCULATED: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
}
SWAPPED = {"min": "max", "max": "min", "any": "all", "all": "any", "floor": "ceil", "ceil": "floor"}
TOLERANCE = 1e-3
LEFT_OUT = ("annotation", "returns", "decorator_list", "type_params")  # parts of a module that say no work


@dataclass(frozen=True)
class Site:
    """A place where a fault can be put: its number in the module, its function (empty: none), and its line."""

    number: int
    function: str
    line: int


def sites(source: str) -> list[Site]:
    """Return every place of a module where a fault can be put, in order."""
    found = _found(ast.parse(source))
    return [Site(i, function, node.lineno) for i, (node, function) in enumerate(found)]


def mutated(source: str, number: int) -> tuple[str, str, str]:
    """Return a module with one fault in it, and the place as it was and as it is now."""
    tree = ast.parse(source)
    node, _ = _found(tree)[number]
    before = ast.unparse(node)
    _spoil(node)
    return ast.unparse(ast.fix_missing_locations(tree)), before.split("\n")[0], ast.unparse(node).split("\n")[0]


def module_name(path: Path, root: Path) -> str:
    """Return the name a file of the program is imported by. root: the folder that holds the program."""
    parts = path.relative_to(root).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def _found(tree: ast.Module) -> list[tuple[ast.expr | ast.stmt, str]]:
    return [(node, name) for node, name in _walk(tree, "") if _can_spoil(node)]


def _walk(node: ast.AST, function: str) -> Iterator[tuple[ast.expr | ast.stmt, str]]:
    """Every statement and expression that does work, with the name of the function it is in."""
    for name, value in ast.iter_fields(node):
        if name in LEFT_OUT:
            continue
        for child in value if isinstance(value, list) else [value]:
            if not isinstance(child, ast.AST) or _says_no_work(child):
                continue
            inside = function
            if isinstance(child, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef) and "(" not in function:
                inside = f"{function}.{child.name}".strip(".") + ("" if isinstance(child, ast.ClassDef) else "(")
            if isinstance(child, ast.expr | ast.stmt):
                yield child, inside.rstrip("(")
            yield from _walk(child, inside)


def _says_no_work(node: ast.AST) -> bool:
    is_text = isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    for_types = isinstance(node, ast.If) and ast.unparse(node.test) == "TYPE_CHECKING"
    return is_text or for_types or isinstance(node, ast.JoinedStr | ast.Import | ast.ImportFrom)


def _can_spoil(node: ast.AST) -> bool:
    match node:
        case ast.Compare(ops=[operator]):
            return type(operator) in COMPARED
        case ast.BinOp(op=operator):
            return type(operator) in CALCULATED and not any(
                isinstance(side, ast.JoinedStr) or (isinstance(side, ast.Constant) and isinstance(side.value, str))
                for side in (node.left, node.right)
            )
        case ast.Constant(value=bool()):
            return True
        case ast.Constant(value=int() | float() as value):
            return value == 0 or abs(value) >= TOLERANCE  # half as much again of a tolerance is no fault
        case ast.Call(func=ast.Name(id=name) | ast.Attribute(attr=name)):
            return name in SWAPPED
        case (
            ast.Expr(value=ast.Call()) | ast.BoolOp() | ast.IfExp() | ast.If() | ast.UnaryOp(op=ast.Not() | ast.USub())
        ):
            return True
    return False


def _spoil(node: ast.expr | ast.stmt) -> None:
    """Put the fault in."""
    match node:
        case ast.Compare():
            node.ops = [COMPARED[type(node.ops[0])]()]
        case ast.BinOp():
            node.op = CALCULATED[type(node.op)]()
        case ast.Constant(value=bool()):
            node.value = not node.value
        case ast.Constant(value=int()):
            node.value += max(1, abs(node.value) // 2)
        case ast.Constant(value=float()):
            node.value = node.value * 1.5 or 1.0
        case ast.Call(func=ast.Name()):
            node.func = ast.Name(SWAPPED[node.func.id], ast.Load())
        case ast.Call(func=ast.Attribute()):
            node.func.attr = SWAPPED[node.func.attr]
        case ast.Expr():
            node.value = ast.Constant(None)
        case ast.BoolOp():
            node.op = ast.Or() if isinstance(node.op, ast.And) else ast.And()
        case ast.IfExp():
            node.body, node.orelse = node.orelse, node.body
        case ast.If():
            node.test = ast.UnaryOp(ast.Not(), node.test)
        case ast.UnaryOp(op=ast.Not()):
            node.op = ast.Not()
            node.operand = ast.UnaryOp(ast.Not(), node.operand)
        case ast.UnaryOp():
            node.op = ast.UAdd()
