"""Large named tuples handed on by their address.

By value a tuple of arrays is taken apart into several hundred numbers at every call and put together again, which was most of
what compiling the tracer took, and what calls of the functions that are not inlined cost.
"""

from __future__ import annotations

from typing import Any

from numba import types
from numba.core import cgutils
from numba.core.imputils import impl_ret_borrowed
from numba.core.typing.templates import AttributeTemplate
from numba.extending import (
    infer_getattr,
    intrinsic,
    lower_getattr_generic,
    models,
    register_model,
)


class ByAddress(types.Type):  # type: ignore[misc]
    """Where a named tuple lies in the memory of the kernel that made it: its fields can be read."""

    def __init__(self, of: Any) -> None:
        self.of = of
        super().__init__(name=f"ByAddress({of})")


@register_model(ByAddress)
class _ByAddressModel(models.PrimitiveModel):  # type: ignore[misc]
    def __init__(self, dmm: Any, fe_type: ByAddress) -> None:
        super().__init__(dmm, fe_type, cgutils.voidptr_t)


@infer_getattr
class _Fields(AttributeTemplate):  # type: ignore[misc]
    key = ByAddress

    def generic_resolve(self, of: ByAddress, name: str) -> Any:
        """Type of a field."""
        return of.of.types[of.of.fields.index(name)] if name in of.of.fields else None


@lower_getattr_generic(ByAddress)
def _field(context: Any, builder: Any, of: ByAddress, value: Any, name: str) -> Any:
    whole = builder.bitcast(value, context.get_value_type(of.of).as_pointer())
    number = of.of.fields.index(name)
    found = builder.load(cgutils.gep_inbounds(builder, whole, 0, number))
    return impl_ret_borrowed(context, builder, of.of.types[number], found)


@intrinsic
def by_address(typing: Any, named: Any) -> Any:
    """A named tuple by its address: good for as long as the function runs that asks for it, and not to be returned."""

    def lower(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        kept = cgutils.alloca_once_value(builder, arguments[0])
        return builder.bitcast(kept, cgutils.voidptr_t)

    return ByAddress(named)(named), lower
