"""How pieces of kernels are compiled: typed and lowered once, optimised and made into machine code only where they are used.

By itself Numba would optimise every piece together with all the pieces it uses, again at every level, and emit machine code for
each that nobody ever calls.
"""

from __future__ import annotations

import ctypes
from itertools import count
from typing import Any

from numba.core.codegen import JITCodeLibrary
from numba.core.compiler import Compiler

_NUMBERS = count()


@ctypes.PYFUNCTYPE(ctypes.c_void_p, ctypes.c_void_p, ctypes.c_void_p, ctypes.c_void_p)
def _uncallable(*_: object) -> None:
    """What Python calls in place of a piece: no result, which is a `SystemError` there and not the end of the process."""


_UNCALLABLE = ctypes.cast(_uncallable, ctypes.c_void_p).value


class _NoAddress:
    """Stands for the code generator where Numba wants to write into machine code that there is not."""

    def __init__(self, codegen: Any) -> None:
        self._codegen = codegen

    def set_env(self, name: str, env: object) -> None:
        """Do nothing: kernels raise and allocate nothing, which is all an environment is for."""

    def __getattr__(self, name: str) -> Any:
        return getattr(self._codegen, name)


class PieceLibrary(JITCodeLibrary):  # type: ignore[misc]
    """The code of a piece and of all it uses, ready to be linked into a kernel and no more."""

    @property
    def codegen(self) -> Any:
        """The code generator, for all but addresses."""
        return _NoAddress(self._codegen)

    def _optimize_final_module(self) -> None:
        """Leave it to the kernel: there the compiler sees the whole."""

    def _finalize_final_module(self) -> None:
        self._finalize_dynamic_globals()
        self._verify_declare_only_symbols()
        self._finalized = True

    def get_pointer_to_function(self, name: str) -> int:
        """The address for callers from Python: of what says that it cannot be called."""
        self._ensure_finalized()
        assert _UNCALLABLE is not None
        return _UNCALLABLE


class PieceCompiler(Compiler):  # type: ignore[misc]
    """Numba's compiler, for what only kernels call."""

    def __init__(self, *args: Any) -> None:
        super().__init__(*args)
        assert self.state.library is None
        codegen = self.state.targetctx.codegen()
        self.state.library = PieceLibrary(codegen, f"piece{next(_NUMBERS)}")
