"""The imports of a package as a graph, those for types only too, and its rings."""

import ast
from pathlib import Path

Graph = dict[str, set[str]]


def module_name(file: Path, root: Path) -> str:
    parts = file.relative_to(root).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def import_graph(root: Path, package: str) -> Graph:
    """Modules of a package below ``root``, and those of them that each imports, anywhere in its text."""
    files = {module_name(f, root): f for f in sorted((root / package).rglob("*.py"))}
    graph: Graph = {}
    for name, file in files.items():
        found = set[str]()
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Import):
                found |= {a.name for a in node.names}
            elif isinstance(node, ast.ImportFrom) and node.module is not None:
                found |= {f"{node.module}.{a.name}" for a in node.names} | {node.module}
        graph[name] = {m for m in found if m in files and m != name and files[m].name != "__init__.py"}
    return graph


def rings(graph: Graph) -> list[list[str]]:
    """Groups of modules that import each other, in some steps (Tarjan, "Depth-first search and linear graph
    algorithms", SIAM J. Comput. 1972)."""
    index: dict[str, int] = {}
    low: dict[str, int] = {}
    stack, on_stack, out = list[str](), set[str](), list[list[str]]()

    def visit(first: str) -> None:
        work = [(first, iter(sorted(graph[first])))]
        index[first] = low[first] = len(index)
        stack.append(first)
        on_stack.add(first)
        while work:
            name, rest = work[-1]
            for other in rest:
                if other not in index:
                    index[other] = low[other] = len(index)
                    stack.append(other)
                    on_stack.add(other)
                    work.append((other, iter(sorted(graph[other]))))
                    break
                if other in on_stack:
                    low[name] = min(low[name], index[other])
            else:
                work.pop()
                if work:
                    low[work[-1][0]] = min(low[work[-1][0]], low[name])
                if low[name] == index[name]:
                    ring = [stack.pop()]
                    while ring[-1] != name:
                        ring.append(stack.pop())
                    on_stack.difference_update(ring)
                    if len(ring) > 1:
                        out.append(sorted(ring))

    for name in sorted(graph):
        if name not in index:
            visit(name)
    return out
