"""Compiles all loops ahead: ``python -m morphax.core.kernels``."""

from morphax.core.kernels.compiling import compile_all

if __name__ == "__main__":
    print(f"{compile_all()} loops are compiled")
