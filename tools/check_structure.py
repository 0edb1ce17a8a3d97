"""Holds the sizes that keep the code readable, and that no modules import each other in a ring.

What is larger than the rule has a ceiling below; ceilings only fall.
"""

import ast
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))
from tools.imports import import_graph, rings

MODULE_LINES, FUNCTION_LINES, PUBLIC_METHODS, METHODS, PARAMETERS = 400, 40, 15, 25, 6
LOOP_PARAMETERS = 12
"""Compiled loops take plain arrays, one a parameter."""
CEILINGS: dict[str, int] = {}
"""By what and where: the most that it may have."""


def code_lines(node: ast.FunctionDef | ast.AsyncFunctionDef, source: list[str]) -> int:
    """Lines of a function without its docstring and blank lines."""
    body = node.body
    if body and isinstance(body[0], ast.Expr) and isinstance(body[0].value, ast.Constant):
        body = body[1:]
    if not body:
        return 0
    first, last = body[0].lineno, node.end_lineno or node.lineno
    return sum(1 for line in source[first - 1 : last] if line.strip())


Measure = tuple[str, int, int]
"""What is measured, how much it is, and how much it may be."""


def measures(path: Path, name: str) -> list[Measure]:
    """All sizes of a module."""
    text = path.read_text()
    source, out = text.splitlines(), [(f"{name}: lines", len(text.splitlines()), MODULE_LINES)]
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            most = LOOP_PARAMETERS if path.parent.name == "kernels" else PARAMETERS
            out.append((f"{name}:{node.name}: code lines", code_lines(node, source), FUNCTION_LINES))
            out.append((f"{name}:{node.name}: parameters", len(node.args.args) + len(node.args.kwonlyargs), most))
        if isinstance(node, ast.ClassDef):
            methods = [b.name for b in node.body if isinstance(b, ast.FunctionDef)]
            public = [m for m in methods if not m.startswith("_")]
            out.append((f"{name}:{node.name}: methods", len(methods), METHODS))
            out.append((f"{name}:{node.name}: public methods", len(public), PUBLIC_METHODS))
    return out


def complaints(source: Path, ceilings: dict[str, int]) -> list[str]:
    """What is too large, and ceilings that are higher than what stands below them."""
    out, met = list[str](), set[str]()
    for path in sorted(source.rglob("*.py")):
        for what, size, most in measures(path, str(path.relative_to(source))):
            if size <= most:
                continue
            met.add(what)
            ceiling = ceilings.get(what, most)
            if size > ceiling:
                out.append(f"{what} {size}, at most {ceiling}")
            elif size < ceiling:
                out.append(f"{what} {size}: its ceiling falls to that from {ceiling}")
    return out + [f"no ceiling is needed any more: {gone}" for gone in sorted(ceilings.keys() - met)]


def main() -> int:
    root = Path(__file__).parents[1]
    found = complaints(root / "src/morphax", CEILINGS)
    found += [f"a ring of imports: {' - '.join(ring)}" for ring in rings(import_graph(root / "src", "morphax"))]
    print("\n".join(found) or f"structure: sizes hold, {len(CEILINGS)} ceilings, no ring of imports")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
