"""Holds the sizes that keep the code readable; the exceptions below may only become fewer."""

import ast
import sys
from pathlib import Path

MODULE_LINES, FUNCTION_LINES, CLASS_METHODS, PARAMETERS = 400, 40, 15, 6
LOOP_PARAMETERS = 12
"""Compiled loops take plain arrays, one a parameter."""
EXCEPTIONS = {
    "app/panes/pane.py:Pane",
    "app/toolbox.py:Toolbox",
    "app/tools/landing.py:landing",
    "app/window.py:Window",
    "app/workspace.py:Workspace",
}


def code_lines(node: ast.AST, source: list[str]) -> int:
    """Lines of a function without its docstring and blank lines."""
    assert isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
    body = node.body
    if body and isinstance(body[0], ast.Expr) and isinstance(body[0].value, ast.Constant):
        body = body[1:]
    if not body:
        return 0
    first, last = body[0].lineno, node.end_lineno or node.lineno
    return sum(1 for line in source[first - 1 : last] if line.strip())


def complaints(path: Path) -> list[str]:
    text = path.read_text()
    source, out = text.splitlines(), []
    if len(source) > MODULE_LINES:
        out.append(f"{path}: {len(source)} lines")
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            where = f"{path}:{node.name}"
            if (n := code_lines(node, source)) > FUNCTION_LINES:
                out.append(f"{where}: {n} code lines")
            most = LOOP_PARAMETERS if path.parent.name == "kernels" else PARAMETERS
            if (n := len(node.args.args) + len(node.args.kwonlyargs)) > most:
                out.append(f"{where}: {n} parameters")
        if isinstance(node, ast.ClassDef):
            n = sum(isinstance(b, ast.FunctionDef) for b in node.body)
            if n > CLASS_METHODS:
                out.append(f"{path}:{node.name}: {n} methods")
    return out


def main() -> int:
    root = Path(__file__).parent.parent
    source = root / "src/morphax"
    found = [c.removeprefix(f"{source}/") for p in sorted(source.rglob("*.py")) for c in complaints(p)]
    news = [c for c in found if c.split(": ")[0] not in EXCEPTIONS]
    gone = EXCEPTIONS - {c.split(": ")[0] for c in found}
    print("\n".join([*news, *(f"no exception any more: {g}" for g in sorted(gone))]) or "structure: sizes hold")
    return 1 if news or gone else 0


if __name__ == "__main__":
    sys.exit(main())
