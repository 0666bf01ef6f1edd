"""One processor instruction that numba has no name for."""

from llvmlite import ir
from numba import types
from numba.extending import intrinsic


@intrinsic
def copysign32(_context, size, sign):  # type: ignore[no-untyped-def]
    """Return `size` with the sign of `sign`, both float32, without a branch."""
    signature = types.float32(types.float32, types.float32)

    def generate(_context, builder, _signature, arguments):  # type: ignore[no-untyped-def]
        single = arguments[0].type
        function = builder.module.declare_intrinsic(
            "llvm.copysign", [single], ir.FunctionType(single, [single, single])
        )
        return builder.call(function, arguments)

    return signature, generate
