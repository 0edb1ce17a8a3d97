"""Places of a module where a small fault can be put, and the module with the fault in it."""

import ast
from collections.abc import Iterator
from dataclasses import dataclass

_COMPARE: dict[type[ast.cmpop], str] = {
    ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==", ast.Is: "is not",
    ast.IsNot: "is", ast.In: "not in", ast.NotIn: "in",
}  # fmt: skip
_ARITHMETIC: dict[type[ast.operator], str] = {ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*"}
_QUIET = frozenset(
    (
        "setObjectName",
        "setAccessibleName",
        "setToolTip",
        "save",
        "restore",
        "setRenderHint",
        "setPen",
        "setBrush",
        "setFont",
        "setDashPattern",
    )
)
"""Calls whose absence is not a fault that tests are asked to see: how something looks, not whether it is there."""


@dataclass(frozen=True)
class Fault:
    """Text from ``start`` to ``end`` (offsets) that becomes another; ``line`` of it, counted from 1, and ``kind``."""

    start: int
    end: int
    text: str
    line: int
    kind: str

    def put_into(self, source: str) -> str:
        """The module with the fault."""
        return source[: self.start] + self.text + source[self.end :]


def faults_of(source: str) -> list[Fault]:
    """All faults that can be put into a module, in the order of its text."""
    tree, starts = ast.parse(source), _line_starts(source)
    found: list[Fault] = []
    strict = {k.value for k in ast.walk(tree) if isinstance(k, ast.keyword) and k.arg == "strict"}  # only a safeguard
    for function in (n for n in ast.walk(tree) if isinstance(n, ast.FunctionDef)):
        for node in (n for statement in function.body for n in ast.walk(statement) if n not in strict):
            found += [_fault(change, source, starts) for change in _changes(node, source, starts)]
    unique = {(f.start, f.end, f.text): f for f in found if f.put_into(source) != source}
    return sorted(unique.values(), key=lambda f: (f.start, f.end, f.text))


_Change = tuple[int, int, str, str]


def _changes(node: ast.AST, source: str, starts: list[int]) -> Iterator[_Change]:
    """Start, end, new text and kind of what can be changed at a node."""

    def span(n: ast.expr) -> tuple[int, int]:
        last, column = n.end_lineno or n.lineno, n.end_col_offset or n.col_offset
        return _offset(n.lineno, n.col_offset, source, starts), _offset(last, column, source, starts)

    match node:
        case ast.Compare(left=left, ops=[op], comparators=[right]) if type(op) in _COMPARE:
            yield span(left)[1], span(right)[0], f" {_COMPARE[type(op)]} ", "comparison"
        case ast.BinOp(left=left, op=op, right=right) if type(op) in _ARITHMETIC and not _is_text(left, right):
            between = source[span(left)[1] : span(right)[0]]
            if between.strip() in ("+", "-", "*", "/"):
                yield span(left)[1], span(right)[0], f" {_ARITHMETIC[type(op)]} ", "arithmetic"
        case ast.BoolOp(op=op, values=[a, b, *_]):
            if source[span(a)[1] : span(b)[0]].strip() in ("and", "or"):  # no bracket begins or ends between them
                yield span(a)[1], span(b)[0], " or " if isinstance(op, ast.And) else " and ", "logic"
        case ast.UnaryOp(op=ast.Not() | ast.USub(), operand=operand):
            if "(" not in source[span(node)[0] : span(operand)[0]]:  # its end would be left over
                yield span(node)[0], span(operand)[0], "", "negation"
        case ast.Constant(value=bool(value)):
            yield *span(node), str(not value), "flag"
        case ast.Constant(value=int(value) | float(value)) if abs(value) < 1e4:
            yield *span(node), repr(value + 1 if isinstance(value, int) else 1.5 * value + 0.25), "number"
        case ast.If(test=test) | ast.IfExp(test=test):
            yield *span(test), f"(not ({source[slice(*span(test))]}))", "condition"
        case ast.Expr(value=ast.Call(func=ast.Attribute(attr=name) | ast.Name(id=name)) as call) if name not in _QUIET:
            yield *span(call), "None", "call left out"


def _is_text(*nodes: ast.expr) -> bool:
    return any(
        isinstance(n, ast.JoinedStr) or (isinstance(n, ast.Constant) and isinstance(n.value, str)) for n in nodes
    )


def _fault(change: _Change, source: str, starts: list[int]) -> Fault:
    start, end, text, kind = change
    return Fault(start, end, text, source.count("\n", 0, start) + 1, kind)


def _line_starts(source: str) -> list[int]:
    out = [0]
    for line in source.splitlines(keepends=True):
        out.append(out[-1] + len(line))
    return out


def _offset(line: int, column: int, source: str, starts: list[int]) -> int:
    """Offset of a place that the parser gives in bytes of a line."""
    text = source[starts[line - 1] : starts[line]]
    return starts[line - 1] + len(text.encode()[:column].decode())
